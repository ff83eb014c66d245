# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern verify`: checks the citations of an exported brief against a folder of documents. Needs no collection."""

import contextlib
import json
from collections import Counter
from pathlib import Path

from redlantern.application.briefs import read_citations
from redlantern.brief.verifying import Verified, verify
from redlantern.commands.shared import ProgressLine, plain, stoppable
from redlantern.errors import UsageError
from redlantern.reading.pool import ReaderPool
from redlantern.safety.names import json_line
from redlantern.text.listing import counted

_MOST_CHARS = 100


def verify_export(export: Path, folder: Path, *, as_json: bool) -> int:
    """Check every citation; 0 if all stand, 1 if any does not."""
    if not folder.is_dir():
        raise UsageError(f"there is no folder {folder}")
    form = read_citations(export)
    progress = ProgressLine()
    with contextlib.closing(ReaderPool()) as readers, stoppable() as cancel:
        found = verify(form, folder, readers, report=progress, cancel=cancel)
    progress.finish()
    if as_json:
        print(json_line(json.dumps([_row(each) for each in found], ensure_ascii=False)))
    else:
        print(in_words(found))
    return 0 if all(each.is_good for each in found) else 1


def in_words(found: list[Verified]) -> str:
    """What came of a check: what does not stand first."""
    bad = [each for each in found if not each.is_good]
    lines = [f"{counted(len(found) - len(bad), 'citation')} of {len(found)} stand on their pages."]
    for each in bad:
        other = f", but on page {each.page_number}" if each.page_number else ""
        said = "not on this page" if each.verdict == "on another page" else each.verdict
        words = plain(" ".join(each.cited.words.split()))[:_MOST_CHARS]
        lines.append(f"  {each.cited.number}. {plain(each.mark)} {plain(each.title)}: {said}{other}: “{words}”")
    counts = Counter(each.verdict for each in bad)
    if counts["file missing"]:
        lines.append("A missing file is one of which none in the folder has the hash: it is not there, or was changed.")
    return "\n".join(lines)


def _row(each: Verified) -> dict[str, object]:
    return {
        "number": each.cited.number, "mark": each.mark, "title": each.title, "verdict": each.verdict, "is_good": each.is_good,
        "found_on_page": each.page_number or None, "sha256": each.cited.sha256,
    }  # fmt: skip
