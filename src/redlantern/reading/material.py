# SPDX-License-Identifier: GPL-3.0-or-later
"""What a reader is given: a file on disk that was opened for it, or bytes that came out of another file."""

import io
import os
from dataclasses import dataclass, field
from pathlib import Path
from typing import BinaryIO


class _HandleFile(io.RawIOBase):
    """Reads an open file from a place of its own: several may read one handle, also in forked processes."""

    def __init__(self, handle: int) -> None:
        super().__init__()
        self._handle, self._at = handle, 0

    def readable(self) -> bool:
        """It can be read."""
        return True

    def seekable(self) -> bool:
        """It can be read from anywhere."""
        return True

    def seek(self, offset: int, whence: int = os.SEEK_SET, /) -> int:
        """Go on from another place."""
        start = {os.SEEK_SET: 0, os.SEEK_CUR: self._at, os.SEEK_END: os.fstat(self._handle).st_size}[whence]
        self._at = max(0, start + offset)
        return self._at

    def readinto(self, buffer: "memoryview", /) -> int:  # type: ignore[override]
        """Read into a buffer; gives how many bytes came, 0 at the end."""
        piece = os.pread(self._handle, len(buffer), self._at)
        buffer[: len(piece)] = piece
        self._at += len(piece)
        return len(piece)


@dataclass(frozen=True)
class Material:
    """A file or an attachment. `name` is what its owner calls it; one of `handle` and `data` is set."""

    name: str
    handle: int | None = None
    data: bytes | None = field(default=None, repr=False)
    password: str = field(default="", repr=False)

    @property
    def suffix(self) -> str:
        """The ending of its name in small letters, with the point."""
        return Path(self.name).suffix.lower()

    @property
    def plain_name(self) -> str:
        """Its name as a title: without ending and underscores."""
        return Path(self.name).stem.replace("_", " ").strip()

    def open(self) -> BinaryIO:
        """Open it for reading from the start."""
        if self.handle is not None:
            return io.BufferedReader(_HandleFile(self.handle))
        return io.BytesIO(self.data or b"")

    def read(self) -> bytes:
        """Give all its bytes."""
        with self.open() as file:
            return file.read()

    def head(self, n_bytes: int) -> bytes:
        """Give its first bytes."""
        with self.open() as file:
            return file.read(n_bytes)
