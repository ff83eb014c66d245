# SPDX-License-Identifier: GPL-3.0-or-later
"""Which language a question is in, told by its function words: it is too short for a language model of letters."""

import re
from functools import lru_cache

from redlantern.text.languages import ASKED_IN, ENGLISH, Language
from redlantern.text.languages.record import words

_WORD = re.compile(r"[^\W\d_]+")
# Words of those languages that are words of English with content, too: "war in Holland" is no German.
_ALSO_ENGLISH = words(
    "war die hat man den mag am des an also so van door met dan men come pour sur son sa dos sin con per no me la le et us her hem "
    "hun over under of as had is in at to on do mi i a e o y d c l m n t s"
)


@lru_cache(maxsize=4096)
def language_of_question(question: str) -> Language:
    """The language that most of a question's function words belong to; English where that is not told."""
    present = _WORD.findall(question.casefold())

    def share(language: Language) -> int:
        told = language.function_words | language.telling_words
        if language is not ENGLISH and not any(
            word in told and word not in ENGLISH.function_words and word not in _ALSO_ENGLISH for word in present
        ):
            return 0
        return sum(word in told for word in present)

    # The first of equals, so English unless another has more.
    return max(ASKED_IN, key=share)


def is_function_word(word: str) -> bool:
    """Whether a word is a function word of any of these languages."""
    return any(word.casefold() in language.function_words for language in ASKED_IN)
