# SPDX-License-Identifier: GPL-3.0-or-later
"""What is written down of a bug of ours is its kind and its place in the program: never a word of a document, nor where it lies."""

import os
import stat
import subprocess
import sys
from pathlib import Path

from redlantern.safety import failures

SECRET = "The Builder claims 400 euros"


def broken(secret):
    held = f"{secret} in a local name"
    try:
        raise KeyError(held)
    except KeyError as failure:
        raise ValueError(f"cannot make sense of {held}") from failure


def failure_of(secret=SECRET):
    try:
        broken(secret)
    except ValueError as failure:
        return failure


def test_it_has_kinds_and_places_and_no_word(tmp_path):
    said = failures.something_went_wrong(failure_of())
    path = failures.log_path()
    assert said == (
        "Something went wrong in redlantern (ValueError). Nothing was lost; please report it. "
        f"What happened is written in {path}, without a word of your documents."
    )
    text = path.read_text()
    assert "builtins.ValueError" in text and "builtins.KeyError" in text
    assert "test_failures.py" in text and "in broken" in text
    for word in (*SECRET.split(), "local name", str(tmp_path), str(Path.cwd())):
        assert word not in text, word
    assert stat.S_IMODE(path.stat().st_mode) == 0o600
    assert stat.S_IMODE(path.parent.stat().st_mode) == 0o700


def test_our_own_code_is_named_by_its_place_in_the_package():
    from redlantern.safety import names

    try:
        names.visible(5)
    except TypeError as failure:
        assert "redlantern/safety/names.py:" in failures.in_our_words(failure)


def test_it_stays_small_however_much_goes_wrong(monkeypatch):
    monkeypatch.setattr(failures, "_MOST_BYTES", 4000)
    for _ in range(60):
        failures.note_failure(failure_of())
    files = list(failures.log_path().parent.iterdir())
    assert len(files) == 3 and all(one.stat().st_size < 6000 for one in files)


def test_where_it_cannot_be_written_the_failure_is_still_told(monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", "/proc/nothing")
    said = failures.something_went_wrong(failure_of())
    assert said == "Something went wrong in redlantern (ValueError). Nothing was lost; please report it."


def test_a_bug_of_a_command_is_written_down_and_told(tmp_path):
    code = (
        "import sys\nfrom redlantern.commands import line\n"
        "def broken(words):\n    raise RuntimeError('words of a document')\n"
        "line._dispatch = broken\nsys.exit(line.run(['seal-test']))"
    )
    environment = os.environ | {"XDG_STATE_HOME": str(tmp_path)}
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False, env=environment)
    assert done.returncode == 1
    assert f"What happened is written in {tmp_path}/redlantern/failures.log" in done.stderr
    text = (tmp_path / "redlantern" / "failures.log").read_text()
    assert "builtins.RuntimeError" in text and "words of a document" not in text + done.stderr
