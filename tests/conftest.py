# SPDX-License-Identifier: GPL-3.0-or-later
"""Fixtures for all tests. The whole test process runs inside the seal, as the application does."""

import hashlib
import logging
import os
import re
import sys
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np
import pytest

# Tests read English words, whatever this login speaks; a few walk through the window in another language.
os.environ.setdefault("REDLANTERN_LANGUAGE", "en")

from redlantern.safety import seal
from tests.outside import Outside

_OUTSIDE = Outside()
seal.put_on()
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
# Where both packaged language models are there, as on a machine that measures, tests run with the light one all the same.
os.environ["REDLANTERN_READER"] = "light"
# Commands are run by the dozen, and the other embedding model takes seconds to load; it has tests of its own.
os.environ["REDLANTERN_EMBEDDING"] = "english"

from redlantern.answering.engine import Engine  # noqa: E402
from redlantern.application.models import use_embedder  # noqa: E402
from redlantern.collection.store import Collection  # noqa: E402
from redlantern.collection.values import StoredPassage  # noqa: E402
from redlantern.models.embedding import Embedded, Span, Vectors  # noqa: E402
from redlantern.models.protocols import GREEDY, LanguageModelError, Pace, Sampling, Written  # noqa: E402
from redlantern.models.register import DEFAULT_EMBEDDING  # noqa: E402
from redlantern.progress import Cancel, silent  # noqa: E402
from redlantern.reading.pool import ReaderPool  # noqa: E402
from redlantern.splitting.headings import Headings  # noqa: E402

CONTRACT = """# Contract for the restoration

## 7 Humidity

7.1 Work shall cease when the relative humidity in the loft exceeds 70 per cent for more than 24 hours.

7.2 The Builder shall keep a daily log. The log is handed to Mr. Hale every Friday.

## 8 Payment

| Stage | Sum | Due |
|---|---|---|
| Deposit | 12.400,00 EUR | 3 March 2026 |
| Delivery of bellows | 31.250,50 EUR | 9 June 2026 |
"""
GERMAN_CONTRACT = (
    "Die Zahlung ist innerhalb von 30 Tagen nach Erhalt der Rechnung fällig.\n\n"
    "Der Auftraggeber kann den Vertrag mit einer Frist von drei Monaten kündigen.\n"
)

LETTER = """Letter to the Builder

Dear Mr. Corvin,

the key of the yard door was lost on 12 March 2026. A new one costs 340 euros.

Yours sincerely,
Ingrid Vasey
"""


_ENDING = re.compile(r"(?<=\w{3})(?:ings?|ed|es|s|e)$")


class SmallEmbedder:
    """A deterministic stand-in for the embedding model: each word without its ending has a fixed direction, a text is their sum."""

    name = "small stand-in"
    identity = "small stand-in 1"
    dimensions = 64
    most_tokens = 256

    def count_tokens(self, texts: Sequence[str]) -> list[int]:
        return [len(text.split()) for text in texts]

    def splits_word(self, word: str) -> bool:
        return True

    def embed(self, texts: Sequence[str], spans: Sequence[Sequence[Span]]) -> Iterator[tuple[int, Embedded]]:
        for index, text in enumerate(texts):
            lines = np.array([self._vector(text[start:end]) for start, end in spans[index]], np.float32)
            yield index, Embedded(self._vector(text), lines.reshape(-1, self.dimensions))

    def embed_question(self, question: str, *, in_english: bool = True) -> Vectors:
        return self._vector(question)

    def embed_words(
        self, texts: Sequence[str], *, asked: bool = False, in_english: bool = True
    ) -> list[list[tuple[Span, Vectors]]]:
        found = []
        for text in texts:
            row, at = [], 0
            for word in text.split():
                start = text.index(word, at)
                at = start + len(word)
                core = word.strip("?.,:;()")
                row.append(((start, start + len(core)), self._vector(core)))
            found.append(row)
        return found

    def _vector(self, text: str) -> Vectors:
        total = np.full(self.dimensions, 1e-3)
        # Its own rough stems: what the product makes of words must not be what judges it.
        for word in re.findall(r"\w+", text.casefold()):
            seed = int.from_bytes(hashlib.sha256(_ENDING.sub("", word).encode()).digest()[:4])
            total += np.random.default_rng(seed).normal(size=self.dimensions)
        return np.asarray(total / np.linalg.norm(total), np.float32)


