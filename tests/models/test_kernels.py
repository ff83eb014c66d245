# SPDX-License-Identifier: GPL-3.0-or-later
"""Kernels for this processor: which set fits, and a host that goes on with the runtime's own where they cannot be run."""

import shutil
import subprocess
from dataclasses import replace
from pathlib import Path

import pytest

from redlantern.models import kernels
from redlantern.models.hosted import HostedModel
from redlantern.models.kernels import KERNEL_SETS, KERNELS_VARIABLE, LIBRARIES, PLAIN, fitting_kernels, usable_kernels
from redlantern.models.machine import processor_features
from redlantern.models.register import LIGHT_READER

ALL = frozenset().union(*(one.needs for one in KERNEL_SETS))
BUILT = usable_kernels()
LIGHT_PLACE = LIGHT_READER.place


@pytest.fixture
def prefix(tmp_path, monkeypatch):
    monkeypatch.setattr(kernels.sys, "prefix", str(tmp_path))
    return tmp_path


def put(one, prefix):
    one.place.mkdir(parents=True)
    for name in LIBRARIES:
        (one.place / name).write_bytes(b"")
    assert one.place.is_relative_to(prefix)


def test_the_fastest_set_is_taken_whose_every_instruction_the_processor_has():
    assert fitting_kernels(ALL) is KERNEL_SETS[0]
    assert fitting_kernels(frozenset()) is None
    for one in KERNEL_SETS:
        assert fitting_kernels(one.needs) is one
        for feature in one.needs:
            found = fitting_kernels(one.needs - {feature})
            assert found is None or feature not in found.needs


def test_a_set_is_used_only_when_it_was_built_whole_and_nobody_wished_otherwise(prefix, monkeypatch):
    monkeypatch.setattr(kernels, "processor_features", lambda: ALL)
    assert usable_kernels() is None
    put(KERNEL_SETS[0], prefix)
    assert usable_kernels() is KERNEL_SETS[0]
    monkeypatch.setenv(KERNELS_VARIABLE, PLAIN)
    assert usable_kernels() is None
    monkeypatch.delenv(KERNELS_VARIABLE)
    (KERNEL_SETS[0].place / LIBRARIES[1]).unlink()
    assert usable_kernels() is None


def test_kernels_of_another_version_of_the_runtime_are_never_taken(prefix, monkeypatch):
    put(KERNEL_SETS[0], prefix)
    monkeypatch.setattr(kernels.metadata, "version", lambda name: "2001.1.1")
    assert not KERNEL_SETS[0].is_there


def test_this_processor_says_what_it_can_do():
    assert "fpu" in processor_features()


@pytest.mark.skipif(BUILT is None, reason="no set of kernels fits this processor, or none could be built")
def test_the_host_loads_them_before_the_runtime_and_answers():
    model = HostedModel(LIGHT_READER.place)
    try:
        model.start()
        assert model.kernels is BUILT
        mapped = Path(f"/proc/{model.pid}/maps").read_text()
        assert all(str(BUILT.place / name) in mapped for name in LIBRARIES)
        assert model.count_tokens("The hall was opened in 1924.") > 5
    finally:
        model.close()


@pytest.mark.parametrize("broken", ["no library", "an instruction that there is not"])
def test_a_host_that_dies_of_its_kernels_starts_again_with_the_runtimes_own(prefix, broken):
    one = replace(KERNEL_SETS[0], word="broken")
    put(one, prefix)
    if broken != "no library":
        if shutil.which("gcc") is None:
            pytest.skip("there is no compiler")
        source = prefix / "dies.c"
        source.write_text("__attribute__((constructor)) static void dies(void) { __builtin_trap(); }\n")
        for name in LIBRARIES:
            subprocess.run(["gcc", "-shared", "-fPIC", "-o", one.place / name, source], check=True)
    model = HostedModel(LIGHT_PLACE)
    model.kernels = one
    try:
        model.start()
        assert model.kernels is None and model.n_starts == 1
        assert model.count_tokens("The hall was opened in 1924.") > 5
    finally:
        model.close()
