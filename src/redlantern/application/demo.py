# SPDX-License-Identifier: GPL-3.0-or-later
"""Where the demo documents are, and where their collection is kept."""

import sys
from dataclasses import dataclass
from pathlib import Path

from redlantern.safety.places import data_directory, private_directory

_IN_PROJECT = Path(__file__).parents[3] / "demo"
_INSTALLED = Path(sys.prefix) / "share" / "redlantern" / "demo"


@dataclass(frozen=True)
class Demo:
    """The invented documents, questions about them with the right pages, and the place of the collection made of them."""

    documents: Path
    questions: Path

    @property
    def collection(self) -> Path:
        """Its folder is made where it is missing."""
        return private_directory(data_directory() / "demo") / "Oriel Hall file.redlantern"


def find_demo() -> Demo | None:
    """The demo as it lies in the project's folder, or was installed with the program; None where there is none."""
    for place in (_IN_PROJECT, _INSTALLED):
        if (place / "documents").is_dir():
            return Demo(place / "documents", place / "questions.jsonl")
    return None
