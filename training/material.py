# SPDX-License-Identifier: GPL-3.0-or-later
"""Fetches the open texts that a judge is taught with, from Debian's packages, into build/training/material.

Run as `python -m training.material`. Nothing of the program does this: it needs
`apt-get` and a mirror, once. The texts have free licences and are not kept in
the repository. What is near to a collection that retrieval is measured on is
left out: see `overlap`.
"""

import gzip
import hashlib
import json
import re
import shutil
import subprocess
import sys
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path

from bench.open_documents import unpacked

ROOT = Path(__file__).parent.parent
FETCHED = ROOT / "build" / "training" / "material"
MEASURED = (ROOT / "build" / "open", ROOT / "demo" / "documents")
"""What is measured on: nothing of it, and nothing like it, may be taught."""
_ENDINGS = frozenset({".html", ".htm", ".pdf", ".txt", ".md", ".rst"})
_TEXT_NAMES = re.compile(
    r"^(?:README|NEWS|TODO|FAQ|HISTORY|INSTALL|AUTHORS|THANKS|HACKING|constitution|social-contract)", re.IGNORECASE
)
_MOST_BYTES = 4_000_000
_MOST_FILES = 300
_SHINGLE_WORDS = 8
_MOST_OVERLAP = 0.02
_TAG = re.compile(r"<[^>]*>")
_WORD = re.compile(r"[^\W\d_]+")


@dataclass(frozen=True)
class Source:
    """A Debian package, and the kind of text that it brings; `within` is a part that the paths of its files must have."""

    package: str
    kind: str
    within: str = "/usr/share/doc/"

    @property
    def folder(self) -> Path:
        """Where its files are put."""
        return FETCHED / self.package


_BY_KIND = {
    "policy": "debian-policy doc-debian live-manual-html maint-guide",
    "history": "debian-history jargon-text miscfiles",
    "question and answer": "debian-faq anarchism",
    "handbook": "aptitude-doc-en harden-doc debian-edu-doc-en installation-guide-amd64",
    "manual": (
        "lilypond-doc-html octave-doc maxima-doc sqlite3-doc bash-doc git-doc exim4-doc-html postfix-doc apache2-doc bind9-doc "
        "nut-doc bacula-doc borgbackup-doc icinga2-doc zsh-doc cmake-doc autoconf-doc flex-doc grass-doc vim-doc mutt ledger privoxy"
    ),
    "library": "python3.11-doc python-django-doc python-flask-doc tryton-server-doc",
    "notes": "mercurial-common subversion openssl gnupg squid-common lynx-common mariadb-server dovecot-core",
    "game": "nethack-common crawl-common",
}
SOURCES = tuple(Source(package, kind) for kind, packages in _BY_KIND.items() for package in packages.split())
"""Fifty packages, by kind."""


def shingles(text: str) -> Iterator[int]:
    """The hashes of every eight words of a text that follow on one another, as Broder (1997) compares documents."""
    words = [word.casefold() for word in _WORD.findall(_TAG.sub(" ", text))]
    for at in range(len(words) - _SHINGLE_WORDS + 1):
        yield hash(tuple(words[at : at + _SHINGLE_WORDS]))


def overlap(text: str, measured: frozenset[int]) -> float:
    """The share of a text's shingles that the measured collections have, too; 0 for a text of fewer than eight words."""
    own = set(shingles(text))
    return len(own & measured) / len(own) if own else 0.0


def measured_shingles(folders: Iterable[Path] = MEASURED) -> frozenset[int]:
    """The shingles of everything that is measured on and can be read as text; PDFs by their words."""
    found: set[int] = set()
    for folder in folders:
        for path in folder.rglob("*"):
            if path.is_file() and path.suffix in (".html", ".md", ".txt", ".pdf"):
                found.update(shingles(text_of(path)))
    return frozenset(found)


def text_of(path: Path) -> str:
    """The words of a file, roughly: enough to see whether it is near to another one."""
    if path.suffix != ".pdf":
        return path.read_text(encoding="utf-8", errors="ignore")
    import pypdfium2

    with pypdfium2.PdfDocument(path) as document:
        return "\n".join(page.get_textpage().get_text_range() for page in document)


def fetch(source: Source, measured: frozenset[int]) -> None:
    """Put the files of a package in its folder, with a list of their hashes; nothing to do when they are there."""
    if source.folder.exists():
        return
    with unpacked(source.package) as root:
        made = root.with_name("material")
        made.mkdir()
        hashes: dict[str, str] = {}
        for path in _chosen(root, source):
            content = gzip.decompress(path.read_bytes()) if path.suffix == ".gz" else path.read_bytes()
            digest = hashlib.sha256(content).hexdigest()
            if not content or len(content) > _MOST_BYTES or digest in hashes:
                continue
            target = made / f"{len(hashes):04d} {_name(path)}"
            target.write_bytes(content)
            if _is_near(target, measured):
                target.unlink()
                continue
            hashes[digest] = target.name
            if len(hashes) >= _MOST_FILES:
                break
        (made / "hashes.json").write_text(json.dumps(hashes, indent=1) + "\n", encoding="utf-8")
        FETCHED.mkdir(parents=True, exist_ok=True)
        shutil.move(made, source.folder)


def _is_near(path: Path, measured: frozenset[int]) -> bool:
    """Whether a file is near to what is measured on, or cannot be read and so teaches nothing."""
    import pypdfium2

    try:
        return overlap(text_of(path), measured) > _MOST_OVERLAP
    except (OSError, ValueError, pypdfium2.PdfiumError):
        return True


def _chosen(root: Path, source: Source) -> Iterator[Path]:
    """The package's texts in English, the files of one folder after another."""
    for path in sorted(root.rglob("*")):
        place = f"/{path.relative_to(root)}"
        if not path.is_file() or path.is_symlink() or source.within not in place or _is_of_another_language(place):
            continue
        bare = path.with_suffix("") if path.suffix == ".gz" else path
        if bare.suffix.lower() in _ENDINGS or (_TEXT_NAMES.match(bare.name) and bare.suffix in ("", ".Debian")):
            yield path


def _is_of_another_language(place: str) -> bool:
    codes = (
        "ar bg ca cs da de el eo es et eu fa fi fr gl he hr hu id it ja ko lt lv nb nl nn no pl pt pt-br pt_BR ro "
        "ru sk sl sq sr sv ta tr uk vi zh zh-cn zh-tw zh_CN zh_TW"
    )
    return any(re.search(rf"[/._-]{code}(?:[/.]|$)", place) for code in codes.split())


def _name(path: Path) -> str:
    bare = path.with_suffix("") if path.suffix == ".gz" else path
    return bare.name if bare.suffix.lower() in _ENDINGS else f"{bare.name}.txt"


def main() -> int:
    """Fetch what is missing, and say what there is."""
    measured = measured_shingles()
    n_files = 0
    for source in SOURCES:
        try:
            fetch(source, measured)
        except (subprocess.CalledProcessError, FileNotFoundError, ValueError) as failure:
            print(f"{source.package} could not be fetched ({failure}).", file=sys.stderr)
            continue
        files = [path for path in source.folder.iterdir() if path.name != "hashes.json"]
        n_files += len(files)
        print(
            f"{source.package} ({source.kind}): {len(files)} files, {sum(path.stat().st_size for path in files) // 1024} kB"
        )
    print(f"{n_files} files of {sum(source.folder.exists() for source in SOURCES)} packages")
    return 0


if __name__ == "__main__":
    sys.exit(main())
