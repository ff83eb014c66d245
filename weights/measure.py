# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures how fast this machine reads and writes with each packaged reader that is there: `python -m weights.measure`."""

import sys

from redlantern.models.card import Speeds, measure_language
from redlantern.models.hosted import step_tokens
from redlantern.models.protocols import Pace
from redlantern.models.readers import default_reader, keep_pace, measured_pace
from redlantern.models.register import READERS, JoinedFile
from redlantern.progress import Cancel
from redlantern.safety import seal


def main() -> int:
    """Measure, keep it beside the weights, and say which reader will answer."""
    seal.put_on()
    for reader in (reader for reader in READERS if reader.place.is_file()):
        speeds = _measured(reader)
        if step_tokens(measured_pace(reader)) != step_tokens(Pace()):
            # How much is read in a step follows from what is known of the speed, and makes it.
            speeds = _measured(reader)
        print(
            f"{reader.name}: reads {speeds.read_per_s:.0f} and writes {speeds.written_per_s:.0f} tokens a second here.",
            file=sys.stderr,
        )
    print(f"Questions will be answered with {default_reader().name}.", file=sys.stderr)
    return 0


def _measured(reader: JoinedFile) -> Speeds:
    """Measure a reader, and keep it."""
    speeds = measure_language(reader.place, Cancel(), lambda _: None)
    keep_pace(reader, Pace(round(speeds.read_per_s, 1), round(speeds.written_per_s, 1)))
    return speeds


if __name__ == "__main__":
    sys.exit(main())
