# SPDX-License-Identifier: GPL-3.0-or-later
"""Makes questions with the text that answers them from how people wrote and linked the open texts.

Run as `python -m training.pairs`, after `training.material`: writes
build/training/pairs.jsonl. Headings that ask, headings, the words of links to a
section, entries of an index and terms that are defined are what somebody wrote
to find a text by: the text under the anchor as the answer to the anchor's words
(anchor texts in place of questions: Craswell, Hawking and Robertson, 2001).
"""

import json
import random
import re
import sys
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any

import lxml.html

from training.material import FETCHED, SOURCES

PAIRS = FETCHED.parent / "pairs.jsonl"
_ENCODING = "utf-8"
_LEAST_WORDS, _MOST_WORDS = 25, 85
"""Of the text that answers: about what retrieval gives the embedding model of a passage when it looks again."""
_MOST_SECTIONS = 4_000
"""Of a package, so that one large one does not drown the others."""
_IN_MANY_FILES = 4
_ASKING = re.compile(
    r"^(?:how|what|why|when|where|which|who|can|could|do|does|is|are|should|may|must|will)\b", re.IGNORECASE
)
_NUMBERING = re.compile(
    r"^(?:(?:chapter|appendix|section|part)\s+)?(?:[A-Z]?\.?\d+(?:\.\d+)+[.:)]?|[\dA-Z]{1,3}[.:)]|[IVX]+\.|§)\s+",
    re.IGNORECASE,
)
_WORD = re.compile(r"[^\W\d_]{2,}")
_HEADINGS = frozenset({"h1", "h2", "h3", "h4", "h5", "h6"})
_LEFT_OUT = frozenset({"script", "style", "head", "nav", "header", "footer", "svg", "math"})
_BREAKS = frozenset(
    {"p", "li", "tr", "pre", "div", "br", "dd", "dt", "table", "ul", "ol", "dl", "blockquote", "section", "article"}
)
_GENERIC = re.compile(
    r"^(?:next|previous|prev|up|home|top|contents|index|here|this|see also|note|notes|description|overview|introduction|examples?|usage|"
    r"synopsis|options|copyright.*|table of contents|references?|author.*|name|source|permalink|link|back.*)$",
    re.IGNORECASE,
)


@dataclass
class Section:
    """The text under a heading or a defined term, with the ids by which links reach it."""

    package: str
    file: str
    title: str
    heading: str
    is_term: bool = False
    ids: set[str] = field(default_factory=set)
    parts: list[str] = field(default_factory=list)

    @property
    def text(self) -> str:
        """Its words, cut to what is compared."""
        return " ".join(" ".join(self.parts).split()[:_MOST_WORDS])


@dataclass(frozen=True)
class Pair:
    """Words that ask, and the number of the section that answers them; `kind` says where the words were taken from."""

    kind: str
    question: str
    section: int


def sections_of(package: str, file: str, root: Any) -> tuple[list[Section], list[tuple[str, str, int]]]:
    """The sections of an HTML file in order; and its links as words, target, and the number of the section they stand in."""
    title = _plain(root.findtext(".//title") or "")
    found = [Section(package, file, title, title)]
    links: list[tuple[str, str, int]] = []

    def walk(element: Any) -> None:
        tag = element.tag if isinstance(element.tag, str) else ""
        if not tag or tag in _LEFT_OUT:
            return
        if tag in _HEADINGS or tag == "dt":
            words = _plain(element.text_content())
            found.append(Section(package, file, title, words, tag == "dt"))
            found[-1].ids.update(inner.get("id") or inner.get("name") or "" for inner in element.iter())
            parent = element.getparent()
            if parent is not None and parent.get("id") and parent.index(element) == 0:
                found[-1].ids.add(parent.get("id"))
            return
        found[-1].ids.update(filter(None, (element.get("id"), element.get("name") if tag == "a" else None)))
        if tag == "a" and element.get("href"):
            links.append((_plain(element.text_content()), element.get("href"), len(found) - 1))
        found[-1].parts.append(element.text or "")
        for child in element:
            walk(child)
            found[-1].parts.append((" " if child.tag in _BREAKS else "") + (child.tail or ""))

    body = root.find("body")
    walk(body if body is not None else root)
    return found, links


