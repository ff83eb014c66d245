# SPDX-License-Identifier: GPL-3.0-or-later
"""Keys, backups, moves, erasing and mending of a collection file, with the file itself looked at."""

import json
import os
import stat
from pathlib import Path

import pytest

from redlantern.answering.question.understanding import Question
from redlantern.answering.sheet_form import sheet_as_json
from redlantern.collection import copying, errors, upkeep
from redlantern.collection.check import find_faults
from redlantern.collection.known import forget_collection, known_collections, note_collection
from redlantern.collection.opening import older_copies
from redlantern.collection.plaintext import search_plain_text
from redlantern.collection.store import Collection
from redlantern.collection.upkeep import mending
from redlantern.collection.upkeep.erasing_everything import erase_everything, everything
from redlantern.progress import Cancel, silent
from redlantern.safety import keys
from redlantern.safety.keys import Holding, WrongPassphraseError

DIMENSIONS = 64
PAGE_BYTES, TRAILER_BYTES, SALT_BYTES = 4096, 80, 16


def faults(collection):
    return find_faults(collection, DIMENSIONS, report=silent, cancel=Cancel())


def ask(engine, question="At what relative humidity shall work cease?"):
    *_, done = engine.ask(Question(question), Cancel())
    engine.collection.kept_sheets.keep("2026-11-01T10:00:00+00:00", question, sheet_as_json(done.sheet))
    return done.sheet


def decrypted(collection):
    """Every page of the file in plain bytes, made with the key alone: what somebody who has it could find in it."""
    from cryptography.hazmat.primitives.ciphers import Cipher, algorithms, modes

    raw, plain = collection.path.read_bytes(), b""
    for at in range(0, len(raw), PAGE_BYTES):
        page = raw[at : at + PAGE_BYTES]
        start = SALT_BYTES if at == 0 else 0
        words, trailer = page[start:-TRAILER_BYTES], page[-TRAILER_BYTES:]
        cipher = Cipher(algorithms.AES(collection.file.key), modes.CBC(trailer[:16])).decryptor()
        plain += cipher.update(words) + cipher.finalize()
    return plain


@pytest.mark.parametrize("holding", list(Holding))
def test_a_key_is_changed_everything_encrypted_anew_and_the_old_key_destroyed(engine, holding, monkeypatch):
    from tests.safety.test_keys import FakeStore, secretstore

    store = FakeStore()
    monkeypatch.setattr(secretstore, "_store", lambda: store)
    collection, path = engine.collection, engine.collection.path
    documents, before, old = collection.documents(), path.read_bytes(), collection.file.salt
    upkeep.change_key(collection, holding, "seven herons" if holding is Holding.PASSPHRASE else "")
    assert keys.find_key(old) is None
    assert (collection.holding, collection.documents(), faults(collection)) == (holding, documents, [])
    collection.close()
    after = path.read_bytes()
    assert not any(after[at : at + 64] in before for at in range(0, len(after), PAGE_BYTES))
    assert stat.S_IMODE(path.stat().st_mode) == 0o600
    if holding is Holding.PASSPHRASE:
        with pytest.raises(WrongPassphraseError):
            Collection.open(path, "six herons")
    again = Collection.open(path, "seven herons")
    assert again.documents() == documents
    again.close()
    assert list(path.parent.glob("*.unfinished")) == []


def test_a_key_change_that_fails_leaves_everything_as_it_was(engine, monkeypatch):
    collection = engine.collection
    documents, salt, n_keys = (
        collection.documents(),
        collection.file.salt,
        len(list(keys.key_path(b"").parent.iterdir())),
    )

    def full(*_):
        raise errors.DiskFullError(str(collection.path))

    monkeypatch.setattr(copying, "export", full)
    with pytest.raises(errors.DiskFullError):
        upkeep.change_key(collection, Holding.FILE)
    assert (collection.file.salt, collection.documents()) == (salt, documents)
    assert len(list(keys.key_path(b"").parent.iterdir())) == n_keys
    assert list(collection.path.parent.glob("*.unfinished")) == []


def test_a_damaged_file_is_told_apart_from_a_wrong_passphrase(engine):
    upkeep.change_key(engine.collection, Holding.PASSPHRASE, "seven herons")
    path = engine.collection.path
    engine.collection.close()
    raw = bytearray(path.read_bytes())
    raw[100] ^= 1
    path.write_bytes(raw)
    with pytest.raises(WrongPassphraseError):
        Collection.open(path, "six herons")
    with pytest.raises(errors.DamagedCollectionError):
        Collection.open(path, "seven herons")


