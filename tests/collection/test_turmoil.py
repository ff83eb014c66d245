# SPDX-License-Identifier: GPL-3.0-or-later
"""A real process is killed at random moments of everything it does to a collection."""

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]


@pytest.mark.parametrize("seed", [1, pytest.param(2, marks=pytest.mark.long), pytest.param(3, marks=pytest.mark.long)])
def test_killed_at_any_moment_it_opens_whole_and_goes_on(tmp_path, seed, is_long):
    """A hundred kills after some tenths of a second each; with --long a thousand in three runs."""
    rounds = {1: 400, 2: 300, 3: 300}[seed] if is_long else 100
    done = subprocess.run(
        [sys.executable, "-m", "tests.collection.turmoil", str(tmp_path), str(rounds), str(seed)],
        capture_output=True, text=True, check=False, cwd=ROOT, env=os.environ | {"PYTHONPATH": str(ROOT)}, timeout=1500,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    told = json.loads(done.stdout)
    assert told["faults"] == []
    # The kills must have come in the midst of different things, or they prove little.
    assert len(told["hit"]) >= 4
    assert told["kept"] > rounds
