# SPDX-License-Identifier: GPL-3.0-or-later
"""Threads, notes and deleting of kept sheets."""

import pytest

from redlantern.collection.store import Collection


@pytest.fixture
def kept(tmp_path):
    collection = Collection.create(tmp_path / "a.redlantern")
    yield collection.kept_sheets
    collection.close()


def threads(kept):
    return {sheet_id: kept.notes.get(sheet_id).get("thread", sheet_id) for sheet_id, *_ in kept.all()}


def test_what_goes_on_is_of_the_last_ones_thread_and_another_form_of_a_sheet_of_its_own(kept):
    first = kept.keep("2026-01-01", "How wet?", {})
    followed = kept.keep("2026-01-02", "And when?", {}, goes_on=True)
    other = kept.keep("2026-01-03", "Who pays?", {})
    again = kept.keep("2026-01-04", "How wet?", {}, again=True)
    assert threads(kept) == {first: first, followed: first, other: other, again: first}


def test_what_goes_on_from_nothing_begins_a_thread(kept):
    only = kept.keep("2026-01-01", "And when?", {}, goes_on=True)
    assert threads(kept) == {only: only}


def test_notes_stand_beside_each_other_and_go_with_their_sheet(kept):
    first, second = kept.keep("2026-01-01", "How wet?", {}), kept.keep("2026-01-02", "Who?", {})
    kept.note(first, name="Humidity")
    kept.note(first, starred=True)
    assert kept.notes.get(first) == {"name": "Humidity", "starred": True}
    assert kept.delete([first, 999]) == 1
    assert [sheet_id for sheet_id, *_ in kept.all()] == [second] and kept.notes.all() == {}
