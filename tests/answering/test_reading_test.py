# SPDX-License-Identifier: GPL-3.0-or-later
"""The reading test: passed by what answers and tells answered questions from others, failed by what does not."""

import pytest

from redlantern.answering.writing.reading_test import _EXERCISES, area_under, reading_test
from redlantern.models.abilities import Ability
from redlantern.models.hosted import HostedModel
from redlantern.models.protocols import Written
from redlantern.models.register import LIGHT_READER
from redlantern.progress import Cancel, Cancelled
from tests.conftest import ReadingModel, SmallLanguageModel


class Knows(ReadingModel):
    """Answers rightly, and says No to what is not answered."""

    def __init__(self, n_wrong=0, tells=True):
        super().__init__()
        self.n_wrong, self.tells = n_wrong, tells

    def first_words(self, system, user, cancel):
        question = user.rpartition("Question: ")[2].split("\n")[0]
        is_answered = question in [exercise.answered for exercise in _EXERCISES]
        chance = 0.8 if is_answered or not self.tells else 0.1
        return {"Yes": chance, "No": 1 - chance}

    def write(self, system, user, **more):
        if self.n_wrong:
            self.n_wrong -= 1
            yield Written("I do not know.")
            return
        [exercise] = [exercise for exercise in _EXERCISES if exercise.answered in user]
        yield Written(f"It is {exercise.expected}.")


@pytest.mark.parametrize(
    ("model", "expected"),
    [
        (Knows(), Ability(True, True)),
        (Knows(n_wrong=1), Ability(True, True)),
        (Knows(n_wrong=2), Ability(False, True)),
        (Knows(tells=False), Ability(True, False)),
        (SmallLanguageModel(), Ability(False, False)),
    ],
)
def test_what_a_model_does_decides(model, expected):
    said = []
    assert reading_test(model, Cancel(), said.append) == expected
    assert said[0] == "reading test, passage 1 of 4 ..." and len(said) == 4


def test_it_can_be_stopped():
    cancel = Cancel()
    cancel.now()
    with pytest.raises(Cancelled):
        reading_test(ReadingModel(), cancel, lambda _: None)


def test_the_area_is_the_share_of_pairs_in_order():
    assert area_under([2, 3], [1, 0]) == 1.0
    assert area_under([1, 1], [1, 1]) == 0.5
    assert area_under([], [1]) == 0.0


@pytest.mark.real_models
def test_the_light_reader_reads():
    """Takes a minute on two slow cores: eight judgements and four answers by the real model."""
    model = HostedModel(LIGHT_READER.place)
    try:
        assert reading_test(model, Cancel(), lambda _: None).reads
    finally:
        model.close()