def test_no_key_is_changed_while_somebody_else_reads(engine):
    reader = Collection.open(engine.collection.path)
    for attempt in (
        lambda: upkeep.change_key(engine.collection, Holding.FILE),
        lambda: upkeep.move(engine.collection, engine.collection.path.with_name("other.redlantern")),
        lambda: upkeep.erase_documents(engine.collection, engine.collection.documents()),
    ):
        with pytest.raises(errors.CollectionInUseError):
            attempt()
    assert len(reader.documents()) == 2
    reader.close()
    upkeep.change_key(engine.collection, Holding.FILE)


def test_a_backup_is_of_one_moment_and_opens_with_its_own_passphrase(engine, tmp_path):
    collection = engine.collection
    # Another connection is in the midst of a change: the backup must hold none of it.
    with collection.file.writing() as connection:
        connection.execute("DELETE FROM documents")
        target = tmp_path / "copy.redlantern"
        other = Collection.open(collection.path)
        salt, key = keys.new_key(Holding.PASSPHRASE, "seven herons")
        copying.write_copy(other.file, target, key, salt)
        other.close()
        connection.execute("ROLLBACK")
        connection.execute("BEGIN")
    copy = Collection.open(target, "seven herons")
    assert [one.path for one in copy.documents()] == [one.path for one in collection.documents()]
    assert (len(copy.documents()), faults(copy)) == (2, [])
    copy.close()
    upkeep.back_up(collection, tmp_path / "second.redlantern")
    with pytest.raises(errors.CannotWriteError) as refused:
        upkeep.back_up(collection, tmp_path / "second.redlantern")
    assert "there is a file of this name already" in str(refused.value)
    assert collection.journal.entries()[-1].what == "backed up"


@pytest.mark.parametrize("is_other_disk", [False, True])
def test_a_collection_is_moved_with_its_key(engine, tmp_path, other_disk, is_other_disk):
    collection, before, documents = engine.collection, engine.collection.path, engine.collection.documents()
    (tmp_path / "place").mkdir()
    target = tmp_path / "place" / "other.redlantern"
    if is_other_disk:
        other_disk(before)
    upkeep.move(collection, target)
    assert (collection.documents(), before.exists(), collection.name) == (documents, False, "other")
    with pytest.raises(errors.CannotWriteError):
        upkeep.move(collection, tmp_path / "nowhere" / "x")
    collection.close()
    again = Collection.open(target)
    assert again.documents() == documents
    again.close()


def test_an_erased_document_is_nowhere_in_the_file_even_with_the_key(engine):
    collection = engine.collection
    ask(engine)
    collection.file.settle()
    [contract] = [one for one in collection.documents() if one.path == "contract.md"]
    other = [one for one in collection.documents() if one != contract]
    collection.facts.keep_tables({contract.key: [], other[0].key: []})
    collection.facts.keep_scopes({"both": [contract.key, other[0].key], "one": [contract.key]})
    # Text and words are kept compressed, so their bytes are looked for as they are kept.
    kept = [
        row[0] for row in collection.file.rows("SELECT text FROM pages WHERE document_id = ?", contract.document_id)
    ]
    kept += collection.file.row("SELECT vectors, words FROM indexes WHERE document_id = ?", contract.document_id)
    traces = [one[8:72] for one in kept] + [b"contract.md", contract.sha256.encode(), b"in the loft exceeds"]
    before = decrypted(collection)
    assert all(one in before for one in traces)
    erased = upkeep.erase_documents(collection, [contract])
    assert (erased.n_documents, erased.n_sheets) == (1, 1)
    assert upkeep.remnants(collection, {contract.key}) == []
    assert collection.documents() == other
    assert faults(collection) == []
    plain = decrypted(collection)
    for one in traces:
        assert one not in plain
    assert b"letters/key.txt" in plain
    [(_, _, _, sheet)] = collection.kept_sheets.all()
    assert sheet["found_lines"][0]["text"] == "[erased]"
    # Why a passage was there names words of it.
    assert {one["why"] is None for one in sheet["passages"] if one["text"] == "[erased]"} == {True}
    assert collection.facts.scopes() == {"both": [other[0].key], "one": []}
    assert collection.facts.tables() == {other[0].key: []}
    assert list(collection.journal.faults()) == []


def test_remnants_are_found_where_there_are_some(engine):
    collection = engine.collection
    ask(engine)
    [contract] = [one for one in collection.documents() if one.path == "contract.md"]
    collection.facts.keep_tables({contract.key: []})
    found = upkeep.remnants(collection, {contract.key})
    assert found[:4] == [
        "A document of this content is in the collection.", "The journal has words about it.", "A sheet cites it.",
        "What was put right in its tables is still there.",
    ]  # fmt: skip


