# SPDX-License-Identifier: GPL-3.0-or-later
"""A collection names the place of its models; what is loaded is only what was brought in here, byte for byte."""

import json
import os
import shutil
from pathlib import Path

import pytest

from redlantern.models import approved
from redlantern.models.approved import ModelNotApprovedError
from redlantern.models.chosen import named_embedder, named_language_model
from redlantern.models.embedding import TOKENIZER_FILE, WEIGHTS_FILE, OnnxEmbedder
from redlantern.models.hosted import HostedModel
from redlantern.models.protocols import LanguageModelError
from redlantern.models.register import ENGLISH_EMBEDDING, LIGHT_READER
from tests.conftest import SmallEmbedder

pytestmark = pytest.mark.real_models


@pytest.fixture
def own(tmp_path):
    folder = tmp_path / "own model"
    folder.mkdir()
    shutil.copy(ENGLISH_EMBEDDING.weights.path(), folder / WEIGHTS_FILE)
    shutil.copy(ENGLISH_EMBEDDING.tokenizer.path(), folder / TOKENIZER_FILE)
    return folder


def bring_in(folder):
    approved.approve(folder, approved.hashes_of(folder / WEIGHTS_FILE, folder / TOKENIZER_FILE))


def make(model=None):
    return OnnxEmbedder(model) if isinstance(model, Path) else SmallEmbedder()


def test_a_model_that_was_never_brought_in_is_not_loaded(own):
    with pytest.raises(ModelNotApprovedError) as told:
        OnnxEmbedder(own)
    assert str(told.value) == (
        f"The model at {own}, which this collection names, was never brought in and checked under this login. It was not loaded; "
        "the packaged model is used. If you trust it, bring it in again in the Models room."
    )
    embedder, notice = named_embedder(str(own), make)
    assert (embedder.name, notice) == ("small stand-in", str(told.value))


@pytest.mark.parametrize("changed", [WEIGHTS_FILE, TOKENIZER_FILE])
def test_a_model_that_was_changed_since_is_not_loaded(own, changed):
    bring_in(own)
    embedder, notice = named_embedder(str(own), make)
    assert (embedder.name, notice) == ("own model", "")
    raw = bytearray((own / changed).read_bytes())
    before = (own / changed).stat()
    raw[-40] ^= 1
    (own / changed).write_bytes(raw)
    # Size and time say nothing: whoever changes a file can set them.
    os.utime(own / changed, ns=(before.st_atime_ns, before.st_mtime_ns))
    embedder, notice = named_embedder(str(own), make)
    assert embedder.name == "small stand-in"
    assert "is not the model that was checked when it was brought in: its file was changed since" in notice


def test_a_folder_that_is_gone_is_no_notice(tmp_path):
    embedder, notice = named_embedder(str(tmp_path / "gone"), make)
    assert (embedder.name, notice) == ("small stand-in", "")


@pytest.mark.parametrize("kept", ["not json", "[]", '{"x": 5}', "{}"])
def test_a_list_of_models_that_is_broken_approves_nothing(own, kept):
    bring_in(own)
    (approved.data_directory() / "models.json").write_text(kept)
    assert not approved.is_approved(own)
    with pytest.raises(ModelNotApprovedError):
        OnnxEmbedder(own)


def test_a_language_model_is_checked_when_it_is_loaded(tmp_path):
    path = tmp_path / "own.gguf"
    shutil.copy(LIGHT_READER.path(), path)
    model, notice = named_language_model(str(path), lambda place=None: place)
    assert model is None and "was never brought in" in notice
    approved.approve(path, approved.hashes_of(path))
    model, notice = named_language_model(str(path), lambda place=None: HostedModel(place))
    assert notice == "" and json.loads((approved.data_directory() / "models.json").read_text())
    try:
        assert model.count_tokens("hello there") > 0
        model._end()
        with path.open("r+b") as file:
            file.seek(-100, os.SEEK_END)
            file.write(b"changed")
        with pytest.raises(LanguageModelError, match="is not the one that was checked when it was brought in"):
            model.start()
    finally:
        model.close()
