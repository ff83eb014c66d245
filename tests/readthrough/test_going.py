# SPDX-License-Identifier: GPL-3.0-or-later
"""Going through all pages: each once, whatever happens in between; changed documents; models; questions first."""

import json
import random
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path

import pytest

from redlantern.answering.question.understanding import Question
from redlantern.application import read_through as throughs
from redlantern.collection.upkeep.documents import erase_documents, remnants
from redlantern.progress import Cancel, Cancelled, silent
from redlantern.readthrough.going import NoReaderError, ReadThroughGoneError
from redlantern.readthrough.values import Example, PageWish
from tests.conftest import ReadingModel

QUESTION = "every page that speaks of humidity"


def add_letters(folder, n, word="humidity"):
    for number in range(n):
        (folder / f"letter-{number:03d}.txt").write_text(
            f"Letter {number}\n\nThe {word if number % 5 == 0 else 'scaffold'} was looked at on day {number}.\n",
            encoding="utf-8",
        )


@pytest.fixture
def many(engine, folder):
    """The engine on some forty documents."""
    add_letters(folder, 40)
    engine.update([folder], report=silent, cancel=Cancel())
    return engine


def run(engine, key, **words):
    return throughs.go_on(engine, key, report=silent, cancel=words.pop("cancel", Cancel()), **words)


def test_every_page_is_read_once_and_the_hits_are_those_that_say_it(many):
    key = throughs.begin(many, PageWish(QUESTION))
    given = []
    gone = run(many, key, on_pages=given.extend)
    through = throughs.load(many, key)
    n_pages = sum(document.n_pages for document in many.collection.documents())
    assert gone.n_read == gone.n_pages == len(given) == n_pages
    assert through.covered.n_unread == 0 and through.covered.is_whole
    said = {page.place[0] for page in through.covered.pages if page.state != "silent"}
    texts = {
        document.key: next(iter(many.collection.pages(document.document_id))).text
        for document in many.collection.documents()
    }
    assert {key for key, text in texts.items() if "humidity" in text} <= said
    best = max(through.covered.pages, key=lambda page: page.certainty)
    assert "humidity" in best.words[0].text.casefold()
    assert run(many, key).n_read == 0


def test_stopped_and_gone_on_with_nothing_is_read_twice_or_lost(many):
    key = throughs.begin(many, PageWish(QUESTION))
    given = []

    class Stop:
        def __init__(self, cancel, after):
            self.cancel, self.after = cancel, after

        def __call__(self, progress):
            if progress.done >= self.after:
                self.cancel.now()

    for after in (3, 17, 30):
        cancel = Cancel()
        with pytest.raises(Cancelled):
            throughs.go_on(many, key, report=Stop(cancel, after), cancel=cancel, on_pages=given.extend)
    run(many, key, on_pages=given.extend)
    places = [page.place for page in given]
    assert len(places) == len(set(places)) == throughs.load(many, key).covered.n_pages


def test_a_paused_one_holds_still_with_what_it_read_kept(many):
    key, cancel = throughs.begin(many, PageWish(QUESTION)), Cancel()
    seen = threading.Event()

    def hold(progress):
        if progress.done == 5:
            cancel.hold()
            seen.set()

    thread = threading.Thread(target=lambda: throughs.go_on(many, key, report=hold, cancel=cancel))
    thread.start()
    assert seen.wait(10)
    deadline = time.monotonic() + 5
    while len(many.collection.read_throughs.places(key)) < 5 and time.monotonic() < deadline:
        time.sleep(0.01)
    assert len(many.collection.read_throughs.places(key)) == 5
    cancel.go_on()
    thread.join(20)
    assert throughs.load(many, key).covered.n_unread == 0


