# SPDX-License-Identifier: GPL-3.0-or-later
"""What window and commands do with a collection's models: describe, check, measure, exchange and try them."""

import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from redlantern.answering.engine import Engine
from redlantern.answering.sheet import Sheet
from redlantern.answering.writing.reading_test import reading_test
from redlantern.application.opening import MakeEmbedder, MakeLanguageModel
from redlantern.indexing.reembed import embed_anew
from redlantern.indexing.update import Summary
from redlantern.models import approved
from redlantern.models.abilities import NONE, Ability, ability_of, keep_ability
from redlantern.models.card import (
    ModelCard,
    Speeds,
    check_writes,
    embedding_card,
    language_card,
    measure_embedding,
    measure_language,
    packaged_embedding_card,
)
from redlantern.models.chosen import EMBEDDING_MODEL, LANGUAGE_MODEL, packaged_embedding
from redlantern.models.embedding import TOKENIZER_FILE, WEIGHTS_FILE, Embedder
from redlantern.models.hosted import HostedModel
from redlantern.models.readers import answer_s, default_reader, measured_pace, reader_of
from redlantern.models.register import CLOSE_READER, EMBEDDINGS, LIGHT_READER, READERS
from redlantern.progress import Cancel, Report
from redlantern.settings import Method

_SAMPLED_PASSAGES = 24


@dataclass(frozen=True)
class ReaderChoice:
    """One of the packaged language models, as it is offered: by its word, whether it is there, and what to expect of it."""

    word: str
    name: str
    is_there: bool
    answer_s: float
    memory_bytes: int


@dataclass(frozen=True)
class Registered:
    """The two models of a collection; `missing` is the file of its own language model if that is gone, `missing_embedding` the
    folder of its own embedding model.
    """

    language: ModelCard
    embedding: ModelCard
    reader: str = ""
    """The word of the packaged reader that is used; empty where it is none."""
    readers: tuple[ReaderChoice, ...] = ()
    ability: Ability = NONE
    """What the reading test of the language model came to."""
    missing: str = ""
    packaged_embedding: str = ""
    """The word of the packaged embedding model that is used; empty where it is one of their own."""
    missing_embedding: str = ""


@dataclass(frozen=True)
class Offer:
    """An embedding model that can be used, a packaged one by its word, and what the change to it takes."""

    card: ModelCard
    model: Path | str
    n_passages: int
    seconds: float


@dataclass(frozen=True)
class TriedWords:
    """What a model has written to a prompt so far, and how fast."""

    words: str
    n_written: int = 0
    seconds: float = 0.0


def start_language_model(engine: Engine, cancel: Cancel) -> None:
    """Load the language model before the first question needs it; stopping ends it."""
    model = engine.language_model
    if model is not None:
        model.start(cancel)


def registered(engine: Engine) -> Registered:
    """Describe the models that the collection is worked on with."""
    chosen = engine.collection.facts.get(LANGUAGE_MODEL)
    reader = reader_of(chosen)
    is_there = reader is None and bool(chosen) and Path(chosen).is_file() and approved.is_approved(Path(chosen))
    if reader is None and not is_there:
        reader = default_reader()
    card = language_card(reader.path() if reader is not None else Path(chosen))
    missing = chosen if chosen and not is_there and reader_of(chosen) is None else ""
    named = engine.collection.facts.get(EMBEDDING_MODEL)
    folder = named if named not in EMBEDDINGS else ""
    has_own = bool(folder) and Path(folder).is_dir() and approved.is_approved(Path(folder))
    word = "" if has_own else packaged_embedding(named, engine.collection.embedded_with())
    return Registered(
        card, embedding_card(Path(folder)) if has_own else packaged_embedding_card(word),
        reader.word if reader is not None else "", reader_choices(), ability_of(card.sha256) or NONE, missing, word,
        folder if folder and not has_own else "",
    )  # fmt: skip


def closer_reader(sheet: Sheet) -> str:
    """The word of the packaged reader that would read closer than the one that answered a question; empty for none."""
    was_light = sheet.models.get("language") == LIGHT_READER.name
    is_question = not (sheet.sections or sheet.places or sheet.draft)
    return CLOSE_READER.word if was_light and is_question and reader_of(CLOSE_READER.word) is not None else ""


def reader_choices() -> tuple[ReaderChoice, ...]:
    """The packaged language models, the one that reads closer first."""
    return tuple(
        ReaderChoice(
            reader.word, reader.name, reader.place.is_file(), answer_s(measured_pace(reader)), reader.memory_bytes
        )
        for reader in reversed(READERS)
    )


