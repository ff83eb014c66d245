# SPDX-License-Identifier: GPL-3.0-or-later
"""Makes a follow-up into a question that can be asked by itself, by rules."""

import re
from collections.abc import Sequence

from redlantern.text.function_words import is_function_word
from redlantern.text.languages import ENGLISH
from redlantern.text.question import ParsedQuestion, content_words, parse_question, with_aside
from redlantern.text.stems import stem

# "that" and "there" point to nothing in these.
_NO_POINTER = re.compile(
    r"\b(?:is there|are there|was there|were there|so that|state that|say that|the one who)\b", re.IGNORECASE
)
# "For how long?", "by how much?", "since when?"
_ASKS_ABOUT_SAME = re.compile(
    r"^(?:for|by|with|to|from|in|on|at|of|since|until|under|after|before)\s+(?:what|which|whom?|whose|how|when|where)\b",
    re.IGNORECASE,
)
_AND_FOR = re.compile(
    r"^(?:and|or|but)?\s*(?:what about |how about )?(?P<link>for|in|on|of|from|to|at|by|with|under|since|until|after|before|during)\s+"
    r"(?!what\b|which\b|who|how\b|when\b|where\b)(?P<new>[^?!.]+)[?!. ]*$",
    re.IGNORECASE,
)
# "Does the hall have one?", but not "Is it the new one?"
_ONE_OF_THEM = re.compile(
    r"\b(?:have|has|had|use|used|need|needs|get|for|of|with|without|about|remove|make|makes|add|find|buy|see|on|in) ones?\W*$",
    re.IGNORECASE,
)
_MOST_WORDS_PUT_IN = 6
_SHORTEST_WHOLE_QUESTION = 2
_TITLES = r"(?:Mr|Mrs|Ms|Dr|Prof|Dame|Sir|Captain|Herrn?|Frau|M|Mme|Sr|Sra|Sig|Signora)\b\.?"
_NAME = re.compile(rf"\b{_TITLES}(?: [A-ZÀ-Þ][\w’'-]+)+|[A-ZÀ-Þ][\w’'-]+(?: [A-ZÀ-Þ][\w’'-]+)+")


def standalone_question(question: ParsedQuestion, history: Sequence[str], cited: Sequence[str] = ()) -> str:
    """Complete a follow-up with what the thread was about.

    "And in March?" is put into the question before where that has "in January";
    otherwise the words of the earlier question that it leans on are added, and for
    "he" or "she" the name that answered it.

    Parameters
    ----------
    question : ParsedQuestion
    history : sequence of str
        Earlier questions of the thread, oldest first.
    cited : sequence of str
        The words that answered the last of these, best first.

    Returns
    -------
    str
        The question itself when it stands alone; otherwise one with words of the
        thread, and none from elsewhere.
    """
    if not history or not leans_on_earlier(question):
        return question.text
    earlier = _last_that_stands(history)
    put_in = _put_in(question.text, earlier.text)
    if put_in:
        return put_in
    known = {stem(word) for word in question.tokens}
    added = [word for word in _as_written(earlier) if stem(word.casefold()) not in known]
    asks_for_person = question.language.persons.search(question.text) is not None and earlier.kind == "name"
    if earlier.text == history[-1] and asks_for_person:
        added += [word for word in _name_in(cited).split() if word not in added]
    if not added:
        return question.text
    return with_aside(question.text, " ".join(added))


def leans_on_earlier(question: ParsedQuestion) -> bool:
    """Whether a question cannot be understood without the one before."""
    text, language, n_content = question.text, question.language, len(question.content_words)
    if language.openers.match(text.strip()):
        return True
    # "The deposit?" and "why?" are no whole questions; "What is the deposit?" is one.
    if n_content == 0 or (len(question.tokens) <= _SHORTEST_WHOLE_QUESTION and n_content <= 1):
        return True
    if language is ENGLISH and ((n_content <= 1 and _ASKS_ABOUT_SAME.match(text.strip())) or _ONE_OF_THEM.search(text)):
        return True
    points = language.pointers.search(_NO_POINTER.sub(" ", text))
    if points is None:
        return False
    # A pronoun that follows a name or noun of its own question points to that: "When did the Trust sign its lease?"
    return language.determined.search(text[: points.start()]) is None


def _put_in(question: str, earlier: str) -> str:
    """The earlier question with the new thing in place of the old: "in January" becomes "in March"; empty where it has no such
    place.
    """
    asked = _AND_FOR.match(question.strip())
    if asked is None or len(asked["new"].split()) > _MOST_WORDS_PUT_IN:
        return ""
    last = list(re.finditer(rf"\b{asked['link']}\s+", earlier, re.IGNORECASE))
    if not last:
        return ""
    before, after = earlier[: last[-1].end()], earlier[last[-1].end() :].rstrip(" ?.!")
    # Only where the old thing ends the question: what follows it would be lost.
    if len(content_words(after)) > 2 or len(after.split()) > _MOST_WORDS_PUT_IN:
        return ""
    return f"{before}{asked['new'].strip()}?"


def _name_in(lines: Sequence[str]) -> str:
    """The first name in some lines, of two words or with a title; empty without one."""
    found = (match.group() for line in lines for match in _NAME.finditer(line))
    # "Die Schlüssel" begins with a small word, and is no name.
    return next((name for name in found if not is_function_word(name.split()[0])), "")


def _last_that_stands(history: Sequence[str]) -> ParsedQuestion:
    for text in reversed(history):
        question = parse_question(text)
        if not leans_on_earlier(question):
            return question
    return parse_question(history[0])


def _as_written(question: ParsedQuestion) -> list[str]:
    """The content words of a question as they were typed, so that names keep their capitals."""
    kept = set(question.content_words)
    written = re.findall(r"[\w][\w.,’'/-]*[\w]|\w", question.text)
    # "write-ahead" is two words to the search.
    return [word for word in written if word.casefold() in kept or kept.intersection(content_words(word))]
