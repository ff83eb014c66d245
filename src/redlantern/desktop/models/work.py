"""What the models room wants done off the interface thread."""

import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from redlantern.answering.engine import Engine
from redlantern.application.opening import MakeEmbedder, MakeLanguageModel
from redlantern.desktop.bridge import Task
from redlantern.models import approved
from redlantern.models.card import (
    ModelCard,
    Speeds,
    check_writes,
    embedding_card,
    language_card,
    measure_embedding,
    measure_language,
)
from redlantern.models.chosen import EMBEDDING_MODEL, LANGUAGE_MODEL
from redlantern.models.embedding import TOKENIZER_FILE, WEIGHTS_FILE
from redlantern.settings import Method


@dataclass(frozen=True)
class Registered:
    """The two models of a collection; `missing` is the file of its own language model if that is gone, `missing_embedding` the
    folder of its own embedding model.
    """

    language: ModelCard
    embedding: ModelCard
    is_own: bool = False
    missing: str = ""
    has_own_embedding: bool = False
    missing_embedding: str = ""


@dataclass(frozen=True)
class Offer:
    """An embedding model that can be used, None for the packaged one's folder, and what the change to it takes."""

    card: ModelCard
    folder: Path | None
    n_passages: int
    seconds: float


@dataclass(frozen=True)
class TriedWords:
    """What a model has written to a prompt so far, and how fast."""

    words: str
    n_written: int = 0
    seconds: float = 0.0


def registered(engine: Engine) -> Callable[[Task], Registered]:
    """Describe the models that the collection is worked on with."""

    def work(task: Task) -> Registered:
        chosen = engine.collection.facts.get(LANGUAGE_MODEL)
        is_there = bool(chosen) and Path(chosen).is_file() and approved.is_approved(Path(chosen))
        card = language_card(Path(chosen) if is_there else None)
        folder = engine.collection.facts.get(EMBEDDING_MODEL)
        has_own = bool(folder) and Path(folder).is_dir() and approved.is_approved(Path(folder))
        return Registered(
            card, embedding_card(Path(folder) if has_own else None), is_there, chosen if chosen and not is_there else "",
            has_own, folder if folder and not has_own else "",
        )  # fmt: skip

    return work


def describe(path: Path) -> Callable[[Task], ModelCard]:
    """Look at a model file that somebody wants to bring in, and let it write a few words."""

    def work(task: Task) -> ModelCard:
        card = language_card(path)
        check_writes(card, task.cancel)
        # From now on collections may name it: what is loaded for them is this very file.
        approved.approve(path, {path.name: card.sha256})
        return card

    return work


def describe_embedding(engine: Engine, make: MakeEmbedder, folder: Path | None) -> Callable[[Task], Offer]:
    """Try an embedding model in a process of its own, then estimate how long the change to it would take."""

    def work(task: Task) -> Offer:
        files = [folder / name for name in (WEIGHTS_FILE, TOKENIZER_FILE)] if folder is not None else []
        hashes = approved.hashes_of(*(one for one in files if one.is_file()))
        card = embedding_card(folder)
        task.cancel.check()
        if folder is not None:
            # From now on collections may name it: what is loaded for them is what was tried just now.
            approved.approve(folder, hashes)
        embedder = make(folder) if folder is not None else make()
        return Offer(card, folder, engine.index.n_passages, engine.seconds_to_embed(embedder))

    return work


def use(engine: Engine, make: MakeLanguageModel, path: Path | None) -> Callable[[Task], Registered]:
    """Use a language model for this collection from now on; None goes back to the packaged one."""

    def work(task: Task) -> Registered:
        model = make(path) if path is not None else make()
        assert model is not None
        engine.use_language_model(model, task.cancel)
        engine.collection.facts.put(LANGUAGE_MODEL, str(path) if path is not None else "")
        engine.collection.journal.note(
            "settings", f"Language model: {path.name if path is not None else 'the packaged one'}"
        )
        return registered(engine)(task)

    return work


def use_settings(engine: Engine, method: Method) -> Callable[[Task], Method]:
    """Write with these settings from now on, in this collection."""

    def work(task: Task) -> Method:
        engine.use_writing_settings(method, task.cancel)
        engine.collection.journal.note("settings", f"Writing: {method.writing_as_text()}")
        return engine.method

    return work


def measure(path: Path | None, is_language: bool) -> Callable[[Task], Speeds]:
    """Measure a model on this machine; what is being done is told on the way."""

    def work(task: Task) -> Speeds:
        if is_language:
            return measure_language(path, task.cancel, task.stepped.emit)
        return measure_embedding(path.parent if path is not None else None, task.cancel, task.stepped.emit)

    return work


def try_prompt(engine: Engine, prompt: str) -> Callable[[Task], TriedWords]:
    """Let the language model write to a prompt, without documents."""

    def work(task: Task) -> TriedWords:
        began, tried = time.perf_counter(), TriedWords("")
        for words in engine.ask_model_alone(prompt, task.cancel):
            tried = TriedWords(words, tried.n_written + 1, time.perf_counter() - began)
            task.stepped.emit(tried)
        return tried

    return work
