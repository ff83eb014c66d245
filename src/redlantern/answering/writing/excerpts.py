# SPDX-License-Identifier: GPL-3.0-or-later
"""What of the found passages a language model reads: their best lines, under the title and the heading that they stand under.

The first passage is read around its best line: what answers often stands beside
the line that has the question's words. Then, as the right page is among the first
passages far more often than its line is among the first lines, and the right line
is among the first lines of all more often than among those of the first passages,
both are taken in turn, as far as the room goes (docs/decisions/reading.md has the
comparison).
"""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from redlantern.answering.evidence.lines import Candidate
from redlantern.answering.writing.instructions import as_material
from redlantern.models.wire import neutral
from redlantern.text.stems import stems

FIRST_PASSAGES = 4
"""So many passages are read from, whatever their lines score."""
_LINES_OF_THE_FIRST = 7
"""So many lines of the first passage are read, those about its best one, if it is prose: each row of a table stands for itself."""
_MOST_WORDS = 60
"""Of a longer line only so many words are read, around the question's."""
_MOST_HEAD_CHARS = 90
_GAP = " … "
_CLAUSE_NUMBER = re.compile(r"^\d+(?:\.\d+)*\.?\s+")


@dataclass(frozen=True)
class Excerpt:
    """Lines of one passage in reading order, as the model reads them: `text` under `head`."""

    head: str
    lines: tuple[Candidate, ...]
    text: str

    @property
    def printed(self) -> str:
        """The excerpt under its head."""
        return f"# {self.head}\n{self.text}"


def choose_excerpts(
    candidates: Sequence[Candidate],
    ranks: Mapping[int, int],
    wanted: Sequence[str],
    *,
    title: Callable[[Candidate], str],
    count_tokens: Callable[[str], int],
    room: int,
) -> tuple[Excerpt, ...]:
    """Choose what is read, the passage of the best line first.

    Parameters
    ----------
    candidates : sequence of Candidate
        Best first, at least one. None of them may speak to a model.
    ranks : mapping of int to int
        The place of each passage's group in the order of passages, from 0, by passage id.
    wanted : sequence of str
        Stems of the question's words.
    title : callable
        Gives the title of a line's document.
    count_tokens : callable
    room : int
        In tokens; the first line is taken in any case.
    """
    chosen: dict[int, list[Candidate]] = {}
    seen: set[tuple[int, int, int]] = set()
    spent = 0
    for candidate in _in_turn(candidates, ranks):
        passage = candidate.passage
        place = (passage.document_id, passage.page_number, candidate.passage.lines[candidate.line][0])
        if place in seen:
            continue
        is_new = passage.passage_id not in chosen
        head = f"{head_of(candidate, title)}\n" if is_new else ""
        n_tokens = count_tokens(head + _said(candidate, title, wanted))
        if spent and spent + n_tokens > room:
            continue
        seen.add(place)
        spent += n_tokens
        chosen.setdefault(passage.passage_id, []).append(candidate)
    return tuple(_excerpt(lines, title, wanted) for lines in chosen.values())


def _in_turn(candidates: Sequence[Candidate], ranks: Mapping[int, int]) -> list[Candidate]:
    """What stands in the first passage; then the best line of each of the first ones and the best lines of all, in turn."""
    first: dict[int, Candidate] = {}
    for candidate in candidates:
        rank = ranks.get(candidate.passage.passage_id)
        if rank is not None and rank < FIRST_PASSAGES:
            first.setdefault(rank, candidate)
    of_passages = [first[rank] for rank in sorted(first)]
    turns = _around(of_passages[0]) if of_passages else []
    for at, candidate in enumerate(candidates):
        turns += of_passages[at : at + 1]
        turns.append(candidate)
    return turns


def _around(best: Candidate) -> list[Candidate]:
    """A line of prose and those about it in its passage, the nearest first; what it reaches over is read with it."""
    if best.is_row:
        return [best]
    start, end = best.span
    passage = best.passage
    beside = [at for at in passage.own_lines() if passage.lines[at][1] <= start or passage.lines[at][0] >= end]
    # What follows a line explains it more often than what stands before it.
    beside.sort(key=lambda at: (abs(at - best.line), at < best.line))
    return [best, *(replace(best, line=at, first=-1, last=-1) for at in beside[: _LINES_OF_THE_FIRST - 1])]


def _excerpt(lines: Sequence[Candidate], title: Callable[[Candidate], str], wanted: Sequence[str]) -> Excerpt:
    ordered = sorted(lines, key=lambda line: line.line)
    text = ""
    for at, line in enumerate(ordered):
        if at:
            text += " " if line.line == ordered[at - 1].line + 1 else _GAP
        text += _said(line, title, wanted)
    return Excerpt(head_of(ordered[0], title), tuple(ordered), text)


def head_of(candidate: Candidate, title: Callable[[Candidate], str]) -> str:
    """The document's title and the nearest heading; a row says the names of its columns itself."""
    headings = candidate.passage.headings
    nearest = headings.path[-1:] if headings.path[-1:] != (title(candidate),) else ()
    return neutral(" · ".join([title(candidate), *nearest])[:_MOST_HEAD_CHARS])


def _said(candidate: Candidate, title: Callable[[Candidate], str], wanted: Sequence[str]) -> str:
    """A line as it is read: what its row would say of where it stands is said once, at the head."""
    text = as_material(candidate)
    if candidate.is_row:
        for part in (title(candidate), *candidate.passage.headings.path[-1:]):
            text = text.removeprefix(f"{_CLAUSE_NUMBER.sub('', neutral(part))}: ")
    return _shortened(text, wanted)


def _shortened(text: str, wanted: Sequence[str]) -> str:
    """A long line cut to the stretch that has most of the question's words."""
    words = text.split()
    if len(words) <= _MOST_WORDS:
        return text
    asked = set(wanted)
    hits = [bool(asked & set(stems(word))) for word in words]
    starts = range(len(words) - _MOST_WORDS + 1)
    start = max(starts, key=lambda at: (sum(hits[at : at + _MOST_WORDS]), -at))
    before = "… " if start else ""
    after = " …" if start + _MOST_WORDS < len(words) else ""
    return before + " ".join(words[start : start + _MOST_WORDS]) + after
