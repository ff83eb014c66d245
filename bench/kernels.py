# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures how fast the packaged readers read and write with the runtime's own kernels and with those for this processor."""

import os
from statistics import median
from typing import Any

from redlantern.models.card import Speeds, measure_language
from redlantern.models.kernels import KERNELS_VARIABLE, PLAIN, usable_kernels
from redlantern.models.register import READERS, JoinedFile
from redlantern.progress import Cancel

_N_PAIRS = 3


def measure() -> dict[str, dict[str, float]]:
    """Tokens a second, the medians of three measurements each, taken in turn: what else the machine does, it does to both."""
    found = {}
    for reader in (reader for reader in READERS if reader.place.is_file()):
        pairs = [(_speeds(reader, PLAIN), _speeds(reader, "")) for _ in range(_N_PAIRS)]
        plain, special = zip(*pairs, strict=True)
        found[reader.word] = {
            "read, the runtime's own": median(one.read_per_s for one in plain),
            "read": median(one.read_per_s for one in special),
            "written, the runtime's own": median(one.written_per_s for one in plain),
            "written": median(one.written_per_s for one in special),
        }
    return found


def show(result: dict[str, dict[str, float]]) -> None:
    """Print one figure a line."""
    kernels = usable_kernels()
    print("kernels:", kernels.word if kernels is not None else "the runtime's own alone")
    for word, figures in result.items():
        for name, value in figures.items():
            print(f"{word}, tokens {name}, a second".ljust(64) + f"{value:8.1f}")


def as_json(result: dict[str, dict[str, float]]) -> dict[str, Any]:
    """The figures as they are."""
    return result


def _speeds(reader: JoinedFile, kernels: str) -> Speeds:
    before = os.environ.get(KERNELS_VARIABLE)
    os.environ[KERNELS_VARIABLE] = kernels
    try:
        return measure_language(reader.place, Cancel(), lambda _: None)
    finally:
        if before is None:
            del os.environ[KERNELS_VARIABLE]
        else:
            os.environ[KERNELS_VARIABLE] = before
