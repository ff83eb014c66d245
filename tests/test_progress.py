import threading

import pytest

from redlantern.progress import Cancel, Cancelled, ComputeQueue


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
