# SPDX-License-Identifier: GPL-3.0-or-later
"""Building kernels: of the runtime's source alone what is needed, whole or not at all, and checked before they are used."""

import ctypes
import os
import shutil
import signal
import subprocess
import sys
import tarfile
import time
from pathlib import Path

import pytest
from weights.fetch import NotFetchedError

from redlantern.models import kernels as sets
from redlantern.models.kernels import KERNEL_SETS, LIBRARIES, usable_kernels
from tests.weights.standin_source import FILES, packed_from
from weights import kernels

ROOT = Path(__file__).parents[2]
BUILT = usable_kernels()
needs_compiler = pytest.mark.skipif(
    not shutil.which("g++") or not (Path(sys.executable).parent / "cmake").exists(), reason="nothing to compile with"
)


@pytest.fixture
def source(tmp_path, monkeypatch):
    """Stands in for the runtime's source: gives what its kernels' folder holds, by name."""
    monkeypatch.setattr(sets.sys, "prefix", str(tmp_path / "prefix"))
    files = dict(FILES)
    monkeypatch.setattr(kernels, "download", packed_from(files))
    return files


def test_only_the_kernels_folder_is_unpacked_and_nothing_beyond_it(tmp_path, source):
    source["../../../../outside"] = "x"
    archive = kernels.download("xllamacpp== --hash=sha256:", "", tmp_path, is_source=True)
    with pytest.raises(tarfile.OutsideDestinationError):
        kernels._unpacked(archive, tmp_path / "source")
    assert not (tmp_path / "outside").exists() and not (tmp_path / "source" / "setup.py").exists()


@needs_compiler
def test_a_set_is_built_whole_and_nothing_else_stays(source):
    # What a set-up left that was killed goes.
    left = KERNEL_SETS[0].place.parent / ".building-before" / "source"
    left.mkdir(parents=True)
    kernels.build([KERNEL_SETS[0]])
    assert KERNEL_SETS[0].is_there
    assert sorted(one.name for one in KERNEL_SETS[0].place.parent.iterdir()) == [".lock", KERNEL_SETS[0].word]
    assert sorted(one.name for one in KERNEL_SETS[0].place.iterdir()) == sorted(LIBRARIES)
    # What is there is not built again.
    source.clear()
    kernels.build([KERNEL_SETS[0]])


def started(prefix):
    return subprocess.Popen(
        [sys.executable, "-m", "tests.weights.standin_source", str(prefix)], cwd=ROOT, stderr=subprocess.PIPE, text=True,
        start_new_session=True,
    )  # fmt: skip


@needs_compiler
def test_killed_at_any_moment_a_set_is_whole_or_not_there_and_the_next_time_goes_well(tmp_path, monkeypatch):
    prefix = tmp_path / "prefix"
    monkeypatch.setattr(sets.sys, "prefix", str(prefix))
    for seconds in (0.4, 0.7, 0.9, 1.1, 1.3, 1.5):
        process = started(prefix)
        time.sleep(seconds)
        os.killpg(process.pid, signal.SIGKILL)
        process.communicate()
        # Of two libraries the second needs the first.
        loaded = [
            ctypes.CDLL(str(KERNEL_SETS[0].place / name), mode=os.RTLD_GLOBAL)
            for name in LIBRARIES
            if KERNEL_SETS[0].is_there
        ]
        assert not KERNEL_SETS[0].place.exists() or loaded[1].cpu() == 1
    last = started(prefix)
    last.communicate(timeout=60)
    assert last.returncode == 0
    assert KERNEL_SETS[0].is_there and not [*KERNEL_SETS[0].place.parent.glob(".building-*")]


@needs_compiler
def test_of_two_set_ups_at_once_one_builds_and_the_other_finds_it(tmp_path):
    both = [started(tmp_path), started(tmp_path)]
    said = [process.communicate(timeout=60)[1] for process in both]
    assert [process.returncode for process in both] == [0, 0]
    assert sum("building" in words for words in said) == 1


@needs_compiler
def test_what_cannot_be_built_is_said_and_leaves_nothing(source, monkeypatch, capsys):
    source["cpu.c"] = "no C\n"
    with pytest.raises(NotFetchedError, match="could not be built"):
        kernels.build([KERNEL_SETS[0]])
    assert [one.name for one in KERNEL_SETS[0].place.parent.iterdir()] == [".lock"]
    monkeypatch.setattr(kernels, "fitting_kernels", lambda: KERNEL_SETS[0])
    monkeypatch.setattr(sys, "argv", ["weights.kernels"])
    assert kernels.main() == 1
    assert "slower" in capsys.readouterr().err


@needs_compiler
def test_kernels_that_compute_otherwise_are_removed(source, monkeypatch, capsys):
    monkeypatch.setattr(kernels, "fitting_kernels", lambda: KERNEL_SETS[0])
    monkeypatch.setattr(kernels, "LIGHT_READER", type("There", (), {"place": Path(__file__)}))
    monkeypatch.setattr(kernels, "agree", lambda one: False)
    monkeypatch.setattr(sys, "argv", ["weights.kernels"])
    assert kernels.main() == 0
    assert not KERNEL_SETS[0].place.exists() and "removed" in capsys.readouterr().err


@pytest.mark.skipif(BUILT is None, reason="no set of kernels fits this processor, or none could be built")
def test_those_that_were_built_agree_with_the_runtimes_own_and_others_do_not(tmp_path, monkeypatch):
    assert kernels.agree(BUILT)
    asked = iter([{"Yes": 0.9, "No": 0.1}, {"Yes": 0.2, "No": 0.8}])
    monkeypatch.setattr(kernels.HostedModel, "first_words", lambda *words: next(asked))
    assert not kernels.agree(BUILT)
