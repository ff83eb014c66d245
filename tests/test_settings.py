import pytest

from redlantern.settings import Method, SettingOutOfRangeError, declared_settings


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
