# SPDX-License-Identifier: GPL-3.0-or-later
import dataclasses

import numpy as np
import pytest

from redlantern.answering.question.understanding import Question
from redlantern.application.questions import standing_of
from redlantern.progress import Cancel
from redlantern.retrieval.explain import Standing, Why, why
from redlantern.retrieval.hybrid import Spot, find, rank_each_way
from redlantern.retrieval.index import Hit
from redlantern.retrieval.rerank import is_contents, join_neighbours, question_words, rerank
from redlantern.settings import Method
from redlantern.text.question import parse_question
from tests.conftest import SmallEmbedder, stored_passage

EMBEDDER = SmallEmbedder()


def passage(number, *lines, heading="Survey › Loft"):
    return stored_passage(number, heading, lines)


def hit(number, fused, one):
    return Hit(number, number, 1, number, 1.0, 0.4, 0.5, 0.5, fused, np.full(len(one.lines), 0.5, np.float32))


def reranked(question, passages, n_compared, fused=None):
    words = question_words(parse_question(question), EMBEDDER, lambda term: 1.0)
    scores = fused or [1.0] * len(passages)
    hits = [hit(number, score, one) for number, (score, one) in enumerate(zip(scores, passages, strict=True), start=1)]
    return rerank(words, hits, passages, EMBEDDER, n_compared)


def test_words_compared_one_by_one_bring_the_better_line_first():
    other, right = passage(1, "The hatch was painted."), passage(2, "The bellows leak at the fold.")
    found = reranked("Which bellows leak?", [other, right], 2)
    assert [one.passage.passage_id for one in found] == [2, 1]
    assert [(one.hit.rank, one.before) for one in found] == [(1, 2), (2, 1)]
    assert found[0].max_sim > found[1].max_sim


def test_those_beyond_the_compared_ones_keep_their_order_behind_them():
    passages = [passage(number, f"Line {number} on bellows.") for number in range(1, 6)]
    found = reranked("bellows", passages, 2, [1.0, 0.9, 5.0, 4.0, 3.0])
    assert {one.passage.passage_id for one in found[:2]} == {1, 2}
    assert [one.passage.passage_id for one in found[2:]] == [3, 4, 5]
    assert [one.max_sim is None for one in found] == [False, False, True, True, True]


def test_without_comparing_the_order_stays_as_it_was():
    passages = [passage(1, "Nothing of it."), passage(2, "The bellows leak.")]
    assert [one.passage.passage_id for one in reranked("bellows leak", passages, 0, [1.0, 0.99])] == [1, 2]


def test_lists_of_contents_and_repetitions_go_to_the_end():
    contents = passage(1, "Bellows ............ 12", "Loft ........... 14")
    first = passage(2, "The bellows of the loft leak badly at the lower fold.")
    copy = passage(3, "The bellows of the loft leak badly at the lower fold.", heading="Copy › Loft")
    other = passage(4, "A hatch.")
    found = reranked("bellows loft leak", [contents, first, copy, other], 4)
    assert [one.passage.passage_id for one in found] == [2, 4, 1, 3]
    assert [one.repeats for one in found] == [0, 0, 0, 1]
    assert is_contents(contents)
    assert not is_contents(passage(5, "See page 12 ... or not.", "Bellows"))


def test_words_standing_close_together_count():
    near = passage(1, "Of fog and of a wind pressure gauge and gale.")
    far = passage(2, "The wind was high that day and we had to measure the pressure.")
    words = question_words(parse_question("wind pressure"), EMBEDDER, lambda term: 1.0)
    found = rerank(words, [hit(1, 1.0, near), hit(2, 1.0, far)], [near, far], EMBEDDER, 0)
    assert found[0].proximity == 1.0
    assert found[1].proximity == 0.0


def test_a_passage_explains_itself():
    one = passage(1, "The bellows leaked at the fold.")
    [found] = reranked("Which bellow leaks near a window?", [one], 1)
    explained = why(found, parse_question("Which bellow leaks near a window?"))
    assert explained.found == (("bellow", ("bellows",)), ("leaks", ("leaked",)))
    assert explained.missing == ("near", "window")
    said = explained.sentences()
    assert said.startswith("It has “bellow” (as bellows) and “leaks” (as leaked), not “near” and “window”.")


