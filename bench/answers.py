"""Measures answers: right pages cited, expected words said, claims supported, refusals, with each packaged reader and without."""

import re
import statistics
import sys
import tempfile
from collections import defaultdict
from collections.abc import Callable, Iterator
from dataclasses import asdict, dataclass, field
from functools import partial
from pathlib import Path
from typing import Any

from bench.asking import DEMO, UNANSWERABLE, answer, demo_questions, rows
from bench.collections import opened
from bench.open_documents import MEASURED, QUESTIONS
from redlantern.answering.engine import Engine
from redlantern.answering.sheet import Claim, Sheet
from redlantern.collection.values import Citation
from redlantern.models.hosted import HostedModel
from redlantern.models.readers import reader_of
from redlantern.text.quantities import plain, quantities, values

_PARAPHRASED = ("paraphrase",)


@dataclass
class Counts:
    """Of the questions of one kind: how many had a right page first or among the first five, were refused, were answered with a
    warning of weak evidence, cited a right page, one named with the question (not only judged right in the pool), said the
    expected words; their claims, and the seconds to the first word and to the end of those that were answered in words.
    """

    asked: int = 0
    page_at_1: int = 0
    page_at_5: int = 0
    refused: int = 0
    cited: int = 0
    has_expected: int = 0
    said: int = 0
    claims: int = 0
    supported: int = 0
    not_in_cited: int = 0
    weak: int = 0
    cited_named: int = 0
    first_word_s: list[float] = field(default_factory=list)
    total_s: list[float] = field(default_factory=list)

    def add(self, other: "Counts") -> None:
        """Add another's counts."""
        for name, value in asdict(other).items():
            setattr(self, name, getattr(self, name) + value)


READER_WORDS = ("close", "light", "none")


def measure(only: str = "", *, model: str = "") -> dict[str, dict[str, Counts]]:
    """Ask all questions of the three collections, or of one; gives counts by kind for each, with each reader and without, or with
    one.
    """
    found: dict[str, dict[str, Counts]] = {}
    for name, documents, questions, kept in _collections():
        if only not in ("", name):
            continue
        for word in [model] if model else READER_WORDS:
            by_kind: dict[str, Counts] = defaultdict(Counts)
            reader = reader_of(word)
            if reader is None and word != "none":
                continue
            hosted = HostedModel(reader.place) if reader is not None else None
            with tempfile.TemporaryDirectory() as folder, opened(kept or Path(folder), documents, hosted) as engine:
                if hosted is not None:
                    hosted.start()
                for number, row in enumerate(questions, start=1):
                    print(f"\r{name}: {number} of {len(questions)} ", end="", file=sys.stderr, flush=True)
                    by_kind[row["kind"]].add(count(row, answer(engine, row), partial(_page_text, engine)))
            found[f"{name}, {f'{word} reader' if reader is not None else 'no model'}"] = dict(by_kind)
    return found


def _collections() -> Iterator[tuple[str, Path, list[dict[str, Any]], Path | None]]:
    yield "demo", DEMO / "documents", demo_questions(), None
    for one in MEASURED:
        if one.documents.exists():
            yield (
                one.name,
                one.documents,
                rows(one.questions) + rows(QUESTIONS / f"{one.name}-unanswered.jsonl"),
                one.kept_index(),
            )


def _page_text(engine: Engine, citation: Citation) -> str:
    page = engine.collection.page(citation.document_id, citation.page_number)
    return page.text if page is not None else ""


