# SPDX-License-Identifier: GPL-3.0-or-later
"""The packaged language models: which of them is used where nobody chose, and how fast they were on this machine."""

import json
import math
import os
from dataclasses import asdict
from pathlib import Path

from redlantern.models.machine import free_bytes
from redlantern.models.protocols import Pace
from redlantern.models.register import CLOSE_READER, LIGHT_READER, READERS, JoinedFile
from redlantern.safety.placing import put_text

_USUAL_READ_TOKENS, _USUAL_WRITTEN_TOKENS = 280, 35
_LONGEST_ANSWER_S = 45.0
"""Where the close reader takes longer for a usual answer, the light one is what people would use."""


def answer_s(pace: Pace) -> float:
    """About how long a usual answer takes at a pace, in seconds; 0 where that is not known."""
    if not (pace.read_per_s and pace.written_per_s):
        return 0.0
    return _USUAL_READ_TOKENS / pace.read_per_s + _USUAL_WRITTEN_TOKENS / pace.written_per_s


READER_VARIABLE = "REDLANTERN_READER"
"""The environment variable that names the reader to use where nobody chose one in a collection: close or light."""


def default_reader() -> JoinedFile:
    """The close reader where it is there, the memory takes it, and it was not measured to be too slow; else the light one.

    What READER_VARIABLE names comes first.
    """
    named = reader_of(os.environ.get(READER_VARIABLE, ""))
    if named is not None:
        return named
    if not LIGHT_READER.place.is_file():
        return CLOSE_READER if CLOSE_READER.place.is_file() else LIGHT_READER
    is_there = CLOSE_READER.place.is_file()
    is_fit = is_there and free_bytes() >= CLOSE_READER.memory_bytes
    return CLOSE_READER if is_fit and answer_s(measured_pace(CLOSE_READER)) <= _LONGEST_ANSWER_S else LIGHT_READER


def reader_of(word: str) -> JoinedFile | None:
    """The packaged reader that people choose by this word, if it is there."""
    return next((reader for reader in READERS if reader.word == word and reader.place.is_file()), None)


def reader_at(path: Path) -> JoinedFile | None:
    """The packaged reader whose file this is, if it is one's."""
    return next((reader for reader in READERS if reader.place == path), None)


def measured_pace(reader: JoinedFile) -> Pace:
    """What set-up measured of a reader; nothing where it did not."""
    try:
        found = json.loads(_pace_file(reader).read_text(encoding="utf-8"))
        pace = Pace(float(found["read_per_s"]), float(found["written_per_s"]))
        return pace if all(0 <= per_s < math.inf for per_s in (pace.read_per_s, pace.written_per_s)) else Pace()
    except (OSError, ValueError, KeyError, TypeError):
        return Pace()


def keep_pace(reader: JoinedFile, pace: Pace) -> None:
    """Keep what was measured, beside the reader's file."""
    put_text(_pace_file(reader), json.dumps(asdict(pace)))


def _pace_file(reader: JoinedFile) -> Path:
    return reader.place.with_suffix(".pace.json")
