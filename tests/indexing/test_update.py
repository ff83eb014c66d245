# SPDX-License-Identifier: GPL-3.0-or-later
import os
import shutil
from pathlib import Path

import pytest

from redlantern.application.documents import plan_update
from redlantern.collection.check import find_faults
from redlantern.collection.errors import DiskFullError, NothingToReadError, SourceMissingError
from redlantern.progress import Cancel, Cancelled, silent
from tests.conftest import CONTRACT, SmallEmbedder, write_pdf


@pytest.fixture
def empty(make_engine):
    engine = make_engine()
    engine.collection.claim_writing()
    return engine


def update(engine, folder):
    return engine.update([folder], report=silent, cancel=Cancel())


def faults(engine):
    return find_faults(engine.collection, SmallEmbedder.dimensions, report=silent, cancel=Cancel())


def names(engine):
    return [one.path for one in engine.collection.documents()]


def test_a_folder_is_read_with_its_sub_folders(empty, folder):
    summary = update(empty, folder)
    assert (summary.read, summary.pages, summary.refused) == (2, 2, [])
    assert names(empty) == ["contract.md", "letters/key.txt"]
    assert faults(empty) == []


def test_a_second_update_reads_nothing(empty, folder):
    update(empty, folder)
    summary = update(empty, folder)
    assert (summary.read, summary.unchanged) == (0, 2)


def test_only_what_changed_is_read_again(empty, folder):
    update(empty, folder)
    (folder / "contract.md").write_text(CONTRACT.replace("70 per cent", "65 per cent"))
    os.utime(folder / "letters" / "key.txt", (1, 1))  # touched, but the same words
    summary = update(empty, folder)
    assert (summary.read, summary.changed, summary.unchanged) == (1, 1, 1)
    [contract, _] = empty.collection.documents()
    assert "65 per cent" in next(iter(empty.collection.pages(contract.document_id))).text
    assert faults(empty) == []


def test_moved_copied_and_gone_files(empty, folder):
    update(empty, folder)
    (folder / "contract.md").rename(folder / "letters" / "renamed.md")
    shutil.copy(folder / "letters" / "key.txt", folder / "again.txt")
    summary = update(empty, folder)
    assert (summary.read, summary.moved, summary.copies, summary.removed) == (0, 1, 1, 0)
    assert names(empty) == ["again.txt", "letters/renamed.md"]
    (folder / "letters" / "renamed.md").unlink()
    assert update(empty, folder).removed == 1
    assert names(empty) == ["again.txt"]
    assert faults(empty) == []


def test_copies_within_a_new_folder_are_read_once(empty, folder):
    shutil.copy(folder / "contract.md", folder / "copy.md")
    summary = update(empty, folder)
    assert (summary.read, summary.copies) == (2, 1)
    (folder / "contract.md").unlink()
    update(empty, folder)
    assert names(empty) == ["copy.md", "letters/key.txt"]


def test_broken_files_stand_beside_good_ones_with_their_reasons(empty, folder):
    write_pdf(folder / "whole.pdf", [[(72, 72, "Some words on a page.")]])
    (folder / "broken.pdf").write_bytes((folder / "whole.pdf").read_bytes()[:200])
    (folder / "nothing.txt").write_text("")
    (folder / "picture.png").write_bytes(b"\x89PNG\r\n\x1a\n" + b"\0" * 40)
    summary = update(empty, folder)
    assert summary.read == 3
    assert {Path(path).name: reason.split(".")[0] for path, reason in summary.refused} == {
        "broken.pdf": "The PDF is damaged or cut short",
        "nothing.txt": "The file is empty",
        "picture.png": "The picture is damaged or cut short",
    }
    refused = [one for one in empty.collection.documents() if one.is_refused]
    assert len(refused) == 3
    assert all(one.reason and not one.n_pages for one in refused)
    assert update(empty, folder).read == 0
    assert faults(empty) == []


def test_an_unreadable_file_is_tried_again(empty, folder, monkeypatch):
    from redlantern.indexing import plan

    real = plan._hash

    def refuses(path, cancel):
        if path.endswith("key.txt"):
            raise PermissionError(13, "Permission denied")
        return real(path, cancel)

    monkeypatch.setattr(plan, "_hash", refuses)
    summary = update(empty, folder)
    assert summary.refused[0][1] == (
        "The file could not be opened (Permission denied). Check that you may read it, then update."
    )
    monkeypatch.setattr(plan, "_hash", real)
    assert update(empty, folder).read == 1
    assert [one.is_refused for one in empty.collection.documents()] == [False, False]