def test_an_erased_document_is_left_out_by_updates_until_it_is_named(engine, folder):
    [contract] = [one for one in engine.collection.documents() if one.path == "contract.md"]
    upkeep.erase_documents(engine.collection, [contract])
    assert engine.update([], report=silent, cancel=Cancel()).read == 0
    assert engine.update([folder / "contract.md"], report=silent, cancel=Cancel()).read == 1


@pytest.mark.parametrize("holding", [Holding.FILE, Holding.PASSPHRASE])
def test_an_erased_collection_loses_its_key_first(engine, holding):
    collection, path = engine.collection, engine.collection.path
    upkeep.change_key(collection, holding, "seven herons")
    path.with_name(path.name + ".version-1").write_bytes(b"older")
    stolen = path.with_name("stolen")
    collection.close()
    os.link(path, stolen)  # somebody holds on to the file itself
    removed = upkeep.erase_collection(path).removed
    assert str(path) in removed and str(path) + ".version-1" in removed
    assert [one.name for one in path.parent.iterdir() if one.is_file()] == ["stolen"]
    with pytest.raises(errors.RedlanternError):
        Collection.open(stolen, "seven herons")


def test_no_collection_is_erased_that_somebody_has_open(engine):
    with pytest.raises(errors.CollectionInUseError):
        upkeep.erase_collection(engine.collection.path)
    assert len(engine.collection.documents()) == 2


def test_everything_is_listed_and_then_erased(engine, make_engine, tmp_path, monkeypatch):
    monkeypatch.setattr("redlantern.safety.secretstore.forget_all", lambda: None)
    second = make_engine("second.redlantern").collection
    paths = [engine.collection.path, second.path]
    for path in paths:
        note_collection(path)
    assert known_collections() == paths[::-1]
    for one in (engine.collection, second):
        one.close()
    found = everything()
    assert {str(path) for path in paths} <= set(found.lines)
    assert erase_everything(found) == []
    assert not any(path.exists() for path in (*paths, *found.places))
    assert known_collections() == []


def test_a_collection_that_is_in_use_survives_erasing_everything_and_is_named(engine):
    note_collection(engine.collection.path)
    [problem] = erase_everything(everything())
    assert "is open in another window or command" in problem
    assert len(engine.collection.documents()) == 2
    forget_collection(engine.collection.path)


@pytest.mark.parametrize("seed", range(6))
def test_a_damaged_file_is_mended_and_what_was_lost_is_read_again(engine, folder, seed):
    import random

    chance = random.Random(seed)
    for number in range(12):
        (folder / f"note{number}.txt").write_text(f"Note {number}. " + f"Some words {number} of prose. " * 200)
    engine.update([folder], report=silent, cancel=Cancel())
    ask(engine)
    collection, path = engine.collection, engine.collection.path
    paths = {one.path for one in collection.documents()}
    collection.close()
    raw = bytearray(path.read_bytes())
    at = chance.randrange(2 * PAGE_BYTES, len(raw))
    raw[at] ^= 1 << chance.randrange(8)
    path.write_bytes(raw)
    damaged = Collection.open(path)
    try:
        found = faults(damaged)
        assert found[0].startswith("The file is damaged: HMAC verification failed for page")
        touched = [one for one in found if "cannot be read whole any more" in one]
        damaged.claim_writing()
        mended = mending.mend(damaged)
        assert faults(damaged) == []
        assert len(mended.lost) >= len(touched)
        assert mended.n_kept + len(mended.lost) == len(paths)
        engine.exchange(collection=damaged)
        engine.has_changed()
        engine.update([folder], report=silent, cancel=Cancel())
        assert {one.path for one in damaged.documents()} == paths
        assert faults(damaged) == []
        assert Path(mended.damaged_path).exists()
    finally:
        damaged.close()


def test_what_an_interruption_left_is_finished_at_the_next_opening(engine):
    collection, path = engine.collection, engine.collection.path
    old_salt, _ = keys.new_key(Holding.FILE)
    collection.facts.put("replaced key", old_salt.hex())
    left_salt, _ = keys.new_key(Holding.FILE)
    path.with_name(path.name + ".unfinished").write_bytes(left_salt + b"half a file")
    collection.facts.put("unfinished keys", json.dumps({left_salt.hex(): str(path)}))
    upkeep.tidy(collection)
    assert keys.find_key(old_salt) is None and keys.find_key(left_salt) is None
    assert not path.with_name(path.name + ".unfinished").exists()
    assert keys.find_key(collection.file.salt) is not None
    assert collection.facts.get("replaced key") == collection.facts.get("unfinished keys") == ""


