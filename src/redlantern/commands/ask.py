# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern ask`: asks one question and prints the sheet."""

import json
import textwrap
from collections.abc import Sequence
from pathlib import Path

from redlantern.answering import wording
from redlantern.answering.asking import DoneStep
from redlantern.answering.engine import Engine
from redlantern.answering.question.understanding import Question
from redlantern.answering.sheet import Claim, Reckoning, Sheet
from redlantern.answering.sheet_form import sheet_as_json
from redlantern.commands.shared import check_pattern, check_text, engine_on, plain, stoppable
from redlantern.commands.unlock import open_collection
from redlantern.progress import Cancel
from redlantern.safety.names import json_line
from redlantern.text.listing import counted

_MOST_ROWS = 12
_SHAPES = {"supported": "=", "partly supported": "~", "unsupported": "!"}


def ask(
    path: Path,
    question: str,
    *,
    as_json: bool,
    lines_only: bool,
    scope: str | None,
    model: Path | None,
    passphrase_source: str | None,
    also: Sequence[Path] = (),
) -> int:
    """Ask, of other collections too if wanted, and print the sheet in words or as JSON."""
    check_text(question)
    check_pattern(scope)
    with (
        engine_on(path, writes_prose=not lines_only, model=model, passphrase_source=passphrase_source) as engine,
        stoppable() as cancel,
    ):
        engine.ask_beside(*(open_collection(other, passphrase_source) for other in also))
        within = frozenset(engine.current_index().scope_of(scope)) if scope is not None else None
        sheet = answer(engine, Question(question, scope=within, lines_only=lines_only), cancel)
    print(json_line(json.dumps(sheet_as_json(sheet), ensure_ascii=False)) if as_json else in_words(sheet))
    return 0


def answer(engine: Engine, question: Question, cancel: Cancel) -> Sheet:
    """Ask, and wait for the complete sheet."""
    *_, done = engine.ask(question, cancel)
    assert isinstance(done, DoneStep)
    return done.sheet


def in_words(sheet: Sheet) -> str:
    """A sheet as text for a terminal: the documents' words in quotation marks, ours without."""
    lines = [f"QUESTION  {plain(sheet.question)}"]
    if sheet.standalone_question != sheet.question:
        lines.append(f"  asked as: {plain(sheet.standalone_question)}")
    lines += [f"  “{plain(typed)}” searched as “{plain(form)}”" for typed, form in sheet.mended.items()]
    for caution in wording.cautions(sheet):
        lines += ["", _wrapped(plain(caution), "  ")]
    lines += _reckoned(sheet.reckoning) if sheet.is_reckoned and sheet.reckoning is not None else []
    if sheet.refused:
        lines += ["", _wrapped(sheet.refusal_reason, "  "), ""]
        if sheet.found_lines:
            lines += ["WHAT THE NEAREST LINES SAY"]
            lines += [_quoted(line.citation.text, line.citation.mark) for line in sheet.found_lines]
            lines += [""]
        lines += ["NEAREST PASSAGES"]
        lines += [_quoted(passage.citation.text, passage.citation.mark) for passage in sheet.passages[:3]]
    else:
        lines += _written(sheet)
        lines += _reckoned(sheet.reckoning) if sheet.reckoning is not None and not sheet.is_reckoned else []
        lines += _found(sheet) if sheet.found_lines else []
    also = wording.searched_also(sheet)
    lines += ["", _wrapped(plain(also), "  ")] if also else []
    looked_at = f"{len(sheet.sections)} sections" if sheet.sections else f"{len(sheet.passages)} passages"
    lines += ["", f"{looked_at}, {sheet.seconds.total:.1f} s in all"]
    return "\n".join(lines)


def _reckoned(reckoning: Reckoning) -> list[str]:
    """What was reckoned, its doubts, and the rows it comes from."""
    lines = [
        "",
        "RECKONED" if reckoning.is_sure else "PERHAPS, RECKONED FROM A TABLE",
        _wrapped(plain(reckoning.answer), "  "),
    ]
    lines += [_wrapped(plain(words), "  ") for words in (reckoning.check, *reckoning.doubts) if words]
    lines += [_wrapped(f"{plain(reckoning.plan_words)}.", "  "), f"  {' | '.join(map(plain, reckoning.columns))}"]
    for row in (*reckoning.rows[:_MOST_ROWS], *reckoning.left_out[:_MOST_ROWS]):
        cells = [plain(cell.text) if cell is not None else "" for cell in row.cells]
        mark = next((cell.mark for cell in row.cells if cell is not None), "")
        said = f"  (left out: {row.reason})" if row.reason else ""
        lines += [f"  “{' | '.join(cells)}”  {mark}{said}", *([f"    {plain(row.note)}"] if row.note else [])]
    more = reckoning.n_rows - min(_MOST_ROWS, len(reckoning.rows))
    if more:
        lines.append(f"  and {counted(more, 'more row')}")
    return lines


def _written(sheet: Sheet) -> list[str]:
    """The written answer, draft or summary; or why there is none."""
    lines = ["", f"WRITTEN ANSWER  first word {sheet.seconds.first_word or 0:.1f} s"] if sheet.claims else []
    lines += [_wrapped(plain(line), "  ") for line in (sheet.draft.head.splitlines() if sheet.draft else ())]
    lines += map(_claim, sheet.claims)
    for part in sheet.sections:
        lines += ["", " · ".join(plain(row) for row in (part.title, part.rows) if row)]
        lines += map(_claim, part.claims)
        if not part.claims:
            lines += [_quoted(line.citation.text, line.citation.mark) for line in part.lines]
    for words in filter(None, (sheet.left_out, sheet.no_prose_reason)):
        lines += ["", _wrapped(words, "  ")]
    return lines


def _found(sheet: Sheet) -> list[str]:
    """The found lines, and the values that the documents give differently."""
    lines = ["", f"FOUND LINES  {sheet.seconds.first_line or 0:.2f} s"]
    lines += [_quoted(line.citation.text, line.citation.mark) for line in sheet.found_lines]
    if sheet.disagreement is not None:
        lines += ["", "THE DOCUMENTS DIFFER"]
        lines += [f"  {plain(side.value)}  {side.citation.mark}, {side.dated}" for side in sheet.disagreement.sides]
    return lines


def _claim(claim: Claim) -> str:
    doubt = f" ({claim.support}: {plain(claim.doubt)})" if claim.doubt else ""
    return _wrapped(f"{_SHAPES[claim.support]} {plain(claim.marked_text)}{doubt}", "  ")


def _quoted(text: str, mark: str) -> str:
    shown = plain(text)
    shown = shown if len(shown) <= 300 else shown[:297] + "..."
    return _wrapped(f"“{shown}”  {mark}", "  ")


def _wrapped(text: str, indent: str) -> str:
    return textwrap.fill(text, 100, initial_indent=indent, subsequent_indent=indent + "  ")
