# SPDX-License-Identifier: GPL-3.0-or-later
"""Cuts what the language model writes into claims as it comes."""

import re
from dataclasses import dataclass

from redlantern.splitting.lines import sentences

OWN_MARK = "-"
"""What stands in the brackets after a sentence that the model says is its own, and of no line."""
_BULLET = re.compile(r"^\s*(?:[-–•*]|\(?\d{1,2}[.)])\s+")
_NUMBER_IN_BRACKETS = re.compile(r"\s*\[\d+\]")
_CLAIM = re.compile(rf"\s*(.+?)\s*\[(\d+|{OWN_MARK})\]\.?", re.DOTALL)


@dataclass(frozen=True)
class WrittenClaim:
    """A claim as written: its text, and the number of the line it names; 0 while it is still being written, or if the model
    says that it is its own.
    """

    text: str
    number: int
    is_own: bool = False


def drafts_of(written: str) -> list[WrittenClaim]:
    """Cut written text into claims; the last may still be unfinished. Repeats are left out."""
    drafts: list[WrittenClaim] = []
    end = 0
    for match in _CLAIM.finditer(written):
        is_own = match.group(2) == OWN_MARK
        drafts.append(WrittenClaim(_sentence(match.group(1)), 0 if is_own else int(match.group(2)), is_own))
        end = match.end()
    rest = written[end:].split("[")[0].strip()
    if rest:
        drafts.append(WrittenClaim(rest, 0))
    unique: dict[str, WrittenClaim] = {}
    for draft in drafts:
        unique.setdefault(" ".join(draft.text.casefold().split()), draft)
    return list(unique.values())


def _sentence(text: str) -> str:
    """Begin with a capital and do not end on a comma: a stretch of a line may do neither."""
    trimmed = text.strip().rstrip(",;:")
    return trimmed[:1].upper() + trimmed[1:]


def sentences_of(written: str) -> list[str]:
    """Cut prose into its sentences, without bullets, numbers in brackets, repeats and what has no word."""
    lines = [_BULLET.sub("", line) for line in _NUMBER_IN_BRACKETS.sub("", written).splitlines()]
    found = [line[start:end] for line in lines for start, end in sentences(line)]
    found = [sentence for sentence in found if any(map(str.isalnum, sentence))]
    return list({" ".join(sentence.casefold().split()): sentence for sentence in reversed(found)}.values())[::-1]
