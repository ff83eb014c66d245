# SPDX-License-Identifier: GPL-3.0-or-later
import threading

import pytest

from redlantern.models.preloading import Preloaded


def test_a_model_is_made_at_once_and_given_when_asked_for():
    begun, may_end = threading.Event(), threading.Event()

    def make():
        begun.set()
        may_end.wait(5)
        return object()

    preloaded = Preloaded(make)
    assert begun.wait(5)
    may_end.set()
    first = preloaded()
    # A second collection gets a model of its own.
    assert preloaded() is not first


def test_what_went_wrong_is_told_to_who_asks():
    def make():
        raise ValueError("the file is broken")

    with pytest.raises(ValueError, match="broken"):
        Preloaded(make)()
