"""The word index: BM25 over stems, in compressed sparse arrays.

Robertson and Zaragoza, "The Probabilistic Relevance Framework: BM25 and
Beyond" (2009), with the non-negative inverse document frequency
log(1 + (N - n + 0.5) / (n + 0.5)).
"""

from collections import Counter
from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from redlantern.collection.segments import WordCounts, count_words, pack_counts
from redlantern.retrieval.analysis import other_languages, stems, tokens

K1 = 1.2
B = 0.75

Scores = npt.NDArray[np.float32]


def pack_words(texts: Sequence[str], language: str = "") -> bytes:
    """Pack the stems of one document's passages, and the forms they were written in.

    Stored with the document; `unpack_counts` reads it. Words get their stem in the
    document's language, too.
    """
    forms: Counter[str] = Counter()
    for text in texts:
        forms.update(tokens(text))
    return pack_counts(count_words([stems(text, [language]) for text in texts], dict(forms)))


class WordIndex:
    """Scores passages by a question's stems. Rows are the passages of the parts, one part after another."""

    def __init__(self, parts: Sequence[tuple[WordCounts, npt.NDArray[np.bool_]]]) -> None:
        """Each part with which of its passages count; the others have a score of zero and are in no number."""
        self._parts = [
            (words, is_alive, {term: at for at, term in enumerate(words.terms)}) for words, is_alive in parts
        ]
        self.vocabulary = {term for words, _ in parts for term in words.terms}
        self.forms: Counter[str] = Counter()
        for words, _ in parts:
            self.forms.update(words.forms)
        self.languages = other_languages({term[:2] for term in self.vocabulary if term[2:3] == ":"})
        self.n_passages = sum(int(is_alive.sum()) for _, is_alive in parts)
        n_stems = sum(int(words.lengths[is_alive].sum()) for words, is_alive in parts)
        average = max(n_stems / self.n_passages if self.n_passages else 1.0, 1e-9)
        self._norms = [(K1 * (1 - B + B * words.lengths / average)).astype(np.float32) for words, _ in parts]

    def scores(self, question_stems: Sequence[str]) -> Scores:
        """BM25 of every passage for these stems: shape (n_rows,); zero where no stem stands. Repeats count once."""
        found = [np.zeros(words.n_passages, np.float32) for words, _, _ in self._parts]
        for term in dict.fromkeys(question_stems):
            weight = self.rarity(term) * (K1 + 1)
            for scores, norms, (words, is_alive, columns) in zip(found, self._norms, self._parts, strict=True):
                rows, counts = _postings(words, columns.get(term))
                scores[rows] += np.where(is_alive[rows], weight * counts / (counts + norms[rows]), 0)
        return np.concatenate([np.zeros(0, np.float32), *found])

    def rarity(self, term: str) -> float:
        """Inverse document frequency of a stem; that of a word in no passage when it is unknown."""
        n_with = sum(
            int(is_alive[_postings(words, columns.get(term))[0]].sum()) for words, is_alive, columns in self._parts
        )
        return float(np.log(1 + (self.n_passages - n_with + 0.5) / (n_with + 0.5)))


def _postings(words: WordCounts, column: int | None) -> tuple[npt.NDArray[np.unsignedinteger], Scores]:
    """The rows that a stem stands in, and how often."""
    if column is None:
        return words.rows[:0], np.zeros(0, np.float32)
    begin, end = int(words.indptr[column]), int(words.indptr[column + 1])
    return words.rows[begin:end], words.counts[begin:end].astype(np.float32)
