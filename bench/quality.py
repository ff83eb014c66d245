"""Measures answers on the demo questions, and how high the right pages stand there and in two open collections."""

import json
import tempfile
from collections import defaultdict
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from bench import ranking
from bench.collections import opened
from bench.open_documents import FETCHED, MEASURED
from redlantern.answering.engine import DoneStep, Engine, Question
from redlantern.answering.sheet import Sheet
from redlantern.models.language import HostedModel
from redlantern.progress import Cancel

DEMO = Path(__file__).parent.parent / "demo"
UNANSWERABLE = ("off subject", "near")


@dataclass
class Tally:
    """Counts over the questions of one kind."""

    asked: int = 0
    passage_at_1: int = 0
    passage_at_5: int = 0
    cited: int = 0
    expected_found: int = 0
    refused: int = 0
    claims: int = 0
    supported: int = 0
    problems: list[str] = field(default_factory=list)

    def add(self, other: "Tally") -> None:
        """Add another's counts."""
        for name in (
            "asked",
            "passage_at_1",
            "passage_at_5",
            "cited",
            "expected_found",
            "refused",
            "claims",
            "supported",
        ):
            setattr(self, name, getattr(self, name) + getattr(other, name))


def demo_questions() -> list[dict[str, Any]]:
    """The questions of demo/questions.jsonl."""
    return [json.loads(line) for line in (DEMO / "questions.jsonl").read_text(encoding="utf-8").splitlines()]


def answer(engine: Engine, row: dict[str, Any]) -> Sheet:
    """Ask one question."""
    question = Question(row["question"], tuple(row["history"]))
    *_, done = engine.ask(question, Cancel())
    assert isinstance(done, DoneStep)
    return done.sheet


def judge(row: dict[str, Any], sheet: Sheet) -> Tally:
    """Count one sheet. Cited are the claims' citations, or the found lines' where there is no prose."""
    right = {(one["file"], one["page"]) for one in row["right"]}
    ranked = [(one.citation.path, one.citation.page_number) for one in sheet.passages]
    cited = [citation for claim in sheet.claims for citation in claim.citations]
    cited = cited or [one.citation for one in sheet.found_lines]
    words = [one.citation.text for one in sheet.found_lines] + [claim.text for claim in sheet.claims]
    tally = Tally(1, refused=int(sheet.refused))
    tally.claims = len(sheet.claims)
    tally.supported = sum(claim.support == "supported" for claim in sheet.claims)
    if right:
        tally.passage_at_1 = int(bool(right & set(ranked[:1])))
        tally.passage_at_5 = int(bool(right & set(ranked[:5])))
        tally.cited = int(not sheet.refused and bool(right & {(one.path, one.page_number) for one in cited}))
        tally.expected_found = int(not sheet.refused and any(one in text for one in row["expected"] for text in words))
    return tally


def measure() -> dict[str, Any]:
    """Ask all demo questions with the packaged models; gives counts by kind and in total, and what went wrong."""
    by_kind: dict[str, Tally] = defaultdict(Tally)
    problems = []
    with tempfile.TemporaryDirectory() as folder, opened(Path(folder), DEMO / "documents", HostedModel()) as engine:
        for row in demo_questions():
            sheet = answer(engine, row)
            tally = judge(row, sheet)
            by_kind[row["kind"]].add(tally)
            is_answerable = row["kind"] not in UNANSWERABLE
            if (is_answerable and not (tally.passage_at_5 and tally.cited)) or (
                not is_answerable and not tally.refused
            ):
                what = "refused" if sheet.refused else "answered"
                problems.append(
                    f"{row['id']} {what} ({sheet.evidence_score:.2f}), passage@5 {tally.passage_at_5}: {row['question']}"
                )
        rankings = {"demo": ranking.measure(engine, ranking.questions_of(DEMO / "questions.jsonl"))}
    for one in MEASURED:
        if one.documents.exists():
            # Kept from one run to the next, for indexing takes minutes.
            kept = FETCHED / f"{one.name}.index"
            kept.mkdir(exist_ok=True)
            with opened(kept, one.documents) as engine:
                rankings[one.name] = ranking.measure(engine, ranking.questions_of(one.questions))
    answerable, unanswerable = Tally(), Tally()
    for kind, tally in by_kind.items():
        (unanswerable if kind in UNANSWERABLE else answerable).add(tally)
    return {"kinds": dict(by_kind), "answerable": answerable, "unanswerable": unanswerable, "problems": problems,
        "rankings": rankings,
    }  # fmt: skip


def show(result: dict[str, Any]) -> None:
    """Print the table."""
    print(
        f"{'kind':14}{'asked':>7}{'page@1':>8}{'page@5':>8}{'cited':>7}{'said':>6}{'refused':>9}{'claims':>8}{'supported':>11}"
    )
    rows = [*result["kinds"].items(), ("answerable", result["answerable"]), ("unanswerable", result["unanswerable"])]
    for kind, one in rows:
        print(
            f"{kind:14}{one.asked:7}{one.passage_at_1:8}{one.passage_at_5:8}{one.cited:7}{one.expected_found:6}"
            f"{one.refused:9}{one.claims:8}{one.supported:11}"
        )
    print(
        "page@k: a right page among the first k passages; cited: a right page is cited; said: the expected words are there"
    )
    print(*("  " + problem for problem in result["problems"]), sep="\n")
    for name, one in result["rankings"].items():
        ranking.show(name, one)
    for missing in MEASURED:
        if missing.name not in result["rankings"]:
            print(f"\n{missing.name}: not measured; `python -m bench.open_documents` fetches its documents.")


def as_json(result: dict[str, Any]) -> dict[str, Any]:
    """The result as plain values."""
    kinds = {kind: vars(tally) for kind, tally in result["kinds"].items()}
    totals = {name: vars(result[name]) for name in ("answerable", "unanswerable")}
    return {"kinds": kinds, **totals, "problems": result["problems"], "rankings": result["rankings"]}
