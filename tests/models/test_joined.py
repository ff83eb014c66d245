# SPDX-License-Identifier: GPL-3.0-or-later
"""Two embedding models as one, and which packaged one a collection is worked on with."""

import numpy as np
import pytest

from redlantern.models.chosen import (
    EMBEDDING_VARIABLE,
    chosen_embedder,
    default_embedding,
    named_embedder,
    packaged_embedding,
)
from redlantern.models.embedding import Embedded
from redlantern.models.joined import JoinedEmbedder
from redlantern.models.register import DEFAULT_EMBEDDING, EMBEDDINGS, ENGLISH_EMBEDDING
from tests.conftest import SmallEmbedder


class Backwards(SmallEmbedder):
    """Gives its texts in the opposite order, as one with another idea of their length does."""

    identity = "backwards 1"

    def embed(self, texts, spans):
        yield from reversed(list(super().embed(texts, spans)))


@pytest.fixture
def joined():
    return JoinedEmbedder(SmallEmbedder(), Backwards())


def test_a_cosine_is_the_mean_of_the_two(joined):
    first = joined._first
    texts = ["the roof leaks", "a choir sings", "rain on the roof"]
    found = dict(joined.embed(texts, [[(0, 8)], [], [(0, 4), (5, 16)]]))
    alone = dict(first.embed(texts, [[(0, 8)], [], [(0, 4), (5, 16)]]))
    assert sorted(found) == [0, 1, 2]
    asked = joined.embed_question("does the roof leak")
    for index, embedded in found.items():
        assert isinstance(embedded, Embedded)
        assert embedded.text.shape == (joined.dimensions,)
        assert np.linalg.norm(embedded.text) == pytest.approx(1, abs=1e-5)
        assert embedded.lines.shape == (len(alone[index].lines), joined.dimensions)
        assert embedded.text @ asked == pytest.approx(
            alone[index].text @ first.embed_question("does the roof leak"), abs=1e-5
        )


def test_words_of_both_are_those_that_both_know(joined):
    [words] = joined.embed_words(["the roof leaks"])
    [alone] = joined._first.embed_words(["the roof leaks"])
    assert [span for span, _ in words] == [span for span, _ in alone]
    assert all(vector.shape == (joined.dimensions,) for _, vector in words)


def test_of_a_question_in_another_language_only_the_second_half_counts(joined):
    [(_, text)] = joined.embed(["das dach ist undicht"], [[]])
    [(_, alone)] = joined._second.embed(["das dach ist undicht"], [[]])
    asked = joined.embed_question("ist das dach undicht", in_english=False)
    assert not asked[: joined._first.dimensions].any()
    expected = alone.text @ joined._second.embed_question("ist das dach undicht")
    assert text.text @ asked == pytest.approx(expected, abs=1e-5)
    [words] = joined.embed_words(["das dach"], asked=True, in_english=False)
    [seen] = joined.embed_words(["das dach"])
    assert words[0][1] @ seen[0][1] == pytest.approx(1, abs=1e-5)


def test_no_text_gives_nothing(joined):
    assert list(joined.embed([], [])) == []


@pytest.fixture
def nothing_named(monkeypatch):
    monkeypatch.delenv(EMBEDDING_VARIABLE)


def test_the_environment_may_name_the_one_of_new_collections(nothing_named, monkeypatch):
    assert default_embedding() == packaged_embedding("") == DEFAULT_EMBEDDING == "both"
    monkeypatch.setenv(EMBEDDING_VARIABLE, "languages")
    assert packaged_embedding("") == "languages"
    assert packaged_embedding("", [ENGLISH_EMBEDDING.identity]) == "english"
    monkeypatch.setenv(EMBEDDING_VARIABLE, "nonsense")
    assert default_embedding() == "both"


@pytest.mark.real_models
def test_the_packaged_ones_are_known_by_what_they_gave(nothing_named):
    embedder = chosen_embedder()
    assert packaged_embedding("", [embedder.identity]) == "both"
    assert embedder.dimensions == 768
    damp, wet, cat = map(embedder.embed_question, ("the loft was damp", "it was wet in the attic", "a cat sleeps"))
    assert damp @ wet > damp @ cat + 0.1


def test_a_collection_that_names_none_keeps_what_its_documents_were_embedded_with(nothing_named):
    asked = []

    def make(model=None):
        asked.append(model)
        return SmallEmbedder()

    for named, identities, expected in (
        ("", [], None),
        ("", ["of somebody else's 12", ENGLISH_EMBEDDING.identity], "english"),
        ("", [ENGLISH_EMBEDDING.name], "english"),
        ("languages", [ENGLISH_EMBEDDING.identity], "languages"),
        ("both", [ENGLISH_EMBEDDING.identity], None),
        ("/gone", [ENGLISH_EMBEDDING.identity], "english"),
    ):
        named_embedder(named, make, identities)
        assert asked.pop() == expected
    assert list(EMBEDDINGS) == ["both", "languages", "english"]
