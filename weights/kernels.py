# SPDX-License-Identifier: GPL-3.0-or-later
"""Builds the runtime's kernels for this processor: `python -m weights.kernels`, and for a package all sets: `--all`.

The source is the runtime's own, of the version and with the hash that
requirements.txt names; of it only the folder of the kernels is unpacked. What
was built is loaded and asked once before it gets its name: it must begin the
same answer as the runtime's own kernels. Without a compiler, or where anything
fails, the runtime's own kernels go on serving.
"""

import argparse
import fcntl
import os
import shutil
import subprocess
import sys
import tarfile
import tempfile
from collections.abc import Iterator
from pathlib import Path

from redlantern.models.hosted import HostedModel
from redlantern.models.kernels import KERNEL_SETS, LIBRARIES, RUNTIME, KernelSet, fitting_kernels
from redlantern.models.protocols import LanguageModelError
from redlantern.models.register import LIGHT_READER
from redlantern.progress import Cancel
from weights.fetch import NotFetchedError, check_room, download, requirements

ROOT = Path(__file__).parent.parent
_NAME = "The set of kernels for this processor"
_INNER = "thirdparty/llama.cpp/ggml"
_NEEDED_BYTES = 250 * 2**20
_QUESTION = "Answer with one word. The hall was opened in 1924 by the mayor.\n\nIs it stated who opened the hall?"
_LARGEST_DIFFERENCE = 0.1
"""Of the probabilities of a first word: sums in another order differ a little, wrong ones differ in everything."""


def build(wanted: list[KernelSet]) -> None:
    """Build sets of kernels and put them in their places; those that are there stay as they are.

    Raises
    ------
    NotFetchedError
        If the disk is short, the source cannot be had, or it cannot be built.
    """
    if all(kernels.is_there for kernels in wanted):
        return
    place = wanted[0].place.parent
    place.mkdir(parents=True, exist_ok=True)
    with (place / ".lock").open("w") as lock:
        # Of two set-ups at once the second waits, and finds what the first one made.
        fcntl.flock(lock, fcntl.LOCK_EX)
        for left in place.glob(".building-*"):
            shutil.rmtree(left)  # of a set-up that was killed
        missing = [kernels for kernels in wanted if not kernels.is_there]
        check_room(_NAME, place, _NEEDED_BYTES)
        with tempfile.TemporaryDirectory(dir=place, prefix=".building-") as name:
            _build_all(missing, Path(name))


def _build_all(missing: list[KernelSet], folder: Path) -> None:
    """Build sets in a folder, and move each to its place when it is whole."""
    source = _unpacked(download(_requirement(), _NAME, folder, is_source=True), folder / "source")
    for one in missing:
        print(f"{_NAME}: building {one.word}, about a minute ...", file=sys.stderr, flush=True)
        made = folder / one.word
        _compiled(one, source, folder / f"{one.word}-build", made)
        made.rename(one.place)


def _requirement() -> str:
    """The runtime's requirement, with its hashes."""
    return next(one for one in requirements(ROOT / "requirements.txt") if one.startswith(f"{RUNTIME}=="))


def _unpacked(archive: Path, target: Path) -> Path:
    """Unpack the kernels' folder of a source distribution; gives a folder that CMake builds."""

    def wanted(opened: tarfile.TarFile) -> Iterator[tarfile.TarInfo]:
        for member in opened:
            outer, _, inner = member.name.partition("/")
            if outer and inner.startswith(f"{_INNER}/"):
                member.name = inner.removeprefix(f"{_INNER}/")
                yield member

    with tarfile.open(archive) as opened:
        opened.extractall(target / "ggml", members=wanted(opened), filter="data")
    # By itself it would ask for files that the runtime's package leaves out.
    (target / "CMakeLists.txt").write_text(
        "cmake_minimum_required(VERSION 3.14)\nproject(kernels C CXX)\nadd_subdirectory(ggml)\n", encoding="ascii"
    )
    return target


def _compiled(one: KernelSet, source: Path, build_folder: Path, target: Path) -> None:
    """Compile one set into a folder of its own."""
    options = [
        "CMAKE_BUILD_TYPE=Release", "BUILD_SHARED_LIBS=ON", "GGML_NATIVE=OFF", "GGML_BUILD_TESTS=OFF", "GGML_BUILD_EXAMPLES=OFF",
        # As the runtime's package was compiled, so that all names agree.
        "CMAKE_CXX_FLAGS=-D_GLIBCXX_USE_CXX11_ABI=0", "CMAKE_SKIP_RPATH=ON",
        *(f"{option}=ON" for option in one.options),
    ]  # fmt: skip
    commands = Path(sys.executable).parent
    settings = [f"-D{option}" for option in options]
    ninja = f"-DCMAKE_MAKE_PROGRAM={commands / 'ninja'}"
    configure = ["-S", source, "-B", build_folder, "-G", "Ninja", ninja, *settings]
    compile_all = ["--build", build_folder, "--target", "ggml-cpu", "--parallel", str(os.cpu_count() or 1)]
    for words in (configure, compile_all):
        done = subprocess.run([commands / "cmake", *map(str, words)], capture_output=True, text=True, check=False)
        if done.returncode:
            said = (done.stderr.strip() or done.stdout.strip() or "it gave no reason").splitlines()
            raise NotFetchedError(_NAME, f"they could not be built ({said[-1].strip()})")
    target.mkdir()
    for name in LIBRARIES:
        # The name of a library is a link to the file with its version.
        [found] = [path for path in build_folder.rglob(name) if path.is_file()][:1]
        shutil.copyfile(found, target / name)


def agree(one: KernelSet) -> bool:
    """Whether the light reader begins the same answer with a set of kernels as with the runtime's own."""
    found = []
    for kernel_set in (None, one):
        model = HostedModel(LIGHT_READER.place)
        model.kernels = kernel_set
        try:
            first = model.first_words("", _QUESTION, Cancel())
        except LanguageModelError:
            return False
        finally:
            model.close()
        if kernel_set is not model.kernels or not first:
            return False
        found.append(first)
    plain, special = found
    likeliest = max(plain, key=plain.__getitem__)
    return abs(plain[likeliest] - special.get(likeliest, 0.0)) <= _LARGEST_DIFFERENCE


def main() -> int:
    """Build what fits this processor, or all sets. 1 where that failed: then the runtime's own kernels serve, slower."""
    parser = argparse.ArgumentParser(prog="python -m weights.kernels")
    parser.add_argument("--all", action="store_true", help="all sets, for a package that other machines install")
    fitting = fitting_kernels()
    wanted = list(KERNEL_SETS) if parser.parse_args().all else [fitting] if fitting is not None else []
    if os.uname().machine != "x86_64" or not wanted:
        return 0
    try:
        build(wanted)
    except NotFetchedError as failure:
        print(f"{failure}. The readers read without it, slower.", file=sys.stderr)
        return 1
    if fitting is not None and LIGHT_READER.place.is_file() and not agree(fitting):
        shutil.rmtree(fitting.place)
        print(f"{_NAME} computes otherwise than it should, so it was removed.", file=sys.stderr)
    return 0


if __name__ == "__main__":
    sys.exit(main())
