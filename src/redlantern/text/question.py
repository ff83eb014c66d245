# SPDX-License-Identifier: GPL-3.0-or-later
"""A question parsed: once, and then carried through finding and answering."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from redlantern.text.answer_kind import Kind, kind_wanted
from redlantern.text.dates import dates
from redlantern.text.function_words import language_of_question
from redlantern.text.languages import ENGLISH, Language
from redlantern.text.quantities import Quantity, quantities
from redlantern.text.stems import stem, stem_in
from redlantern.text.tokens import compounds, tokens

QUESTION_WORDS = frozenset(
    "according tell give list name show say said says state stated according please mean means happen happened happens there "
    "document documents file files".split()
)
"""They say that something is asked, or of what kind of source, and not what is looked for."""
_ASIDE = re.compile(r"\([^()]*\)\W*$")
_CAPITALISED = re.compile(r"[A-ZÀ-Þ]\w*")


@dataclass(frozen=True)
class ParsedQuestion:
    """A question taken apart into what finding and answering ask of it.

    `tokens` are its words and numbers, folded; `content_words` those that carry content, without repeats; `compounds` its
    words of several parts in one; `dates` its full dates, as `date:2026-03-17`. `kind` is the kind of answer that it wants.
    `entities` are where its words stand that are written like names: with a capital, and not at its beginning. What stands
    in brackets at its end, from `aside` on, was taken from its thread.
    """

    text: str
    language: Language
    tokens: tuple[str, ...]
    content_words: tuple[str, ...]
    compounds: tuple[str, ...]
    kind: Kind
    entities: tuple[tuple[int, int], ...]
    dates: tuple[str, ...]
    aside: int

    @property
    def is_english(self) -> bool:
        """Whether it is taken for English, as all are whose language is not known."""
        return self.language is ENGLISH

    @cached_property
    def quantities(self) -> tuple[Quantity, ...]:
        """Its numbers with their units."""
        return tuple(quantities(self.text))

    @cached_property
    def content_tokens(self) -> tuple[str, ...]:
        """Its tokens but for function words, in order, with repeats."""
        return tuple(token for token in self.tokens if token not in self.language.function_words)

    def stems(self, languages: Sequence[str] = ()) -> list[str]:
        """What it is searched by, also in these languages: without function words, unless it has nothing else."""
        chosen = self.content_tokens or self.tokens
        foreign = [stem_in(language, token) for language in languages for token in chosen if token[0].isalpha()]
        whole = [stem(token) for token in self.compounds if not token[0].isdigit()]
        return [stem(token) for token in chosen] + whole + list(self.dates) + foreign

    def own_stems(self, languages: Sequence[str] = ()) -> list[str]:
        """The same of what it says itself, without what was taken from its thread."""
        whole = self.aside == len(self.text)
        return self.stems(languages) if whole else parse_question(self.text[: self.aside]).stems(languages)


def parse_question(text: str) -> ParsedQuestion:
    """Take a question apart."""
    language = language_of_question(text)
    found = tuple(tokens(text))
    aside = _ASIDE.search(text)
    return ParsedQuestion(
        text,
        language,
        found,
        tuple(_content_words(found, language)),
        tuple(compounds(text)),
        kind_wanted(text, language),
        tuple(match.span() for match in _CAPITALISED.finditer(text) if match.start() > 0),
        tuple(dates(text)),
        aside.start() if aside and aside.start() > 0 else len(text),
    )


def with_aside(text: str, words: str) -> str:
    """A question with words in brackets at its end, which count half."""
    return f"{text.rstrip(' ?.!')} ({words})?"


def content_words(text: str) -> list[str]:
    """The words of a stretch of a question that carry content, as written, in order and without repeats."""
    return _content_words(tokens(text), language_of_question(text))


def _content_words(found: Sequence[str], language: Language) -> list[str]:
    small = language.function_words
    return list(dict.fromkeys(token for token in found if token not in small and token not in QUESTION_WORDS))
