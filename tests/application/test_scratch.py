# SPDX-License-Identifier: GPL-3.0-or-later
"""Scratch collections go when they are closed, and what a killed process left of one goes with the next start."""

import contextlib
import os
import subprocess
import sys
import time
from pathlib import Path

import pytest

from redlantern.application import scratch
from redlantern.application.opening import Models, NewKey, WriteAccess, open_session
from redlantern.collection.errors import CollectionInUseError
from redlantern.collection.known import known_collections
from redlantern.collection.store import Collection
from redlantern.progress import Cancel, silent
from redlantern.safety.keys import Holding, PassphraseNeededError
from redlantern.safety.places import data_directory
from tests.conftest import SmallEmbedder

_MAKES = """
import sys, time
from pathlib import Path
from redlantern.safety import seal
seal.put_on()
from redlantern.application.scratch import new_scratch
from redlantern.collection.store import Collection
from redlantern.safety.keys import Holding
path, passphrase = new_scratch()
if sys.argv[1] == "early":
    print(path, flush=True)
    time.sleep(float(sys.argv[2]))
collection = Collection.create(path, Holding.PASSPHRASE, passphrase)
collection.facts.put("a word", "of the documents")
print(path, flush=True)
time.sleep(60)
"""


@pytest.fixture(autouse=True)
def at_home(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))


def opened(folder):
    path, passphrase = scratch.new_scratch()
    session = open_session(
        path, by="in a window", new_key=NewKey(Holding.PASSPHRASE, passphrase), claim=WriteAccess.IF_FREE,
        models=Models(SmallEmbedder, lambda path=None: None),
    )  # fmt: skip
    session.engine.update([folder], report=silent, cancel=Cancel())
    return path, session


def left():
    return [file for file in data_directory().rglob("*") if file.is_file()]


def test_it_is_gone_once_it_is_closed(folder):
    path, session = opened(folder)
    assert session.is_scratch and path.exists() and session.idle_minutes == 0
    session.load()
    assert session.idle_minutes == 0, "nobody could open it again"
    session.close("by hand")
    assert left() == []


def test_it_is_in_no_list_of_collections_and_opens_without_its_passphrase_nowhere(folder):
    path, session = opened(folder)
    assert known_collections() == []
    with pytest.raises(PassphraseNeededError):
        open_session(path, by="by a command")
    session.close()


def test_a_collection_of_the_same_name_elsewhere_is_none(tmp_path):
    assert not scratch.is_scratch(tmp_path / "Scratch.redlantern")


@contextlib.contextmanager
def started(*words):
    """A process that makes a scratch collection and stays; killed at the end."""
    with subprocess.Popen([sys.executable, "-c", _MAKES, *words], stdout=subprocess.PIPE, text=True) as process:
        yield process, Path(process.stdout.readline().strip())
        process.kill()


def test_what_a_killed_process_left_goes_with_the_next_start_and_what_is_open_stays():
    with started("now") as (_, alive):
        with started("now") as (_, dead):
            assert scratch.erase_left() == 0
        assert dead.exists()
        assert scratch.erase_left() == 1
        assert not dead.parent.exists() and alive.exists()
        with pytest.raises(CollectionInUseError):
            scratch.erase_scratch(alive)
    assert scratch.erase_left() == 1
    assert left() == []


def test_one_that_is_being_made_is_left_alone():
    """Swept at many moments while the other process makes its collection."""
    with started("early", "0.2") as (process, path):
        until = time.monotonic() + 1.5
        while time.monotonic() < until:
            assert scratch.erase_left() == 0
        assert process.stdout.readline().strip() == str(path) and path.stat().st_size > 0


def test_links_and_strange_things_among_them_are_left_alone(tmp_path):
    """Whatever stands where scratch collections do: what a link leads to is not ours to erase."""
    kept = tmp_path / "elsewhere"
    kept.mkdir()
    Collection.create(kept / "Scratch.redlantern").close()
    (kept / "letter.txt").write_text("mine")
    place, _ = scratch.new_scratch()
    among = place.parent.parent
    (among / "linked").symlink_to(kept)
    (among / "a file").write_text("no folder")
    strange = among / "named\nso \udce9"
    strange.mkdir()
    (strange / "Scratch.redlantern").symlink_to(kept / "Scratch.redlantern")
    old = time.time() - 3600
    for path in (strange, place.parent):
        os.utime(path, (old, old))
    assert scratch.erase_left() == 1, "only the empty folder of one that was never made"
    assert (kept / "Scratch.redlantern").stat().st_size > 1000 and (kept / "letter.txt").read_text() == "mine"
    assert (among / "linked").is_symlink() and (among / "a file").exists() and strange.exists()
