# SPDX-License-Identifier: GPL-3.0-or-later
"""What the kernel tells of memory and processor."""

import os
import time

from redlantern.models import machine


def test_a_process_that_works_uses_memory_and_processor():
    before = machine.processor_seconds(os.getpid())
    held = bytearray(os.urandom(1024)) * 20_000
    until = time.process_time() + 0.1
    while time.process_time() < until:
        pass
    assert machine.processor_seconds(os.getpid()) > before
    assert machine.resident_bytes(os.getpid()) > len(held)
    assert machine.free_bytes() > 0


def test_a_process_that_is_gone_uses_nothing():
    gone = 2**22 + 1
    assert (machine.resident_bytes(gone), machine.processor_seconds(gone)) == (0, 0.0)