def test_a_document_changed_meanwhile_is_read_anew_and_the_statement_says_so(many, folder):
    key, changed = throughs.begin(many, PageWish(QUESTION)), []

    def change(progress):
        if progress.done == 12 and not changed:
            changed.append(True)
            (folder / "letter-001.txt").write_text("Letter 1\n\nThe humidity rose again.\n", encoding="utf-8")
            (folder / "letter-039.txt").write_text("Letter 39\n\nNow about humidity, too.\n", encoding="utf-8")
            many.update([folder], report=silent, cancel=Cancel())

    throughs.go_on(many, key, report=change, cancel=Cancel())
    through = throughs.load(many, key)
    assert through.covered.n_unread == 0
    by_path = {each.document.path: each.pages[0] for each in through.covered.documents if each.pages}
    assert by_path["letter-001.txt"].state != "silent" != by_path["letter-039.txt"].state
    before = len(through.covered.pages)
    (folder / "letter-002.txt").write_text("Letter 2\n\nNothing but humidity.\n", encoding="utf-8")
    many.update([folder], report=silent, cancel=Cancel())
    through = throughs.load(many, key)
    assert through.covered.n_unread == 1 and through.covered.earlier >= 1
    text = throughs.statement(many, through).as_text()
    assert "Not complete: 1 page is not read yet." in text and "changed or taken out since" in text
    assert run(many, key).n_read == 1
    assert len(throughs.load(many, key).covered.pages) == before
    assert "Complete: every page in scope was read." in throughs.statement(many, throughs.load(many, key)).as_text()


def test_a_model_reads_what_is_not_certainly_silent_or_everything(make_engine, folder):
    model = ReadingModel()
    model.says_yes = {"humidity": 0.99}
    engine = make_engine("read.redlantern", language_model=model)
    engine.collection.claim_writing()
    add_letters(folder, 10)
    engine.update([folder], report=silent, cancel=Cancel())
    reads = []
    first_words = model.first_words

    def noted(system, user, cancel):
        reads.append(user)
        return {"Yes": 0.97, "No": 0.03} if "humidity was" in user else {"Yes": 0.02, "No": 0.98}

    model.first_words = noted
    wish = PageWish(QUESTION, counts="a page that tells of wet air")
    key = throughs.begin(engine, PageWish(wish.question, wish.counts, way="all"))
    run(engine, key)
    through = throughs.load(engine, key)
    assert len(reads) == through.covered.n_pages
    assert all("What counts: a page that tells of wet air" in user for user in reads)
    states = {each.document.path: each.pages[0].state for each in through.covered.documents}
    assert states["letter-005.txt"] == "hit" and states["letter-001.txt"] == "silent"
    reads.clear()
    run(engine, throughs.begin(engine, PageWish(QUESTION, way="read")))
    assert 0 < len(reads) < through.covered.n_pages
    model.first_words = first_words


def test_a_question_goes_first_and_the_page_is_read_again(make_engine, folder):
    model = ReadingModel()
    engine = make_engine("first.redlantern", language_model=model)
    engine.collection.claim_writing()
    engine.update([folder], report=silent, cancel=Cancel())
    reading, dropped = threading.Event(), []

    def slow(system, user, cancel):
        reading.set()
        if not dropped:
            if cancel._event.wait(10):
                dropped.append(user)
            cancel.check()
        return {"Yes": 0.9, "No": 0.1}

    model.first_words = slow
    key = throughs.begin(engine, PageWish(QUESTION, way="all"))
    thread = threading.Thread(target=lambda: run(engine, key))
    thread.start()
    assert reading.wait(10)
    *_, done = engine.ask(Question("What does a new key cost?", lines_only=True), Cancel())
    assert done.sheet.found_lines and dropped
    thread.join(20)
    assert throughs.load(engine, key).covered.n_unread == 0


def test_without_a_model_that_reads_it_says_so_and_one_that_was_deleted_says_so(many):
    key = throughs.begin(many, PageWish(QUESTION, way="read"))
    with pytest.raises(NoReaderError, match="Models room"):
        run(many, key)
    throughs.delete(many, key)
    with pytest.raises(ReadThroughGoneError):
        run(many, key)
    with pytest.raises(throughs.EmptyWishError):
        throughs.begin(many, PageWish(" ? "))
    with pytest.raises(throughs.NoPagesInScopeError):
        throughs.begin(many, PageWish(QUESTION, paths=()))


def test_what_was_judged_stays_when_pages_are_read_again_by_an_example(many):
    key = throughs.begin(many, PageWish(QUESTION))
    run(many, key)
    pages = throughs.load(many, key).covered.pages
    rejected, example = pages[0], pages[3]
    throughs.judge(many, key, rejected.place, "rejected", "not this one")
    throughs.add_example(many, key, Example(example.words[0].text, True, example.place[0]))
    through = throughs.load(many, key)
    assert through.covered.n_unread == through.covered.n_pages - 1
    run(many, key)
    through = throughs.load(many, key)
    kept = next(page for page in through.covered.pages if page.place == rejected.place)
    assert (kept.judged, kept.note) == ("rejected", "not this one")
    assert through.wish.examples[0].text == example.words[0].text


