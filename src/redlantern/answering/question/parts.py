# SPDX-License-Identifier: GPL-3.0-or-later
"""The parts of a question that asks for more than one thing, each to be searched and answered by itself."""

import re

from redlantern.answering.question.follow_up import standalone_question
from redlantern.text.question import ParsedQuestion, parse_question

_MOST_PARTS = 3
_LEAST_WORDS = 3
_ASKING = r"(?:who|whom|whose|what|when|where|which|why|how)"
_BEFORE = r"(?:(?:by|since|until|to|for|from|at|in|on|with)\s+)?"
_PART = re.compile(rf"(?:\?\s+(?:and\s+)?|,?\s+and\s+(?:also\s+)?)(?={_BEFORE}{_ASKING}\b)", re.IGNORECASE)
_BEGINS = re.compile(rf"\W*{_BEFORE}{_ASKING}\b", re.IGNORECASE)


def parts_of(question: ParsedQuestion) -> tuple[ParsedQuestion, ...]:
    """Take a question of several questions apart: "What is the deposit, and when is it due?"; any other is its one part.

    A later part that points back to an earlier one is completed from it, as a
    follow-up is. Known by the words that questions begin with, in English.
    """
    cuts = [match for match in _PART.finditer(question.text) if match.start() > 0]
    starts = [0, *(match.end() for match in cuts)]
    ends = [*(match.start() for match in cuts), len(question.text)]
    pieces = [question.text[start:end].strip(" ,") for start, end in zip(starts, ends, strict=True)]
    is_fit = 1 < len(pieces) <= _MOST_PARTS and all(
        _BEGINS.match(piece) and len(piece.split()) >= _LEAST_WORDS for piece in pieces
    )
    if not is_fit:
        return (question,)
    asked = [piece[:1].upper() + piece[1:].rstrip("?") + "?" for piece in pieces]
    completed = [asked[0], *(standalone_question(parse_question(later), (asked[0],)) for later in asked[1:])]
    return tuple(map(parse_question, completed))
