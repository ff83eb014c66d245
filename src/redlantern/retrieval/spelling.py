"""Mends a question's misspelt words against the words of the collection.

Only a word that the collection lacks and that the embedding model's tokenizer
knows only in pieces is taken for misspelt, and never mended to its opposite.
"""

from collections import Counter
from collections.abc import Callable, Collection

from redlantern.retrieval.analysis import STOP_WORDS, content_words, stem

_NEGATING = ("un", "in", "im", "ir", "il", "non", "dis", "mis", "de", "anti")
_MIN_CHARS = 4


def mend(
    question: str, forms: Counter[str], vocabulary: Collection[str], splits_word: Callable[[str], bool]
) -> dict[str, str]:
    """Give the mended form of each misspelt word of a question.

    Parameters
    ----------
    question : str
    forms : Counter
        How often each word form stands in the collection.
    vocabulary : dict
        The collection's stems.
    splits_word : callable
        Whether the tokenizer knows a word only in pieces.

    Returns
    -------
    dict
        From the word as typed (small letters) to its likeliest form. Words
        that are known, short, or near to nothing are not in it.
    """
    unknown = [
        word
        for word in content_words(question)
        if len(word) >= _MIN_CHARS and word.isalpha() and not _is_known(word, forms, vocabulary) and splits_word(word)
    ]
    # "audited" beside "auditors" is another form of a known word, not a slip.
    unknown = [word for word in unknown if stem(word) in STOP_WORDS or not _begins_known(word, vocabulary)]
    if not unknown:
        return {}
    known = [form for form in forms if len(form) >= _MIN_CHARS and form.isalpha()]
    mended = {word: _nearest(word, known, forms) for word in unknown}
    return {word: form for word, form in mended.items() if form}


def _begins_known(word: str, vocabulary: Collection[str]) -> bool:
    return any(known.startswith(stem(word)) for known in vocabulary)


def _is_known(word: str, forms: Counter[str], vocabulary: Collection[str]) -> bool:
    # "belows" has the stem of "below", but a small word has no other forms.
    return word in forms or (stem(word) in vocabulary and stem(word) not in STOP_WORDS)


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
    return min(allowed, key=lambda one: (one[0][0] != word[0], one[1], -forms[one[0]], one[0]))[0]


def _is_opposite(one: str, other: str) -> bool:
    longer, shorter = sorted((one, other), key=len, reverse=True)
    return any(longer == prefix + shorter for prefix in _NEGATING)
