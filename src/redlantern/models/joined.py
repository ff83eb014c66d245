# SPDX-License-Identifier: GPL-3.0-or-later
"""Two embedding models as one: each text's vectors of both, laid side by side."""

from collections.abc import Iterator, Sequence

import numpy as np

from redlantern.models.embedding import Embedded, Embedder, Span, Vectors

_HALF = np.float32(2**-0.5)


class JoinedEmbedder:
    """What the two give, of length 1 together, so that a cosine is the mean of their two cosines.

    They err in different ways, so that the mean errs less than either: docs/retrieval.md has by how much. The first knows
    English alone: of a question in another language only the second's half is used, as long as both.
    """

    def __init__(self, first: Embedder, second: Embedder) -> None:
        """`second` counts the tokens."""
        self._first, self._second = first, second
        self.name, self.identity = f"{first.name} and {second.name}", f"{first.identity} + {second.identity}"
        self.dimensions = first.dimensions + second.dimensions
        self.most_tokens = min(first.most_tokens, second.most_tokens)

    def count_tokens(self, texts: Sequence[str]) -> list[int]:
        """Count each text's tokens, without the special ones."""
        return self._second.count_tokens(texts)

    def splits_word(self, word: str) -> bool:
        """Whether the word is none of those that are frequent in English."""
        return self._first.splits_word(word)

    def embed(self, texts: Sequence[str], spans: Sequence[Sequence[Span]]) -> Iterator[tuple[int, Embedded]]:
        """Embed texts, with a vector for each span of code points; gives (index, vectors) in any order."""
        halves: tuple[dict[int, Embedded], dict[int, Embedded]] = {}, {}
        # Each gives the longest first by its own count, so one may be a little ahead with some text.
        for pair in zip(self._first.embed(texts, spans), self._second.embed(texts, spans), strict=True):
            for half, (index, embedded) in zip(halves, pair, strict=True):
                half[index] = embedded
            for index in halves[0].keys() & halves[1].keys():
                one, other = halves[0].pop(index), halves[1].pop(index)
                yield index, Embedded(_beside(one.text, other.text), _beside(one.lines, other.lines))

    def embed_question(self, question: str, *, in_english: bool = True) -> Vectors:
        """Embed one short text: shape (dim,); its products with the vectors of texts are cosines."""
        if not in_english:
            return self._second_half(self._second.embed_question(question))
        return _beside(self._first.embed_question(question), self._second.embed_question(question))

    def _second_half(self, vector: Vectors) -> Vectors:
        return np.concatenate([np.zeros(self._first.dimensions, np.float32), vector / _HALF])

    def embed_words(
        self, texts: Sequence[str], *, asked: bool = False, in_english: bool = True
    ) -> list[list[tuple[Span, Vectors]]]:
        """Give each word of some short texts a vector in its context; `asked` where they are questions."""
        if not in_english:
            alone = self._second.embed_words(texts, asked=asked)
            return [[(span, self._second_half(vector)) for span, vector in words] for words in alone]
        ones, others = (model.embed_words(texts, asked=asked) for model in (self._first, self._second))
        found = []
        for one, other in zip(ones, others, strict=True):
            half = dict(other)
            found.append([(span, _beside(vector, half[span])) for span, vector in one if span in half])
        return found


def _beside(one: Vectors, other: Vectors) -> Vectors:
    return np.asarray(np.concatenate([one, other], axis=-1) * _HALF, np.float32)
