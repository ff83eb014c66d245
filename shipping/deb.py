# SPDX-License-Identifier: GPL-3.0-or-later
"""Makes a Debian package of everything but the models: `./run deb [FOLDER]`.

The package holds the program with the Python packages it was tested with, in an
environment of its own under /usr/lib/redlantern, so that installing it fetches
nothing. Models come in with `redlantern models add FOLDER`, or with ./run setup.
"""

import argparse
import email.utils
import gzip
import os
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from importlib.metadata import distribution
from pathlib import Path

from redlantern import __version__
from redlantern.models.kernels import KERNEL_SETS
from shipping.icons import NAME, write_icons

ROOT = Path(__file__).parent.parent
HERE = Path(__file__).parent
_HOME = Path("usr/lib/redlantern")
_SITE = _HOME / f"lib/python3.{sys.version_info.minor}/site-packages"
_MAINTAINER = "The makers of Red Lantern <makers@redlantern.invalid>"
_DEPENDS = (
    f"python3 (>= 3.{sys.version_info.minor}), python3 (<< 3.{sys.version_info.minor + 1}), libc6, libstdc++6, libgcc-s1, zlib1g, "
    "libseccomp2, libegl1, libgl1, libfontconfig1, libfreetype6, libdbus-1-3, libglib2.0-0, libx11-6, libx11-xcb1, "
    "libxkbcommon0, libxkbcommon-x11-0, libxcb1, libxcb-cursor0, libxcb-icccm4, libxcb-image0, libxcb-keysyms1, "
    "libxcb-randr0, libxcb-render-util0, libxcb-shape0, libxcb-xinerama0, libxcb-xkb1, libpango-1.0-0, libpangoft2-1.0-0, "
    "libharfbuzz-subset0, tesseract-ocr, tesseract-ocr-eng"
)
_CONTROL = """Package: redlantern
Version: {version}
Section: text
Priority: optional
Architecture: {architecture}
Installed-Size: {kilobytes}
Depends: {depends}
Recommends: tesseract-ocr-deu
Maintainer: {maintainer}
Description: questions to a private collection of documents, offline
 Red Lantern reads a folder of documents on one machine, indexes it with small
 local models, and answers questions with cited passages. The kernel refuses it
 every network socket; collections are encrypted; every sentence of an answer
 leads to the line it stands on.
 .
 This package holds everything but the models; add them from a folder with
 "redlantern models add".
"""
_COPYRIGHT = """Format: https://www.debian.org/doc/packaging-manuals/copyright-format/1.0/
Upstream-Name: redlantern
Comment: What it is made with, with licences and origin, stands in third-party.md.gz beside this file.

Files: *
Copyright: 2026 the makers of Red Lantern
License: GPL-3+
 This program is free software: you can redistribute it and/or modify it under
 the terms of the GNU General Public License as published by the Free Software
 Foundation, either version 3 of the License, or (at your option) any later
 version.
 .
 On Debian systems the full text of the licence is in
 /usr/share/common-licenses/GPL-3.
"""
_OVERRIDDEN = (
    "embedded-library", "custom-library-search-path", "shared-library-lacks-prerequisites", "unstripped-binary-or-object",
    "missing-dependency-on-libc", "library-not-linked-against-libc", "binary-compiled-with-profiling-enabled", "unstripped-static-library",
)  # fmt: skip
"""What lintian calls an error in any package that brings its Python packages' own libraries along, as this one means to."""
_LEFT_OUT = re.compile(r"(?:^|/)(?:__pycache__|tests?|testing/data)/|\.pyc$|\.pyi$|\.a$")


def required() -> list[str]:
    """The names of the packages that it runs with."""
    lines = (ROOT / "requirements.txt").read_text(encoding="utf-8").splitlines()
    found = [re.match(r"([A-Za-z0-9][A-Za-z0-9._-]*)==", line) for line in lines]
    return [match.group(1) for match in found if match is not None and match.group(1) != "setuptools"]


def files_of(name: str) -> Iterator[tuple[Path, Path]]:
    """The files of an installed package: where each is, and where it stands below site-packages."""
    found = distribution(name)
    for entry in found.files or ():
        inner = entry.as_posix()
        # Commands of packages lie outside; none of them is ours.
        if not inner.startswith("..") and not _LEFT_OUT.search(inner):
            place = Path(str(found.locate_file(entry)))
            if place.is_file():
                yield place, Path(inner)


