# SPDX-License-Identifier: GPL-3.0-or-later
"""Which language a document is written in, by py3langid (byte n-grams; Lui and Baldwin, 2012)."""

import io
import lzma
import unicodedata
from array import array
from collections.abc import Sequence
from functools import lru_cache
from typing import Any

import numpy as np

from redlantern.reading.values import Page
from redlantern.text.languages import LANGUAGES

_ENOUGH_LETTERS = 40
_SAMPLE_CHARS = 6000
_TYPE_CODES = {2: "H", 4: "I", 8: "L"}


def language_of(pages: Sequence[Page]) -> str:
    """Give the code of the language that most of a document's first pages are in; empty if it has too few letters."""
    gathered, n_chars = [], 0
    for page in pages:
        for block in page.blocks:
            if block.kind in ("paragraph", "list item", "heading", "note", "caption"):
                gathered.append(page.text[block.start : block.end])
                n_chars += block.end - block.start
        if n_chars > _SAMPLE_CHARS:
            break
    text = " ".join(gathered) or " ".join(page.text[:_SAMPLE_CHARS] for page in pages[:2])
    return language_of_text(text[:_SAMPLE_CHARS])


def language_of_text(text: str) -> str:
    """Give the code of a text's language; empty if it has too few letters."""
    words = [word for word in text.split() if any(unicodedata.category(letter).startswith("L") for letter in word)]
    if sum(map(len, words)) < _ENOUGH_LETTERS:
        return ""
    code, _ = _identifier().classify(" ".join(words))
    return str(code)


@lru_cache(maxsize=1)
def _identifier() -> Any:
    from py3langid import langid

    # Its own loader unpacks to a temporary file, and a reader may write none.
    with lzma.open(langid.MODEL_DIR / langid.MODEL_FILE) as packed, np.load(io.BytesIO(packed.read())) as model:
        identifier = langid.LanguageIdentifier(
            model["ptc"],
            model["pc"],
            model["classes"].tolist(),
            array(_TYPE_CODES[model["nextmove"].dtype.itemsize], model["nextmove"].tobytes()),
            model["out_feat"].tolist(),
            norm_probs=True,
            tk_row=array(_TYPE_CODES[model["nextmove_row"].dtype.itemsize], model["nextmove_row"].tobytes()),
        )
    identifier.set_languages(list(LANGUAGES))
    return identifier