def _plain(words: str) -> str:
    return " ".join(words.replace("¶", " ").split()).strip()


def asked_by(section: Section, in_files: Counter[str]) -> tuple[str, str] | None:
    """What kind of question a section's own heading makes, and its words; None where it says too little or stands everywhere."""
    words = _NUMBERING.sub("", section.heading).strip(" .:")
    n_words = len(_WORD.findall(words))
    if _GENERIC.match(words) or in_files[section.heading] >= _IN_MANY_FILES or not 1 <= n_words <= 18:
        return None
    if section.is_term:
        return ("term", words) if n_words <= 8 else None
    if words.endswith("?") or (_ASKING.match(words) and n_words >= 4):
        return "asks", words
    return ("heading", words) if n_words >= 2 else None


def made(package: str, folder: Path) -> tuple[list[Section], list[Pair]]:
    """All sections of a package that hold enough words, and the pairs that lead to them."""
    all_sections: list[Section] = []
    links: list[tuple[str, str, str]] = []
    for path in sorted(folder.glob("*.htm*")):
        try:
            root = lxml.html.fromstring(path.read_bytes())
        except (lxml.etree.ParserError, ValueError):
            continue
        name = path.name.partition(" ")[2]
        sections, found = sections_of(package, name, root)
        all_sections += sections
        links += [(words, target, name) for words, target, _ in found]
    in_files = Counter({words: len(files) for words, files in _files_of(all_sections).items()})
    kept = [section for section in all_sections if len(section.text.split()) >= _LEAST_WORDS]
    random.Random(0).shuffle(kept)
    kept = kept[:_MOST_SECTIONS]
    pairs = []
    for at, section in enumerate(kept):
        if asked := asked_by(section, in_files):
            pairs.append(Pair(*asked, at))
    pairs += _linked(kept, links)
    return kept, pairs


def _files_of(sections: Iterable[Section]) -> dict[str, set[str]]:
    files: dict[str, set[str]] = defaultdict(set)
    for section in sections:
        files[section.heading].add(section.file)
    return files


def _linked(sections: list[Section], links: list[tuple[str, str, str]]) -> Iterator[Pair]:
    """The words of links, where they are others than those of the section that they lead to."""
    places: dict[tuple[str, str], int] = {}
    for at, section in enumerate(sections):
        for identifier in section.ids:
            places[section.file.rpartition("/")[2], identifier] = at
    seen = set()
    for said, target, file in links:
        page, _, identifier = target.partition("#")
        found = places.get(((page or file).rpartition("/")[2], identifier)) if identifier else None
        words = _NUMBERING.sub("", said).strip(" .:")
        if found is None or _GENERIC.match(words) or not 2 <= len(_WORD.findall(words)) <= 14:
            continue
        heading = sections[found].heading
        if words.casefold() in heading.casefold() or heading.casefold() in words.casefold() or (found, words) in seen:
            continue
        seen.add((found, words))
        yield Pair("link", words, found)


def main() -> int:
    """Write all pairs, one a line, after the sections they lead to."""
    counts: Counter[str] = Counter()
    n_sections = 0
    with PAIRS.open("w", encoding=_ENCODING) as file:
        for source in SOURCES:
            if not source.folder.exists():
                continue
            sections, pairs = made(source.package, source.folder)
            for section in sections:
                row = {
                    "package": section.package,
                    "title": section.title,
                    "heading": section.heading,
                    "text": section.text,
                }
                file.write(json.dumps(row, ensure_ascii=False) + "\n")
            for pair in pairs:
                file.write(json.dumps(asdict(pair) | {"section": n_sections + pair.section}, ensure_ascii=False) + "\n")
                counts[pair.kind] += 1
            n_sections += len(sections)
    print(f"{n_sections} sections; pairs: {dict(counts)}")
    return 0 if counts else 1


if __name__ == "__main__":
    sys.exit(main())
