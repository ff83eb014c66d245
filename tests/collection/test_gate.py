"""The gate of a collection file: readers wait while the file is replaced, and none of them sees half of it."""

import threading
import time

from redlantern.collection import upkeep
from redlantern.collection.gate import Gate
from redlantern.safety.keys import Holding

WAIT_S = 10


def test_one_who_holds_it_waits_for_those_inside_and_lets_none_in():
    gate, told = Gate(), []
    is_inside, may_leave, is_held, may_let_go = (threading.Event() for _ in range(4))

    def visit():
        with gate.inside(), gate.inside():
            is_inside.set()
            may_leave.wait(WAIT_S)
            told.append("left")

    def hold():
        is_inside.wait(WAIT_S)
        with gate.held(), gate.held(), gate.inside():
            told.append("held")
            is_held.set()
            may_let_go.wait(WAIT_S)
            told.append("let go")

    def come_later():
        is_held.wait(WAIT_S)
        may_let_go.set()
        with gate.inside():
            told.append("came")

    threads = [threading.Thread(target=one) for one in (visit, hold, come_later)]
    for one in threads:
        one.start()
    is_inside.wait(WAIT_S)
    may_leave.set()
    for one in threads:
        one.join(WAIT_S)
    assert told == ["left", "held", "let go", "came"]


def test_one_who_is_inside_may_hold_it():
    gate = Gate()
    with gate.inside(), gate.held(), gate.inside():
        pass
    with gate.held():
        pass


def test_pages_can_be_read_at_every_moment_of_a_change_of_keys_and_of_a_move(engine, tmp_path):
    collection = engine.collection
    [first, *_] = collection.documents()
    failures, n_read, ends = [], [0], threading.Event()

    def read():
        while not ends.is_set():
            try:
                assert collection.page(first.document_id, 1).text
                n_read[0] += 1
            except Exception as failure:
                failures.append(failure)
                return

    readers = [threading.Thread(target=read) for _ in range(3)]
    for one in readers:
        one.start()
    for number in range(4):
        upkeep.change_key(collection, Holding.FILE)
        upkeep.move(collection, tmp_path / f"moved-{number}.redlantern")
        time.sleep(0.02)
    ends.set()
    for one in readers:
        one.join(WAIT_S)
    assert not failures
    assert n_read[0] > 10
