# SPDX-License-Identifier: GPL-3.0-or-later
"""How this login wants its windows: theme, place, keys. No word and no name of a document is among it."""

import contextlib
import json
from dataclasses import asdict, dataclass, field, replace
from pathlib import Path
from typing import Any

from redlantern.base_directories import preferences_place
from redlantern.safety.places import data_directory
from redlantern.safety.placing import put_text
from redlantern.translation import LANGUAGES

SYSTEM, LAMPLIGHT, DAYLIGHT = "system", "lamplight", "daylight"
_THEMES = (SYSTEM, LAMPLIGHT, DAYLIGHT)
_LONGEST = 4_000


@dataclass(frozen=True)
class Preferences:
    """What was chosen.

    `theme` is one of SYSTEM, LAMPLIGHT and DAYLIGHT; `is_stark` asks for more contrast whatever the desktop says; `place`
    is where the window was, as Qt packs it, in hexadecimal digits; `keys` are those of actions that were given others than
    they come with, by the actions' words, empty for none; `tells` whether the end of long work is told by the desktop, and
    `stays_awake` whether the machine is asked not to sleep while files are read. `language` is a key of LANGUAGES, empty
    for the desktop's; it is read at the next start.
    """

    theme: str = SYSTEM
    is_stark: bool = False
    place: str = ""
    keys: dict[str, str] = field(default_factory=dict)
    tells: bool = True
    stays_awake: bool = False
    language: str = ""

    def kept(self, **changes: Any) -> "Preferences":
        """The same with some changed, and kept on disk; where that is full or closed, for this window alone."""
        changed = replace(self, **changes)
        with contextlib.suppress(OSError):
            put_text(_place(), json.dumps(asdict(changed), indent=1))
        return changed


def load() -> Preferences:
    """What was kept last; whatever of it cannot be understood is as it comes."""
    try:
        found = json.loads(_place().read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return Preferences()
    return _understood(found) if isinstance(found, dict) else Preferences()


def _understood(found: dict[str, Any]) -> Preferences:
    default = Preferences()
    place, keys = found.get("place"), found.get("keys")
    is_place = isinstance(place, str) and len(place) < _LONGEST and set(place) <= set("0123456789abcdef")
    return Preferences(
        found["theme"] if found.get("theme") in _THEMES else default.theme,
        found.get("is_stark") is True,
        str(place) if is_place else "",
        {name: value for name, value in keys.items() if isinstance(value, str)} if isinstance(keys, dict) else {},
        found.get("tells") is not False,
        found.get("stays_awake") is True,
        found["language"] if found.get("language") in tuple(LANGUAGES) else default.language,
    )


def _place() -> Path:
    # With the folder, which nobody else may look into.
    return data_directory() / preferences_place().name
