# SPDX-License-Identifier: GPL-3.0-or-later
"""Which packaged reader answers where nobody chose, and what is kept of it."""

import pytest

from redlantern.models import readers
from redlantern.models.abilities import NONE, Ability, ability_of, keep_ability
from redlantern.models.chosen import named_language_model
from redlantern.models.hosted import HostedModel, step_tokens
from redlantern.models.protocols import Pace
from redlantern.models.readers import (
    READER_VARIABLE,
    answer_s,
    default_reader,
    keep_pace,
    measured_pace,
    reader_at,
    reader_of,
)
from redlantern.models.register import CLOSE_READER, LIGHT_READER, JoinedFile, ModelMissingError
from redlantern.safety.places import data_directory


@pytest.fixture
def place(tmp_path, monkeypatch):
    """Where the readers' files lie in a test: none is there yet."""
    monkeypatch.delenv(READER_VARIABLE, raising=False)
    monkeypatch.setattr(JoinedFile, "place", property(lambda reader: tmp_path / reader.file_name))
    monkeypatch.setattr(readers, "free_bytes", lambda: 2**34)
    return tmp_path


def put(*chosen):
    for reader in chosen:
        reader.place.write_bytes(b"GGUF")


def test_without_any_the_light_one_is_told_to_be_missing(place):
    with pytest.raises(ModelMissingError, match=r"it was not fetched\. Run \./run setup to put it back"):
        default_reader().path()


def test_the_close_one_answers_where_it_is_there_and_fits(place, monkeypatch):
    put(LIGHT_READER)
    assert default_reader() is LIGHT_READER
    put(CLOSE_READER)
    assert default_reader() is CLOSE_READER
    monkeypatch.setattr(readers, "free_bytes", lambda: 2**30)
    assert default_reader() is LIGHT_READER
    LIGHT_READER.place.unlink()
    assert default_reader() is CLOSE_READER


def test_one_that_was_measured_to_be_too_slow_does_not(place):
    put(LIGHT_READER, CLOSE_READER)
    keep_pace(CLOSE_READER, Pace(4.0, 2.0))
    assert measured_pace(CLOSE_READER) == Pace(4.0, 2.0)
    assert answer_s(Pace(4.0, 2.0)) > 60 > answer_s(Pace(20.0, 8.0)) > 0 == answer_s(Pace())
    assert default_reader() is LIGHT_READER
    keep_pace(CLOSE_READER, Pace(20.0, 8.0))
    assert default_reader() is CLOSE_READER


@pytest.mark.parametrize(
    "kept",
    [
        "",
        "[]",
        "{}",
        '{"read_per_s": "x", "written_per_s": 1}',
        '{"read_per_s": NaN, "written_per_s": 1}',
        '{"read_per_s": -1, "written_per_s": 1}',
    ],
)
def test_a_broken_measurement_counts_as_none(place, kept):
    (place / "close-reader.pace.json").write_text(kept)
    assert measured_pace(CLOSE_READER) == Pace()


def test_the_environment_names_one_if_it_is_there(place, monkeypatch):
    put(LIGHT_READER, CLOSE_READER)
    for word, chosen in (("light", LIGHT_READER), ("close", CLOSE_READER), ("other", CLOSE_READER)):
        monkeypatch.setenv(READER_VARIABLE, word)
        assert default_reader() is chosen


def test_a_collection_names_one_by_its_word(place):
    put(LIGHT_READER, CLOSE_READER)
    made, notice = named_language_model("close", lambda path=None: path)
    assert (made, notice) == (CLOSE_READER.place, "")
    CLOSE_READER.place.unlink()
    made, _ = named_language_model("close", lambda path=None: path)
    assert made is None and reader_of("close") is None
    assert reader_at(LIGHT_READER.place) is LIGHT_READER and reader_at(place / "own.gguf") is None


def test_what_a_model_can_do_is_kept_by_its_hash(tmp_path):
    assert ability_of(CLOSE_READER.sha256) == Ability(True, True)
    assert ability_of(LIGHT_READER.sha256) == Ability(True, False)
    assert ability_of("f" * 64) is None
    keep_ability("f" * 64, Ability(True, False))
    keep_ability("e" * 64, NONE)
    assert (ability_of("f" * 64), ability_of("e" * 64)) == (Ability(True, False), NONE)
    (data_directory() / "reading-tests.json").write_text("[1]")
    assert ability_of("f" * 64) is None


def test_a_model_that_was_never_tested_is_held_to_the_lines(tmp_path):
    own = tmp_path / "own.gguf"
    own.write_bytes(b"GGUF")
    model = HostedModel(own)
    assert not model.can_read and not model.can_judge and model.pace == Pace()


def test_steps_follow_the_pace():
    assert [step_tokens(Pace(per_s, 1)) for per_s in (0, 10, 20, 35, 70, 5000)] == [16, 16, 16, 32, 64, 128]