def test_a_planted_file_destroys_no_key(engine, make_engine):
    path, other = engine.collection.path, make_engine("other.redlantern").collection
    planted = path.with_name(path.name + ".unfinished")
    planted.write_bytes(other.file.salt + b"half a file")
    upkeep.tidy(engine.collection)
    assert keys.find_key(other.file.salt) is not None
    assert planted.read_bytes().startswith(other.file.salt)


def test_the_search_for_plain_text_finds_what_is_there(engine, tmp_path):
    found = search_plain_text(engine.collection, [tmp_path / "documents"], report=silent, cancel=Cancel())
    assert {Path(one).name for one in found.found_in} == {"contract.md", "key.txt"}
    assert "They stand in plain text in:" in found.words
    clean = search_plain_text(engine.collection, report=silent, cancel=Cancel())
    assert (clean.found_in, clean.n_files > 1, clean.words.startswith("None.")) == ((), True, True)


def test_a_disk_that_can_only_be_read_lets_questions_be_asked(engine, make_engine, monkeypatch):
    path = engine.collection.path
    engine.collection.close()
    monkeypatch.setattr(os, "access", lambda place, mode: mode != os.W_OK)
    reader = make_engine(path.name)
    assert reader.collection.is_read_only
    *_, done = reader.ask(Question("At what relative humidity shall work cease?"), Cancel())
    assert done.sheet.found_lines
    with pytest.raises(errors.CannotWriteError) as refused:
        reader.collection.claim_writing()
    assert "its disk or folder can only be read" in str(refused.value)
    assert older_copies(path) == []


@pytest.mark.parametrize("first", ["original", "backup"])
@pytest.mark.parametrize("what", ["erase", "rekey"])
def test_a_backup_and_its_original_share_no_key(engine, tmp_path, first, what):
    collection, target = engine.collection, tmp_path / "backup.redlantern"
    upkeep.back_up(collection, target)
    documents, path = collection.documents(), collection.path
    assert target.read_bytes()[: keys.SALT_BYTES] != collection.file.salt
    collection.close()
    chosen, other = (path, target) if first == "original" else (target, path)
    if what == "erase":
        assert upkeep.erase_collection(chosen).key_kept_for == ()
    else:
        opened = Collection.open(chosen)
        opened.claim_writing()
        assert upkeep.change_key(opened, Holding.FILE) == []
        opened.close()
    left = Collection.open(other)
    assert left.documents() == documents and faults(left) == []
    left.close()


def test_a_backup_of_a_collection_with_a_passphrase_needs_one_and_keeps_it(engine, tmp_path):
    collection = engine.collection
    upkeep.change_key(collection, Holding.PASSPHRASE, "seven grey herons")
    with pytest.raises(errors.RedlanternError) as told:
        upkeep.back_up(collection, tmp_path / "backup.redlantern")
    assert "its backup needs one, too: the same or another" in str(told.value)
    upkeep.back_up(collection, tmp_path / "backup.redlantern", "seven grey herons")
    upkeep.change_key(collection, Holding.PASSPHRASE, "eight grey herons")
    copy = Collection.open(tmp_path / "backup.redlantern", "seven grey herons")
    assert len(copy.documents()) == 2
    copy.close()


def test_a_key_that_a_known_file_needs_is_kept_and_said(engine, tmp_path):
    """As backups were before each had a key of its own: the same bytes under another name."""
    collection, path = engine.collection, engine.collection.path
    collection.file.settle()
    old = tmp_path / "old backup.redlantern"
    copying.write_copy(collection.file, old, collection.file.key, collection.file.salt)
    collection.journal.note("backed up", str(old))
    upkeep.tidy(collection)
    assert upkeep.change_key(collection, Holding.FILE) == [old]
    kept = Collection.open(old)
    assert len(kept.documents()) == 2
    kept.close()
    collection.close()
    assert upkeep.erase_collection(path).key_kept_for == ()
    assert upkeep.erase_collection(old).removed == (str(old),)


