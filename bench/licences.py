# SPDX-License-Identifier: GPL-3.0-or-later
"""Writes docs/third-party.md, and the copy that the program shows: what Red Lantern is made with, under which licences, from where.

Run by `./run licences`, after set-up: what is listed is what is installed.
"""

import re
import sys
from importlib.metadata import PackageNotFoundError, distribution
from pathlib import Path
from typing import Any

from redlantern.models.register import EMBEDDINGS, READERS

ROOT = Path(__file__).parent.parent
TARGETS = (ROOT / "docs" / "third-party.md", ROOT / "src" / "redlantern" / "desktop" / "third-party.md")
_HEAD = """# What Red Lantern is made with

Red Lantern is free software under the GNU General Public License, version 3 or later (see LICENSE): PyQt6, with which its window is
made, is under that licence. This list is made by `./run licences` from what is installed.

## Packages

| package | version | licence | origin |
|---|---|---|---|
"""
_FONTS = """
## Fonts

| font | licence | origin |
|---|---|---|
| Source Sans Pro | SIL Open Font License 1.1 (OFL-SourceSansPro.txt) | Adobe, by Paul D. Hunt |
| Source Serif Pro | SIL Open Font License 1.1 (OFL-SourceSerifPro.txt) | Adobe, by Frank Grießhammer |

## Models

| model | licence | file |
|---|---|---|
"""
_SYSTEM = """
## From Debian

| package | licence |
|---|---|
| libseccomp2 | LGPL-2.1-only |
| libpango-1.0-0, libpangoft2-1.0-0 (with HarfBuzz) | LGPL-2.0-or-later; MIT |
| tesseract-ocr, tesseract-ocr-eng and the languages that are installed | Apache-2.0 |
| Qt's system libraries (libxcb, libxkbcommon, libegl, libfontconfig, libdbus) | MIT, and as their packages say |
"""
_LONGEST = 60
_ORIGINS = ("source", "source code", "repository", "github", "homepage", "home", "documentation")
_STATED_ELSEWHERE = {"sqlcipher3": "Zlib"}
"""What a package says of its licence in a file of its own, and not in its metadata."""
_SPDX = {"apache-2.0": "Apache-2.0", "mit": "MIT"}


def third_party() -> str:
    """The whole list as Markdown."""
    rows = [_row(name) for name in package_names()]
    models = [
        f"| {part.name} | {_SPDX[part.licence]} | SHA-256 `{part.weights.sha256[:20]}...` |"
        for part in dict.fromkeys(part for parts in EMBEDDINGS.values() for part in parts)
    ]
    models += [f"| {reader.name} | Apache-2.0 | SHA-256 `{reader.sha256[:20]}...` |" for reader in READERS]
    return _HEAD + "\n".join(rows) + "\n" + _FONTS + "\n".join(models) + "\n" + _SYSTEM


def package_names() -> list[str]:
    """The packages that the application needs to run, in order."""
    text = (ROOT / "requirements.txt").read_text(encoding="utf-8")
    return re.findall(r"^([A-Za-z0-9._-]+)==", text, re.MULTILINE)


def _row(name: str) -> str:
    try:
        found: Any = distribution(name).metadata
    except PackageNotFoundError:
        return f"| {name} | not installed | | |"
    licence = found.get("License-Expression") or _by_classifier(found.get_all("Classifier") or [])
    licence = licence or _STATED_ELSEWHERE.get(name) or (found.get("License") or "not stated").split("\n")[0][:_LONGEST]
    pages = {
        label.casefold(): page
        for label, _, page in (line.partition(", ") for line in found.get_all("Project-URL") or [])
    }
    page = next((pages[label] for label in _ORIGINS if label in pages), next(iter(pages.values()), ""))
    origin = found.get("Home-page") or page or (found.get("Author") or "").split(",")[0]
    return f"| {found['Name']} | {found['Version']} | {licence.replace('|', '/')} | {origin.replace('|', '/')} |"


def _by_classifier(classifiers: list[str]) -> str:
    found = [each.rpartition(" :: ")[2] for each in classifiers if each.startswith("License :: OSI Approved ::")]
    return ", ".join(found)


def main() -> int:
    """Write the list."""
    text = third_party()
    for target in TARGETS:
        target.write_text(text, encoding="utf-8")
        print(target.relative_to(ROOT))
    return 0


if __name__ == "__main__":
    sys.exit(main())
