# SPDX-License-Identifier: GPL-3.0-or-later
"""What happens when whoever is written to is gone: a process of ours, or the reader of what is printed."""

import os
import subprocess
import sys

_PEER_IS_GONE = """
import socket, sys
from redlantern.commands import line
from redlantern.errors import RedlanternError
class Gone(RedlanternError):
    def __str__(self):
        return "the other side is gone"
def write_to_nobody(arguments):
    mine, other = socket.socketpair()
    other.close()
    try:
        mine.sendall(b"a question")
    except OSError as failure:
        raise Gone from failure
line._dispatch = write_to_nobody
sys.exit(line.run(["seal-test"]))
"""

_PRINTS_MUCH = """
import sys
from redlantern.commands import line
def print_much(arguments):
    for number in range(100_000):
        print("a line of what was found", number)
    return 0
line._dispatch = print_much
sys.exit(line.run(["seal-test"]))
"""


def test_a_model_or_reader_that_went_away_is_told_and_does_not_end_the_program():
    done = subprocess.run([sys.executable, "-c", _PEER_IS_GONE], capture_output=True, text=True, check=False)
    assert (done.returncode, done.stderr) == (1, "redlantern: the other side is gone\n")


def test_output_that_nobody_reads_any_more_ends_the_command_without_a_word():
    reading, writing = os.pipe()
    process = subprocess.Popen([sys.executable, "-c", _PRINTS_MUCH], stdout=writing, stderr=subprocess.PIPE, text=True)
    os.close(writing)
    assert os.read(reading, 10) == b"a line of "
    os.close(reading)
    _, complaint = process.communicate(timeout=30)
    assert (process.returncode, complaint) == (1, "")
