# SPDX-License-Identifier: GPL-3.0-or-later
"""Does everything that changes a collection, and is killed in the midst of it, again and again.

Run as `python -m tests.collection.turmoil FOLDER ROUNDS SEED`: one process that
never threads, so that each round can be a fork of it. Each round a child works
until it is killed (SIGKILL) at a random moment. Meanwhile threads of it ask
questions, write entries and lock the collection, and a second child opens it
again and again and writes entries, too; both are killed. Then another child
opens what is left, checks it, finishes the update, compares the collection with
the files on disk, and looks that every entry that was told to be kept is there
once. Prints a JSON object: faults, how often each kind of work was hit, and how
many entries were kept.
"""

import contextlib
import json
import os
import random
import shutil
import signal
import sys
import threading
import time
import traceback
from collections import Counter
from dataclasses import replace
from itertools import chain
from pathlib import Path

from redlantern.answering.asking import EmptyCollectionError
from redlantern.answering.engine import Engine
from redlantern.answering.question.understanding import Question
from redlantern.collection import errors, upkeep, vectors
from redlantern.collection.check import find_faults
from redlantern.collection.documents import hidden_name
from redlantern.collection.store import Collection
from redlantern.collection.upkeep import mending
from redlantern.indexing.prepare import Workshop
from redlantern.indexing.reembed import embed_anew
from redlantern.indexing.update import update
from redlantern.locks import ComputeQueue
from redlantern.progress import Cancel, silent
from redlantern.reading.values import Block, Page, ReadFile
from redlantern.safety import keys
from redlantern.safety.keys import Holding
from redlantern.settings import Method
from tests.conftest import SmallEmbedder

# So that few documents are enough for the index to be merged, and to be killed in the midst of it.
vectors.MERGED_FROM = 6
DATA = Path(__file__).parents[1] / "data"
LONGEST_S = 0.5
N_FILES = 14


class TextReaders:
    """Reads text files in this process: what is tried here is the collection, not the readers."""

    n_readers = 1

    def read(self, path, cancel, on_page=None, *, password=""):
        text = path.read_text()
        page = Page(1, text, (Block("paragraph", 0, len(text)),), (), 595, 842)
        return ReadFile("text", path.stem, (page,), (), {}, "en")


class OtherEmbedder(SmallEmbedder):
    name, identity = "other", "other 2"


