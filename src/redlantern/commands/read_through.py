# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern read-through`: puts one question to every page, and prints the hits and the statement; goes on where it stopped."""

import json
import time
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from redlantern.answering.engine import Engine
from redlantern.application import read_through as throughs
from redlantern.application.read_through import ReadThrough
from redlantern.commands.shared import ProgressLine, check_pattern, check_text, engine_on, plain, stoppable
from redlantern.readthrough.statement import HOW
from redlantern.readthrough.values import PageRead, PageWish, Way
from redlantern.safety.names import json_line, visible_lines
from redlantern.text.listing import counted

_MOST_SHOWN = 300


@dataclass(frozen=True)
class Choices:
    """What is said of a read-through on the command line, beside the question."""

    way: Way = "lines"
    counts: str = ""
    scope: str | None = None
    goes_on: bool = False
    as_json: bool = False
    with_statement: bool = False


def read_through(
    path: Path, question: str, choices: Choices, *, model: Path | None, passphrase_source: str | None
) -> int:
    """Begin a read-through, or go on with the last one that asked the same, until every page was read; then print it."""
    check_text(question, choices.counts)
    check_pattern(choices.scope)
    progress = ProgressLine()
    with (
        engine_on(
            path, writes_prose=choices.way != "lines", model=model, passphrase_source=passphrase_source
        ) as engine,
        stoppable() as cancel,
    ):
        began = time.monotonic()
        key = _key(engine, question, choices)
        throughs.go_on(engine, key, report=progress, cancel=cancel)
        progress.finish()
        through = throughs.load(engine, key)
        if choices.as_json:
            print(json_line(json.dumps(as_json(engine, through, time.monotonic() - began), ensure_ascii=False)))
        else:
            print(in_words(through))
            if choices.with_statement:
                # Words of documents must not steer the terminal.
                print(visible_lines(throughs.statement(engine, through).as_text()), end="")
    return 0


def _key(engine: Engine, question: str, choices: Choices) -> int:
    """The read-through to go on with, or a new one."""
    wish = PageWish(question, choices.counts, (), _paths(engine, choices.scope), choices.way)
    if choices.goes_on:
        asked = (wish.question, wish.way)
        for through in throughs.read_throughs(engine):
            if (through.wish.question, through.wish.way) == asked:
                return through.key
    return throughs.begin(engine, wish)


def _paths(engine: Engine, scope: str | None) -> tuple[str, ...] | None:
    if scope is None:
        return None
    return tuple(document.full_path for document in engine.collection.documents() if document.fits(scope))


def as_json(engine: Engine, through: ReadThrough, seconds: float) -> dict[str, Any]:
    """The form that is documented in docs/read-through.md."""
    covered, found = through.covered, through.estimate
    states = covered.by_state
    unread: list[dict[str, Any]] = [
        {"path": document.path, "page": None, "reason": document.reason} for document in covered.refused
    ]
    for each in covered.documents:
        for number, page in enumerate(each.pages, start=1):
            if page is None or page.state == "unreadable":
                reason = "not read yet" if page is None else page.reason
                unread.append({"path": each.document.path, "page": number, "reason": reason})
    return {
        "question": through.wish.question,
        "hits": [row for page in covered.pages if _is_found(page) for row in [_hit(through, page)] if row],
        "pages": {
            "in_scope": covered.n_pages,
            "read": covered.n_pages - covered.n_unread,
            "hits": states["hit"],
            "silent": states["silent"],
            "doubtful": states["doubtful"],
            "unread": unread,
        },
        "estimate": {
            "silent": found.n_silent,
            "judged": found.n_judged,
            "missed": found.n_missed,
            "interval": [round(found.low, 4), round(found.high, 4)] if found.n_judged else None,
        },
        "method": {"how": through.wish.way, "what": HOW[through.wish.way], "counts": through.wish.counts},
        "models": {
            "embedding": engine.embedder.identity,
            "language": engine.language_model.name if engine.language_model and through.wish.way != "lines" else None,
        },
        "seconds": round(seconds, 2),
    }


def _is_found(page: PageRead) -> bool:
    return page.judged != "rejected" and (page.counts or page.state == "doubtful")


def _hit(through: ReadThrough, page: PageRead) -> dict[str, Any] | None:
    document = through.covered.document_of(page.place)
    if document is None or not page.words:
        return None
    words = page.words[0]
    return {
        "document": document.title,
        "path": document.path,
        "page": page.place[1],
        "start": words.start,
        "end": words.end,
        "text": words.text,
        "certainty": page.certainty,
        "state": page.judged or page.state,
        "how": page.how,
    }


def in_words(through: ReadThrough) -> str:
    """The hits and what was read, for a terminal: the documents' words in quotation marks, ours without."""
    covered, states = through.covered, through.covered.by_state
    lines = [f"LOOKED FOR  {plain(through.wish.question)}", ""]
    lines += _shown("HITS", through, [page for page in covered.pages if page.counts])
    lines += _shown(
        "DOUBTFUL", through, [page for page in covered.pages if page.state == "doubtful" and not page.judged]
    )
    n_read = covered.n_pages - covered.n_unread
    lines += [
        f"{n_read} of {counted(covered.n_pages, 'page')} read: {counted(states['hit'], 'hit')}, {states['doubtful']} doubtful, "
        f"{states['silent']} silent, {states['unreadable']} could not be read"
    ]
    if covered.refused:
        lines.append(f"{counted(len(covered.refused), 'document')} could not be read at all")
    lines.append("What was missed is estimated when a sample of the silent pages is judged, in the window.")
    return "\n".join(lines)


def _shown(heading: str, through: ReadThrough, pages: Sequence[PageRead]) -> list[str]:
    lines = [f"{heading}  {counted(len(pages), 'page')}"]
    for page in pages[:_MOST_SHOWN]:
        document = through.covered.document_of(page.place)
        mark = document.call_mark if document is not None else "?"
        words = plain(" ".join(page.words[0].text.split()))[:160] if page.words else ""
        lines.append(f"  {mark} p.{page.place[1]}  {page.certainty:.2f}  “{words}”")
    if len(pages) > _MOST_SHOWN:
        lines.append(f"  and {len(pages) - _MOST_SHOWN} more")
    return [*lines, ""]
