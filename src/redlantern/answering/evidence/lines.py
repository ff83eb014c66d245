# SPDX-License-Identifier: GPL-3.0-or-later
"""Found lines: the verbatim lines of the best passages that answer a question, and how strong the evidence is.

Lines are first scored cheaply, by the stored vectors and by words; the best of
them are then compared with the question word by word in meaning (late
interaction: Khattab and Zaharia, "ColBERT", 2020), which decides the order of
lines and passages. docs/decisions/finding.md has the measurements.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from redlantern import fitted
from redlantern.collection.values import StoredPassage
from redlantern.models.embedding import Embedder
from redlantern.reading.values import cells_of_row
from redlantern.retrieval.index import Hit
from redlantern.retrieval.plain_lines import line_in_words, row_in_words
from redlantern.retrieval.rerank import QuestionWords
from redlantern.splitting.headings import row_printed
from redlantern.text.answer_kind import holds, signs_of
from redlantern.text.question import ParsedQuestion
from redlantern.text.stems import stems

_MIN_WORDS = 3
_COMPARED_LINES = 10

Nearness = npt.NDArray[np.float32]


_SOFTNESS = 8.0
_NO_NAMES = 0.9
"""What counts for a question without names: as if they were matched."""
_DECIDING_LINES = 6


@dataclass(frozen=True)
class Candidate:
    """A line that may answer.

    `cosine` is its nearness in meaning; `coverage` the share of the question's
    words, by idf, that stand in it; `nearness` the cosine of the nearest of
    its words to each content word of the question, shape (n_words,), empty for a
    line that was not compared word by word; `alone` the cosine of the line taken
    by itself, without its passage, when it was compared. Neighbours that it must
    not be read without reach from line `first` to line `last`; -1 for none.
    """

    passage: StoredPassage
    line: int
    score: float
    cosine: float
    coverage: float
    has_kind: bool
    nearness: Nearness
    alone: float = 0.0
    first: int = -1
    last: int = -1

    @property
    def span(self) -> tuple[int, int]:
        """Where it stands on its page, with its neighbours: start and end, in code points."""
        lines = self.passage.lines
        first, last = (self.line if at < 0 else at for at in (self.first, self.last))
        return lines[first][0], lines[last][1]

    @property
    def text(self) -> str:
        """The line's words, with its neighbours'."""
        start, end = self.span
        return self.passage.text[start - self.passage.start : end - self.passage.start]

    @property
    def least_said(self) -> int:
        """How many words from the beginning must be said so that the line itself is, and nothing that limits it is left out."""
        if self.last > self.line:
            return len(self.text.split())
        return len(self.text.split()) - len(self.passage.line_text(self.line).split())

    @property
    def is_row(self) -> bool:
        """Whether the line is a row of a table."""
        return len(cells_of_row(self.text)) > 1

    @property
    def is_compared(self) -> bool:
        """Whether the line was compared word by word."""
        return self.nearness.size > 0


@dataclass(frozen=True)
class EvidenceFeatures:
    """What decides whether a question is answered at all; each from 0 to 1.

    For the first three only those of the best lines count that hold the kind of
    answer that is wanted: `alone` is the cosine of the nearest of them taken by
    itself, `jointly` how near one of them comes to all of the question's words, the
    worst matched above all (a soft minimum), `focus` how near they come to the word
    that names what is asked for. `rarest` is how near the best lines come to the
    question's rarest word, `names` to the worst matched of its names.
    """

    alone: float
    jointly: float
    focus: float
    rarest: float
    names: float

    def row(self) -> list[float]:
        """The features in their order."""
        return [self.alone, self.jointly, self.focus, self.rarest, self.names]


@dataclass(frozen=True)
class Asked:
    """A question taken apart: its content words with idf and vectors, the mean of all its words, and what it wants."""

    question: ParsedQuestion
    wanted: dict[str, float]
    weights: Nearness
    vectors: Nearness
    whole: Nearness
    focus: int
    languages: Sequence[str] = ()
    names: Sequence[int] = ()
    """Which of its words are written like names: with a capital, and not at its beginning."""


def take_apart(words: QuestionWords, languages: Sequence[str] = ()) -> Asked:
    """Take a question apart; `languages` are the documents'."""
    question = words.question
    own = set(question.own_stems(languages))
    wanted = {term: words.idf(term) * (1 if term in own else fitted.ASIDE) for term in question.stems(languages)}
    focus = _focus(question.text, words.starts, words.idfs.tolist())
    names = [
        at for at, start in enumerate(words.starts) if any(begin <= start < end for begin, end in question.entities)
    ]
    return Asked(question, wanted, words.idfs, words.vectors, words.whole, focus, languages, names)


