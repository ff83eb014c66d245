# SPDX-License-Identifier: GPL-3.0-or-later
"""What has become of the documents behind a kept sheet, and how a new sheet on the same question differs from it."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from rapidfuzz import fuzz

from redlantern.answering.sheet import Sheet
from redlantern.collection.kept_sheets import ERASED
from redlantern.collection.values import Citation, Document

_SAME_LINE = 60.0
"""From this likeness on (0 to 100), a line that went and one that came are the same line, changed."""


@dataclass(frozen=True)
class SourceChange:
    """A document that a sheet cites and that is not as it was."""

    mark: str
    title: str
    what: Literal["changed", "gone", "erased"]


@dataclass(frozen=True)
class Comparison:
    """How two sheets on one question differ: lines found in both, lines changed (before, now), only then, only now."""

    asked_at: str
    n_same: int
    changed: tuple[tuple[Citation, Citation], ...]
    gone: tuple[Citation, ...]
    new: tuple[Citation, ...]
    was_refused: bool
    is_refused: bool

    @property
    def is_same(self) -> bool:
        """Whether nothing differs."""
        return not (self.changed or self.gone or self.new) and self.was_refused == self.is_refused


def source_changes(sheet: Sheet, documents: Iterable[Document]) -> list[SourceChange]:
    """Say which documents cited by a sheet's found lines and claims were changed since, or are gone.

    A document is known by its content. Sheets kept before that was noted are
    compared by the place of the file, which can only tell that it is gone.
    """
    present = list(documents)
    keys, paths = {document.key for document in present}, {document.path for document in present}
    lines = [*sheet.found_lines, *(line for part in sheet.sections for line in part.lines)]
    claims = [*sheet.claims, *(claim for part in sheet.sections for claim in part.claims)]
    cited = [line.citation for line in lines]
    cited += [citation for claim in claims for citation in claim.citations]
    cited += [side.citation for side in sheet.disagreement.sides] if sheet.disagreement is not None else []
    found: dict[tuple[str, str], SourceChange] = {}
    for citation in cited:
        if citation.title == ERASED:
            found[citation.call_mark, citation.title] = SourceChange("", "", "erased")
        elif citation.document_key in keys or (not citation.document_key and citation.path in paths):
            continue
        else:
            what: Literal["changed", "gone"] = "changed" if citation.path in paths else "gone"
            found[citation.call_mark, citation.title] = SourceChange(citation.call_mark, citation.title, what)
    return list(found.values())


def compare(before: Sheet, now: Sheet) -> Comparison:
    """Compare the found lines of two sheets by their words."""
    old = {_words(line.citation.text): line.citation for line in before.found_lines}
    new = {_words(line.citation.text): line.citation for line in now.found_lines}
    gone = [citation for words, citation in old.items() if words not in new]
    came = [citation for words, citation in new.items() if words not in old]
    changed = []
    for old_line in list(gone):
        likest = max(came, key=lambda other: _likeness(old_line, other), default=None)
        if likest is not None and _likeness(old_line, likest) >= _SAME_LINE:
            changed.append((old_line, likest))
            gone.remove(old_line)
            came.remove(likest)
    n_same = len(set(old) & set(new))
    return Comparison(before.asked_at, n_same, tuple(changed), tuple(gone), tuple(came), before.refused, now.refused)


def _likeness(citation: Citation, other: Citation) -> float:
    return float(fuzz.token_sort_ratio(_words(citation.text), _words(other.text)))


def _words(text: str) -> str:
    return " ".join(text.casefold().split())
