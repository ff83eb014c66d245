"""Makes a follow-up into a question that can be asked by itself, by rules."""

import re
from collections.abc import Sequence

from redlantern.retrieval.analysis import content_words, stem, tokens

_OPENERS = re.compile(
    r"^(?:and|but|or|so|then|also|what about|how about|why not|and what|which one|the same)\b", re.IGNORECASE
)
_POINTERS = re.compile(
    r"\b(?:it|its|they|them|their|he|she|him|his|her|hers|this|these|those|that|there|then|the same|one|ones|the other|"
    r"the former|the latter|such)\b",
    re.IGNORECASE,
)
# "that" and "there" point to nothing in these.
_NO_POINTER = re.compile(
    r"\b(?:is there|are there|was there|were there|so that|state that|say that|the one who)\b", re.IGNORECASE
)
_SHORTEST_WHOLE_QUESTION = 2
_ASKING = frozenset("what who when where why how which whose whom did do does is are was were can could".split())


def standalone_question(question: str, history: Sequence[str]) -> str:
    """Complete a follow-up with what the thread was about.

    Parameters
    ----------
    question : str
    history : sequence of str
        Earlier questions of the thread, oldest first.

    Returns
    -------
    str
        The question itself when it stands alone; otherwise with the words of
        the earlier question that it leans on, and none from elsewhere.
    """
    if not history or not leans_on_earlier(question):
        return question
    earlier = _last_that_stands(history)
    known = {stem(word) for word in tokens(question)}
    added = [word for word in _as_written(earlier) if stem(word.casefold()) not in known]
    if not added:
        return question
    return f"{question.rstrip(' ?.!')} ({' '.join(added)})?"


def leans_on_earlier(question: str) -> bool:
    """Whether a question cannot be understood without the one before."""
    words = tokens(question)
    if _OPENERS.match(question.strip()):
        return True
    n_content = len(content_words(question))
    # "The deposit?" and "why?" are no whole questions; "What is the deposit?" is one.
    if n_content == 0 or (len(words) <= _SHORTEST_WHOLE_QUESTION and n_content <= 1):
        return True
    points = _POINTERS.search(_NO_POINTER.sub(" ", question))
    if points is None:
        return False
    # A pronoun that follows a name or noun of its own question points to that: "When did the Trust sign its lease?"
    before = content_words(question[: points.start()])
    return len([word for word in before if word not in _ASKING]) <= 1


def _last_that_stands(history: Sequence[str]) -> str:
    for question in reversed(history):
        if not leans_on_earlier(question):
            return question
    return history[0]


def _as_written(question: str) -> list[str]:
    """The content words of a question as they were typed, so that names keep their capitals."""
    kept = set(content_words(question))
    return [word for word in re.findall(r"[\w][\w.,’'/-]*[\w]|\w", question) if word.casefold() in kept]
