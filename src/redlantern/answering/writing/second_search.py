# SPDX-License-Identifier: GPL-3.0-or-later
"""A second search where the first one's evidence is weak: with the words that a language model expects on a page that answers.

A question in quite other words than the page is found badly by words and by
meaning. The model is told the headings of the nearest passages and names the terms
that such documents use; they count half beside the question's own words. Nothing
of them is ever shown as an answer: what is read and cited are the pages that they
found. After Jagerman and others, "Query Expansion by Prompting Large Language
Models" (2023); docs/decisions/reading.md has what it brings.
"""

from redlantern.answering.writing.excerpts import head_of
from redlantern.answering.writing.grammars import words_grammar
from redlantern.answering.writing.grounds import AskedPart, Grounds
from redlantern.answering.writing.instructions import is_to_a_model
from redlantern.answering.writing.reading import SYSTEM
from redlantern.fitted import SEARCHED_AGAIN
from redlantern.models.protocols import LanguageModel
from redlantern.progress import Cancel
from redlantern.text.languages import ENGLISH, name_of_language

_MOST_HEADINGS, _MOST_HEADING_CHARS = 4, 70
_MOST_WORDS, _MOST_WORD_CHARS, _MOST_TOKENS = 12, 30, 24
_MOST_KNOWN = 8
_WANTED = "Give up to eight words on one line, and no sentence."


def search_again(grounds: Grounds, model: LanguageModel, cancel: Cancel) -> Grounds:
    """What an answer may stand on, with what is found in a model's words for each part whose evidence is weak.

    The same where none is, or where the model does not judge well enough to be asked.

    Raises
    ------
    LanguageModelError, Cancelled
    """
    if grounds.found_with is None or not model.can_judge:
        return grounds
    weak = [part.evidence_score < SEARCHED_AGAIN for part in grounds.parts]
    words = [
        _words_for(part, grounds, model, cancel) if is_weak else ""
        for part, is_weak in zip(grounds.parts, weak, strict=True)
    ]
    return grounds.found_with(words) if any(words) else grounds


def asks_for_words(user: str) -> bool:
    """Whether a prompt, by the user's part of it, asks for words to search with."""
    return user.endswith(_WANTED)


def _words_for(part: AskedPart, grounds: Grounds, model: LanguageModel, cancel: Cancel) -> str:
    """The words that the model names for a part of a question; none where it names none."""
    user, known = _prompt(part.question.text, grounds), grounds.known_words
    asked = f"{model.name}\n{user}"
    if asked not in known:
        steps = model.write(SYSTEM, user, grammar=words_grammar(_MOST_WORDS), most_tokens=_MOST_TOKENS, cancel=cancel)
        said = _plain_words("".join(step.words for step in steps))
        while len(known) >= _MOST_KNOWN:
            del known[next(iter(known))]
        known[asked] = said
    return known[asked]


def _plain_words(said: str) -> str:
    """What a model named as few short words: it may run in a server that keeps to no grammar, and brackets set words aside."""
    bare = "".join(sign if sign.isprintable() and sign not in "()[]" else " " for sign in said)
    return " ".join(word[:_MOST_WORD_CHARS] for word in bare.split()[:_MOST_WORDS])


def _prompt(question: str, grounds: Grounds) -> str:
    readable = [line for line in grounds.others if not is_to_a_model(line.passage.text)]
    lines = sorted(readable, key=lambda line: grounds.ranks.get(line.passage.passage_id, len(grounds.ranks)))
    headings = dict.fromkeys(head_of(line, grounds.title)[:_MOST_HEADING_CHARS] for line in lines)
    code = grounds.language(lines[0]) if lines else ""
    language = f" in {name_of_language(code)}" if code and code != ENGLISH.code else ""
    return (
        f"Titles of documents: {'; '.join(list(headings)[:_MOST_HEADINGS])}\n\nQuestion: {question}\n"
        f"Which technical words{language} would the page use that answers it? {_WANTED}"
    )
