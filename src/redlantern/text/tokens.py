# SPDX-License-Identifier: GPL-3.0-or-later
"""Text to words and numbers, the same way for documents and questions."""

import re
import unicodedata

# Numbers keep their inner points and commas (7.2, 1.299,50); words may hold an apostrophe.
_TOKEN = re.compile(r"\d+(?:[.,:/]\d+)*|[^\W\d_]+(?:['’][^\W\d_]+)*")
_APOSTROPHE = re.compile(r"['’](?:s|S)?$|['’].*$")
_WORD_TYPED = re.compile(r"[^\W_]+(?:['’][^\W_]+)*")
_MOST_COMPOUND_CHARS = 40
# "e-mail" is also "email", "max_connections" and "N416" are words of their own.
_JOINED = re.compile(r"[^\W_]+(?:[-_‐‑][^\W_]+)*")
_JOINER = re.compile(r"[-_‐‑]")


def tokens(text: str) -> list[str]:
    """Cut text into words and numbers, folded to small letters without accents' variants (NFKC)."""
    found = _TOKEN.findall(unicodedata.normalize("NFKC", text).casefold())
    return [word if word.isalnum() or word[0].isdigit() else _APOSTROPHE.sub("", word) for word in found]


def compounds(text: str) -> list[str]:
    """Words of several parts in one: joined by hyphens or underscores, or of letters and digits; in order."""
    found = []
    for word in _JOINED.findall(unicodedata.normalize("NFKC", text).casefold()):
        # Most words are letters alone: nothing more is asked of them.
        if not word.isalpha() and len(whole := _JOINER.sub("", word)) <= _MOST_COMPOUND_CHARS and not whole.isdigit():
            found.append(whole)
    return found


def as_typed(word: str, question: str) -> str:
    """A word of `content_words` with the capitals it has in the question."""
    return next((typed for typed in _WORD_TYPED.findall(question) if typed.casefold() == word), word)
