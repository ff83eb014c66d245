# SPDX-License-Identifier: GPL-3.0-or-later
"""The readers-writer lock, against a model of its states and with real threads."""

import threading
from collections import Counter

import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, invariant, precondition, rule

from redlantern.locks import ComputeQueue, ReadersWriterLock
from redlantern.progress import Cancel, Cancelled

WAIT_S = 10
N_THREADS = 3


class Person:
    """A thread that does one thing after another, as it is told; `is_waiting` while one of them is not done."""

    def __init__(self, lock):
        self.lock, self.held = lock, []
        self.begun, self.done, self.wish, self.failure = threading.Event(), threading.Event(), None, None
        self.is_waiting = False
        self.thread = threading.Thread(target=self.live, daemon=True)
        self.thread.start()

    def live(self):
        while True:
            self.begun.wait()
            self.begun.clear()
            if self.wish == "end":
                return
            try:
                if self.wish == "leave":
                    self.held.pop().__exit__(None, None, None)
                else:
                    context = getattr(self.lock, self.wish)()
                    context.__enter__()
                    self.held.append(context)
            except RuntimeError as failure:
                self.failure = failure
            self.done.set()

    def tell(self, wish):
        self.failure, self.wish, self.is_waiting = None, wish, True
        self.done.clear()
        self.begun.set()

    def look(self, seconds):
        if self.is_waiting and self.done.wait(seconds):
            self.is_waiting = False
        return not self.is_waiting


class LockMachine(RuleBasedStateMachine):
    """What each thread holds by the model: a stack of "shared" and "exclusive"; who waits, in the order of coming."""

    def __init__(self):
        super().__init__()
        self.lock = ReadersWriterLock()
        self.people = [Person(self.lock) for _ in range(N_THREADS)]
        self.stacks = [[] for _ in self.people]
        self.waiting = {}

    def teardown(self):
        # Whoever waits gets its turn when the others have left.
        for _ in range(N_THREADS * 20):
            for number, person in enumerate(self.people):
                if person.look(0.001) and person.held:
                    person.tell("leave")
                    person.look(WAIT_S)
                    assert not person.is_waiting, number
        for person in self.people:
            assert person.look(WAIT_S), "a thread waits for ever"
            person.tell("end")
            person.thread.join(WAIT_S)

    def owner(self):
        return next((number for number, stack in enumerate(self.stacks) if "exclusive" in stack), None)

    def sharing(self):
        return {number for number, stack in enumerate(self.stacks) if "shared" in stack}

    def writers(self):
        """Who waits to hold it alone, in the order of coming."""
        return [number for number, wish in self.waiting.items() if wish == "exclusive"]

    def may(self, number, wish):
        owner = self.owner()
        if owner == number:
            return True
        if wish == "shared":
            return bool(self.stacks[number]) or (owner is None and not self.writers())
        return owner is None and not self.sharing() and self.writers()[:1] in ([], [number])

    @rule(number=st.integers(0, N_THREADS - 1), wish=st.sampled_from(["shared", "exclusive"]))
    def take(self, number, wish):
        person = self.people[number]
        if person.is_waiting or len(self.stacks[number]) > 3:
            return
        is_upgrade = wish == "exclusive" and self.owner() != number and "shared" in self.stacks[number]
        person.tell(wish)
        if is_upgrade:
            assert person.look(WAIT_S)
            assert str(person.failure) == "a thread that shares a lock cannot hold it alone"
        elif self.may(number, wish):
            assert person.look(WAIT_S), f"{number} waits for {wish} in vain: {self.stacks}"
            self.stacks[number].append(wish)
        else:
            assert not person.look(0.01), f"{number} got {wish} beside {self.stacks}"
            self.waiting[number] = wish

    @precondition(lambda self: any(self.stacks))
    @rule(data=st.data())
    def leave(self, data):
        number = data.draw(st.sampled_from([number for number, stack in enumerate(self.stacks) if stack]))
        person = self.people[number]
        if person.is_waiting:
            return
        person.tell("leave")
        assert person.look(WAIT_S)
        self.stacks[number].pop()

    @invariant()
    def those_who_may_come_in_do(self):
        """After each step: let in by the model whoever must come in now, and see that the same have come in."""
        for _ in range(N_THREADS):
            ready = [number for number, wish in self.waiting.items() if self.may(number, wish)]
            if not ready:
                break
            for number in ready:
                assert self.people[number].look(WAIT_S), f"{number} of {ready} did not come in"
                self.stacks[number].append(self.waiting.pop(number))
        held = Counter(kind for stack in self.stacks for kind in set(stack))
        assert held["exclusive"] <= 1
        if held["exclusive"]:
            assert self.sharing() <= {self.owner()}


LockMachine.TestCase.settings = settings(max_examples=40, stateful_step_count=25, deadline=None)
TestLock = LockMachine.TestCase


def test_waiting_to_hold_it_alone_can_be_stopped():
    lock, cancel, told = ReadersWriterLock(), Cancel(), []

    def wait():
        with pytest.raises(Cancelled), lock.exclusive(cancel):
            told.append("held")
        told.append("stopped")

    with lock.shared():
        thread = threading.Thread(target=wait)
        thread.start()
        cancel.now()
        thread.join(WAIT_S)
    assert told == ["stopped"]
    with lock.exclusive(), lock.shared(), lock.exclusive():
        pass
    assert lock.n_sharing == 0


def test_a_share_that_ends_in_another_thread_is_given_up():
    lock = ReadersWriterLock()
    share = lock.shared()
    share.__enter__()
    thread = threading.Thread(target=share.__exit__, args=(None, None, None))
    thread.start()
    thread.join(WAIT_S)
    with lock.exclusive():
        pass


def test_a_trials_question_is_dropped_when_one_comes_that_somebody_waits_for_and_by_what_works_alone():
    queue, dropped = ComputeQueue(), []
    with queue.trial(lambda: dropped.append("first")):
        assert dropped == [] and queue.n_questions == 1
        with queue.question():
            assert dropped == ["first"]
            # One that begins while somebody waits is dropped at once.
            with queue.trial(lambda: dropped.append("second")):
                assert dropped == ["first", "second"]
        # Two trials do not disturb each other.
        with queue.trial(lambda: dropped.append("third")):
            assert dropped == ["first", "second"]
    with queue.trial(lambda: dropped.append("fourth")):
        pass
    with queue.alone():
        assert "fourth" not in dropped


def test_working_alone_waits_for_a_trial_that_it_told_to_drop():
    queue, began, done = ComputeQueue(), threading.Event(), []
    told = threading.Event()

    def trial():
        with queue.trial(told.set):
            began.set()
            told.wait(10)
            done.append("trial")

    worker = threading.Thread(target=trial)
    worker.start()
    began.wait(10)
    with queue.alone():
        done.append("alone")
    worker.join(10)
    assert done == ["trial", "alone"]