def fill(root: Path) -> None:
    """Lay out the package's files below a folder."""
    site = root / _SITE
    for name in required():
        for place, inner in files_of(name):
            _copy(place, site / inner)
    for place in sorted((ROOT / "src" / "redlantern").rglob("*")):
        inner = place.relative_to(ROOT / "src")
        if place.is_file() and not _LEFT_OUT.search(inner.as_posix()):
            _copy(place, site / inner)
    environment = root / _HOME
    (environment / "bin").mkdir(parents=True)
    (environment / "bin" / "python3").symlink_to("/usr/bin/python3")
    (environment / "pyvenv.cfg").write_text(
        f"home = /usr/bin\ninclude-system-site-packages = false\nversion = 3.{sys.version_info.minor}\n",
        encoding="ascii",
    )
    command = environment / "bin" / "redlantern"
    command.write_text(f'#!/bin/sh\nexec /{_HOME}/bin/python3 -I -m redlantern "$@"\n', encoding="ascii")
    (root / "usr" / "bin").mkdir(parents=True)
    (root / "usr" / "bin" / "redlantern").symlink_to("../lib/redlantern/bin/redlantern")
    demo = environment / "share" / "redlantern" / "demo"
    shutil.copytree(ROOT / "demo" / "documents", demo / "documents")
    _copy(ROOT / "demo" / "questions.jsonl", demo / "questions.jsonl")
    for folder in ("guide", "screenshots"):
        shutil.copytree(ROOT / "docs" / folder, demo.parent / folder)
    for one in (kernels for kernels in KERNEL_SETS if kernels.is_there):
        shutil.copytree(one.place, environment / one.place.relative_to(sys.prefix))
    _desktop(root / "usr" / "share")


def _desktop(share: Path) -> None:
    """Launcher, icons, pages."""
    for source, target in {
        f"{NAME}.desktop": f"applications/{NAME}.desktop",
        f"{NAME}.metainfo.xml": f"metainfo/{NAME}.metainfo.xml",
        f"{NAME}.mime.xml": f"mime/packages/{NAME}.xml",
        "redlantern.bash": "bash-completion/completions/redlantern",
    }.items():
        _copy(HERE / source, share / target)
    write_icons(share / "icons" / "hicolor")
    _zipped((HERE / "redlantern.1").read_bytes(), share / "man" / "man1" / "redlantern.1.gz")
    documents = share / "doc" / "redlantern"
    _zipped((ROOT / "docs" / "third-party.md").read_bytes(), documents / "third-party.md.gz")
    dated = email.utils.formatdate(int(os.environ.get("SOURCE_DATE_EPOCH", (ROOT / "CHANGELOG.md").stat().st_mtime)))
    changes = f"redlantern ({__version__}) unstable; urgency=medium\n\n  * See CHANGELOG.md of the project.\n\n -- {_MAINTAINER}  {dated}\n"
    _zipped(changes.encode(), documents / "changelog.gz")
    (documents / "copyright").write_text(_COPYRIGHT, encoding="utf-8")
    overrides = share / "lintian" / "overrides" / "redlantern"
    overrides.parent.mkdir(parents=True)
    overrides.write_text("".join(f"redlantern: {tag}\n" for tag in _OVERRIDDEN), encoding="ascii")


def make(target: Path) -> Path:
    """Make the package in a folder; gives its file.

    Raises
    ------
    subprocess.CalledProcessError, FileNotFoundError
        If dpkg-deb is not there, or fails.
    """
    architecture = subprocess.run(
        ["dpkg", "--print-architecture"], capture_output=True, text=True, check=True
    ).stdout.strip()
    target.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=target) as folder:
        root = Path(folder) / "redlantern"
        fill(root)
        _set_modes(root)
        kilobytes = sum(path.lstat().st_size for path in root.rglob("*") if not path.is_dir()) // 1024
        control = root / "DEBIAN" / "control"
        control.parent.mkdir(mode=0o755)
        control.write_text(
            _CONTROL.format(
                version=__version__, architecture=architecture, kilobytes=kilobytes, depends=_DEPENDS, maintainer=_MAINTAINER
            ),
            encoding="utf-8",
        )  # fmt: skip
        control.chmod(0o644)
        made = target / f"redlantern_{__version__}_{architecture}.deb"
        subprocess.run(
            ["dpkg-deb", "--root-owner-group", "-Zxz", "-z1", "--build", str(root), str(made)],
            check=True,
            stdout=sys.stderr,
        )
    return made


def _copy(source: Path, target: Path) -> None:
    target.parent.mkdir(parents=True, exist_ok=True)
    shutil.copyfile(source, target)


def _zipped(content: bytes, target: Path) -> None:
    target.parent.mkdir(parents=True, exist_ok=True)
    target.write_bytes(gzip.compress(content, 9, mtime=0))


def _set_modes(root: Path) -> None:
    """Files for all to read, folders for all to enter, and the command for all to run."""
    for path in (root, *root.rglob("*")):
        if not path.is_symlink():
            path.chmod(0o755 if path.is_dir() or path == root / _HOME / "bin" / "redlantern" else 0o644)


def main() -> int:
    """Make it."""
    parser = argparse.ArgumentParser(
        prog="./run deb", description="Makes a Debian package of everything but the models."
    )
    parser.add_argument("folder", type=Path, nargs="?", default=ROOT / "build" / "deb", metavar="FOLDER")
    print(make(parser.parse_args().folder))
    return 0


if __name__ == "__main__":
    sys.exit(main())
