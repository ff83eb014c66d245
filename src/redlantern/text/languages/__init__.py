# SPDX-License-Identifier: GPL-3.0-or-later
"""One record a language, and the languages there are. A new one is a module here and a line in LANGUAGES."""

from redlantern.text.languages.dutch import DUTCH
from redlantern.text.languages.english import ENGLISH
from redlantern.text.languages.french import FRENCH
from redlantern.text.languages.german import GERMAN
from redlantern.text.languages.italian import ITALIAN
from redlantern.text.languages.others import OTHERS
from redlantern.text.languages.record import Language
from redlantern.text.languages.spanish import SPANISH

ASKED_IN = (ENGLISH, GERMAN, FRENCH, SPANISH, ITALIAN, DUTCH)
"""Languages that questions are understood in; the first of those that fit as well is taken."""
LANGUAGES = {language.code: language for language in (ENGLISH, GERMAN, FRENCH, SPANISH, ITALIAN, DUTCH, *OTHERS)}
"""All that a document can be told to be in, by ISO 639-1 code."""
STEMMED = tuple(sorted(code for code, language in LANGUAGES.items() if language.stemmer))
"""Codes of those other than English whose words have stems of their own."""


def name_of_language(code: str) -> str:
    """The name of a language by its code; empty for one that is not known."""
    language = LANGUAGES.get(code)
    return language.name if language is not None else ""


__all__ = ["ASKED_IN", "ENGLISH", "LANGUAGES", "STEMMED", "Language", "name_of_language"]