def test_erasing_a_document_takes_its_pages_and_examples(many):
    key = throughs.begin(many, PageWish(QUESTION))
    run(many, key)
    document = next(each for each in many.collection.documents() if each.path == "letter-005.txt")
    throughs.add_example(many, key, Example("The humidity was looked at on day 5.", True, document.key))
    assert many.collection.read_throughs.hold_words_of({document.key})
    erase_documents(many.collection, [document])
    assert not many.collection.read_throughs.hold_words_of({document.key})
    assert remnants(many.collection, {document.key}) == []
    assert all(place[0] != document.key for place in many.collection.read_throughs.places(key))


_KILLED = """
import sys
from pathlib import Path
from redlantern.safety import seal
seal.put_on()
from redlantern.answering.engine import Engine
from redlantern.application import read_through as throughs
from redlantern.collection.store import Collection
from redlantern.progress import Cancel
from tests.conftest import SmallEmbedder
import redlantern.readthrough.going as going
going._KEPT_TOGETHER = 3
collection = Collection.open(Path(sys.argv[1]))
engine = Engine(collection, SmallEmbedder(), None)
print("begins", flush=True)
throughs.go_on(engine, int(sys.argv[2]), report=lambda progress: print(progress.done, flush=True), cancel=Cancel())
print("whole", flush=True)
"""


def test_killed_at_random_moments_it_goes_on_with_nothing_read_twice_or_lost(many, tmp_path, is_long):
    """Real processes are killed while they read; slow, for each of them starts anew: 100 of them in the long tests."""
    key = throughs.begin(many, PageWish(QUESTION))
    path, collection = many.collection.path, many.collection
    chance, n_kills, n_killed = random.Random(5), 100 if is_long else 4, 0
    read_at: dict[tuple[str, int], str] = {}
    while n_killed < n_kills:
        command = [sys.executable, "-c", _KILLED, str(path), str(key)]
        with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, cwd=Path(__file__).parents[2]) as process:
            assert process.stdout is not None
            assert process.stdout.readline() == "begins\n"
            # Somewhere within the pages that it reads, or between.
            for _ in range(chance.randrange(0, 6)):
                process.stdout.readline()
            time.sleep(chance.random() * 0.004)
            process.send_signal(signal.SIGKILL)
        n_killed += 1
        now = {
            (page.document_key, page.page_number): json.dumps([page.read_at, page.finding])
            for page in collection.read_throughs.pages(key)
        }
        # What was kept before is still there and was not read again.
        assert all(now[place] == before for place, before in read_at.items())
        read_at = now
        if len(now) == throughs.load(many, key).covered.n_pages:
            key, read_at = throughs.begin(many, PageWish(QUESTION)), {}
    gone = run(many, key)
    through = throughs.load(many, key)
    assert gone.n_read == through.covered.n_pages - len(read_at)
    assert through.covered.n_unread == 0


def test_read_more_carefully_keeps_what_was_judged_and_reads_the_rest_with_a_model(make_engine, folder):
    model = ReadingModel()
    engine = make_engine("more.redlantern", language_model=model)
    engine.collection.claim_writing()
    add_letters(folder, 6)
    engine.update([folder], report=silent, cancel=Cancel())
    key = throughs.begin(engine, PageWish(QUESTION))
    run(engine, key)
    first = throughs.load(engine, key).covered.pages[0]
    throughs.judge(engine, key, first.place, "accepted")
    throughs.read_more(engine, key, "all")
    run(engine, key)
    through = throughs.load(engine, key)
    how = {page.place: page.how for page in through.covered.pages}
    assert how.pop(first.place) == "by its lines"
    assert set(how.values()) == {"read by the language model"}
    assert (
        "read all" in throughs.statement(engine, through).as_text()
        and model.name in throughs.statement(engine, through).as_text()
    )
    assert throughs.outlook(engine, through.wish).seconds > throughs.outlook(engine, PageWish(QUESTION)).seconds
