# SPDX-License-Identifier: GPL-3.0-or-later
"""Mends a question's misspelt words against the words of the collection.

Only a word that the collection lacks and that is none of the most frequent of
English is taken for misspelt, and never mended to its opposite.
"""

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from typing import Protocol

from redlantern.text.question import ParsedQuestion, parse_question
from redlantern.text.stems import STOP_WORDS, every_stem, stem


class KnownWords(Protocol):
    """The words of a collection."""

    @property
    def languages(self) -> Sequence[str]:
        """Those beside English whose stems it has."""

    @property
    def forms(self) -> Counter[str]:
        """How often each form stands in the collection."""

    def holds(self, term: str) -> bool:
        """Whether a stem stands in it."""

    def holds_beginning(self, beginning: str) -> bool:
        """Whether a stem in it begins so."""


_NEGATING = ("un", "in", "im", "ir", "il", "non", "dis", "mis", "de", "anti")
_MIN_CHARS = 4
_MIN_FOREIGN_CHARS = 7
"""Hardly a word of another language is among them, so there only long ones can be told for misspelt."""


def mend(question: ParsedQuestion, words: KnownWords, splits_word: Callable[[str], bool]) -> dict[str, str]:
    """Give the mended form of each misspelt word of a question.

    Parameters
    ----------
    question : ParsedQuestion
    words : KnownWords
        What stands in the collection.
    splits_word : callable
        Whether a word is none of those that are frequent in English.

    Returns
    -------
    dict
        From the word as typed (small letters) to its likeliest form. Words
        that are known, short, or near to nothing are not in it.
    """
    least = _MIN_CHARS if question.is_english else _MIN_FOREIGN_CHARS
    unknown = [
        word
        for word in question.content_words
        if len(word) >= least and word.isalpha() and splits_word(word) and not _is_known(word, words)
    ]
    # "audited" beside "auditors" is another form of a known word, not a slip; "cutof" is no word that "cutoff" is made from.
    unknown = [
        word
        for word in unknown
        if stem(word) in STOP_WORDS or splits_word(stem(word)) or not words.holds_beginning(stem(word))
    ]
    if not unknown:
        return {}
    known = [form for form in words.forms if len(form) >= _MIN_CHARS and form.isalpha()]
    mended = {word: _nearest(word, known, words.forms) for word in unknown}
    return {word: form for word, form in mended.items() if form}


def mended_question(question: ParsedQuestion, mended: Mapping[str, str]) -> ParsedQuestion:
    """The question with the mended forms in place of the words as typed."""
    return parse_question(replaced_words(question.text, mended)) if mended else question


def replaced_words(question: str, mended: Mapping[str, str]) -> str:
    """Put the mended forms in place of the words as typed."""
    words = question.split(" ")
    for index, word in enumerate(words):
        core = word.strip("?.,;:!()“”\"'’")
        if core.casefold() in mended:
            words[index] = word.replace(core, mended[core.casefold()])
    return " ".join(words)


def _is_known(word: str, words: KnownWords) -> bool:
    # "belows" has the stem of "below", but a small word has no other forms.
    return (
        any(term not in STOP_WORDS and words.holds(term) for term in every_stem(word, words.languages))
        or word in words.forms
    )


def _nearest(word: str, known: list[str], forms: Counter[str]) -> str:
    from rapidfuzz import process
    from rapidfuzz.distance import OSA

    # One slip in a short word, two in a long one: "router" is not a misspelt "roofer".
    most = 1 if len(word) < 8 else 2
    matches = process.extract(word, known, scorer=OSA.distance, score_cutoff=most, limit=20)
    allowed = [(form, distance) for form, distance, _ in matches if not _is_opposite(word, form)]
    if not allowed:
        return ""
    # A misspelling seldom changes the first letter; then the nearest, then the most frequent form.
    return min(
        allowed, key=lambda candidate: (candidate[0][0] != word[0], candidate[1], -forms[candidate[0]], candidate[0])
    )[0]


def _is_opposite(one: str, other: str) -> bool:
    longer, shorter = sorted((one, other), key=len, reverse=True)
    return any(longer == prefix + shorter for prefix in _NEGATING)
