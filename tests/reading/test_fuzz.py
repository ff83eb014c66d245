# SPDX-License-Identifier: GPL-3.0-or-later
"""A coverage-guided run over every format and over readers' answers, of twenty minutes with --long."""

import importlib.util
import os
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
MINUTES = 20


@pytest.mark.long
def test_twenty_minutes_of_changed_files_find_nothing(tmp_path):
    if importlib.util.find_spec("atheris") is None:
        pytest.skip("atheris does not install for this Python")
    done = subprocess.run(
        [sys.executable, "-m", "tests.reading.fuzz", str(MINUTES * 60), str(tmp_path)], capture_output=True, check=False,
        cwd=ROOT, env=os.environ | {"PYTHONPATH": str(ROOT)}, timeout=MINUTES * 60 + 600,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr.decode(errors="replace")[-3000:]
