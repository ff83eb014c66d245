# SPDX-License-Identifier: GPL-3.0-or-later
"""One way in: what the window and a command open is the same, with the same models, claims and words in the journal."""

import pytest

from redlantern.application.opening import Models, NewKey, WriteAccess, open_collection, open_session
from redlantern.collection.errors import CollectionInUseError
from redlantern.collection.known import known_collections
from redlantern.models import approved
from redlantern.models.chosen import EMBEDDING_MODEL, LANGUAGE_MODEL
from redlantern.safety.keys import Holding, PassphraseNeededError
from tests.conftest import SmallEmbedder, SmallLanguageModel


class Named(SmallLanguageModel):
    def __init__(self, path=None):
        super().__init__()
        self.name = path.name if path is not None else "packaged"


MODELS = Models(SmallEmbedder, Named)


@pytest.fixture
def path(tmp_path):
    session = open_session(
        tmp_path / "c.redlantern", by="by a command", new_key=NewKey(), claim=WriteAccess.MUST, models=MODELS
    )
    session.close()
    return tmp_path / "c.redlantern"


def words(path):
    collection, _, _ = open_collection(path, by="by a command")
    try:
        return [(one.what, one.words) for one in collection.journal.entries()]
    finally:
        collection.close()


def with_facts(path, **facts):
    collection, _, _ = open_collection(path, by="by a command")
    for name, value in facts.items():
        collection.facts.put(name.replace("_", " "), str(value))
    collection.close()


@pytest.mark.parametrize("claim", [WriteAccess.NO, WriteAccess.IF_FREE, WriteAccess.MUST])
def test_the_collections_own_language_model_is_used_by_whoever_opens_it(path, tmp_path, claim):
    own = tmp_path / "own.gguf"
    own.write_bytes(b"a model")
    with_facts(path, **{LANGUAGE_MODEL.replace(" ", "_"): own})
    session = open_session(path, by="by a command", claim=claim, models=MODELS)
    assert session.engine.language_model.name == "packaged" and "was never brought in" in session.notice
    session.close()
    approved.approve(own, approved.hashes_of(own))
    session = open_session(path, by="by a command", claim=claim, models=MODELS)
    assert (session.engine.language_model.name, session.notice) == ("own.gguf", "")
    session.close()
    named = tmp_path / "named.gguf"
    session = open_session(path, by="by a command", claim=claim, models=MODELS, language_model=named)
    assert session.engine.language_model.name == "named.gguf"
    session.close()
    session = open_session(path, by="by a command", claim=claim, models=MODELS, writes_prose=False)
    assert session.engine.language_model is None
    session.close()


def test_an_embedding_model_that_is_not_approved_gives_way_and_is_named(path, tmp_path):
    folder = tmp_path / "own model"
    folder.mkdir()
    with_facts(path, **{EMBEDDING_MODEL.replace(" ", "_"): folder})

    def make(place=None):
        if place is not None:
            approved.check(place, {})
        return SmallEmbedder()

    session = open_session(path, by="in a window", models=Models(make, Named))
    assert session.engine.embedder.name == "small stand-in"
    assert f"The model at {folder}, which this collection names, was never brought in" in session.notice
    session.close()


def test_a_claim_that_must_be_is_an_error_and_one_that_may_be_says_why_not(path):
    first = open_session(path, by="in a window", claim=WriteAccess.IF_FREE, models=MODELS)
    assert first.only_reading == ""
    with pytest.raises(CollectionInUseError):
        open_session(path, by="by a command", claim=WriteAccess.MUST, models=MODELS)
    second = open_session(path, by="in a window", claim=WriteAccess.IF_FREE, models=MODELS)
    assert second.only_reading.startswith("Open for questions only: it is open in another window or command (process ")
    second.close()
    first.close()
    assert known_collections() == [path]


def test_a_passphrase_is_asked_for_only_where_there_is_one(path, tmp_path):
    def never():
        raise AssertionError("nobody needs a passphrase here")

    open_session(path, by="by a command", passphrase=never, models=MODELS).close()
    locked = tmp_path / "locked.redlantern"
    key = NewKey(Holding.PASSPHRASE, "seven grey herons")
    open_session(locked, by="by a command", new_key=key, claim=WriteAccess.MUST, models=MODELS).close()
    collection, _, given = open_collection(locked, by="by a command", passphrase=lambda: "seven grey herons")
    assert given == "seven grey herons"
    collection.close()
    with pytest.raises(PassphraseNeededError):
        open_session(locked, by="by a command", passphrase=lambda: None, models=MODELS)
    assert [what for what, _ in words_with(locked)] == ["made", "unlocked", "unlocked", "unlocked"]


def words_with(locked):
    collection, _, _ = open_collection(locked, by="by a command", passphrase="seven grey herons")
    try:
        return [(one.what, one.words) for one in collection.journal.entries()]
    finally:
        collection.close()


def test_a_window_is_noted_and_a_command_without_a_passphrase_is_not(path):
    open_session(path, by="in a window", claim=WriteAccess.IF_FREE, models=MODELS).close()
    assert words(path) == [("made", "Key held by: file"), ("opened", "in a window")]


def test_what_fails_in_opening_leaves_nothing_open(path):
    def broken(place=None):
        raise ValueError("broken")

    with pytest.raises(ValueError, match="broken"):
        open_session(path, by="by a command", claim=WriteAccess.MUST, models=Models(broken, Named))
    session = open_session(path, by="by a command", claim=WriteAccess.MUST, models=MODELS)
    session.close()
