# SPDX-License-Identifier: GPL-3.0-or-later
"""How well follow-ups are understood: as typed, completed by rules, and reworded by the language model.

On the threads of bench/tuning, with which the rules were made; `new` are questions that must be left alone.
Run as `python -m bench.threads`.
"""

import re
import tempfile
import time
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from bench.asking import rows
from bench.collections import opened
from bench.fit_refusal import TUNING
from bench.open_documents import CHOSEN_ON
from redlantern.answering.asking import FoundStep
from redlantern.answering.engine import Engine
from redlantern.answering.question.follow_up import leans_on_earlier, standalone_question
from redlantern.answering.question.understanding import Question
from redlantern.answering.sheet import FoundLine, Sheet
from redlantern.models.hosted import HostedModel
from redlantern.models.protocols import LanguageModel, Sampling
from redlantern.progress import Cancel
from redlantern.safety import seal
from redlantern.text.question import content_words, parse_question


@dataclass
class Counts:
    """Of the follow-ups: how many found a right line first, among the found lines, were refused; seconds to reword one."""

    asked: int = 0
    first: int = 0
    found: int = 0
    refused: int = 0
    seconds: float = 0.0


def measure() -> dict[str, dict[str, Counts]]:
    """Ask all follow-ups in each of the ways; gives counts by way for the follow-ups and the new subjects of each collection."""
    result: dict[str, dict[str, Counts]] = {}
    places: list[tuple[str, Path, str, Path | None]] = [
        ("letters and reports", TUNING / "documents", "threads.jsonl", None)
    ]
    if CHOSEN_ON.documents.exists():
        places.append(("manual", CHOSEN_ON.documents, "database-threads.jsonl", CHOSEN_ON.kept_index()))
    for name, documents, questions, kept_in in places:
        with (
            tempfile.TemporaryDirectory() as folder,
            opened(kept_in or Path(folder), documents, HostedModel()) as engine,
        ):
            for row in rows(TUNING / questions):
                counts = result.setdefault(
                    f"{name}, {'new subjects' if row['new'] else 'follow-ups'}", defaultdict(Counts)
                )
                _count(counts, engine, row)
    return result


def _count(counts: dict[str, Counts], engine: Engine, row: dict[str, Any]) -> None:
    asked: str = row["question"]
    history: list[str] = []
    lines: tuple[str, ...] = ()
    for question in row["thread"]:
        sheet = _found(engine, Question(question, tuple(history)))
        history.append(sheet.standalone_question)
        lines = tuple(one.citation.text for one in sheet.found_lines)
    by_rules = standalone_question(parse_question(asked), history, lines)
    model = engine.language_model
    assert model is not None
    began = time.perf_counter()
    reworded = _reworded(model, asked, history, lines) if leans_on_earlier(parse_question(asked)) else asked
    seconds = time.perf_counter() - began
    for way, standalone in (("as typed", asked), ("by rules", by_rules), ("by the model", reworded or by_rules)):
        sheet = _found(engine, Question(asked, standalone=standalone))
        right = [_is_right(one, row) for one in sheet.found_lines]
        one = counts[way]
        one.asked += 1
        one.first += any(right[:1])
        one.found += any(right)
        one.refused += sheet.refused
        one.seconds += seconds if way == "by the model" else 0


def _found(engine: Engine, question: Question) -> Sheet:
    step = next(iter(engine.ask(question, Cancel())))
    assert isinstance(step, FoundStep)
    return step.sheet


def _is_right(line: FoundLine, row: dict[str, Any]) -> bool:
    cited, files = line.citation, row.get("files")
    return any(word in cited.text for word in row["x"]) and (not files or cited.path in files)


_TASK = "Rewrite the last question so that it can be understood alone. Use only words of the conversation. Reply with the question only."
_EXAMPLES = """Q: Who is the caretaker of the hall?
A: The caretaker is Mr. Corvin.
Last question: When did he begin?
Rewritten: When did Mr. Corvin begin as caretaker of the hall?

Q: What is the rent of the north room?
A: The rent of the north room is 40 pounds.
Last question: And of the south room?
Rewritten: What is the rent of the south room?

"""


def _reworded(model: LanguageModel, question: str, history: Sequence[str], lines: Sequence[str]) -> str:
    """The model's rewording; empty where it has content words, names or numbers that are not from the thread."""
    said = "".join(f"Q: {one}\n" for one in history) + f"A: {lines[0] if lines else '-'}\n"
    prompt = f"{_EXAMPLES}{said}Last question: {question}\nRewritten:"
    steps = model.write(_TASK, prompt, grammar="", most_tokens=40, cancel=Cancel(), sampling=Sampling(0, 0))
    written = "".join(step.words for step in steps if step.words).strip().split("\n")[0]
    known = set(re.findall(r"\w+", " ".join([question, *history, *lines]).casefold()))
    return "" if set(content_words(written)) - known else written


def show(result: dict[str, dict[str, Counts]]) -> None:
    """Print the table."""
    for name, by_way in result.items():
        print(f"\n{name}\n{'':14}{'asked':>7}{'right line first':>18}{'found':>7}{'refused':>9}{'s each':>8}")
        for way, one in by_way.items():
            print(f"{way:14}{one.asked:7}{one.first:18}{one.found:7}{one.refused:9}{one.seconds / one.asked:8.1f}")


if __name__ == "__main__":
    seal.put_on()
    show(measure())