def describe(path: Path, cancel: Cancel, on_step: Callable[[str], None] = lambda _: None) -> ModelCard:
    """Look at a model file that somebody wants to bring in, let it write a few words, and put the reading test to it.

    One that does not pass is used all the same, and held to the documents' lines.
    """
    card = language_card(path)
    check_writes(card, cancel)
    tested_ability(path, card.sha256, cancel, on_step)
    # From now on collections may name it: what is loaded for them is this very file.
    approved.approve(path, {path.name: card.sha256})
    return card


def tested_ability(path: Path, sha256: str, cancel: Cancel, on_step: Callable[[str], None]) -> Ability:
    """Put the reading test to a model file, unless it was put to it before.

    Raises
    ------
    LanguageModelError, Cancelled
    """
    known = ability_of(sha256)
    if known is not None:
        return known
    model = HostedModel(path)
    try:
        ability = reading_test(model, cancel, on_step)
    finally:
        model.close()
    keep_ability(sha256, ability)
    return ability


def describe_embedding(engine: Engine, make: MakeEmbedder, model: Path | str, cancel: Cancel) -> Offer:
    """Try an embedding model in a process of its own, or take a packaged one by its word, then estimate how long the change to
    it would take.
    """
    if isinstance(model, str):
        return _offer(engine, packaged_embedding_card(model), model, make(model))
    hashes = approved.hashes_of(*(file for file in (model / WEIGHTS_FILE, model / TOKENIZER_FILE) if file.is_file()))
    card = embedding_card(model)
    cancel.check()
    # From now on collections may name it: what is loaded for them is what was tried just now.
    approved.approve(model, hashes)
    return _offer(engine, card, model, make(model))


def _offer(engine: Engine, card: ModelCard, model: Path | str, embedder: Embedder) -> Offer:
    return Offer(card, model, engine.current_index().n_passages, seconds_to_embed(engine, embedder))


def seconds_to_embed(engine: Engine, embedder: Embedder) -> float:
    """About how long embedding everything with this model would take, by a few passages of the collection; embeds these."""
    index = engine.current_index()
    sample = engine.collection.passages(index.passage_ids[:: max(1, index.n_passages // _SAMPLED_PASSAGES)].tolist())
    began = time.perf_counter()
    for _ in embedder.embed([passage.text for passage in sample], [[] for _ in sample]):
        pass
    return (time.perf_counter() - began) / max(1, len(sample)) * index.n_passages


def use_embedder(engine: Engine, make: MakeEmbedder, model: Path | str, *, report: Report, cancel: Cancel) -> Summary:
    """Find with another embedding model, a packaged one by its word, once everything is embedded with it.

    Until then questions use the one before; see indexing.reembed.
    """
    embedder = make(model)
    n_documents = embed_anew(
        engine.collection, engine.workshop(embedder=embedder), facts={EMBEDDING_MODEL: str(model)},
        exchanged=lambda: engine.exchange(embedder=embedder), report=report, cancel=cancel,
    )  # fmt: skip
    engine.reload_index()
    engine.collection.journal.note("settings", f"Embedding model: {embedder.name}")
    return Summary(remade=n_documents)


def use_language_model(engine: Engine, make: MakeLanguageModel, chosen: Path | str, cancel: Cancel) -> Registered:
    """Use a language model for this collection from now on: a file, or a packaged reader by its word."""
    reader = reader_of(chosen) if isinstance(chosen, str) else None
    path = reader.place if reader is not None else Path(chosen)
    model = make(path)
    assert model is not None
    engine.use_language_model(model, cancel)
    engine.collection.facts.put(LANGUAGE_MODEL, str(chosen))
    named = reader.name if reader is not None else path.name
    engine.collection.journal.note("settings", f"Language model: {named}")
    return registered(engine)


def use_settings(engine: Engine, method: Method, cancel: Cancel) -> Method:
    """Write with these settings from now on, in this collection."""
    engine.use_writing_settings(method, cancel)
    engine.collection.journal.note("settings", f"Writing: {method.writing_as_text()}")
    return engine.method


def measure(shown: Registered, *, is_language: bool, cancel: Cancel, on_step: Callable[[str], None]) -> Speeds:
    """Measure a model on this machine; what is being done is told on the way."""
    if is_language:
        return measure_language(Path(shown.language.path), cancel, on_step)
    return measure_embedding(shown.packaged_embedding or Path(shown.embedding.path).parent, cancel, on_step)


def try_prompt(engine: Engine, prompt: str, *, cancel: Cancel, on_step: Callable[[TriedWords], None]) -> TriedWords:
    """Let the language model write to a prompt, without documents."""
    began, tried = time.perf_counter(), TriedWords("")
    for words in engine.ask_model_alone(prompt, cancel):
        tried = TriedWords(words, tried.n_written + 1, time.perf_counter() - began)
        on_step(tried)
    return tried