@pytest.mark.parametrize(
    ("change", "expected"),
    [
        ({"after": 1, "max_sim": 0.5}, "Compared word by word it went from place 4 to 1."),
        ({"after": 6}, "What was compared word by word moved it from place 4 to 6."),
        ({"after": 9, "repeats": 2}, "It says little else than passage 2, so it stands behind."),
        ({"after": 9, "is_contents": True}, "It is a list of contents, so it stands behind."),
        ({"after": 4, "n_joined": 1}, "What adjoins it on the page was found, too, and stands with it."),
    ],
)
def test_what_moved_a_passage_is_said(change, expected):
    plain = Why((), ("loft",), 0.0, 0.1, 0.2, None, 0.0, 4)
    assert dataclasses.replace(plain, **change).sentences() == (
        f"None of the question's words stand in it. In meaning it is far from the question (0.20 of 1). {expected}"
    )


def test_a_standing_is_said_in_words():
    here = Why((("loft", ("loft",)),), (), 0.2, 0.4, 0.4, None, 0.0, 0)
    assert Standing(here, 12, 103, 34, 1214, 20).sentences() == (
        "Its best passage stands 34th of 1,214: 12th by its words, 103rd by its meaning. It has “loft”. "
        "In meaning it is fairly near to the question (0.40 of 1). Only the first 20 are looked at more closely."
    )


def test_neighbours_on_a_page_fill_one_place_together():
    first = dataclasses.replace(passage(1, "The bellows leak."), page_number=4)
    second = dataclasses.replace(passage(2, "The bellows leak a lot."), page_number=4, start=18, end=41)
    apart = dataclasses.replace(passage(3, "The bellows of another part leak."), page_number=4, start=60, end=93)
    elsewhere = dataclasses.replace(passage(4, "More bellows leak there."), page_number=5)
    found = join_neighbours(reranked("bellows leak", [apart, second, first, elsewhere], 0, [4.0, 3.0, 2.0, 1.0]))
    assert [[one.passage.passage_id for one in joined.members] for joined in found] == [[3], [2, 1], [4]]
    assert [joined.hit.rank for joined in found] == [1, 2, 3]
    assert found[1].span == (0, 41)


def test_what_is_repeated_is_named_by_its_place_after_joining():
    first = dataclasses.replace(passage(1, "The bellows leak."), page_number=4)
    second = dataclasses.replace(passage(2, "A hatch is beside them."), page_number=4, start=18, end=41)
    third = dataclasses.replace(passage(3, "The key of the yard hangs at the porter's door."), page_number=6)
    copy = dataclasses.replace(third, passage_id=4, page_number=9)
    found = join_neighbours(reranked("bellows leak", [first, second, third, copy], 0, [4.0, 3.0, 2.0, 1.0]))
    assert [(one.passage.passage_id, one.repeats) for one in found] == [(1, 0), (3, 0), (4, 2)]


QUESTION = "At what relative humidity shall work cease?"


def test_put_aside_is_never_found_and_pinned_always(engine):
    def found(**chosen):
        return [
            Spot(one.passage.document_id, one.passage.page_number, *one.span)
            for one in find(
                engine.current_index(), engine.collection, EMBEDDER, parse_question(QUESTION), None, Method(), **chosen
            ).ranked
        ]

    everything = found()
    best, last = everything[0], everything[-1]
    assert best not in found(put_aside={best})
    assert found(pinned={last})[0] == last
    assert found(put_aside={Spot(99, 1, 0, 5)}) == everything
    letter = next(one for one in engine.collection.documents() if one.path == "letters/key.txt")
    scope = {letter.document_id}
    within = find(
        engine.current_index(), engine.collection, EMBEDDER, parse_question(QUESTION), scope, Method(), pinned={best}
    ).ranked
    assert {one.passage.document_id for one in within} == scope


def test_each_way_ranks_by_its_own_score(engine):
    found = rank_each_way(engine.current_index(), engine.collection, EMBEDDER, parse_question(QUESTION), None, Method())
    for placed in (found.by_words, found.by_meaning, found.by_both):
        scores = [one.score for one in placed]
        assert scores == sorted(scores, reverse=True)
    assert [one.rank for one in found.reranked] == list(range(1, len(found.reranked) + 1))


def test_where_a_page_stands_counts_all_in_scope(engine):
    *_, done = engine.ask(Question(QUESTION, lines_only=True), Cancel())
    best = done.sheet.passages[0].citation
    standing = standing_of(engine, done.sheet, None, (best.document_id, best.page_number))
    assert standing.by_both == 1
    assert standing.n_in_scope == engine.current_index().n_passages
    assert standing_of(engine, done.sheet, None, (best.document_id, 99)) is None
