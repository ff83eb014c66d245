# SPDX-License-Identifier: GPL-3.0-or-later
"""Documents within files, files taken out, files read again, looks before adding, and collections of an older version."""

import shutil

import pytest

from redlantern.collection.check import find_faults
from redlantern.indexing.preview import read_samples, split_samples
from redlantern.progress import Cancel, silent
from redlantern.settings import Method
from tests.reading import makers


@pytest.fixture
def mail_folder(tmp_path):
    folder = tmp_path / "mail"
    folder.mkdir()
    (folder / "key.eml").write_bytes(makers.message())
    (folder / "box.mbox").write_bytes(makers.mailbox())
    return folder


@pytest.fixture
def engine(make_engine):
    engine = make_engine("parts.redlantern")
    engine.collection.claim_writing()
    return engine


def update(engine, *paths, **words):
    return engine.update(list(paths), report=silent, cancel=Cancel(), **words)


def paths_of(engine):
    return [one.path for one in engine.collection.documents()]


def test_what_lies_within_a_file_follows_it_with_a_path_of_its_own(engine, mail_folder):
    summary = update(engine, mail_folder)
    assert paths_of(engine) == [
        "box.mbox",
        "box.mbox/message 1",
        "box.mbox/message 1/keys.csv",
        "box.mbox/message 1/.._tool.bin",
        "box.mbox/message 2",
        "key.eml",
        "key.eml/keys.csv",
        "key.eml/.._tool.bin",
    ]
    assert (summary.read, len(summary.refused)) == (6, 2)
    assert find_faults(engine.collection, 64, report=silent, cancel=Cancel()) == []
    document = engine.collection.documents()[6]
    assert document.file_path == mail_folder / "key.eml"
    assert document.details == {}
    assert engine.collection.documents()[5].details["message id"] == "<2@example.invalid>"


def test_an_attachment_is_found_and_cited_by_its_path(engine, mail_folder):
    from redlantern.answering.asking import DoneStep
    from redlantern.answering.question.understanding import Question

    update(engine, mail_folder / "key.eml")
    [done] = [
        one
        for one in engine.ask(Question("Schlüssel Turm Corvin", lines_only=True), Cancel())
        if isinstance(one, DoneStep)
    ]
    assert done.sheet.passages[0].citation.path == "key.eml/keys.csv"


def test_an_update_reads_nothing_again_and_a_gone_file_takes_its_parts_along(engine, mail_folder):
    update(engine, mail_folder)
    again = update(engine, mail_folder)
    assert (again.read, again.unchanged) == (0, 2)
    (mail_folder / "box.mbox").unlink()
    update(engine, mail_folder)
    assert paths_of(engine) == ["key.eml", "key.eml/keys.csv", "key.eml/.._tool.bin"]


def test_what_was_taken_out_stays_out_until_it_is_let_in(engine, mail_folder):
    update(engine, mail_folder)
    engine.collection.take_out([str(mail_folder / "key.eml")])
    assert all(path.startswith("box.mbox") for path in paths_of(engine))
    assert update(engine, mail_folder).read == 0
    engine.collection.let_in([str(mail_folder / "key.eml")])
    assert update(engine, mail_folder).read == 2


def test_a_file_that_was_taken_out_comes_back_when_it_is_named(engine, mail_folder):
    update(engine, mail_folder)
    engine.collection.take_out([str(mail_folder / "key.eml")])
    assert update(engine, mail_folder / "key.eml").read == 2
    assert engine.collection.taken_out() == set()


def test_reading_again_keeps_the_other_places_of_the_same_content(engine, folder):
    shutil.copy(folder / "contract.md", folder / "copy.md")
    update(engine, folder)
    before = engine.collection.document_by_hash(engine.collection.documents()[0].sha256)
    summary = update(engine, folder, again={str(folder / "contract.md"): ""})
    assert summary.read == 1
    assert len(paths_of(engine)) == 2
    after = engine.collection.document_by_hash(engine.collection.documents()[0].sha256)
    assert after != before
    assert {str(folder / "contract.md"), str(folder / "copy.md")} <= engine.collection.sources().keys()
    assert find_faults(engine.collection, 64, report=silent, cancel=Cancel()) == []


def test_a_method_splits_as_it_says(engine, folder):
    update(engine, folder, method=Method(by_record=True))
    contract = engine.collection.documents()[0]
    headings = [heading for *_, heading in engine.collection.page_passages(contract.document_id, 1)]
    assert sum("Stage | Sum | Due" in one for one in headings) == 2


def test_a_preview_keeps_nothing_and_splits_under_any_method(engine, folder):
    (folder / "broken.pdf").write_bytes(b"%PDF-1.4 no more")
    (folder / "duties.md").write_text("# Duties\n\n## Morning\n\nOpen the hatch.\n\n## Evening\n\nClose the hatch.\n")
    preview = read_samples([folder], engine.readers, report=silent, cancel=Cancel())
    assert [(one.path.name, bool(one.refusal)) for one in preview.samples] == [
        ("broken.pdf", True),
        ("contract.md", False),
        ("duties.md", False),
        ("key.txt", False),
    ]
    long, short = (
        split_samples(preview, engine.embedder, Method(passage_tokens=n, overlap_tokens=0)) for n in (200, 32)
    )
    assert len(short.n_tokens) > len(long.n_tokens)
    assert max(short.n_tokens) <= 32
    together = split_samples(preview, engine.embedder, Method(by_heading=False))
    assert len(together.n_tokens) < len(long.n_tokens)
    assert engine.collection.documents() == []


def test_a_preview_of_many_files_reads_some_evenly(engine, tmp_path, monkeypatch):
    folder = tmp_path / "many"
    folder.mkdir()
    for number in range(100):
        (folder / f"{number:03d}.txt").write_text(f"Paper {number}.")
    preview = read_samples([folder], engine.readers, report=silent, cancel=Cancel())
    assert (len(preview.samples), preview.n_files) == (40, 100)
    assert [one.path.stem for one in preview.samples][:3] == ["000", "002", "005"]
