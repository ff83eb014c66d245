# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures the time of an answer, step by step, beside the bare runtime given the same prompts; stopping; asking while indexing."""

import shutil
import statistics
import tempfile
import threading
import time
from collections.abc import Iterator
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from bench.asking import DEMO, UNANSWERABLE, demo_questions
from bench.collections import opened
from redlantern.answering.asking import DoneStep, FoundStep
from redlantern.answering.engine import Engine
from redlantern.answering.question.understanding import Question
from redlantern.answering.sheet import Sheet
from redlantern.answering.writing.streams import WritingStep
from redlantern.models.hosted import HostedModel
from redlantern.models.protocols import GREEDY, Sampling, Written
from redlantern.progress import Cancel, Cancelled, silent

_N_QUESTIONS = 12
_N_STOPPED = 4
_BARE_TOKENS, _PACED_TOKENS = 2, 40


@dataclass
class Times:
    """Of some questions: seconds of each step, medians; what the bare runtime needs for the same prompts; tokens."""

    first_line_s: float = 0.0
    first_line_slowest_s: float = 0.0
    first_word_s: float = 0.0
    prompt_to_first_word_s: float = 0.0
    bare_first_word_s: float = 0.0
    first_word_over_bare: float = 0.0
    total_s: float = 0.0
    prompt_tokens: float = 0.0
    from_cache_tokens: float = 0.0
    written_tokens: float = 0.0
    written_per_s: float = 0.0
    bare_written_per_s: float = 0.0
    stop_reading_s: float = 0.0
    stop_writing_s: float = 0.0
    total_beside_indexing_s: float = 0.0
    beside_indexing_over_quiet: float = 0.0


class _Watched(HostedModel):
    """The packaged model, with each prompt and its times noted: a first word comes after the judgement that it waited for."""

    def __init__(self) -> None:
        super().__init__()
        self.prompts: list[tuple[str, str]] = []
        self.first_word_s: list[float] = []
        self.lasts: list[Written] = []
        self.paces: list[float] = []
        self.judged_s = 0.0

    def first_words(self, system: str, user: str, cancel: Cancel) -> dict[str, float]:
        """Judge, and note how long that took."""
        began = time.perf_counter()
        found = super().first_words(system, user, cancel)
        self.judged_s += time.perf_counter() - began
        return found

    def write(
        self, system: str, user: str, *, grammar: str, most_tokens: int, cancel: Cancel, sampling: Sampling = GREEDY
    ) -> Iterator[Written]:
        """Write, and note when the first word came."""
        began, first = time.perf_counter() - self.judged_s, 0.0
        self.judged_s = 0.0
        for step in super().write(
            system, user, grammar=grammar, most_tokens=most_tokens, cancel=cancel, sampling=sampling
        ):
            now = time.perf_counter()
            if step.words and not first:
                first = now
            if not step.words:
                self.prompts.append((system, user))
                self.first_word_s.append(first - began)
                self.lasts.append(step)
                self.paces.append((step.n_written_tokens - 1) / max(now - first, 1e-6))
            yield step


def measure() -> Times:
    """Ask a dozen of the demo's questions in every way; one run on this machine."""
    rows = [row for row in demo_questions() if row["kind"] not in UNANSWERABLE][:_N_QUESTIONS]
    questions = [Question(row["question"], tuple(row["history"])) for row in rows]
    times, model = Times(), _Watched()
    with tempfile.TemporaryDirectory() as folder:
        documents = Path(folder) / "documents"
        shutil.copytree(DEMO / "documents", documents)
        with opened(Path(folder), documents, model) as engine:
            sheets = _ask_beside_bare(times, engine, questions, model)
            _note_sheets(times, sheets, model)
            _note_stops(times, engine, questions)
            _note_indexing(times, engine, questions, documents, Path(folder) / "more")
    return times


def show(result: Times) -> None:
    """Print one figure a line, and what is aimed at."""
    aims = {
        "first_line_s": "0.3", "first_word_over_bare": "1.1", "stop_reading_s": "0.2", "stop_writing_s": "0.2",
        "beside_indexing_over_quiet": "1.3",
    }  # fmt: skip
    for name, value in asdict(result).items():
        aim = f"   aimed at {aims[name]}" if name in aims else ""
        print(f"{name.replace('_', ' '):40}{value:10.3f}{aim}")


def as_json(result: Times) -> dict[str, Any]:
    """The result as plain values."""
    return asdict(result)


def _ask(engine: Engine, question: Question) -> Sheet:
    *_, done = engine.ask(question, Cancel())
    assert isinstance(done, DoneStep)
    return done.sheet


