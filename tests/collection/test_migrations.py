# SPDX-License-Identifier: GPL-3.0-or-later
"""Collections that earlier versions made, kept as they were: tests/data holds one of each with its key."""

import shutil
from pathlib import Path

import pytest

from redlantern.answering.question.understanding import Question
from redlantern.application.documents import plan_update
from redlantern.collection import schema
from redlantern.collection.check import find_faults
from redlantern.collection.store import Collection
from redlantern.progress import Cancel, silent
from redlantern.safety import keys

DATA = Path(__file__).parents[1] / "data"


@pytest.fixture(params=range(1, schema.VERSION))
def old(request, tmp_path):
    version = request.param
    path = tmp_path / "old.redlantern"
    shutil.copy(DATA / f"version-{version}.redlantern", path)
    salt = path.read_bytes()[: keys.SALT_BYTES]
    shutil.copy(DATA / f"version-{version}.redlantern.key", keys.key_path(salt))
    return version, path


def test_every_earlier_version_is_brought_up_after_a_copy_was_made(old, make_engine):
    version, path = old
    before = path.read_bytes()
    engine = make_engine("old.redlantern")
    collection = engine.collection
    assert collection.file.row("PRAGMA user_version")[0] == schema.VERSION
    assert find_faults(collection, 64, report=silent, cancel=Cancel()) == []
    assert [one.call_mark for one in collection.documents()] == ["BRO", "CON", "LET"]
    [(_, asked_at, question, sheet)] = collection.kept_sheets.all()
    assert (asked_at, question) == ("2026-11-01T10:00:00+00:00", "When must work cease?")
    assert sheet["passages"]
    copy = path.with_name(f"old.redlantern.version-{version}")
    assert copy.read_bytes() == before
    assert copy.stat().st_mode & 0o777 == 0o600
    *_, done = engine.ask(Question("At what relative humidity shall work cease?"), Cancel())
    assert "70 per cent" in done.sheet.found_lines[0].citation.text
    said = [entry.words for entry in collection.journal.entries()]
    assert f"File version raised from {version} to {schema.VERSION}" in said


def test_what_was_made_by_an_older_version_is_made_anew_by_an_update(old, make_engine, tmp_path):
    documents = tmp_path / "documents"
    (documents / "letters").mkdir(parents=True)
    from tests.conftest import CONTRACT, LETTER

    (documents / "contract.md").write_text(CONTRACT)
    (documents / "letters" / "key.txt").write_text(LETTER)
    (documents / "broken.pdf").write_bytes(b"%PDF-1.4 nothing")
    engine = make_engine("old.redlantern")
    engine.collection.claim_writing()
    with engine.collection.file.writing() as connection:
        connection.execute(
            "UPDATE sources SET full_path = replace(full_path, '/tmp/old/documents', ?)", (str(documents),)
        )
        connection.execute("UPDATE sources SET root = ?", (str(documents),))
        connection.execute("DELETE FROM followed")
    engine.collection.follow([documents])
    plan, _ = plan_update(engine, Cancel())
    assert sorted(Path(one).name for one in plan.read_anew) == ["contract.md", "key.txt"]
    assert [Path(one).name for one in plan.refused_before] == ["broken.pdf"]
    summary = engine.carry_out(plan, report=silent, cancel=Cancel())
    assert (summary.read, summary.changed) == (2, 0)
    again, _ = plan_update(engine, Cancel())
    assert (again.read_anew, again.to_remake) == (set(), [])


def test_an_interrupted_migration_begins_again(old, monkeypatch):
    _, path = old
    broken = {**schema.MIGRATIONS, schema.VERSION: schema.MIGRATIONS[schema.VERSION] + "SELECT x FROM nowhere;"}
    with monkeypatch.context() as patched:
        patched.setattr(schema, "MIGRATIONS", broken)
        with pytest.raises(Exception, match="nowhere"):
            Collection.open(path)
    collection = Collection.open(path)
    assert find_faults(collection, 64, report=silent, cancel=Cancel()) == []
    collection.close()
