# SPDX-License-Identifier: GPL-3.0-or-later
"""Fetches the open documents that retrieval is measured on, from Debian's packages, into build/open.

Run as `python -m bench.open_documents`. Nothing of the program does this: it
needs `apt-get` and a mirror, once. The documents have free licences (GFDL, or
CC-BY-SA and GPL) and are not kept in the repository; the questions are, in
bench/open.
"""

import contextlib
import gzip
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from redlantern.models.register import DEFAULT_EMBEDDING

ROOT = Path(__file__).parent.parent
FETCHED = ROOT / "build" / "open"
QUESTIONS = Path(__file__).parent / "open"


@dataclass(frozen=True)
class OpenCollection:
    """Documents of one Debian package: where they lie in it, and which files of that folder are taken."""

    name: str
    package: str
    folder: str
    patterns: tuple[str, ...]

    @property
    def documents(self) -> Path:
        """Where its documents are put."""
        return FETCHED / self.name

    def kept_index(self, embedding: str = DEFAULT_EMBEDDING) -> Path:
        """Where its index with a packaged embedding model is kept from one run to the next."""
        kept = FETCHED / f"{self.name}.{embedding}.index"
        kept.mkdir(parents=True, exist_ok=True)
        return kept

    @property
    def questions(self) -> Path:
        """Its questions with the right pages."""
        return QUESTIONS / f"{self.name}.jsonl"


HANDBOOK = OpenCollection("handbook", "debian-handbook", "usr/share/doc/debian-handbook/html/en-US", ("*.html",))
MEASURED = (
    OpenCollection(
        "accounts",
        "gnucash-docs",
        "usr/share/doc/gnucash-docs",
        ("gnucash-guide-en.pdf.gz", "gnucash-help-en.pdf.gz"),
    ),
    HANDBOOK,
)
"""Two manuals of different make: PDF of 583 pages, and HTML of over a hundred sections."""

TRANSLATIONS = {
    language: OpenCollection(
        f"handbook-{language}", "debian-handbook", f"usr/share/doc/debian-handbook/html/{folder}", ("*.html",)
    )
    for language, folder in (("de", "de-DE"), ("fr", "fr-FR"), ("es", "es-ES"))
}
"""The second one in other languages, with the same files."""

_CHAPTERS = (
    "tutorial runtime backup continuous auth client-auth user-manag role manag-ag charset collation multibyte maintenance"
    " routine high-avail warm hot-standby monitoring progress disk wal logical-rep indexes mvcc transaction explicit perf"
    " populate non-dur using-explain planner ddl ssl ssh encryption preventing server creating kernel upgrading logfile"
    " locale predefined database-roles perm-func two-phase applevel locking-indexes"
)
CHOSEN_ON = OpenCollection(
    "database",
    "postgresql-doc-15",
    "usr/share/doc/postgresql-doc-15/html",
    tuple(f"{chapter}*.html" for chapter in _CHAPTERS.split()),
)
"""What weights and methods were chosen on, and is never measured with: chapters of one more manual, 59 questions."""


@contextlib.contextmanager
def unpacked(package: str) -> Iterator[Path]:
    """A Debian package's files in a folder that is thrown away.

    Raises
    ------
    subprocess.CalledProcessError, FileNotFoundError
        If it cannot be had.
    """
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        subprocess.run(["apt-get", "-o", "APT::Sandbox::User=root", "download", "-qq", package], cwd=folder, check=True)
        [archive] = folder.glob("*.deb")
        subprocess.run(["dpkg-deb", "-x", archive, folder / "unpacked"], check=True)
        yield folder / "unpacked"


def fetch(collection: OpenCollection) -> None:
    """Put the documents of a collection in its folder; nothing to do when they are there."""
    if collection.documents.exists():
        return
    with unpacked(collection.package) as root:
        made = root.with_name("documents")
        made.mkdir()
        for pattern in collection.patterns:
            for path in sorted((root / collection.folder).glob(pattern)):
                if path.suffix == ".gz":
                    with gzip.open(path) as packed, (made / path.stem).open("wb") as plain:
                        shutil.copyfileobj(packed, plain)
                elif path.stat().st_size:
                    shutil.copyfile(path, made / path.name)
        collection.documents.parent.mkdir(parents=True, exist_ok=True)
        shutil.move(made, collection.documents)


def main() -> int:
    """Fetch what is missing."""
    for one in (*MEASURED, CHOSEN_ON, *TRANSLATIONS.values()):
        try:
            fetch(one)
        except (subprocess.CalledProcessError, FileNotFoundError) as failure:
            print(f"{one.package} could not be fetched ({failure}).", file=sys.stderr)
            return 1
        print(f"{one.name}: {sum(1 for _ in one.documents.iterdir())} files in {one.documents.relative_to(ROOT)}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