def stored_passage(number: int, heading: str, lines: Sequence[str], *, start: int = 0) -> StoredPassage:
    """A passage of these lines, one under the other, on the page of its own number."""
    text, spans, at = "\n".join(lines), [], start
    for line in lines:
        spans.append((at, at + len(line)))
        at += len(line) + 1
    return StoredPassage(number, 1, number, start, start + len(text), Headings.parse(heading), text, tuple(spans))


class SmallLanguageModel:
    """A stand-in for the language model: copies the first numbered line, word by word, or fails when told to."""

    name = "small stand-in"
    can_read = can_judge = False
    pace = Pace()

    def __init__(self) -> None:
        self.fails_after: int | None = None
        self.waits_after: int | None = None
        self.prompts: list[str] = []
        self.systems: list[str] = []
        self.is_closed = False
        self.n_context, self.n_threads = 2048, 0

    def fit(self, n_context: int, n_threads: int) -> None:
        self.n_context, self.n_threads = n_context, n_threads

    def start(self, cancel: Cancel) -> None:
        pass

    def window_tokens(self) -> int:
        return self.n_context

    def count_tokens(self, text: str) -> int:
        return len(text.split())

    def count_prompt(self, system: str, user: str) -> int:
        return self.count_tokens(f"{system} {user}") + 4

    def write(
        self, system: str, user: str, *, grammar: str, most_tokens: int, cancel: Cancel, sampling: Sampling = GREEDY
    ) -> Iterator[Written]:
        self.prompts.append(user)
        self.systems.append(system)
        first = user.split("\n")[0].removeprefix("[1] ")
        yield from self._streamed([*first.split(), "[1]"], user, cancel)

    def _streamed(self, words: Sequence[str], user: str, cancel: Cancel) -> Iterator[Written]:
        for number, word in enumerate(words):
            if number == self.fails_after:
                raise LanguageModelError("stopped unexpectedly and will be started again")
            while number == self.waits_after and not cancel.is_set:
                cancel._event.wait(0.01)
            cancel.check()
            yield Written(word if number == 0 else f" {word}")
        yield Written("", len(user.split()), 0, len(words))

    def first_words(self, system: str, user: str, cancel: Cancel) -> dict[str, float]:
        return {}

    def close(self) -> None:
        self.is_closed = True


class ReadingModel(SmallLanguageModel):
    """A stand-in that reads: judges by `says_yes`, and writes `writes`, one piece after another, the last one again and again."""

    name = "reading stand-in"
    can_read = can_judge = True

    def __init__(self) -> None:
        super().__init__()
        self.says_yes: dict[str, float] = {}
        self.writes: list[str] = []
        self.judged: list[str] = []

    def first_words(self, system: str, user: str, cancel: Cancel) -> dict[str, float]:
        """Yes by the chance noted for the first question that the prompt holds, else for certain."""
        cancel.check()
        question = user.rpartition("Question: ")[2].split("\n")[0]
        self.judged.append(question)
        chance = next((chance for words, chance in self.says_yes.items() if words in question), 0.95)
        return {"Yes": chance, "No": 1 - chance}

    def write(
        self, system: str, user: str, *, grammar: str, most_tokens: int, cancel: Cancel, sampling: Sampling = GREEDY
    ) -> Iterator[Written]:
        """What is to be written next; without that, the first sentence of the first excerpt."""
        self.prompts.append(user)
        self.systems.append(system)
        copied = user.split("\n")[1].split(" … ")[0]
        said = (self.writes.pop(0) if len(self.writes) > 1 else self.writes[0]) if self.writes else copied
        yield from self._streamed(said.split(), user, cancel)


def pytest_addoption(parser):
    parser.addoption("--long", action="store_true", help="run the long tests whole, not a few minutes of them")
    parser.addoption("--without-qt", action="store_true", help="run as if Qt were not installed: for the core's tests")


