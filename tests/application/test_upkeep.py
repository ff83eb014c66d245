# SPDX-License-Identifier: GPL-3.0-or-later
"""Upkeep as window and commands share it: what this login remembers follows the file."""

import json
import stat

import pytest

from redlantern.application import upkeep
from redlantern.collection.known import known_collections, note_collection
from redlantern.safety.keys import Holding


def test_a_moved_collection_is_remembered_where_it_is_and_an_erased_one_no_longer(engine, tmp_path):
    collection, before = engine.collection, engine.collection.path
    note_collection(before)
    target = tmp_path / "elsewhere.redlantern"
    upkeep.move(collection, target)
    assert known_collections() == [target] and not before.exists()
    collection.close()
    assert upkeep.erase_collection(target).removed == (str(target),)
    assert known_collections() == []


def test_a_journal_is_exported_whole_for_this_login_alone_or_not_at_all(engine, tmp_path):
    collection, target = engine.collection, tmp_path / "journal.jsonl"
    n_entries = upkeep.export_journal(collection, target)
    rows = [json.loads(line) for line in target.read_text().splitlines()]
    assert len(rows) == n_entries and rows[-1]["what"] == "exported"
    assert stat.S_IMODE(target.stat().st_mode) == 0o600
    with pytest.raises(upkeep.ExportFailedError) as told:
        upkeep.export_journal(collection, tmp_path / "none" / "journal.jsonl")
    assert "Nothing was exported; choose another place." in str(told.value)
    assert not list(tmp_path.glob(".writing-*"))


def test_the_state_of_a_collection_names_every_file_of_it(engine):
    state = upkeep.state_of(engine.collection, newest=2)
    assert (state.holding, state.n_faults, len(state.entries)) == (Holding.FILE, 0, 2)
    assert str(engine.collection.path) in dict(state.files) and state.key_place.endswith(".key")