def test_links_hidden_files_and_pipes_are_left_alone(empty, folder, tmp_path):
    (tmp_path / "outside.txt").write_text("Not in the folder.")
    (folder / "link.txt").symlink_to(tmp_path / "outside.txt")
    (folder / "loop").symlink_to(folder)
    (folder / ".hidden.txt").write_text("hidden")
    os.mkfifo(folder / "pipe")
    assert update(empty, folder).read == 2


def test_a_folder_that_is_not_there_changes_nothing(empty, folder, tmp_path):
    update(empty, folder)
    shutil.move(folder, tmp_path / "elsewhere")
    with pytest.raises(SourceMissingError) as missing:
        update(empty, folder)
    assert str(missing.value) == (
        f"There is no file or folder {folder}. Nothing was changed. If it is on another disk, connect it first."
    )
    assert len(names(empty)) == 2


def test_an_empty_folder_is_told(empty, tmp_path):
    (tmp_path / "bare").mkdir()
    with pytest.raises(NothingToReadError):
        update(empty, tmp_path / "bare")


@pytest.mark.parametrize("last_kept", [0, 1, 2])
def test_cancelling_keeps_whole_documents_only(empty, folder, last_kept):
    (folder / "third.txt").write_text("A third document with a few words.")
    cancel = Cancel()

    def cancel_at(progress):
        if progress.total and progress.done == last_kept:
            cancel.now()

    with pytest.raises(Cancelled):
        empty.update([folder], report=cancel_at, cancel=cancel)
    assert len(names(empty)) == last_kept
    assert faults(empty) == []
    n_kept = len(names(empty))
    assert update(empty, folder).read == 3 - n_kept
    assert len(names(empty)) == 3


def test_a_full_disk_loses_no_finished_document(empty, folder):
    update(empty, folder)
    execute = empty.collection.file.row
    pages = execute("PRAGMA page_count")[0]
    execute(f"PRAGMA max_page_count = {pages}")
    (folder / "long.txt").write_text(
        "\n\n".join(f"Paragraph {number} with some words in it." for number in range(4000))
    )
    with pytest.raises(DiskFullError) as full:
        update(empty, folder)
    assert "Every document finished before is kept" in str(full.value)
    assert len(names(empty)) == 2
    execute("PRAGMA max_page_count = 1000000")
    assert update(empty, folder).read == 1
    assert faults(empty) == []


def test_a_file_that_goes_away_while_it_is_read_is_refused(empty, folder, monkeypatch):
    from redlantern.indexing import update as module

    def vanishes(source):
        raise module.reading_errors.unreadable("it went away while it was read")

    monkeypatch.setattr(module, "_check_unchanged", vanishes)
    summary = update(empty, folder)
    assert summary.read == 0
    assert all("it went away while it was read" in reason for _, reason in summary.refused)


def test_folders_and_single_files_are_followed_without_repeats(make_engine, folder, tmp_path):
    engine = make_engine()
    engine.collection.claim_writing()
    beside = tmp_path / "beside.txt"
    beside.write_text("A paper that lies beside the folder.")
    (tmp_path / "not asked for.txt").write_text("Nobody named this one.")
    engine.update([folder / "letters"], report=silent, cancel=Cancel())
    engine.update([folder / "contract.md", beside], report=silent, cancel=Cancel())
    engine.update([folder], report=silent, cancel=Cancel())
    assert engine.collection.followed() == [beside, folder]
    assert engine.update([], report=silent, cancel=Cancel()).unchanged == 3
    assert "not asked for.txt" not in {one.path for one in engine.collection.documents()}


def test_documents_of_a_folder_that_is_not_there_are_left(engine, folder, tmp_path):
    away = tmp_path / "away"
    folder.rename(away)
    plan, _ = plan_update(engine, Cancel())
    assert (plan.not_there, plan.gone, plan.has_work) == ([str(folder)], [], False)
    engine.carry_out(plan, report=silent, cancel=Cancel())
    assert len(engine.collection.documents()) == 2
    away.rename(folder)
    assert plan_update(engine, Cancel())[0].not_there == []


def test_a_document_that_changed_keeps_its_call_mark(engine, folder):
    (folder / "contract.md").write_text("# Quite another title\n\nThe work shall cease above 60 per cent.")
    before = {one.path: one.call_mark for one in engine.collection.documents()}
    engine.update([], report=silent, cancel=Cancel())
    assert {one.path: one.call_mark for one in engine.collection.documents()} == before
    assert engine.collection.journal.entries()[-1].what == "read again"