class Turmoil:
    def __init__(self, place: Path, seed: int) -> None:
        self.place, self.chance = place, random.Random(seed)
        self.documents = place / "documents"
        self.documents.mkdir()
        self.names = [place / "one.redlantern", place / "two.redlantern"]
        self.workshop = Workshop(TextReaders(), SmallEmbedder(), Method(), ComputeQueue())
        self.doing = "opening"
        for number in range(N_FILES):
            self.write(number)
        collection = Collection.create(self.names[0])
        collection.claim_writing()
        update(collection, [self.documents], self.workshop, report=silent, cancel=Cancel())
        collection.close()

    def write(self, number: int) -> None:
        words = " ".join(self.chance.choices(["blower", "loft", "pump", "yard", "pipe", "key"], k=60))
        (self.documents / f"paper{number}.txt").write_text(f"Paper {number} {self.chance.random()}. {words}.")

    def path(self) -> Path:
        return next(one for one in self.names if one.exists())

    def open(self) -> Collection:
        collection = Collection.open(self.path())
        collection.claim_writing()
        upkeep.tidy(collection)
        return collection

    # In the child that is killed

    def work(self, pipe: int, seed: int) -> None:
        self.chance = random.Random(seed)
        self.tell(pipe, "opening")
        kinds = [self.update, self.change_key, self.erase, self.note, self.back_up, self.move, self.mend]
        kinds += [self.exchange, self.update]
        while True:
            try:
                collection = self.open()
            except errors.CollectionInUseError:
                continue
            self.engine = Engine(collection, SmallEmbedder(), None, readers=TextReaders())
            self.workshop = replace(self.workshop, queue=self.engine.queue)
            for meanwhile in (self.ask, self.journal, self.lock):
                threading.Thread(target=self.go_on, args=(meanwhile, collection, pipe), daemon=True).start()
            with contextlib.suppress(errors.ClosedCollectionError):
                while True:
                    kind = self.chance.choice(kinds)
                    self.tell(pipe, kind.__name__)
                    # The other process may have it open just now, or an update may be going on.
                    with contextlib.suppress(errors.CollectionInUseError, errors.CollectionBusyError):
                        kind(collection)

    def tell(self, pipe: int, what: str) -> None:
        os.write(pipe, f"{what}\n".encode())

    # What goes on beside it, in threads of the same child

    def go_on(self, meanwhile, collection: Collection, pipe: int) -> None:
        chance, number = random.Random(f"{meanwhile.__name__} {time.time()}"), 0
        try:
            while True:
                time.sleep(chance.uniform(0, 0.01))
                number += 1
                meanwhile(collection, pipe, f"{meanwhile.__name__} {os.getpid()} {id(collection)} {number}", chance)
        except errors.ClosedCollectionError:
            return
        except BaseException:
            os.write(pipe, f"FAILED {traceback.format_exc()[-900:]!r}\n".encode())

    def ask(self, collection: Collection, pipe: int, words: str, chance: random.Random) -> None:
        with contextlib.suppress(EmptyCollectionError):
            list(self.engine.ask(Question(f"Where is the blower? {words}", lines_only=True), Cancel()))
            self.tell(pipe, f"KEPT Where is the blower? {words}")

    def journal(self, collection: Collection, pipe: int, words: str, chance: random.Random) -> None:
        collection.journal.note("asked", words)
        self.tell(pipe, f"KEPT {words}")

    def lock(self, collection: Collection, pipe: int, words: str, chance: random.Random) -> None:
        time.sleep(chance.uniform(0, 2 * LONGEST_S))
        collection.close()

    def visit(self, pipe: int, seed: int) -> None:
        """In a second process: open it, write an entry, close it, again and again."""
        chance, number = random.Random(seed), 0
        while True:
            time.sleep(chance.uniform(0, 0.1))
            number += 1
            words = f"visit {os.getpid()} {number}"
            with contextlib.suppress(
                StopIteration, errors.CollectionInUseError, errors.CollectionMissingError, errors.KeyMissingError
            ):
                collection = Collection.open(self.path())
                collection.journal.note("asked", words)
                self.tell(pipe, f"KEPT {words}")
                collection.close()

    def update(self, collection: Collection) -> None:
        for _ in range(6):
            number = self.chance.randrange(N_FILES)
            place = self.documents / f"paper{number}.txt"
            if self.chance.random() < 0.3 and place.exists():
                place.unlink()
            else:
                self.write(number)
        update(collection, [], self.workshop, report=silent, cancel=Cancel())

    def change_key(self, collection: Collection) -> None:
        upkeep.change_key(collection, Holding.FILE)

    def erase(self, collection: Collection) -> None:
        documents = collection.documents()
        if len(documents) > 4:
            chosen = self.chance.choice(documents)
            collection.facts.keep_tables({chosen.key: []})
            try:
                upkeep.erase_documents(collection, [chosen])
            except (errors.CollectionInUseError, errors.CollectionBusyError):
                collection.facts.keep_tables({})
                raise

    def note(self, collection: Collection) -> None:
        collection.journal.note("asked", "Where is the key?")
        collection.kept_sheets.keep("2026", "Where?", {"found_lines": [], "claims": [], "passages": []})

    def back_up(self, collection: Collection) -> None:
        (self.place / "backup").unlink(missing_ok=True)
        upkeep.back_up(collection, self.place / "backup")

    def move(self, collection: Collection) -> None:
        upkeep.move(collection, next(one for one in self.names if one != collection.path))

    def mend(self, collection: Collection) -> None:
        mending.mend(collection)

    def exchange(self, collection: Collection) -> None:
        workshop = replace(self.workshop, embedder=OtherEmbedder())
        embed_anew(collection, workshop, facts={"embedding model": "other"}, report=silent, cancel=Cancel())

    def migrate(self, pipe: int) -> None:
        self.tell(pipe, "migrate")
        Collection.open(self.place / "old.redlantern").close()
        time.sleep(10)

    # In the child that looks what is left

    def check(self, kept: list[str]) -> list[str]:
        if sum(one.exists() for one in self.names) != 1:
            return [f"{[one.name for one in self.names if one.exists()]} exist"]
        collection = self.open()
        try:
            faults = find_faults(collection, SmallEmbedder.dimensions, report=silent, cancel=Cancel())
            # What was put right about a table goes with its document, at whatever moment of that the process was killed.
            left = set(collection.facts.tables()) - {one.key for one in collection.documents()}
            faults += [f"what was put right outlived {key}" for key in left]
            collection.facts.keep_tables({})
            entries = Counter(one.words for one in collection.journal.entries())
            faults += [f"{words} is there {entries[words]} times" for words in kept if entries[words] != 1]
            update(collection, [], self.workshop, report=silent, cancel=Cancel())
            faults += find_faults(collection, SmallEmbedder.dimensions, report=silent, cancel=Cancel())
            out = collection.taken_out()
            wanted = {
                str(one) for one in self.documents.iterdir() if hidden_name(str(one)) not in out and str(one) not in out
            }
            held = [path for one in collection.documents() for path in (one.full_path, *one.copies)]
            if sorted(held) != sorted(wanted):
                faults.append(f"held {len(held)}, wanted {len(wanted)}, {set(held) ^ wanted}")
            # So that erasing never runs out of documents.
            collection.let_in([str(one) for one in self.documents.iterdir()])
            return faults
        finally:
            collection.close()
            for one in self.place.glob("*.damaged-*"):
                one.unlink()

    def check_migrated(self) -> list[str]:
        collection = Collection.open(self.place / "old.redlantern")
        try:
            faults = find_faults(collection, SmallEmbedder.dimensions, report=silent, cancel=Cancel())
            return faults + ([] if len(collection.documents()) == 3 else ["documents are missing"])
        finally:
            collection.close()

    def lay_old_file(self) -> None:
        for one in self.place.glob("old.redlantern*"):
            one.unlink()
        raw = (DATA / f"version-{self.chance.choice([1, 2])}.redlantern").read_bytes()
        (self.place / "old.redlantern").write_bytes(raw)
        for key in DATA.glob("*.key"):
            if (DATA / key.stem).read_bytes()[:16] == raw[:16]:
                shutil.copy(key, keys.key_path(raw[:16]))


