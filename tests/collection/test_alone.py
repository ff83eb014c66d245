# SPDX-License-Identifier: GPL-3.0-or-later
"""Whatever replaces a collection's file has it alone: asking, noting and reading meanwhile lose nothing, in threads and processes."""

import errno
import fcntl
import os
import subprocess
import sys
import threading
from collections import Counter

import pytest

from redlantern.answering.question.understanding import Question
from redlantern.collection import copying, errors, process_lock, upkeep
from redlantern.collection.check import find_faults
from redlantern.collection.store import Collection
from redlantern.collection.upkeep import mending
from redlantern.models.hosted import HostedModel
from redlantern.models.protocols import LanguageModelError
from redlantern.progress import Cancel, Cancelled, silent
from redlantern.safety.keys import Holding
from tests.conftest import SmallEmbedder, change_embedder

WAIT_S = 20


class Other(SmallEmbedder):
    name, identity = "other", "other 2"


def faults(collection):
    return find_faults(collection, SmallEmbedder.dimensions, report=silent, cancel=Cancel())


def rekey(engine, n):
    upkeep.change_key(engine.collection, Holding.FILE)


def move(engine, n):
    upkeep.move(engine.collection, engine.collection.path.with_name(f"place {n}.redlantern"))


def back_up(engine, n):
    upkeep.back_up(engine.collection, engine.collection.path.with_name(f"backup {n}"))


def mend(engine, n):
    mending.mend(engine.collection)


def embed_anew(engine, n):
    change_embedder(engine, (Other, SmallEmbedder)[n % 2](), "", report=silent, cancel=Cancel())


@pytest.mark.parametrize(
    ("change", "is_other_disk"),
    [(rekey, False), (move, False), (move, True), (back_up, False), (mend, False), (embed_anew, False)],
)
def test_nothing_that_is_asked_noted_or_read_meanwhile_is_lost(engine, other_disk, change, is_other_disk):
    collection, kept, failures, ends = engine.collection, [], [], threading.Event()
    [first, *_] = collection.documents()
    progress = threading.Barrier(4)

    def go_on(do, name):
        progress.wait()
        number = 0
        try:
            while not ends.is_set():
                number += 1
                do(f"{name} {number}")
                # Who asks without a pause never lets indexing have its turn.
                ends.wait(0.01)
        except Exception as failure:
            failures.append(failure)

    def ask(words):
        list(engine.ask(Question(f"At what relative humidity shall work cease? {words}", lines_only=True), Cancel()))
        kept.append(f"At what relative humidity shall work cease? {words}")

    def note(words):
        collection.journal.note("asked", words)
        kept.append(words)

    def read(words):
        assert collection.page(first.document_id, 1).text

    threads = [threading.Thread(target=go_on, args=(do, do.__name__)) for do in (ask, note, read)]
    for one in threads:
        one.start()
    progress.wait()
    for n in range(4):
        if is_other_disk:
            other_disk(collection.path)
        before = len(kept)
        change(engine, n)
        deadline = threading.Event()
        while len(kept) < before + 3 and not failures:
            deadline.wait(0.005)
    ends.set()
    for one in threads:
        one.join(WAIT_S)
    assert failures == []
    noted = Counter(entry.words for entry in collection.journal.entries())
    assert [words for words in kept if noted[words] != 1] == []
    assert list(collection.journal.faults()) == []
    assert faults(collection) == []
    assert len(collection.documents()) == 2


def test_a_question_in_mid_answer_keeps_its_model_and_the_next_has_the_new_one(engine):
    class Held:
        name, can_read, can_judge = "held", False, False

        def __init__(self):
            self.is_closed, self.begun, self.may_go_on = False, threading.Event(), threading.Event()

        def __getattr__(self, name):
            return getattr(engine_model, name)

        def write(self, *words, **more):
            self.begun.set()
            self.may_go_on.wait(WAIT_S)
            assert not self.is_closed
            yield from engine_model.write(*words, **more)

        def close(self):
            self.is_closed = True

    engine_model, held = engine.language_model, Held()
    engine.exchange(language_model=held)
    sheets = []

    def ask():
        *_, done = engine.ask(Question("At what relative humidity shall work cease?"), Cancel())
        sheets.append(done.sheet)

    asking = threading.Thread(target=ask)
    asking.start()
    assert held.begun.wait(WAIT_S)
    stopped = Cancel()
    threading.Timer(0.2, stopped.now).start()
    with pytest.raises(Cancelled):
        engine.use_language_model(engine_model, stopped)
    assert engine.language_model is held and not held.is_closed
    changing = threading.Thread(target=engine.use_language_model, args=(engine_model,))
    changing.start()
    changing.join(0.3)
    assert changing.is_alive() and not held.is_closed
    held.may_go_on.set()
    for one in (asking, changing):
        one.join(WAIT_S)
    assert sheets[0].claims and held.is_closed and engine.language_model is engine_model


