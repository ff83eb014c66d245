"""What a reader is given: a file on disk, or bytes that came out of another file."""

import io
from dataclasses import dataclass, field
from pathlib import Path
from typing import BinaryIO


@dataclass(frozen=True)
class Material:
    """A file or an attachment. `name` is what its owner calls it; one of `path` and `data` is set."""

    name: str
    path: Path | None = None
    data: bytes | None = field(default=None, repr=False)
    password: str = field(default="", repr=False)

    @classmethod
    def of(cls, path: Path, password: str = "") -> "Material":
        """Take a file on disk."""
        return cls(path.name, path, None, password)

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
        return self.path.open("rb") if self.path is not None else io.BytesIO(self.data or b"")

    def read(self) -> bytes:
        """Give all its bytes."""
        return self.path.read_bytes() if self.path is not None else self.data or b""

    def head(self, n_bytes: int) -> bytes:
        """Give its first bytes."""
        with self.open() as file:
            return file.read(n_bytes)