def pytest_configure(config):
    if config.getoption("--without-qt"):
        # What imports it in this process fails. Commands that open a window run in processes of their own.
        sys.modules["PyQt6"] = None


def pytest_collection_modifyitems(config, items):
    if not config.getoption("--long"):
        items[:] = [one for one in items if "long" not in one.keywords]


@pytest.fixture(scope="session")
def is_long(request):
    """Whether the long tests are to be run whole."""
    return request.config.getoption("--long")


@pytest.fixture(autouse=True)
def own_places(tmp_path_factory, monkeypatch):
    """Keys, locks and sockets of a test go to a folder of its own."""
    home = tmp_path_factory.mktemp("home")
    (home / "run").mkdir(mode=0o700)
    monkeypatch.setenv("XDG_DATA_HOME", str(home))
    monkeypatch.setenv("XDG_RUNTIME_DIR", str(home / "run"))
    monkeypatch.setenv("XDG_STATE_HOME", str(home / "state"))


@pytest.fixture(autouse=True)
def no_unexpected_records(caplog):
    """A record that warns of something fails the test in which nobody expected it."""
    yield
    found = [one for when in ("setup", "call") for one in caplog.get_records(when) if one.levelno >= logging.WARNING]
    assert [f"{one.name}: {one.getMessage()}" for one in found] == []


@pytest.fixture(scope="session")
def outside():
    """Runs commands outside of the seal that this process is in."""
    return _OUTSIDE


@pytest.fixture
def cancel():
    return Cancel()


@pytest.fixture(scope="session")
def readers():
    pool = ReaderPool(2, timeout_s=30)
    yield pool
    pool.close()


@pytest.fixture
def folder(tmp_path):
    """A folder with a contract and, in a sub-folder, a letter."""
    place = tmp_path / "documents"
    (place / "letters").mkdir(parents=True)
    (place / "contract.md").write_text(CONTRACT, encoding="utf-8")
    (place / "letters" / "key.txt").write_text(LETTER, encoding="utf-8")
    return place


class SharedReaders(ReaderPool):
    """The session's readers, which outlive the engines that use them."""

    def __init__(self, shared: ReaderPool) -> None:
        self.n_readers = shared.n_readers
        self.read, self.picture = shared.read, shared.picture  # type: ignore[method-assign]

    def close(self) -> None:
        pass


@pytest.fixture
def make_engine(tmp_path, readers):
    """Makes engines on new collections with the stand-in models; closes them all."""
    made = []

    def make(name: str = "file.redlantern", language_model: object | None = None) -> Engine:
        path = tmp_path / name
        collection = Collection.open(path) if path.exists() else Collection.create(path)
        engine = Engine(collection, SmallEmbedder(), language_model, readers=SharedReaders(readers))
        made.append(engine)
        return engine

    yield make
    for engine in made:
        engine.close()


def change_embedder(engine, embedder, fact, *, report, cancel):
    """Embed everything with this model, to be known by `fact`; gives how many documents were embedded anew."""
    model = Path(fact) if fact else DEFAULT_EMBEDDING
    return use_embedder(engine, lambda _: embedder, model, report=report, cancel=cancel).remade


@pytest.fixture
def engine(make_engine, folder):
    """An engine on the two documents of `folder`."""
    engine = make_engine(language_model=SmallLanguageModel())
    engine.collection.claim_writing()
    engine.update([folder], report=silent, cancel=Cancel())
    return engine


def write_pdf(path: Path, pages: Sequence[Sequence[tuple[float, float, str]]], *, size: float = 11) -> None:
    """Write a PDF with text at given places, in points from the top left."""
    from reportlab.lib.pagesizes import A4
    from reportlab.pdfgen.canvas import Canvas

    canvas = Canvas(str(path), pagesize=A4, invariant=1)
    for page in pages:
        canvas.setFont("Times-Roman", size)
        for left, top, text in page:
            canvas.drawString(left, A4[1] - top, text)
        canvas.showPage()
    canvas.save()