def test_what_is_closed_says_so(engine, make_engine):
    other = make_engine("other.redlantern").collection
    other.close()
    for use in (other.documents, lambda: other.file.key, lambda: other.journal.note("asked", "x"), other.claim_writing):
        with pytest.raises(errors.ClosedCollectionError) as closed:
            use()
        assert (
            str(closed.value) == f"The collection {other.path} was closed. Nothing was changed. Open it again to go on."
        )
    model = HostedModel()
    model.close()
    with pytest.raises(LanguageModelError, match="was closed meanwhile"):
        model.start()
    assert model.pid is None


def test_asking_alone_again_waits_for_the_question_that_asks_both(engine, make_engine):
    path = make_engine("other.redlantern").collection.path
    other = Collection.open(path)
    engine.ask_beside(other)
    asking = engine.ask(Question("At what relative humidity shall work cease?"), Cancel())
    next(asking)
    ending = threading.Thread(target=engine.ask_alone)
    ending.start()
    ending.join(0.3)
    assert ending.is_alive() and other.documents() == []
    *_, done = asking
    assert done.sheet.claims
    ending.join(WAIT_S)
    with pytest.raises(errors.ClosedCollectionError):
        other.documents()


def test_erasing_and_reading_wait_for_no_embedding_but_say_so(engine, folder):
    def look(progress):
        for attempt in (
            lambda: upkeep.erase_documents(engine.collection, engine.collection.documents()[:1]),
            lambda: engine.update([folder], report=silent, cancel=Cancel()),
        ):
            with pytest.raises(errors.CollectionBusyError):
                attempt()
        told.append(progress.stage)

    told = []
    change_embedder(engine, Other(), "", report=look, cancel=Cancel())
    assert "Embedding anew" in told
    assert len(engine.collection.documents()) == 2


def test_what_is_taken_out_while_everything_is_embedded_anew_stays_out(engine):
    [contract] = [one for one in engine.collection.documents() if one.path == "contract.md"]

    class Watching(Other):
        def embed(self, texts, spans):
            engine.collection.take_out([contract.full_path])
            yield from super().embed(texts, spans)

    change_embedder(engine, Watching(), "", report=silent, cancel=Cancel())
    assert [one.path for one in engine.collection.documents()] == ["letters/key.txt"]
    assert engine.collection.taken_out() == {contract.full_path}
    assert faults(engine.collection) == []


def test_a_change_of_key_can_be_stopped_and_leaves_everything(engine, monkeypatch):
    collection, salt = engine.collection, engine.collection.file.salt
    cancel = Cancel()
    cancel.now()
    with pytest.raises(Cancelled):
        upkeep.change_key(collection, Holding.FILE, cancel=cancel)

    monkeypatch.setattr(copying, "_STEPS_BETWEEN_LOOKS", 100)
    late, seen = Cancel(), []

    def stop(progress):
        seen.append(progress.stage)
        late.now()

    with pytest.raises(Cancelled):
        upkeep.change_key(collection, Holding.FILE, report=stop, cancel=late)
    assert seen == ["Copying"]
    assert collection.file.salt == salt and faults(collection) == []
    assert list(collection.path.parent.glob("*.unfinished")) == []


def in_another_process(code, *words, **environment):
    done = subprocess.run(
        [sys.executable, "-c", f"import sys; from pathlib import Path\n{code}", *map(str, words)],
        capture_output=True, text=True, check=False, env={**os.environ, **environment}, timeout=60,
    )  # fmt: skip
    return done.stdout.strip() or done.stderr.strip()[-500:]