def _note_sheets(times: Times, sheets: list[Sheet], model: _Watched) -> None:
    lines = [one.seconds.first_line for one in sheets if one.seconds.first_line is not None]
    times.first_line_s, times.first_line_slowest_s = statistics.median(lines), max(lines)
    times.first_word_s = statistics.median(one.seconds.first_word for one in sheets if one.seconds.first_word)
    times.total_s = statistics.median(one.seconds.total for one in sheets)
    times.prompt_to_first_word_s = statistics.median(model.first_word_s)
    times.prompt_tokens = statistics.median(one.n_prompt_tokens for one in model.lasts)
    times.from_cache_tokens = statistics.median(one.n_cached_tokens for one in model.lasts)
    times.written_tokens = statistics.median(one.n_written_tokens for one in model.lasts)
    times.written_per_s = statistics.median(model.paces)


def _ask_beside_bare(times: Times, engine: Engine, questions: list[Question], model: _Watched) -> list[Sheet]:
    """Ask each question, and right after it give the prompt that the answer was written to, free and without a grammar, to a
    host that does nothing else: it reads it once, where ours reads it to judge and goes on from there. The first question
    only loads both and puts the fixed part of the prompt into their caches.
    """
    bare, sheets, ratios = _Watched(), list[Sheet](), list[float]()
    try:
        for number, question in enumerate(questions):
            n_before = len(model.prompts)
            sheet = _ask(engine, question)
            if len(model.prompts) == n_before:
                model.judged_s = 0.0
                continue
            list(bare.write(*model.prompts[n_before], grammar="", most_tokens=_BARE_TOKENS, cancel=Cancel()))
            if number:
                sheets.append(sheet)
                ratios.append(model.first_word_s[n_before] / bare.first_word_s[-1])
        times.bare_first_word_s = statistics.median(bare.first_word_s[1:])
        times.first_word_over_bare = statistics.median(ratios)
        bare.paces = []
        for prompt in model.prompts[:_N_STOPPED]:
            list(bare.write(*prompt, grammar="", most_tokens=_PACED_TOKENS, cancel=Cancel()))
        times.bare_written_per_s = statistics.median(bare.paces)
    finally:
        bare.close()
    for noted in (model.first_word_s, model.lasts, model.paces):
        del noted[0]
    return sheets


def _note_stops(times: Times, engine: Engine, questions: list[Question]) -> None:
    """Esc while the prompt is read, and while words come: seconds until the engine is free again."""
    reading = [_stopped(engine, question, FoundStep, 0.3) for question in questions[:_N_STOPPED]]
    writing = [_stopped(engine, question, WritingStep, 0.0) for question in questions[:_N_STOPPED]]
    times.stop_reading_s, times.stop_writing_s = max(reading), max(writing)


def _stopped(engine: Engine, question: Question, at: type, after_s: float) -> float:
    cancel = Cancel()
    stopped_at = 0.0

    def stop() -> None:
        nonlocal stopped_at
        stopped_at = time.perf_counter()
        cancel.now()

    timer = threading.Timer(after_s, stop)
    try:
        for step in engine.ask(question, cancel):
            if isinstance(step, at) and not timer.is_alive() and not stopped_at:
                timer.start()
    except Cancelled:
        return time.perf_counter() - stopped_at
    finally:
        timer.cancel()
    return 0.0


def _note_indexing(times: Times, engine: Engine, questions: list[Question], documents: Path, more: Path) -> None:
    """Ask while other documents are read and embedded, and once more when all is quiet."""
    for copy in range(_N_COPIES):
        shutil.copytree(documents / "minutes", more / str(copy))
    for number, path in enumerate(sorted(more.rglob("*.md"))):
        # Another text, so that each is read and embedded.
        path.write_text("\n\n".join(f"{line} ({number})" for line in path.read_text(encoding="utf-8").splitlines()))
    asked = questions[:_N_STOPPED]
    quiet = [_timed(engine, one) for one in asked]
    cancel = Cancel()
    indexing = threading.Thread(target=_update, args=(engine, more, cancel))
    indexing.start()
    time.sleep(_HEAD_START_S)
    busy = [_timed(engine, one) for one in asked]
    assert indexing.is_alive(), "the indexing ended before the questions did"
    cancel.now()
    indexing.join()
    times.total_beside_indexing_s = statistics.median(busy)
    times.beside_indexing_over_quiet = statistics.median(one / other for one, other in zip(busy, quiet, strict=True))


_N_COPIES = 60
_HEAD_START_S = 2.0


def _update(engine: Engine, folder: Path, cancel: Cancel) -> None:
    try:
        engine.update([folder], report=silent, cancel=cancel)
    except Cancelled:
        return


def _timed(engine: Engine, question: Question) -> float:
    began = time.perf_counter()
    _ask(engine, question)
    return time.perf_counter() - began
