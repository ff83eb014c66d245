# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages whose text stands sideways or upside down as they are shown: read in a frame where it stands upright."""

from collections import Counter
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from redlantern.reading.values import Page, Run

Boxes = npt.NDArray[np.float64]
_LEAST_SHARE = 0.7


def turns_of(characters: list[str], boxes: Boxes) -> int:
    """By how many quarters, clockwise, most of a page's text is turned, from the way that letter follows letter in a word.

    Parameters
    ----------
    characters : list of str
        Empty where words end.
    boxes : float64 array of shape (n_characters, 4)
        Left, top, right, bottom in points from the top left corner.

    Returns
    -------
    int
        0 to 3; 0 also when there is no clear answer.
    """
    if len(characters) < 2:
        return 0
    is_letter = np.array([bool(character) for character in characters])
    middles = (boxes[:, :2] + boxes[:, 2:]) / 2
    steps = np.diff(middles, axis=0)[is_letter[1:] & is_letter[:-1]]
    across, down = steps[:, 0], steps[:, 1]
    is_across = np.abs(across) >= np.abs(down)
    ways = np.where(is_across, np.where(across >= 0, 0, 2), np.where(down >= 0, 1, 3))
    counted = Counter(ways.tolist()).most_common(1)
    return int(counted[0][0]) if counted and counted[0][1] >= _LEAST_SHARE * len(ways) else 0


def upright(boxes: Boxes, turns: int, width: float, height: float) -> Boxes:
    """Bring boxes on a page of this size, as shown, to the frame in which its text stands upright."""
    left, top, right, bottom = boxes.T
    if turns == 1:
        return np.column_stack([top, width - right, bottom, width - left])
    if turns == 2:
        return np.column_stack([width - right, height - bottom, width - left, height - top])
    if turns == 3:
        return np.column_stack([height - bottom, left, height - top, right])
    return boxes


def as_shown(page: Page, turns: int) -> Page:
    """Put an upright page back as it is shown: its size, and a run of its own for every character."""
    if not turns:
        return page
    is_sideways = turns % 2 == 1
    width, height = (page.height_pt, page.width_pt) if is_sideways else (page.width_pt, page.height_pt)
    spans = [(run.start + index, run, index) for run in page.runs for index in range(run.end - run.start)]
    boxes = np.array([(run.edges[index], run.top, run.edges[index + 1], run.bottom) for _, run, index in spans])
    # Going on to a whole turn brings them back; the frame that they stand in is the upright one.
    placed = upright(boxes.reshape(-1, 4), (4 - turns) % 4, page.width_pt, page.height_pt).tolist()
    runs = tuple(
        Run(start, start + 1, top, bottom, (left, right))
        for (start, _, _), (left, top, right, bottom) in zip(spans, placed, strict=True)
    )
    return replace(page, runs=runs, width_pt=width, height_pt=height)
