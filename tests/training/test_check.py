# SPDX-License-Identifier: GPL-3.0-or-later
"""A small run of every step of teaching; needs what requirements-train.txt lists, and the weights that it begins with."""

import importlib.util
import json
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]


@pytest.mark.long
def test_every_step_fits_the_next():
    """Takes a minute or two: real networks, on made-up pages."""
    if importlib.util.find_spec("torch") is None or not (ROOT / "build/training/base/model.safetensors").exists():
        pytest.skip("run ./run train first, which installs what teaching needs")
    done = subprocess.run(
        [sys.executable, "-m", "training.check"], cwd=ROOT, capture_output=True, text=True, timeout=600
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-2000:]
    said = json.loads(done.stdout.splitlines()[-1])
    assert said["losses"][-1] < said["losses"][0]
    assert said["losses of tuning"][-1] < said["losses of tuning"][0]
