# SPDX-License-Identifier: GPL-3.0-or-later
"""What a model file says of itself, read in a process of its own, and why one cannot be used."""

import contextlib
import io
import shutil
import struct
from pathlib import Path

import numpy as np
import onnx
import pytest
from hypothesis import given
from hypothesis import strategies as st

from redlantern.models import approved, card
from redlantern.models.card import UnfitModelError, language_card
from redlantern.models.describe import described
from redlantern.models.embedding import BEFORE_QUESTION, BEFORE_TEXT, OnnxEmbedder, most_tokens_of
from redlantern.models.register import ENGLISH_EMBEDDING, LIGHT_READER


def text(words):
    raw = words.encode()
    return struct.pack("<Q", len(raw)) + raw


def header(fields, n_tensors=1, version=3):
    """A model file's header with one tensor of 32 by 4 numbers."""
    made = b"GGUF" + struct.pack("<IQQ", version, n_tensors, len(fields))
    for name, value in fields.items():
        made += text(name)
        if isinstance(value, str):
            made += struct.pack("<I", 8) + text(value)
        elif isinstance(value, list):
            made += struct.pack("<IIQ", 9, 8, len(value)) + b"".join(map(text, value))
        else:
            made += struct.pack("<II", 4, value)
    tensor = text("w") + struct.pack("<I", 2) + struct.pack("<QQ", 32, 4) + struct.pack("<IQ", 0, 0)
    return made + tensor * n_tensors


GOOD = {
    "general.architecture": "llama", "general.name": "Small writer", "general.license": "mit", "general.file_type": 15,
    "general.languages": ["en", "de"], "llama.context_length": 4096, "llama.block_count": 2, "llama.embedding_length": 64,
    "llama.attention.head_count": 4, "llama.attention.head_count_kv": 2, "tokenizer.ggml.tokens": ["a"] * 500,
    "tokenizer.chat_template": "{% for message in messages %}",
}  # fmt: skip


def put(tmp_path, made):
    path = tmp_path / "model.gguf"
    path.write_bytes(made)
    return path


def test_a_model_file_is_described_without_loading_it(tmp_path):
    found = language_card(put(tmp_path, header(GOOD)))
    assert (found.name, found.n_parameters, found.quantisation) == ("Small writer", 128, "Q4_K_M")
    assert (found.n_context, found.languages, found.licence) == (4096, ("en", "de"), "mit")
    assert len(found.sha256) == 64


@pytest.mark.parametrize(
    ("change", "reason"),
    [
        ({"tokenizer.chat_template": ""}, "it has no chat template"),
        ({"general.architecture": "bert"}, "it is not a model that writes text (its make is bert)"),
        ({"general.type": "adapter"}, "it is not a model that writes text"),
        ({"general.architecture": ""}, "it does not say of what make it is"),
    ],
)
def test_a_model_that_cannot_answer_is_refused_with_a_plain_reason(tmp_path, change, reason):
    with pytest.raises(UnfitModelError) as refused:
        language_card(put(tmp_path, header(GOOD | change)))
    assert reason in str(refused.value)
    assert "model.gguf" in str(refused.value)


def test_a_model_too_large_for_the_memory_is_refused_before_it_is_loaded(tmp_path, monkeypatch):
    monkeypatch.setattr(card, "free_bytes", lambda: 100 * 2**20)
    with pytest.raises(UnfitModelError, match=r"it would need about 301 MiB of memory, and 100 MiB are free"):
        language_card(put(tmp_path, header(GOOD)))


@pytest.mark.parametrize(
    "made", [b"", b"PK\x03\x04 something else", b"GGUF", header(GOOD)[:200], header(GOOD, version=9)]
)
def test_what_is_no_model_or_broken_off_is_refused(tmp_path, made):
    with pytest.raises(UnfitModelError):
        language_card(put(tmp_path, made))


def test_a_file_that_is_not_there_is_refused(tmp_path):
    with pytest.raises(UnfitModelError, match="there is no such file"):
        language_card(tmp_path / "gone.gguf")


@given(st.binary(max_size=300))
def test_no_bytes_after_the_mark_do_harm(rest):
    """Read here and not in its own process: whatever comes is described, unfit, or an error that is expected."""
    with contextlib.suppress(ValueError, KeyError, struct.error):
        assert isinstance(described(io.BytesIO(b"GGUF" + rest), "name"), dict)


