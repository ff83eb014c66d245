# SPDX-License-Identifier: GPL-3.0-or-later
"""The packaged embedding model itself, and how its vectors are stored."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from redlantern.models.embedding import OnnxEmbedder, from_int8, to_int8
from redlantern.models.register import (
    ENGLISH_EMBEDDING,
    LANGUAGES_EMBEDDING,
    ModelMissingError,
    PackagedFile,
)


@pytest.fixture(scope="module")
def embedder():
    return OnnxEmbedder()


@pytest.mark.parametrize("packaged", [ENGLISH_EMBEDDING, LANGUAGES_EMBEDDING], ids=lambda packaged: packaged.name)
def test_the_packaged_models_are_the_released_ones(packaged):
    packaged.weights.check()
    packaged.tokenizer.check()


def test_a_missing_package_is_told_with_what_to_do():
    with pytest.raises(ModelMissingError) as missing:
        PackagedFile("no-such-package", "model.onnx", "", "no-such.onnx").path()
    assert str(missing.value) == (
        "The model “no-such-package” cannot be used: its package is not installed. Run ./run setup to put it back, or "
        "`redlantern models add FOLDER` with a folder that ./run bundle made."
    )


def test_like_meanings_are_near_and_vectors_have_length_one(embedder):
    damp, wet, cat = (
        embedder.embed_question(text) for text in ("the loft was damp", "it was wet in the attic", "a cat sleeps")
    )
    assert damp @ wet > damp @ cat + 0.2
    assert np.linalg.norm(damp) == pytest.approx(1, abs=1e-5)


def test_a_batch_gives_what_single_texts_give(embedder):
    texts = ["one short text", "a somewhat longer text about the bellows of an organ", "two", "x " * 300]
    together = dict(embedder.embed(texts, [[]] * len(texts)))
    for index, text in enumerate(texts):
        # Padding must not leak into the mean; the int8 kernels round a little differently by batch.
        assert together[index].text @ embedder.embed_question(text) > 0.98


def test_lines_are_pooled_from_their_own_tokens(embedder):
    text = "The organ is out of tune. The cat sleeps on the mat."
    spans = [(0, 25), (26, 52), (52, 52)]
    [(_, embedded)] = embedder.embed([text], [spans])
    organ = embedder.embed_question("pipe organ tuning")
    assert embedded.lines.shape == (3, 384)
    assert embedded.lines[0] @ organ > embedded.lines[1] @ organ
    assert np.allclose(embedded.lines[2], embedded.text)


def test_words_get_vectors_in_their_context(embedder):
    [first, second] = embedder.embed_words(["bellows and leather", "tuning"])
    assert [span for span, _ in first] == [(0, 7), (8, 11), (12, 19)]
    assert [span for span, _ in second] == [(0, 6)]


@given(
    arrays(np.float32, (5, 16), elements=st.floats(-1, 1, width=32)).filter(
        lambda one: (abs(one).max(axis=1) > 0.01).all()
    )
)
def test_stored_vectors_keep_their_direction(vectors):
    unit = vectors / np.linalg.norm(vectors, axis=1, keepdims=True)
    cosines = (from_int8(to_int8(unit)) * unit).sum(axis=1)
    assert (cosines > 0.999).all()


def test_no_vectors_are_stored_as_none():
    assert from_int8(to_int8(np.zeros((0, 8), np.float32))).shape == (0, 8)
