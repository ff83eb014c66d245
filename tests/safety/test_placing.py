# SPDX-License-Identifier: GPL-3.0-or-later
"""A file that is written outside of a collection is there whole or not at all, also when its writer is killed."""

import os
import signal
import stat
import subprocess
import sys

import pytest

from redlantern.safety.placing import put_bytes, put_text

_KILLED = """
import os, signal, sys
from pathlib import Path
from redlantern.safety import placing
at = sys.argv[2]
def die(*_):
    os.kill(os.getpid(), signal.SIGKILL)
if at == "write":
    os.fsync = die
elif at == "name":
    Path.replace = die
else:
    placing.sync_folder = die
placing.put_text(Path(sys.argv[1]), "new words " * 50_000)
"""


@pytest.mark.parametrize(
    ("at", "expected"), [("write", "old words"), ("name", "old words"), ("folder", "new words " * 50_000)]
)
def test_killed_at_any_moment_the_old_or_the_new_file_is_there(tmp_path, at, expected):
    place = tmp_path / "settings.json"
    place.write_text("old words")
    done = subprocess.run([sys.executable, "-c", _KILLED, str(place), at], check=False, timeout=60)
    assert done.returncode == -signal.SIGKILL
    assert place.read_text() == expected


def test_what_cannot_be_written_leaves_nothing_and_what_was_there(tmp_path, monkeypatch):
    place = tmp_path / "settings.json"
    put_text(place, "old words")
    assert stat.S_IMODE(place.stat().st_mode) == 0o600

    def full(handle):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(OSError, match="No space left"):
        put_bytes(place, b"new")
    assert [one.name for one in tmp_path.iterdir()] == ["settings.json"] and place.read_text() == "old words"


def test_what_is_at_the_end_of_a_link_is_not_written_to(tmp_path):
    (tmp_path / "victim").write_text("mine")
    (tmp_path / "link").symlink_to(tmp_path / "victim")
    put_text(tmp_path / "link", "ours")
    assert (tmp_path / "victim").read_text() == "mine" and (tmp_path / "link").read_text() == "ours"