def test_an_interrupted_backup_leaves_no_key_and_harms_none(engine, tmp_path, monkeypatch):
    """A process is killed in the midst of a backup; the next opening tidies up after it."""
    import subprocess
    import sys

    path, target = engine.collection.path, tmp_path / "backup.redlantern"
    engine.collection.close()
    key_folder = keys.key_path(b"").parent
    code = (
        "import os, signal, sys\nfrom pathlib import Path\nfrom redlantern.collection import copying, upkeep\n"
        "from redlantern.collection.store import Collection\n"
        "copying.put_in_place = lambda *_: os.kill(os.getpid(), signal.SIGKILL)\n"
        "upkeep.back_up(Collection.open(Path(sys.argv[1])), Path(sys.argv[2]))\n"
    )
    done = subprocess.run([sys.executable, "-c", code, str(path), str(target)], check=False, timeout=60)
    assert done.returncode == -9
    assert target.with_name(target.name + ".unfinished").exists() and len(list(key_folder.iterdir())) == 2
    again = Collection.open(path)
    again.claim_writing()
    upkeep.tidy(again)
    assert len(again.documents()) == 2 and len(list(key_folder.iterdir())) == 1
    assert not target.with_name(target.name + ".unfinished").exists()
    again.close()


def test_erasing_through_a_symbolic_link_erases_the_file_and_the_link(engine, tmp_path):
    path, link = engine.collection.path, tmp_path / "link.redlantern"
    engine.collection.close()
    link.symlink_to(path)
    assert upkeep.erase_collection(link).removed == (str(path),)
    assert not path.exists() and not link.is_symlink()


def test_a_file_with_our_name_in_its_own_is_not_ours(engine, tmp_path):
    path = engine.collection.path
    engine.collection.close()
    mine = [
        path.with_name(path.name + end)
        for end in (".version-final", ".damaged-by water", ".version-1.pdf", ".other-model.txt")
    ]
    for one in mine:
        one.write_text("mine")
    upkeep.erase_collection(path)
    assert all(one.read_text() == "mine" for one in mine)


def test_damaged_files_put_aside_go_with_what_is_erased_and_move_along(engine, tmp_path):
    collection = engine.collection
    mended = mending.mend(collection)
    (tmp_path / "place").mkdir()
    upkeep.move(collection, tmp_path / "place" / "other.redlantern")
    aside = tmp_path / "place" / "other.redlantern.damaged-1"
    assert aside.exists() and not Path(mended.damaged_path).exists()
    [contract] = [one for one in collection.documents() if one.path == "contract.md"]
    assert upkeep.remnants(collection, {"none"}) == ["There are damaged files that were put aside."]
    erased = upkeep.erase_documents(collection, [contract])
    assert str(aside) in erased.older_copies and not aside.exists()


def test_mending_puts_nothing_in_the_place_of_a_file_that_gives_nothing(engine):
    collection, path = engine.collection, engine.collection.path
    collection.close()
    raw = bytearray(path.read_bytes())
    for at in range(PAGE_BYTES, len(raw), PAGE_BYTES):
        raw[at + 100] ^= 1
    path.write_bytes(raw)
    damaged = Collection.open(path)
    damaged.claim_writing()
    try:
        with pytest.raises(errors.DamagedCollectionError):
            mending.mend(damaged)
    finally:
        damaged.close()
    assert path.read_bytes() == bytes(raw)
    assert list(path.parent.glob("*.unfinished*")) == list(path.parent.glob("*.damaged*")) == []


def test_killed_on_the_way_to_another_disk_both_files_open_and_share_no_fate(engine, tmp_path):
    """A real process is killed when the copy is in place and the original is not yet gone."""
    import subprocess
    import sys

    path, target = engine.collection.path, tmp_path / "other disk.redlantern"
    engine.collection.close()
    code = (
        "import errno, os, signal, sys\nfrom pathlib import Path\nfrom redlantern.collection import upkeep\n"
        "from redlantern.collection.store import Collection\n"
        "path, target = map(Path, sys.argv[1:])\n"
        "def refuse(self, to):\n    raise OSError(errno.EXDEV, 'Invalid cross-device link')\n"
        "real = Path.unlink\n"
        "def die(self, *words, **more):\n"
        "    os.kill(os.getpid(), signal.SIGKILL) if self == path else real(self, *words, **more)\n"
        "Path.rename, Path.unlink = refuse, die\n"
        "upkeep.move(Collection.open(path), target)\n"
    )
    done = subprocess.run([sys.executable, "-c", code, str(path), str(target)], check=False, timeout=60)
    assert done.returncode == -9
    for one in (path, target):
        opened = Collection.open(one)
        assert len(opened.documents()) == 2 and faults(opened) == []
        opened.close()
    # Both need the key for now, and one of them knows of the other.
    assert upkeep.erase_collection(path).key_kept_for == (str(target),)
    left = Collection.open(target)
    assert len(left.documents()) == 2
    left.close()
