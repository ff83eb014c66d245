# SPDX-License-Identifier: GPL-3.0-or-later
"""The words of the interface in the language of the desktop: gettext's catalogues, one source for window and commands.

Chosen once, before any other module is imported, for many words are made with the module that holds them: by the usual
variables of the environment (LANGUAGE, LC_ALL, LC_MESSAGES, LANG), unless another one was chosen in the window. REDLANTERN_LANGUAGE
goes before both: the command line, whose words scripts read, is English by it, and so are the processes that it starts.
"""

import gettext
import json
import os
import re
from pathlib import Path

from redlantern.base_directories import preferences_place

DOMAIN = "redlantern"
VARIABLE = "REDLANTERN_LANGUAGE"
LANGUAGES = {"en": "English", "de": "Deutsch", "fr": "Français"}
"""What it can be had in, each by its own name."""
FOLDER = Path(__file__).parent / "locale"


def _wished() -> list[str]:
    """The languages that are wished, the first choice first, as codes such as `de`; nothing but what was wished, known or not."""
    told = os.environ.get(VARIABLE)
    if told in LANGUAGES:
        return [str(told)]
    try:
        kept = json.loads(preferences_place().read_text(encoding="utf-8"))
    except (OSError, ValueError, RuntimeError):
        # RuntimeError: a login without a home.
        kept = None
    chosen = kept.get("language") if isinstance(kept, dict) else None
    # Whatever stands there: a list or a number is no language.
    if isinstance(chosen, str) and chosen in LANGUAGES:
        return [chosen]
    said = next(filter(None, map(os.environ.get, ("LANGUAGE", "LC_ALL", "LC_MESSAGES", "LANG"))), "")
    return [re.split("[_.@]", each)[0] for each in said.split(":")]


# English has no catalogue: who wishes it before others must not be given the next one. No other word of the environment, which
# could lead anywhere, becomes part of a path.
_LANGUAGE = next((each for each in _wished() if each in LANGUAGES), "en")
_CATALOGUE = gettext.translation(DOMAIN, str(FOLDER), [_LANGUAGE], fallback=True)


def language() -> str:
    """The language that is spoken, as a key of LANGUAGES."""
    return _LANGUAGE


def tr(message: str) -> str:
    """The words in the language that is spoken."""
    # A catalogue's own description stands under the empty message.
    return _CATALOGUE.gettext(message) if message else ""


def trn(one: str, many: str, n: int) -> str:
    """The words for one or for many, with `{n}` in them filled in."""
    return _CATALOGUE.ngettext(one, many, n).format(n=n)


def marked(message: str) -> str:
    """The words as they are, to be translated where they are shown: for what the program knows by its English name."""
    return message
