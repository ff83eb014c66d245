# SPDX-License-Identifier: GPL-3.0-or-later
"""What a folder holds, before anything of it is read."""

import os

import pytest
from hypothesis import given
from hypothesis import strategies as st

from redlantern.collection.errors import SourceMissingError
from redlantern.indexing.survey import OTHERS, survey
from redlantern.progress import Cancel, Cancelled, silent


def look(*paths):
    return survey(paths, report=silent, cancel=Cancel())


def test_files_are_counted_by_kind_and_what_is_not_read_by_what_it_is(tmp_path):
    for name, content in {
        "a.pdf": b"%PDF-1.4", "b.PDF": b"%PDF-1.4", "below/c.docx": b"PK\x03\x04", "old.doc": b"\xd0\xcf\x11\xe0more",
        "pack.zip": b"7z\xbc\xaf\x27\x1c", "empty.txt": b"", "scan.jpeg": b"\xff\xd8\xff", "notes": b"plain words",
        ".hidden.pdf": b"%PDF-1.4",
    }.items():  # fmt: skip
        (tmp_path / name).parent.mkdir(exist_ok=True)
        (tmp_path / name).write_bytes(content)
    found = look(tmp_path)
    assert found.counts == {"PDF": 2, "Letters and reports": 1, "Pictures of pages": 1, OTHERS: 1}
    assert found.unread == {
        "An Office file of the old kind (before 2007)": 1, "An archive": 1, "Empty files": 1
    }  # fmt: skip
    assert (found.n_files, found.n_unread) == (5, 3)
    assert found.seconds >= 4, "a picture takes seconds"


def test_files_may_be_named_one_by_one(tmp_path):
    (tmp_path / "a.txt").write_text("words")
    (tmp_path / "b.txt").write_text("words")
    assert look(tmp_path / "a.txt").n_files == 1


def test_our_own_files_are_none_of_it(tmp_path, make_engine):
    engine = make_engine("own.redlantern")
    folder = engine.collection.path.parent
    before = look(folder).n_files
    (folder / "letter.txt").write_text("words")
    assert look(folder).n_files == before + 1
    assert not any("redlantern" in kind for kind in look(folder).counts)


def test_pipes_and_links_are_not_waited_for(tmp_path):
    os.mkfifo(tmp_path / "pipe.pdf")
    (tmp_path / "link.pdf").symlink_to("/etc/hostname")
    assert look(tmp_path).n_files == 0


def test_a_folder_that_is_not_there_is_said(tmp_path):
    with pytest.raises(SourceMissingError):
        look(tmp_path / "gone")


def test_it_can_be_stopped(tmp_path):
    (tmp_path / "a.txt").write_text("words")
    cancel = Cancel()
    cancel.now()
    with pytest.raises(Cancelled):
        survey([tmp_path], report=silent, cancel=cancel)


@given(st.lists(st.sampled_from([".pdf", ".docx", ".xyz", ".txt", ""]), max_size=12))
def test_every_file_is_counted_once(tmp_path_factory, endings):
    folder = tmp_path_factory.mktemp("many")
    for number, ending in enumerate(endings):
        (folder / f"{number}{ending}").write_bytes(b"" if number % 5 == 4 else b"words")
    found = look(folder)
    assert found.n_files + found.n_unread == len(endings)
