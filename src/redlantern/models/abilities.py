# SPDX-License-Identifier: GPL-3.0-or-later
"""What a language model was seen to be able to do, by the SHA-256 of its file: to read, and to judge whether a question is answered.

How it is seen is `answering.writing.reading_test`; what it came to is kept under this login, for the file is what it is.
"""

import json
from dataclasses import asdict, dataclass

from redlantern.models.register import READERS
from redlantern.safety.places import data_directory
from redlantern.safety.placing import put_text

_PLACE = "reading-tests.json"


@dataclass(frozen=True)
class Ability:
    """Whether a model answers rightly what stands in a passage, and whether its first word tells what does from what does not."""

    reads: bool = False
    judges: bool = False


NONE = Ability()


def ability_of(sha256: str) -> Ability | None:
    """What a model's file was seen to do; None for one that was never tested."""
    packaged = next((reader for reader in READERS if reader.sha256 == sha256), None)
    if packaged is not None:
        return Ability(reads=True, judges=packaged.judges)
    return _read().get(sha256)


def keep_ability(sha256: str, ability: Ability) -> None:
    """Remember what a model's file was seen to do."""
    kept = {known: asdict(seen) for known, seen in _read().items()} | {sha256: asdict(ability)}
    put_text(data_directory() / _PLACE, json.dumps(kept))


def _read() -> dict[str, Ability]:
    try:
        found = json.loads((data_directory() / _PLACE).read_text(encoding="utf-8"))
        return {str(known): Ability(bool(seen["reads"]), bool(seen["judges"])) for known, seen in found.items()}
    except (OSError, ValueError, AttributeError, KeyError, TypeError):
        return {}
