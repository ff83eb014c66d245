# SPDX-License-Identifier: GPL-3.0-or-later
"""The word index: BM25F over stems, in compressed sparse arrays.

Robertson, Zaragoza and Taylor, "Simple BM25 Extension to Multiple Weighted
Fields" (2004): the counts of the fields are weighted, added, and saturated
together; with the non-negative inverse document frequency
log(1 + (N - n + 0.5) / (n + 0.5)).
"""

from collections import Counter
from collections.abc import Mapping, Sequence
from functools import cached_property

import numpy as np
import numpy.typing as npt

from redlantern import fitted
from redlantern.collection.word_counts import WordCounts, count_words, pack_counts
from redlantern.splitting.headings import Headings
from redlantern.text.abbreviations import definitions, joined
from redlantern.text.languages import STEMMED
from redlantern.text.stems import stems
from redlantern.text.tokens import tokens

Scores = npt.NDArray[np.float32]


def pack_words(passages: Sequence[tuple[Headings, str]], language: str = "") -> bytes:
    """Pack the weighted counts of the stems of one document's passages, and the forms they were written in.

    Stored with the document; `unpack_counts` reads it. Words get their stem in the
    document's language, too. Where the document defines an abbreviation, its long
    form counts a little where the short one stands, and the other way round.

    Parameters
    ----------
    passages : sequence of (headings, text)
    language : str
        ISO 639-1, empty if not known.
    """
    forms: Counter[str] = Counter()
    for headings, text in passages:
        forms.update(tokens(f"{headings.printed}\n{text}"))
    known = definitions(text for _, text in passages)
    return pack_counts(count_words([_weighted(*passage, language, known) for passage in passages], dict(forms)))


def _weighted(headings: Headings, text: str, language: str, known: Mapping[str, str]) -> Counter[str]:
    fields = [
        (text, fitted.WORD_UNIT),
        (headings.innermost, fitted.INNERMOST_HEADING),
        (" ".join(headings.parts[:-1]), fitted.OTHER_HEADINGS),
        (joined(text, known) if known else "", fitted.ABBREVIATION),
    ]
    counts: Counter[str] = Counter()
    for words, weight in fields:
        for term, n in Counter(stems(words, [language])).items():
            counts[term] += weight * n
    return counts


class LexicalIndex:
    """Scores passages by a question's stems. Rows are the passages of the parts, one part after another."""

    def __init__(self, parts: Sequence[tuple[WordCounts, npt.NDArray[np.bool_]]]) -> None:
        """Each part with which of its passages count, a bool array of shape (n_passages,).

        The others have a score of zero and are in no number.
        """
        self._parts = list(parts)
        self._all_alive = [bool(is_alive.all()) for _, is_alive in parts]
        self.languages = [code for code in STEMMED if self._begins(f"{code}:")]
        self.n_passages = sum(int(is_alive.sum()) for _, is_alive in parts)
        length = sum(int(words.lengths[is_alive].sum()) for words, is_alive in parts)
        self._average = max(length / self.n_passages if self.n_passages else 1.0, 1e-9)

    def scores(self, question_stems: Sequence[str]) -> Scores:
        """BM25F of every passage for these stems: shape (n_rows,); zero where no stem stands. Repeats count once."""
        starts = np.cumsum([0, *(words.n_passages for words, _ in self._parts)])
        scores = np.zeros(int(starts[-1]), np.float32)
        for term in dict.fromkeys(question_stems):
            found = self._postings(term)
            weight = np.float32(self._rarity(sum(n_alive for _, _, n_alive in found)) * (fitted.BM25_K1 + 1))
            for start, (rows, counts, n_alive), (words, is_alive) in zip(starts, found, self._parts, strict=False):
                if not n_alive:
                    continue
                norms = words.lengths[rows] * np.float32(
                    fitted.WORD_UNIT * fitted.BM25_K1 * fitted.BM25_B / self._average
                ) + np.float32(fitted.WORD_UNIT * fitted.BM25_K1 * (1 - fitted.BM25_B))
                gained = counts * weight / (counts + norms)
                if n_alive < len(rows):
                    gained[~is_alive[rows]] = 0
                scores[start : start + words.n_passages][rows] += gained
        return scores

    def idf(self, term: str) -> float:
        """Inverse document frequency of a stem; that of a word in no passage when it is unknown."""
        return self._rarity(sum(n_alive for _, _, n_alive in self._postings(term)))

    def best_possible(self, question_stems: Sequence[str]) -> float:
        """What a passage full of nothing but these stems would score; 1 for none."""
        return sum(self.idf(term) * (fitted.BM25_K1 + 1) for term in dict.fromkeys(question_stems)) or 1.0

    def holds(self, term: str) -> bool:
        """Whether a stem stands in a passage."""
        return any(words.terms.find(term) is not None for words, _ in self._parts)

    def holds_beginning(self, beginning: str) -> bool:
        """Whether a stem in English begins so."""
        return self._begins(beginning)

    @cached_property
    def forms(self) -> Counter[str]:
        """How often each word stands in each form it was written in. Made when first needed."""
        counted: Counter[str] = Counter()
        for words, _ in self._parts:
            counted.update(words.forms)
        return counted

    def _begins(self, beginning: str) -> bool:
        return any(words.terms.holds_beginning(beginning) for words, _ in self._parts)

    def _rarity(self, n_with: int) -> float:
        return float(np.log(1 + (self.n_passages - n_with + 0.5) / (n_with + 0.5)))

    def _postings(self, term: str) -> list[tuple[npt.NDArray[np.unsignedinteger], Scores, int]]:
        """In each part: the rows that a stem stands in, how often, and how many of them are alive."""
        found = []
        for (words, is_alive), are_all in zip(self._parts, self._all_alive, strict=True):
            column = words.terms.find(term)
            begin, end = (0, 0) if column is None else (int(words.indptr[column]), int(words.indptr[column + 1]))
            rows = words.rows[begin:end]
            n_alive = len(rows) if are_all else int(is_alive[rows].sum())
            found.append((rows, words.counts[begin:end].astype(np.float32), n_alive))
        return found
