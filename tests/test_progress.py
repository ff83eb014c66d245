# SPDX-License-Identifier: GPL-3.0-or-later
import threading

import pytest

from redlantern.locks import ComputeQueue
from redlantern.progress import Cancel, Cancelled


def test_cancel_calls_back_at_once_and_only_while_asked_to():
    cancel, called = Cancel(), []
    with cancel.calling(lambda: called.append("in")):
        cancel.now()
    assert called == ["in"]
    with cancel.calling(lambda: called.append("late")):
        assert called == ["in", "late"]
    with pytest.raises(Cancelled):
        cancel.check()


def test_a_callback_is_forgotten_after_its_body():
    cancel, called = Cancel(), []
    with cancel.calling(lambda: called.append(1)):
        pass
    cancel.now()
    assert called == []


def test_indexing_waits_while_a_question_is_worked_on():
    queue, passed = ComputeQueue(), threading.Event()

    def index() -> None:
        queue.wait_for_turn(Cancel())
        passed.set()

    with queue.question():
        thread = threading.Thread(target=index)
        thread.start()
        assert not passed.wait(0.05)
    assert passed.wait(5)
    thread.join()


def test_cancelling_ends_the_wait():
    queue, cancel = ComputeQueue(), Cancel()
    with queue.question():
        threading.Timer(0.05, cancel.now).start()
        with pytest.raises(Cancelled):
            queue.wait_for_turn(cancel)


def test_what_is_done_alone_waits_for_questions_and_they_for_it():
    queue, order = ComputeQueue(), []
    entered, may_leave = threading.Event(), threading.Event()

    def alone():
        with queue.alone():
            order.append("alone")
            entered.set()
            may_leave.wait(5)

    def ask():
        with queue.question():
            order.append("asked")

    with queue.question():
        exchange = threading.Thread(target=alone)
        exchange.start()
        exchange.join(0.1)
        assert order == []
    assert entered.wait(5)
    asking = threading.Thread(target=ask)
    asking.start()
    asking.join(0.1)
    assert order == ["alone"]
    may_leave.set()
    for one in (exchange, asking):
        one.join(5)
    assert order == ["alone", "asked"]
