# SPDX-License-Identifier: GPL-3.0-or-later
"""What tests of the collection's file share."""

import errno
from pathlib import Path

import pytest


@pytest.fixture
def other_disk(monkeypatch):
    """Lets renaming a file fail from now on as it does onto another disk."""
    rename, refused = Path.rename, set()

    def refuse(self, to):
        if self in refused:
            raise OSError(errno.EXDEV, "Invalid cross-device link")
        return rename(self, to)

    monkeypatch.setattr(Path, "rename", refuse)
    return refused.add