def rank_lines(
    asked: Asked, hits: Sequence[Hit], passages: Sequence[StoredPassage], embedder: Embedder
) -> list[Candidate]:
    """Score the lines of the best passages, best first; those compared word by word come before the others.

    Parameters
    ----------
    asked : Asked
    hits, passages : sequences of the same length
        What was found, best first.
    embedder : Embedder
    """
    question = asked.question
    cheap = _scored_cheaply(asked, hits, passages)
    compared, rest = cheap[:_COMPARED_LINES], cheap[_COMPARED_LINES:]
    signs = signs_of(question.kind, question.text)
    # The document's title is compared, too: questions say "in the policy" or "according to the log".
    texts = [with_title(candidate) for candidate in compared]
    rows = embedder.embed_words(texts) if texts else []
    finished = []
    for candidate, row, text in zip(compared, rows, texts, strict=True):
        words = np.array([vector for _, vector in row])
        n_title = len(text) - len(in_words(candidate))
        own = np.array([vector for (start, _), vector in row if start >= n_title] or words)
        nearness = np.clip((words @ asked.vectors.T).max(axis=0), 0, 1).astype(np.float32)
        # For the order of lines the title would only blur them; for whether they answer, it counts.
        nearness_own = np.clip((own @ asked.vectors.T).max(axis=0), 0, 1)
        max_sim = float(nearness_own @ asked.weights / max(float(asked.weights.sum()), 1e-9))
        score = candidate.cosine + fitted.LINE_COVERAGE * candidate.coverage + fitted.LINE_MAX_SIM * max_sim
        score += fitted.LINE_KIND * candidate.has_kind
        score += fitted.LINE_CLAUSE * is_named_clause(question.text, candidate.text)
        has_sign = signs is not None and signs.search(candidate.text if candidate.is_row else text[n_title:])
        score += fitted.LINE_SIGN * bool(has_sign)
        alone = float(_direction(own) @ asked.whole)
        finished.append(replace(candidate, score=score, nearness=nearness, alone=alone))
    finished.sort(key=lambda candidate: (-candidate.score, candidate.passage.passage_id, candidate.line))
    return finished + rest


def _scored_cheaply(asked: Asked, hits: Sequence[Hit], passages: Sequence[StoredPassage]) -> list[Candidate]:
    candidates: dict[tuple[int, int, int], Candidate] = {}
    question = asked.question
    for hit, passage in zip(hits, passages, strict=True):
        headings = passage.headings
        around = _coverage(asked.wanted, stems(f"{headings.printed} {passage.text}", asked.languages))
        for index, cosine in enumerate(hit.line_scores.tolist()):
            text = passage.line_text(index)
            cells = passage.line_cells(index)
            is_row = len(cells) > 1
            if (row_printed(tuple(cells)) if is_row else text) in headings.parts:
                continue
            if len(text.split()) < _MIN_WORDS and not is_row:
                continue
            said = row_in_words(text, headings) if is_row else text
            coverage = _coverage(asked.wanted, stems(said, asked.languages))
            # The unit of a number in a table stands in the name of its column.
            shown = said if is_row and question.kind == "number" else text
            has_kind = holds(question.kind, shown, question.text, question.language)
            score = cosine + fitted.LINE_COVERAGE * coverage + fitted.LINE_PASSAGE_COVERAGE * around
            score += fitted.LINE_KIND_AT_FIRST * has_kind + fitted.LINE_RANK / hit.rank
            score += fitted.LINE_CLAUSE_AT_FIRST * is_named_clause(question.text, text)
            place = (passage.document_id, passage.page_number, passage.lines[index][0])
            candidate = Candidate(passage, index, score, cosine, coverage, has_kind, np.zeros(0, np.float32))
            # A line repeated at the start of the next passage is one line.
            if place not in candidates or candidates[place].score < score:
                candidates[place] = candidate
    return sorted(
        candidates.values(), key=lambda candidate: (-candidate.score, candidate.passage.passage_id, candidate.line)
    )


