# SPDX-License-Identifier: GPL-3.0-or-later
"""What goes into a collection, and what comes out of it for finding: values between reading, keeping and searching."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from redlantern.reading.values import ReadFile
from redlantern.splitting.passages import Passage

SmallVectors = npt.NDArray[np.int8]


@dataclass(frozen=True)
class Source:
    """Where a document lies on disk, and what the file looked like when it was read."""

    full_path: str
    root: str
    size_bytes: int
    mtime_ns: int


NOT_EMBEDDED = "none yet"


@dataclass(frozen=True)
class MadeWith:
    """What a document's passages and vectors were made with: embedding model by its hash, splitting, reader version.

    An empty splitting and reader 0 stand for what was not recorded yet,
    NOT_EMBEDDED for a model that has not come to it yet.
    """

    embedding: str
    splitting: str = ""
    reader: int = 0

    def is_embedded_by(self, identity: str) -> bool:
        """Whether the vectors are this model's. Before file version 3 only its name was recorded."""
        return self.embedding in (identity, identity.rpartition(" ")[0])


@dataclass(frozen=True)
class Prepared:
    """A document that is read, split and embedded, ready to be kept in one transaction."""

    sha256: str
    read: ReadFile
    passages: Sequence[Passage]
    made_with: MadeWith
    vectors: SmallVectors
    line_vectors: npt.NDArray[np.uint8]
    words: bytes
    fingerprint: bytes = b""
    parts: Sequence["PreparedPart"] = ()


@dataclass(frozen=True)
class PreparedPart:
    """A document within a file: its name there, and what is to be kept of it or why it was refused."""

    name: str
    prepared: Prepared | None
    refusal: str = ""