def count(row: dict[str, Any], sheet: Sheet, page_text: Callable[[Citation], str] = lambda _: "") -> Counts:
    """Count one sheet. Cited and said is what was reckoned or the claims cite and say, or without prose what the found lines do."""
    right = {(place["file"], place["page"]) for place in row["right"]}
    named = {(place["file"], place["page"]) for place in row["right"] if not place.get("pooled")}
    cited = [citation for claim in sheet.claims for citation in claim.citations]
    reckoned = sheet.reckoning if sheet.is_reckoned else None
    cited = [*reckoned.cells, *cited] if reckoned is not None else cited
    cited = cited or [one.citation for one in sheet.found_lines]
    texts = [reckoned.answer] if reckoned is not None else []
    texts = texts or [claim.text for claim in sheet.claims] or [one.citation.text for one in sheet.found_lines]
    ranked = [(one.citation.path, one.citation.page_number) for one in sheet.passages]
    pages_cited = {(citation.path, citation.page_number) for citation in cited}
    is_said = any(words.casefold() in text.casefold() for words in row.get("expected", ()) for text in texts)
    is_answered = not sheet.refused
    return Counts(
        asked=1,
        weak=int(sheet.is_weak),
        page_at_1=int(bool(right & set(ranked[:1]))),
        page_at_5=int(bool(right & set(ranked[:5]))),
        refused=int(sheet.refused),
        cited=int(is_answered and bool(right & pages_cited)),
        cited_named=int(is_answered and bool(named & pages_cited)),
        has_expected=int(bool(row.get("expected"))),
        said=int(is_answered and is_said),
        claims=len(sheet.claims),
        supported=sum(claim.support == "supported" for claim in sheet.claims),
        not_in_cited=sum(_is_wrongly_supported(claim, page_text) for claim in sheet.claims),
        first_word_s=[sheet.seconds.first_word] if sheet.seconds.first_word is not None else [],
        total_s=[sheet.seconds.total] if sheet.models.get("language") else [],
    )


def _is_wrongly_supported(claim: Claim, page_text: Callable[[Citation], str]) -> bool:
    """Whether a claim is called supported though a number or date of it is not in the cited words or the title, or a name not
    there nor on the page: the names of a row's columns stand above it.
    """
    if claim.support != "supported":
        return False
    cited = ". ".join(f"{one.title}. {one.text}" for one in claim.citations)
    missing = values(quantities(plain(claim.text))) - values(quantities(plain(cited)))
    around = f"{cited} {' '.join(map(page_text, claim.citations))}".casefold()
    names = re.findall(r"(?<=[a-z,;] )[A-ZÀ-Þ][\w’'-]+", claim.text)
    return bool(missing) or any(name.casefold() not in around for name in names)


def show(result: dict[str, dict[str, Counts]]) -> None:
    """Print the tables, and under each the figures that are aimed at."""
    head = f"{'asked':>7}{'page@1':>8}{'page@5':>8}{'refused':>9}{'weak':>6}{'cited':>7}{'named':>7}"
    head += f"{'said':>11}{'claims':>8}{'supported':>11}"
    for name, by_kind in result.items():
        print(f"\n{name}\n{'':14}{head}{'not in cited':>14}{'first word':>12}{'end':>7}")
        for kind, one in [*by_kind.items(), *_together(by_kind)]:
            said = f"{one.said} of {one.has_expected}" if one.has_expected else "-"
            print(
                f"{kind:14}{one.asked:7}{one.page_at_1:8}{one.page_at_5:8}{one.refused:9}{one.weak:6}{one.cited:7}{one.cited_named:7}{said:>11}"
                f"{one.claims:8}{one.supported:11}{one.not_in_cited:14}{_median(one.first_word_s):>12}{_median(one.total_s):>7}"
            )
    print(
        "\npage@k: a right page among the first k passages"
        "\ncited: a right page is cited, by a claim or, without prose, by a found line; named: one that is named with the question"
        "\nsaid: the expected words are there, likewise, of the questions that have any"
        "\nnot in cited: claims called supported of which a number or date is not in the cited words, or a name not on their page"
    )


def _median(seconds: list[float]) -> str:
    return f"{statistics.median(seconds):.1f} s" if seconds else "-"


def _together(by_kind: dict[str, Counts]) -> list[tuple[str, Counts]]:
    shared, paraphrased, unanswerable = Counts(), Counts(), Counts()
    for kind, one in by_kind.items():
        (unanswerable if kind in UNANSWERABLE else paraphrased if kind in _PARAPHRASED else shared).add(one)
    answerable = Counts()
    answerable.add(shared)
    answerable.add(paraphrased)
    return [("words shared", shared), ("answerable", answerable), ("unanswerable", unanswerable)]


def as_json(result: dict[str, dict[str, Counts]]) -> dict[str, Any]:
    """The result as plain values."""
    return {name: {kind: asdict(one) for kind, one in by_kind.items()} for name, by_kind in result.items()}