def in_words(candidate: Candidate) -> str:
    """A line with what it stands under, as a sentence is read."""
    return line_in_words(candidate.text, candidate.passage.headings)


def with_title(candidate: Candidate) -> str:
    """A line in words after the title of its document, unless its words have that already."""
    said = in_words(candidate)
    title = candidate.passage.headings.title
    return said if title in said else f"{title}. {said}"


_CLAUSE = re.compile(
    r"\b(?:clause|section|article|paragraph|para|item|no\.?|number)\s+([A-Z]?\.?\d+(?:\.\d+)*)", re.IGNORECASE
)


def is_named_clause(question: str, line: str) -> bool:
    """Whether a line begins with the number of the first clause that the question names ("clause 9.8")."""
    named = _CLAUSE.search(question)
    return named is not None and bool(re.match(rf"\(?{re.escape(named.group(1))}(?![.\d]*\d)", line))


def choose_lines(candidates: Sequence[Candidate], most: int, share: float = fitted.KEPT_SHARE) -> list[Candidate]:
    """Take the best lines, without those whose score is below this share of the best one's and without repeated words."""
    chosen: list[Candidate] = []
    seen: set[str] = set()
    for candidate in candidates:
        if len(chosen) == most or not candidate.is_compared or candidate.score < share * candidates[0].score:
            break
        words = " ".join(candidate.text.casefold().split())
        if words not in seen:
            seen.add(words)
            chosen.append(candidate)
    return chosen


def features_of(asked: Asked, candidates: Sequence[Candidate]) -> EvidenceFeatures:
    """Measure the evidence for a question; see EvidenceFeatures. All zero without any."""
    best = [candidate for candidate in candidates[:_DECIDING_LINES] if candidate.is_compared]
    if not best:
        return EvidenceFeatures(0, 0, 0, 0, 0)
    fitting = [candidate for candidate in best if candidate.has_kind]
    nearest = np.max([candidate.nearness for candidate in best], axis=0)
    return EvidenceFeatures(
        max((max(0.0, candidate.alone) for candidate in fitting), default=0.0),
        max((_soft_minimum(candidate.nearness) for candidate in fitting), default=0.0),
        max((float(candidate.nearness[asked.focus]) for candidate in fitting), default=0.0),
        float(nearest[int(np.argmax(asked.weights))]),
        min((float(nearest[at]) for at in asked.names), default=_NO_NAMES),
    )


def _soft_minimum(nearness: Nearness) -> float:
    """Near the smallest of some cosines, a little more where the others are high."""
    return max(0.0, float(-np.log(np.exp(-_SOFTNESS * nearness.astype(np.float64)).mean()) / _SOFTNESS))


def _direction(vectors: Nearness) -> Nearness:
    mean = vectors.mean(axis=0)
    return np.asarray(mean / max(float(np.linalg.norm(mean)), 1e-9), np.float32)


_ASKS_FOR_SUM = re.compile(r"^\W*(?:and )?how much\b", re.IGNORECASE)
_ASKS_FOR_WAY = re.compile(
    r"^\W*(?:and )?(?:how (?:do|can|to|does|should|is|are)|can|does|is|do|are|could)\b", re.IGNORECASE
)
_POSSESSIVE = re.compile(r"\w['’]s\s")
_ASKS_FOR_EVENT = re.compile(r"^\W*(?:and )?(?:when|where)\b", re.IGNORECASE)


def _focus(question: str, starts: Sequence[int], weights: Sequence[float]) -> int:
    """Which content word names what is asked for: "which hotel", "how old", "the caretaker's salary", "when ... elected";
    for a sum, a way to do something and a yes or no, the rarest word.
    """
    if _ASKS_FOR_EVENT.match(question):
        return len(starts) - 1
    if _ASKS_FOR_SUM.match(question) or _ASKS_FOR_WAY.match(question):
        return max(range(len(weights)), key=lambda index: weights[index])
    owned = _POSSESSIVE.search(question)
    after = [index for index, start in enumerate(starts) if owned and start >= owned.end()]
    return after[0] if after else 0


def _coverage(wanted: dict[str, float], present: Sequence[str]) -> float:
    total = sum(wanted.values())
    here = set(present)
    return sum(weight for term, weight in wanted.items() if term in here) / total if total else 0.0