def in_a_child(work) -> tuple[int, int]:
    """Fork; the child does the work with a pipe to tell by. Gives its process number and the reading end."""
    reading, writing = os.pipe()
    pid = os.fork()
    if pid:
        os.close(writing)
        return pid, reading
    os.close(reading)
    try:
        work(writing)
    except BaseException:
        os.write(writing, f"FAILED {traceback.format_exc()[-900:]!r}\n".encode())
    os._exit(0)


def killed(pid: int, reading: int) -> list[str]:
    """Kill a child; gives the lines that it told before."""
    os.kill(pid, signal.SIGKILL)
    os.waitpid(pid, 0)
    return said(reading)


def said(reading: int) -> list[str]:
    with os.fdopen(reading) as pipe:
        return pipe.read().splitlines()


def main() -> None:
    place, rounds, seed = Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3])
    turmoil = Turmoil(place, seed)
    hit: Counter[str] = Counter()
    n_kept = 0
    faults: list[str] = []
    for number in range(rounds):
        is_migration = number % 5 == 4
        if is_migration:
            turmoil.lay_old_file()
            pid, reading = in_a_child(turmoil.migrate)
            children = [(pid, reading)]
        else:
            children = [in_a_child(lambda pipe, number=number: turmoil.work(pipe, seed * 1000 + number))]
            children += [in_a_child(lambda pipe, number=number: turmoil.visit(pipe, seed * 1000 + number))]
        time.sleep(turmoil.chance.uniform(0, 0.08 if is_migration else LONGEST_S))
        lines = [killed(*one) for one in children]
        everything = list(chain.from_iterable(lines))
        faults += [f"round {number}: {one}" for one in everything if one.startswith("FAILED")]
        kept = [one.removeprefix("KEPT ") for one in everything if one.startswith("KEPT ")]
        n_kept += len(kept)
        told = [one for one in lines[0] if not one.startswith("KEPT ")]
        hit[told[-1].split()[0] if told else "nothing yet"] += 1
        checking = turmoil.check_migrated if is_migration else lambda kept=kept: turmoil.check(kept)
        pid, reading = in_a_child(lambda pipe, checking=checking: [turmoil.tell(pipe, one) for one in checking()])
        found = said(reading)
        os.waitpid(pid, 0)
        faults += [f"round {number}, killed while {told[-1:]}: {one}" for one in found]
    print(json.dumps({"faults": faults, "hit": hit, "kept": n_kept}))


if __name__ == "__main__":
    main()