_REKEY = (
    "from redlantern.collection import upkeep\nfrom redlantern.collection.store import Collection\n"
    "from redlantern.safety.keys import Holding\n"
    "try:\n    collection = Collection.open(Path(sys.argv[1]))\n    collection.claim_writing()\n"
    "    upkeep.change_key(collection, Holding.FILE)\n    collection.close()\n    print('changed')\n"
    "except Exception as failure:\n    print(type(failure).__name__)\n"
)


@pytest.mark.parametrize(
    "environment", [{}, {"XDG_RUNTIME_DIR": ""}, {"XDG_RUNTIME_DIR": "/nowhere", "TMPDIR": "/var/tmp"}]
)
def test_the_lock_holds_whatever_the_environment_of_the_other_process(engine, environment):
    path = engine.collection.path
    assert in_another_process(_REKEY, path, **environment) == "CollectionInUseError"
    assert len(engine.collection.documents()) == 2
    engine.collection.close()
    assert not process_lock.lock_path(path).exists()
    assert in_another_process(_REKEY, path, **environment) == "changed"
    assert len(list(path.parent.glob("*.lock"))) == 0


def test_a_process_that_opens_it_while_it_is_replaced_waits_a_moment_then_is_told(engine, monkeypatch):
    monkeypatch.setattr(process_lock, "_PATIENCE_S", 0.1)
    with engine.collection.file.alone(), pytest.raises(errors.CollectionInUseError):
        Collection.open(engine.collection.path)
    monkeypatch.setattr(process_lock, "_PATIENCE_S", WAIT_S)
    holds, may_let_go = threading.Event(), threading.Event()

    def hold():
        with engine.collection.file.alone():
            holds.set()
            may_let_go.wait(WAIT_S)

    holding = threading.Thread(target=hold)
    holding.start()
    assert holds.wait(WAIT_S)
    threading.Timer(0.3, may_let_go.set).start()
    other = Collection.open(engine.collection.path)
    assert len(other.documents()) == 2
    other.close()
    holding.join(WAIT_S)


def test_a_file_system_that_cannot_lock_is_told_and_nothing_is_opened(engine, monkeypatch):
    path = engine.collection.path
    engine.collection.close()

    def refuse(handle, command, *words):
        raise OSError(errno.ENOLCK, "No locks available")

    monkeypatch.setattr(fcntl, "fcntl", refuse)
    with pytest.raises(errors.CannotLockError) as told:
        Collection.open(path)
    assert str(told.value).startswith(f"{path} cannot be locked where it lies (no locks available): two programs could")


def test_the_lock_file_is_as_open_as_the_collection_and_no_link_is_followed(engine, tmp_path):
    path = engine.collection.path
    engine.collection.close()
    path.chmod(0o660)
    (tmp_path / "victim").write_text("mine")
    opened = Collection.open(path)
    assert process_lock.lock_path(path).stat().st_mode & 0o777 == 0o660
    opened.close()
    process_lock.lock_path(path).symlink_to(tmp_path / "victim")
    with pytest.raises(errors.CannotLockError):
        Collection.open(path)
    assert (tmp_path / "victim").read_text() == "mine"


def test_entries_in_an_unflushed_log_are_read_where_nothing_can_be_written(engine, monkeypatch, tmp_path):
    """A process that was killed left its last entries in the log; then the folder became one that can only be read."""
    path = engine.collection.path
    engine.collection.close()
    code = (
        "import os, signal\nfrom redlantern.collection.store import Collection\n"
        "c = Collection.open(Path(sys.argv[1]))\nc.journal.note('asked', 'the last words')\nos.kill(os.getpid(), signal.SIGKILL)\n"
    )
    in_another_process(code, path)
    assert path.with_name(path.name + "-wal").stat().st_size
    path.with_name(path.name + "-shm").unlink()
    before = {one.name: one.read_bytes() for one in tmp_path.iterdir() if one.is_file()}
    monkeypatch.setattr(os, "access", lambda place, mode: mode != os.W_OK)
    reader = Collection.open(path)
    assert reader.is_read_only and reader.journal.entries()[-1].words == "the last words"
    assert len(reader.documents()) == 2
    reader.close()
    after = {one.name: one.read_bytes() for one in tmp_path.iterdir() if one.is_file()}
    assert {name: after.get(name) for name in before if not name.endswith(".lock")} == {
        name: raw for name, raw in before.items() if not name.endswith(".lock")
    }
