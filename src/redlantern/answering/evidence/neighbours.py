# SPDX-License-Identifier: GPL-3.0-or-later
"""Lines that would mislead alone: one that what follows limits or says, and one that points back to what stands before it."""

import re
from collections.abc import Sequence
from dataclasses import replace

from redlantern.answering.evidence.lines import Candidate

# How a sentence begins that takes something away from the one before it.
_LIMITS = re.compile(
    r"\W*(?:unless|except|excepting|provided|save (?:that|for|where)|however|but|nevertheless|otherwise|notwithstanding|"
    r"only (?:if|where|when)|(?:this|that|the same|clause [\d.]+|the foregoing) (?:does|do|shall|is|are|applies|apply) ?(?:not|only)|"
    r"(?:an )?exceptions?\b|exempt)",
    re.IGNORECASE,
)
# How a sentence begins that means nothing without the one before it.
_POINTS_BACK = re.compile(
    r"\W*(?:(?:this|these|those|such|it|they|he|she|both|neither|the same|the latter|the former) (?!is why\b)|"
    r"(?:in|for|under|at) (?:this|that|these|those|such)\b|unless\b|except\b|provided\b|otherwise\b|however\b|but\b|then\b|"
    r"(?:his|her|its|their) )",
    re.IGNORECASE,
)
_INTRODUCES = re.compile(r":\W*$")
_MOST_WORDS = 80


def with_neighbours(candidate: Candidate) -> Candidate:
    """The same candidate, reaching over the neighbouring lines that it must not be read without.

    The next line if it takes something away ("unless", "however", "this does not
    apply") or is what this one announces ("as follows:"), the one before if this one
    points back to it ("it", "in that case", "otherwise"). Rows of tables stand for
    themselves, and no stretch gets longer than a reader takes in at a glance.
    """
    if candidate.is_row:
        return candidate
    passage = candidate.passage
    first = last = candidate.line
    follows = passage.line_text(last + 1) if last + 1 < len(passage.lines) else ""
    if follows and (_LIMITS.match(follows) or _INTRODUCES.search(candidate.text)):
        last += 1
    if first > 0 and _POINTS_BACK.match(candidate.text):
        first -= 1
    reaching = replace(candidate, first=first, last=last)
    is_prose = not reaching.is_row and len(reaching.text.split()) <= _MOST_WORDS
    return reaching if is_prose else candidate


def joined_with_neighbours(candidates: Sequence[Candidate]) -> list[Candidate]:
    """Candidates with their neighbours, best first; one that a better one reaches over already is left out."""
    found: list[Candidate] = []
    for candidate in map(with_neighbours, candidates):
        start, end = candidate.passage.lines[candidate.line]
        if not any(_same_page(candidate, other) and other.span[0] <= start and end <= other.span[1] for other in found):
            found.append(candidate)
    return found


def _same_page(candidate: Candidate, other: Candidate) -> bool:
    return (candidate.passage.document_id, candidate.passage.page_number) == (
        other.passage.document_id,
        other.passage.page_number,
    )
