# SPDX-License-Identifier: GPL-3.0-or-later
"""Packaged models from a folder: the right ones only, whole or not at all, also when killed."""

import dataclasses
import hashlib
import os
import signal
import subprocess
import sys
import time
from types import SimpleNamespace

import pytest

from redlantern.models import adding, register
from redlantern.models.adding import Added, ModelsNotAddedError, add_from, packaged_files
from redlantern.progress import Cancel, Cancelled, silent
from redlantern.safety.places import data_directory

GIVEN = {"light.gguf": b"light" * 100_000, "close.gguf": b"close" * 300_000}


@pytest.fixture
def two_models(tmp_path, monkeypatch):
    """Two models in place of the packaged ones, none of them here; gives a folder with both."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    monkeypatch.setattr(register.sys, "prefix", str(tmp_path / "prefix"))
    files = [
        dataclasses.replace(register.LIGHT_READER, file_name=name, sha256=hashlib.sha256(content).hexdigest())
        for name, content in GIVEN.items()
    ]
    monkeypatch.setattr(adding, "READERS", files)
    monkeypatch.setattr(adding, "EMBEDDINGS", {})
    folder = tmp_path / "stick"
    folder.mkdir()
    for name, content in GIVEN.items():
        (folder / name).write_bytes(content)
    return folder


def add(folder):
    return add_from(folder, report=silent, cancel=Cancel())


def kept():
    return sorted(path.name for path in (data_directory() / "models").iterdir() if path.name != ".lock")


def test_what_is_missing_is_added_and_then_found(two_models):
    assert add(two_models) == Added(("light.gguf", "close.gguf"), (), ())
    assert kept() == ["close.gguf", "light.gguf"]
    assert [each.found().read_bytes() for each in packaged_files()] == list(GIVEN.values())
    assert add(two_models) == Added((), ("light.gguf", "close.gguf"), ())


def test_what_the_folder_does_not_have_is_named(two_models):
    (two_models / "close.gguf").unlink()
    assert add(two_models) == Added(("light.gguf",), (), ("close.gguf",))


def test_a_file_that_is_another_is_not_taken(two_models):
    (two_models / "close.gguf").write_bytes(b"something else")
    with pytest.raises(ModelsNotAddedError, match="is not the file that was released"):
        add(two_models)
    assert kept() == ["light.gguf"]


def test_a_file_here_that_was_damaged_is_put_right(two_models):
    add(two_models)
    (data_directory() / "models" / "light.gguf").write_bytes(b"damaged")
    assert add(two_models).added == ("light.gguf",)


def test_a_full_disk_and_a_missing_folder_are_said(two_models, monkeypatch, tmp_path):
    with pytest.raises(ModelsNotAddedError, match="there is no folder"):
        add(tmp_path / "nowhere")
    monkeypatch.setattr(adding.shutil, "disk_usage", lambda _: SimpleNamespace(free=10))
    with pytest.raises(ModelsNotAddedError, match="the disk has no room"):
        add(two_models)
    assert kept() == []


def test_it_can_be_stopped(two_models):
    cancel = Cancel()
    with pytest.raises(Cancelled):
        add_from(two_models, report=lambda progress: cancel.now(), cancel=cancel)
    assert kept() == []


_KILLED = """
import dataclasses, sys
from pathlib import Path
from redlantern.models import adding, register
from redlantern.progress import Cancel, silent
register.sys.prefix = sys.argv[2]
adding.EMBEDDINGS = {}
adding.READERS = [dataclasses.replace(register.LIGHT_READER, file_name="big.gguf", sha256=sys.argv[3])]
print("begin", flush=True)
adding.add_from(Path(sys.argv[1]), report=silent, cancel=Cancel())
"""


@pytest.mark.parametrize("after_s", [0.0, 0.05, 0.15])
def test_killed_in_the_midst_it_leaves_no_half_file_under_the_name_and_the_next_time_goes_well(
    tmp_path, monkeypatch, after_s
):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    content = os.urandom(2**20) * 300
    (tmp_path / "big.gguf").write_bytes(content)
    sha256 = hashlib.sha256(content).hexdigest()
    words = [sys.executable, "-c", _KILLED, str(tmp_path), str(tmp_path / "prefix"), sha256]
    with subprocess.Popen(words, stdout=subprocess.PIPE, text=True) as process:
        assert process.stdout.readline() == "begin\n"
        time.sleep(after_s)
        process.send_signal(signal.SIGKILL)
    target = data_directory() / "models" / "big.gguf"
    assert not target.exists() or hashlib.sha256(target.read_bytes()).hexdigest() == sha256
    subprocess.run(words, check=True, capture_output=True, timeout=60)
    assert hashlib.sha256(target.read_bytes()).hexdigest() == sha256
    assert kept() == ["big.gguf"], "what the killed one had begun is gone"
