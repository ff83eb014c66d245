# SPDX-License-Identifier: GPL-3.0-or-later
"""Which lines of a document say what it is about: those nearest in meaning to all the rest, and not to one another.

A line's centrality is its cosine with the mean of its section's lines and of its
document's (centroids: Radev, Jing, Styś and Tam, "Centroid-based summarization of
multiple documents", 2004) and with the titles above it; lines are then taken one
by one, each time the most central that is not near one already taken (maximal
marginal relevance: Carbonell and Goldstein, 1998).
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from redlantern.answering.evidence.lines import Candidate
from redlantern.collection.values import StoredPassage
from redlantern.models.embedding import Vectors
from redlantern.splitting.headings import Headings
from redlantern.text.quantities import plain, quantities

_LEAST_WORDS, _MOST_WORDS = 5, 60
_OWN, _WHOLE, _TITLE = 0.4, 0.3, 0.3
_LIKENESS = 0.5
_QUANTITY, _RULE, _BEGINS = 0.05, 0.05, 0.08
_OUT_OF_SIZE, _ROW = 0.35, 0.3
_MUST = re.compile(
    r"\b(?:shall|must|may not|agreed?|decided|found|concludes?|claims?|asks?|is liable|terminat\w+)\b", re.IGNORECASE
)
_GATHERS = re.compile(
    r"\b(?:summary|conclusions?|findings?|results?|subject|purpose|overview|recommendations?|advice|asks? for)\b",
    re.IGNORECASE,
)
_GATHERS_WORTH = 0.15
_FORMAL = re.compile(
    r"^\W*(?:dear|yours|sincerely|kind regards|best regards|with regards|hello|hi|from|to|cc|subject|date|page)\b",
    re.IGNORECASE,
)
_LEAST_LINES = 5
MOST_SECTIONS = 40


@dataclass(frozen=True)
class Section:
    """Neighbouring passages of one document under one heading. `vectors` has one row a line, in the order of the lines of
    all its passages: shape (n_lines, dim); `about` is the direction of the titles above it: shape (dim,).
    """

    title: str
    passages: tuple[StoredPassage, ...]
    vectors: Vectors
    about: Vectors | None = None

    @property
    def lines(self) -> list[tuple[StoredPassage, int]]:
        """Every line as (passage, number within it)."""
        return [(passage, number) for passage in self.passages for number in range(len(passage.lines))]

    @property
    def n_rows(self) -> int:
        """How many of its lines are rows of tables."""
        return sum(len(passage.line_cells(number)) > 1 for passage, number in self.lines)


@dataclass(frozen=True)
class Central:
    """A line that was chosen, its score how central it is, and its vector: shape (dim,)."""

    line: Candidate
    vector: Vectors


def sections_of(passages: Sequence[StoredPassage], vectors: Sequence[Vectors]) -> list[Section]:
    """Cut one document along its first level of headings; short sections go with the one before.

    Parameters
    ----------
    passages : sequence of StoredPassage
        All of the document, in order.
    vectors : sequence of float32 arrays of shape (n_lines, dim)
        For each passage, the vectors of its lines.
    """
    groups: list[Section] = []
    for passage, own in zip(passages, vectors, strict=True):
        title = _title(passage.headings)
        if groups and title == groups[-1].title:
            groups[-1] = _joined(groups[-1], Section(title, (passage,), own), title)
        else:
            groups.append(Section(title, (passage,), own))
    least = max(_LEAST_LINES, sum(len(passage.lines) for passage in passages) // MOST_SECTIONS)
    found: list[Section] = []
    for group in groups:
        if found and len(group.vectors) < least:
            found[-1] = _joined(found[-1], group, found[-1].title)
        elif len(found) == 1 and len(found[0].vectors) < least:
            # What stands before the first section that is long enough goes with that one.
            found = [_joined(found[0], group, group.title)]
        else:
            found.append(group)
    return found


def _joined(section: Section, other: Section, title: str) -> Section:
    return Section(title, section.passages + other.passages, np.concatenate([section.vectors, other.vectors]))


def _title(headings: Headings) -> str:
    """The first heading below the document's title; empty where there is none, or only a table's columns."""
    return headings.path[1] if len(headings.path) > 1 else ""


def central_lines(sections: Sequence[Section], whole: Vectors, most: int) -> list[Central]:
    """Choose the lines that say what some sections are about together, most central first.

    Parameters
    ----------
    sections : sequence of Section
    whole : float32 array of shape (dim,)
        The mean of all lines of everything that is summarised.
    most : int

    Returns
    -------
    list of Central
        At most `most`, without repeated words.
    """
    lines = [line for section in sections for line in section.lines]
    scores = np.concatenate([centralities(section, whole) for section in sections])
    vectors = np.concatenate([section.vectors for section in sections])
    words = [" ".join(passage.line_text(number).casefold().split()) for passage, number in lines]
    return [
        Central(Candidate(*lines[at], float(scores[at]), 0.0, 0.0, True, np.zeros(0, np.float32)), vectors[at])
        for at in mmr(scores, vectors, most, words)
        if not is_left_out(*lines[at])
    ]


def centralities(section: Section, whole: Vectors) -> npt.NDArray[np.float64]:
    """How much each line says of what its section and the whole are about.

    `whole` is a float32 array of shape (dim,); gives a float64 array of shape (n_lines,).
    """
    near = _OWN * section.vectors @ _mean(section.vectors) + _WHOLE * section.vectors @ whole
    if section.about is not None:
        near = near + _TITLE * section.vectors @ section.about
    worth = [_worth(passage, number, at) for at, (passage, number) in enumerate(section.lines)]
    return np.asarray(near + _GATHERS_WORTH * bool(_GATHERS.search(section.title)) + np.array(worth), np.float64)


def mmr(scores: npt.NDArray[np.floating], vectors: Vectors, most: int, words: Sequence[str]) -> list[int]:
    """Take the highest scores one by one, each less what it has in common with those already taken; gives their indices.

    `scores` is a float array of shape (n,), `vectors` a float32 array of shape (n, dim), `words` are the n lines themselves:
    the same words are taken once.
    """
    left, chosen = np.array(scores, np.float64), list[int]()
    nearest = np.zeros(len(left))
    seen: set[str] = set()
    while len(chosen) < most and np.isfinite(left).any():
        at = int(np.argmax(left - _LIKENESS * nearest))
        left[at] = -np.inf
        if words[at] in seen:
            continue
        seen.add(words[at])
        chosen.append(at)
        nearest = np.maximum(nearest, vectors @ vectors[at])
    return chosen


def _worth(passage: StoredPassage, number: int, at: int) -> float:
    """What speaks for a line beside its meaning: that it begins its section, says a quantity or what was agreed; and against
    it: that it is very short or long, formal, or a row.
    """
    text = passage.line_text(number)
    worth = _BEGINS / (1 + at)
    worth += _QUANTITY * bool(quantities(plain(text))) + _RULE * bool(_MUST.search(text))
    worth -= _OUT_OF_SIZE * (is_left_out(passage, number) or len(text.split()) > _MOST_WORDS)
    return worth - _ROW * (len(passage.line_cells(number)) > 1) - _OUT_OF_SIZE * text.rstrip().endswith("?")


def is_left_out(passage: StoredPassage, number: int) -> bool:
    """Whether a line says nothing by itself: too short, a heading, the formal words of a letter."""
    text = passage.line_text(number)
    is_heading = text in passage.headings.parts
    return is_heading or len(text.split()) < _LEAST_WORDS or bool(_FORMAL.match(text))


def _mean(vectors: Vectors) -> Vectors:
    mean = vectors.mean(axis=0)
    return np.asarray(mean / max(float(np.linalg.norm(mean)), 1e-9), np.float32)


def whole_mean(sections: Sequence[Section]) -> Vectors:
    """The direction of the mean of all lines of some sections: shape (dim,)."""
    return _mean(np.concatenate([section.vectors for section in sections]))
