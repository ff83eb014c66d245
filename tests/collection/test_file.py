# SPDX-License-Identifier: GPL-3.0-or-later
import os
import stat
import subprocess
import sys
from pathlib import Path

import pytest

from redlantern.collection import errors, schema
from redlantern.collection.check import find_faults
from redlantern.collection.opening import read_salt
from redlantern.collection.store import Collection
from redlantern.progress import Cancel, silent
from redlantern.safety import keys
from tests.conftest import SmallEmbedder


def test_nothing_of_the_documents_is_readable_in_the_file(engine):
    engine.collection.file.rows("PRAGMA wal_checkpoint(TRUNCATE)")
    folder = engine.collection.path.parent
    for path in [engine.collection.path, *folder.glob("*.redlantern-*")]:
        raw = path.read_bytes()
        for words in (b"humidity", b"Builder", b"SQLite format", b"contract.md"):
            assert words not in raw
    assert stat.S_IMODE(engine.collection.path.stat().st_mode) == 0o600


def test_a_collection_opens_again_with_everything(engine):
    before = engine.collection.documents()
    path = engine.collection.path
    engine.collection.close()
    again = Collection.open(path)
    assert again.documents() == before
    again.close()


def test_a_moved_collection_still_finds_its_key(engine, tmp_path):
    engine.collection.close()
    moved = engine.collection.path.rename(tmp_path / "moved.redlantern")
    again = Collection.open(moved)
    assert len(again.documents()) == 2
    again.close()


@pytest.mark.parametrize("raw", [b"", b"just some text, long enough to have a salt", os.urandom(5000)])
def test_what_is_no_collection_is_told_and_left(tmp_path, raw):
    path = tmp_path / "other.redlantern"
    path.write_bytes(raw)
    with pytest.raises(errors.NotACollectionError) as refused:
        Collection.open(path)
    assert str(refused.value) == (
        f"{path} is not a collection of Red Lantern, or its key is not on this machine. "
        "The file was left as it is. If it was made under another login, copy its key file as well."
    )
    assert path.read_bytes() == raw


def test_a_missing_collection_is_told(tmp_path):
    with pytest.raises(errors.CollectionMissingError):
        Collection.open(tmp_path / "none.redlantern")


def test_the_wrong_key_is_told_as_damage_and_nothing_is_written(engine):
    path = engine.collection.path
    engine.collection.close()
    raw = path.read_bytes()
    key = keys.key_path(raw[: keys.SALT_BYTES])
    key.chmod(0o600)
    key.write_bytes(os.urandom(32))
    with pytest.raises(errors.DamagedCollectionError):
        Collection.open(path)
    assert path.read_bytes() == raw


def test_a_newer_file_is_refused_with_both_versions(engine):
    path = engine.collection.path
    engine.collection.file.rows(f"PRAGMA user_version = {schema.VERSION + 3}")
    engine.collection.close()
    with pytest.raises(errors.NewerCollectionError) as refused:
        Collection.open(path)
    assert f"file version {schema.VERSION + 3}; this one knows {schema.VERSION}" in str(refused.value)


def test_nothing_is_made_over_a_file_or_where_nothing_may_be_written(tmp_path):
    (tmp_path / "there").write_text("mine")
    for path in (tmp_path / "there", tmp_path / "no folder" / "x"):
        with pytest.raises(errors.CannotWriteError):
            Collection.create(path)
    assert (tmp_path / "there").read_text() == "mine"


def test_a_second_process_may_read_but_not_write(engine):
    code = (
        "import sys; from pathlib import Path; from redlantern.collection.store import Collection\n"
        "from redlantern.collection.errors import CollectionInUseError\n"
        "c = Collection.open(Path(sys.argv[1])); print(len(c.documents()))\n"
        "try:\n    c.claim_writing(); print('claimed')\nexcept CollectionInUseError as failure: print(failure)\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, str(engine.collection.path)], capture_output=True, text=True, check=True
    )
    n_documents, refusal = done.stdout.splitlines()
    assert n_documents == "2"
    assert f"is open in another window or command (process {os.getpid()})" in refusal


def test_a_flipped_byte_is_found(engine):
    path = engine.collection.path
    engine.collection.close()
    raw = bytearray(path.read_bytes())
    raw[len(raw) // 2] ^= 1
    path.write_bytes(raw)
    damaged = Collection.open(path)
    try:
        try:
            found = find_faults(damaged, SmallEmbedder.dimensions, report=silent, cancel=Cancel())
        except errors.DamagedCollectionError as failure:
            found = [str(failure)]
        assert found
    finally:
        damaged.close()


def test_check_finds_what_does_not_fit(engine):
    collection = engine.collection
    assert find_faults(collection, SmallEmbedder.dimensions, report=silent, cancel=Cancel()) == []
    collection.file.rows("DELETE FROM passages WHERE id = (SELECT min(id) FROM passages)")
    collection.file.rows("UPDATE indexes SET vectors = x'00'")
    faults = find_faults(collection, SmallEmbedder.dimensions, report=silent, cancel=Cancel())
    assert any("passages" in fault for fault in faults)
    assert any("index does not fit" in fault for fault in faults)


def test_a_killed_process_leaves_a_whole_collection(engine, folder):
    path = engine.collection.path
    for number in range(30):
        (folder / f"note{number}.txt").write_text(f"Note {number}. " + "Some words of prose. " * 40)
    before = tuple(f"Document {one.call_mark}:" for one in engine.collection.documents())
    engine.collection.close()
    process = subprocess.Popen(
        [sys.executable, "-m", "redlantern", "index", str(path), str(folder)],
        stdout=subprocess.DEVNULL,
        stderr=subprocess.PIPE,
    )
    assert process.stderr is not None
    # Killed in the midst of writing: after the first documents, before the last.
    watched = Collection.open(path)
    while len(watched.documents()) < 6 and process.poll() is None:
        pass
    n_seen = len(watched.documents())
    watched.close()
    process.kill()
    process.wait()
    process.stderr.close()
    again = Collection.open(path)
    faults = find_faults(again, 384, report=silent, cancel=Cancel())
    again.close()
    assert 6 <= n_seen < 32
    # The two documents that were there before have the stand-in's shorter vectors.
    assert [fault for fault in faults if not fault.startswith(before)] == []


def test_call_marks_are_made_from_titles_and_unique():
    from redlantern.collection.callmarks import call_mark

    assert call_mark("Condition survey of the organ loft", set()) == "SUR"
    assert call_mark("Contract", {"SUR"}) == "CON"
    assert call_mark("Letter of 20 March 2026 to the Trust", set()) == "LET"
    assert call_mark("Letter of 31 March 2026 to the Builder", {"LET"}) == "LBU"
    assert call_mark("Invoice 2026-037", {"INV"}) == "INV037"
    assert call_mark("", set()) == "DOC"
    taken = set()
    for _ in range(50):
        taken.add(call_mark("Überblick", taken))
    assert len(taken) == 50


def test_a_file_that_goes_between_two_looks_is_missing_and_not_unreadable(tmp_path, monkeypatch):
    monkeypatch.setattr(Path, "is_file", lambda path: True)
    with pytest.raises(errors.CollectionMissingError):
        read_salt(tmp_path / "gone.redlantern")