@pytest.mark.real_models
def test_the_packaged_model_says_what_it_is():
    found = language_card()
    assert (found.name, found.quantisation) == (LIGHT_READER.name, "Q4_K_M")
    assert 490e6 < found.n_parameters < 640e6
    assert (found.n_context, found.licence) == (32768, "apache-2.0")


@pytest.mark.real_models
def test_a_model_whose_header_is_whole_and_whose_rest_is_not_is_refused(tmp_path, cancel):
    whole = language_card()
    card.check_writes(whole, cancel)
    with Path(whole.path).open("rb") as file:
        half = put(tmp_path, file.read(60_000_000))
    with pytest.raises(UnfitModelError, match="it could not be loaded"):
        card.check_writes(language_card(half), cancel)


@pytest.mark.real_models
def test_both_models_are_measured(cancel):
    said = []
    language = card.measure_language(None, cancel, said.append)
    embedding = card.measure_embedding("english", cancel, said.append)
    assert language.load_s > 0
    assert language.read_per_s > 0
    assert language.written_per_s > 0
    assert language.memory_bytes > 50 * 2**20
    assert embedding.passages_per_s > 0
    assert said == ["loading ...", "reading and writing ...", "loading ...", "embedding ..."]


@pytest.fixture
def own_folder(tmp_path):
    folder = tmp_path / "own model"
    folder.mkdir()
    shutil.copy(ENGLISH_EMBEDDING.weights.path(), folder / "model.onnx")
    shutil.copy(ENGLISH_EMBEDDING.tokenizer.path(), folder / "tokenizer.json")
    return folder


@pytest.mark.real_models
def test_an_embedding_model_in_a_folder_is_tried_and_used(own_folder):
    found = card.embedding_card(own_folder)
    assert (found.name, found.dimensions) == ("own model", 384)
    approved.approve(own_folder, approved.hashes_of(own_folder / "model.onnx", own_folder / "tokenizer.json"))
    embedder = OnnxEmbedder(own_folder)
    assert embedder.identity.startswith("own model ")
    packaged = OnnxEmbedder()
    assert np.allclose(
        embedder.embed_question("The roof leaks."), packaged.embed_question("The roof leaks."), atol=1e-4
    )


@pytest.mark.real_models
def test_what_a_model_wants_before_each_text_has_to_be_short(own_folder):
    model = onnx.load(own_folder / "model.onnx")
    onnx.helper.set_model_props(model, {BEFORE_QUESTION: "query: ", BEFORE_TEXT: "say nothing else " * 1000})
    onnx.save(model, own_folder / "model.onnx")
    with pytest.raises(card.UnfitModelError, match="what it wants before each text has more than 64 characters"):
        card.embedding_card(own_folder)
    onnx.helper.set_model_props(model, {BEFORE_QUESTION: "query: ", BEFORE_TEXT: "passage: "})
    onnx.save(model, own_folder / "model.onnx")
    assert card.embedding_card(own_folder).dimensions == 384


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda folder: (folder / "tokenizer.json").unlink(), "there is no tokenizer.json in the folder"),
        (lambda folder: (folder / "model.onnx").unlink(), "there is no model.onnx in the folder"),
    ],
)
def test_a_folder_that_lacks_a_file_is_refused(own_folder, change, said):
    change(own_folder)
    with pytest.raises(card.UnfitModelError) as refused:
        card.embedding_card(own_folder)
    assert str(refused.value) == f"“own model” cannot be used: {said}."


def test_a_file_that_is_no_model_is_refused(own_folder):
    (own_folder / "model.onnx").unlink()
    (own_folder / "model.onnx").write_bytes(b"no model at all")
    with pytest.raises(card.UnfitModelError, match="“own model” cannot be used: it cannot be loaded"):
        card.embedding_card(own_folder)


@pytest.mark.parametrize(("stated", "expected"), [(None, 256), ({"max_length": 128}, 128), ({"max_length": 8192}, 512)])
def test_how_much_a_model_takes_at_once_is_its_tokenizers_limit(stated, expected):
    assert most_tokens_of(stated) == expected
