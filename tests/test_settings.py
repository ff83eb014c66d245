# SPDX-License-Identifier: GPL-3.0-or-later
import pytest

from redlantern.settings import Method, NoRoomInContextError, SettingOutOfRangeError, declared_settings


@pytest.mark.parametrize("declared", declared_settings(), ids=lambda one: one.name)
def test_every_setting_has_words_bounds_and_a_default_within(declared):
    assert declared.metadata["words"]
    low, high = declared.metadata["minimum"], declared.metadata["maximum"]
    assert low <= declared.default <= high
    for value in (low - 1, high + 1):
        with pytest.raises(SettingOutOfRangeError):
            Method(**{declared.name: value})


def test_an_overlap_as_long_as_the_passage_is_refused():
    with pytest.raises(SettingOutOfRangeError) as refused:
        Method(passage_tokens=40, overlap_tokens=40)
    assert str(refused.value) == "“Longest overlap of whole sentences” must lie between 0 and 39; 40 was given."


def test_writing_settings_are_kept_as_text_and_given_back():
    changed = Method(answer_tokens=60, temperature=0.5, instruction="Answer in German.", found_lines=3)
    text = changed.writing_as_text()
    assert text == '{"answer_tokens": 60, "temperature": 0.5, "instruction": "Answer in German."}'
    assert Method(found_lines=3).with_writing(text) == changed
    assert Method().with_writing(Method().writing_as_text()) == Method()


@pytest.mark.parametrize(
    "text", ["", "{", "[1]", '{"answer_tokens": "many"}', '{"answer_tokens": 3999}', '{"name": "x"}']
)
def test_kept_settings_that_make_no_sense_leave_the_method_as_it_is(text):
    assert Method().with_writing(text) == Method()


def test_what_does_not_fit_into_the_context_window_is_refused():
    with pytest.raises(NoRoomInContextError) as refused:
        Method(context_tokens=512)
    assert str(refused.value) == (
        "Evidence, answer and instruction need 899 tokens together, and the context window has 512. "
        "Make it longer, or one of them shorter."
    )
    assert Method(context_tokens=512, prompt_tokens=110).context_tokens == 512
