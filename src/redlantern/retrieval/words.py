"""The word index: BM25 over stems, in compressed sparse arrays.

Robertson and Zaragoza, "The Probabilistic Relevance Framework: BM25 and
Beyond" (2009), with the non-negative inverse document frequency
log(1 + (N - n + 0.5) / (n + 0.5)).
"""

import json
import zlib
from collections import Counter
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
import numpy.typing as npt

from redlantern.retrieval.analysis import other_languages, stems, tokens

if TYPE_CHECKING:
    from scipy.sparse import csc_matrix

K1 = 1.2
B = 0.75

Scores = npt.NDArray[np.float32]


def pack_words(texts: Sequence[str], language: str = "") -> bytes:
    """Pack the stems of one document's passages, and the forms they were written in.

    Stored with the document; `WordIndex` reads it. Words get their stem in the
    document's language, too.
    """
    forms: Counter[str] = Counter()
    passages = []
    for text in texts:
        forms.update(tokens(text))
        passages.append(Counter(stems(text, [language])))
    terms = sorted(set().union(*passages)) if passages else []
    number = {term: index for index, term in enumerate(terms)}
    rows = [[[number[term], n] for term, n in sorted(counts.items())] for counts in passages]
    return zlib.compress(json.dumps({"terms": terms, "passages": rows, "forms": forms}).encode(), 6)


class WordIndex:
    """Scores passages by a question's stems. Rows are passages in the order given."""

    def __init__(self, documents: Sequence[bytes]) -> None:
        """Build from what `pack_words` packed, one item a document."""
        self.vocabulary: dict[str, int] = {}
        self.forms: Counter[str] = Counter()
        self.languages: list[str] = []
        rows: list[npt.NDArray[np.int32]] = []
        lengths: list[int] = []
        for packed in documents:
            self._take(json.loads(zlib.decompress(packed)), rows, lengths)
        self.n_passages = len(lengths)
        self.languages = other_languages(term[:2] for term in self.vocabulary if term[2:3] == ":")
        self._weights, self.idf = self._weigh(rows, np.array(lengths, np.float32))

    def scores(self, question_stems: Sequence[str]) -> Scores:
        """BM25 of every passage for these stems: shape (n_passages,); zero where no stem stands. Repeats count once."""
        total = np.zeros(self.n_passages, np.float32)
        for term in dict.fromkeys(question_stems):
            column = self.vocabulary.get(term)
            if column is not None:
                begin, end = self._weights.indptr[column], self._weights.indptr[column + 1]
                total[self._weights.indices[begin:end]] += self._weights.data[begin:end]
        return total

    def rarity(self, term: str) -> float:
        """Inverse document frequency of a stem; that of a word in no passage when it is unknown."""
        column = self.vocabulary.get(term)
        if column is None:
            return float(np.log(1 + (self.n_passages + 0.5) / 0.5))
        return float(self.idf[column])

    def _take(self, document: dict[str, Any], rows: list[npt.NDArray[np.int32]], lengths: list[int]) -> None:
        terms, passages = document["terms"], document["passages"]
        numbers = np.array([self.vocabulary.setdefault(term, len(self.vocabulary)) for term in terms], np.int32)
        self.forms.update(document["forms"])
        for counts in passages:
            pairs = np.array(counts, np.int32).reshape(-1, 2)
            row = np.column_stack([np.full(len(pairs), len(lengths), np.int32), numbers[pairs[:, 0]], pairs[:, 1]])
            rows.append(row)
            lengths.append(int(pairs[:, 1].sum()))

    def _weigh(self, rows: list[npt.NDArray[np.int32]], lengths: Scores) -> "tuple[csc_matrix, Scores]":
        from scipy import sparse  # a third of a second, and not needed before the first collection is open

        triples = np.concatenate(rows) if rows else np.zeros((0, 3), np.int32)
        shape = (self.n_passages, max(1, len(self.vocabulary)))
        n_with = np.bincount(triples[:, 1], minlength=shape[1])
        idf = np.log(1 + (self.n_passages - n_with + 0.5) / (n_with + 0.5)).astype(np.float32)
        average = float(lengths.mean()) if len(lengths) else 1.0
        counts = triples[:, 2].astype(np.float32)
        norm = K1 * (1 - B + B * lengths[triples[:, 0]] / max(average, 1e-9)) if len(triples) else counts
        values = idf[triples[:, 1]] * counts * (K1 + 1) / (counts + norm)
        matrix = sparse.coo_matrix((values.astype(np.float32), (triples[:, 0], triples[:, 1])), shape)
        return matrix.tocsc(), idf
