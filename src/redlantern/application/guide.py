# SPDX-License-Identifier: GPL-3.0-or-later
"""The pages of the guide, as they lie in the project's folder or were installed with the program."""

import re
import sys
from dataclasses import dataclass
from pathlib import Path

_IN_PROJECT = Path(__file__).parents[3] / "docs" / "guide"
_INSTALLED = Path(sys.prefix) / "share" / "redlantern" / "guide"


@dataclass(frozen=True)
class GuidePage:
    """A page: its title, its words in Markdown, and the folder that its pictures are looked for from."""

    title: str
    text: str
    folder: Path

    def has(self, words: str) -> bool:
        """Whether all these words stand in it."""
        said = self.text.casefold()
        return all(word in said for word in words.casefold().split())


def guide_pages() -> list[GuidePage]:
    """All pages in their order; none where the guide is not there."""
    for folder in (_IN_PROJECT, _INSTALLED):
        if folder.is_dir():
            return [_page(path) for path in sorted(folder.glob("*.md"))]
    return []


def _page(path: Path) -> GuidePage:
    text = path.read_text(encoding="utf-8")
    found = re.match(r"# (.+)", text)
    return GuidePage(found.group(1).strip() if found else path.stem, text, path.parent)
