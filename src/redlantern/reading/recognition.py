# SPDX-License-Identifier: GPL-3.0-or-later
"""Text recognition on the picture of a page, by Tesseract in a forked process.

The picture is straightened first; words come back with boxes on the page as it
was shown and with what Tesseract thinks of each.
"""

import math
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from redlantern.reading import errors, tesseract
from redlantern.reading.forked import ForkFailedError, ForkTimeoutError, in_a_fork
from redlantern.reading.layout import Word
from redlantern.reading.values import Page, Run

RECOGNISED_DPI = 300
TIMEOUT_S = 60.0
LOW_CONFIDENCE = 0.75
"""A page under this is worth a look: its warning says so."""

_LEAST_WORD_CONFIDENCE = 0.25
_LEAST_SIGN_CONFIDENCE = 0.8
_SPECKS = "_|~^`´¦"
# A word without tall letters is lower than its line.
_LEAST_LINE_PX = 28
_WIDEST_SKEW_DEGREES = 6.0
_WORD_LEVEL = "5"
_STRAIGHT_DEGREES = 0.15
_LANGUAGE_DATA = {
    "en": "eng", "de": "deu", "fr": "fra", "es": "spa", "it": "ita", "nl": "nld", "pt": "por", "sv": "swe", "da": "dan", "no": "nor",
    "fi": "fin", "pl": "pol", "cs": "ces", "hu": "hun", "ro": "ron", "ru": "rus", "tr": "tur",
}  # fmt: skip

Grey = npt.NDArray[np.uint8]


@dataclass(frozen=True)
class Turn:
    """How a page was turned about its middle to straighten it: clockwise, the middle in points."""

    degrees: float = 0.0
    middle_x: float = 0.0
    middle_y: float = 0.0

    def undone(self, page: Page) -> Page:
        """Put the runs of a straightened page where its words are printed, each word by itself."""
        if not self.degrees:
            return page
        runs = [word for run in page.runs for word in _words_of(page.text, run)]
        return replace(page, runs=tuple(map(self._turned_back, runs)))

    def _turned_back(self, run: Run) -> Run:
        cos, sin = math.cos(math.radians(self.degrees)), math.sin(math.radians(self.degrees))
        x = (run.edges[0] + run.edges[-1]) / 2 - self.middle_x
        y = (run.top + run.bottom) / 2 - self.middle_y
        right, down = cos * x + sin * y - x, -sin * x + cos * y - y
        edges = tuple(edge + right for edge in run.edges)
        return Run(run.start, run.end, run.top + down, run.bottom + down, edges)


@dataclass(frozen=True)
class Recognised:
    """What was recognised on a page: its words, in points from the top left corner of the straightened page, how it was
    straightened, and the mean confidence from 0 to 1.
    """

    words: list[Word]
    turn: Turn
    confidence: float


@lru_cache(maxsize=1)
def installed_languages() -> frozenset[str]:
    """Which of Tesseract's language data are installed; empty when Tesseract is not."""
    if not tesseract.is_installed():
        return frozenset()
    return tesseract.installed_data() & {*_LANGUAGE_DATA.values(), "osd"}


def is_installed() -> bool:
    """Whether pages can be recognised on this machine."""
    return bool(installed_languages() - {"osd"})


def recognise(grey: Grey, points_per_px: float, languages: Sequence[str] = ()) -> Recognised:
    """Recognise the words on a picture of a page.

    Parameters
    ----------
    grey : uint8 array of shape (height, width)
        0 is black.
    points_per_px : float
        Scale of the boxes that come back.
    languages : sequence of str
        ISO 639-1 codes; those without data are left out. Without any, English
        or whatever is installed.

    Returns
    -------
    Recognised
        Without words for an empty page.

    Raises
    ------
    FileRefusedError
        If Tesseract hangs or breaks on it.
    """
    angle = skew(grey)
    straight = rotated(grey, -angle) if abs(angle) >= _STRAIGHT_DEGREES else grey
    rows = _run(straight, _data_for(languages))
    middle_x, middle_y = grey.shape[1] / 2 * points_per_px, grey.shape[0] / 2 * points_per_px
    turn = Turn(-angle, middle_x, middle_y) if straight is not grey else Turn()
    words: list[Word] = []
    confidences: list[tuple[float, int]] = []
    for row in rows:
        confidence = float(row["conf"]) / 100
        text = row["text"].strip()
        # A speck comes out as a stroke, or as a sign of which nothing is sure.
        is_word = any(letter.isalnum() for letter in text)
        least = _LEAST_WORD_CONFIDENCE if is_word else _LEAST_SIGN_CONFIDENCE
        if not text.strip(_SPECKS) or confidence < least:
            continue
        left_pt, top_pt, width_pt, height_pt = (
            int(row[name]) * points_per_px for name in ("left", "top", "width", "height")
        )
        step = width_pt / len(text)
        edges = [left_pt + step * index for index in range(len(text) + 1)]
        size = max(height_pt, _LEAST_LINE_PX * points_per_px) * 0.8
        words.append(Word(text, edges, top_pt, top_pt + height_pt, size, False))
        confidences.append((confidence, len(text)))
    n_letters = sum(weight for _, weight in confidences)
    mean = sum(confidence * weight for confidence, weight in confidences) / n_letters if n_letters else 0.0
    return Recognised(words, turn, mean)


def skew(grey: Grey) -> float:
    """Give the angle in degrees by which the lines of a page fall to the right, 0 if it has no lines.

    The angle whose sums along the rows differ most from row to row (projection
    profiles; Postl, 1986), looked for coarsely and then finely.
    """
    shrink = max(1, max(grey.shape) // 1000)
    small = grey[::shrink, ::shrink]
    ink = np.argwhere(small < min(200, int(np.median(small)) - 40))
    if len(ink) < 200:
        return 0.0
    if len(ink) > 60_000:
        ink = ink[:: len(ink) // 60_000 + 1]
    ys, xs = ink[:, 0].astype(np.float64), ink[:, 1].astype(np.float64)

    def sharpness(angle: float) -> float:
        heights = np.round(ys - xs * math.tan(math.radians(angle))).astype(np.int64)
        sums = np.bincount(heights - heights.min())
        return float(np.square(np.diff(sums)).sum())

    coarse = np.arange(-_WIDEST_SKEW_DEGREES, _WIDEST_SKEW_DEGREES + 0.25, 0.5)
    best = float(coarse[int(np.argmax([sharpness(angle) for angle in coarse]))])
    fine = np.arange(best - 0.5, best + 0.55, 0.1)
    best = float(fine[int(np.argmax([sharpness(angle) for angle in fine]))])
    # A photograph has some angle, too: a page of text is much sharper at its own.
    return best if sharpness(best) > 1.1 * sharpness(0.0) else 0.0


def rotated(grey: Grey, degrees: float) -> Grey:
    """Turn a picture about its middle, clockwise for positive degrees, keeping its size; corners become white."""
    from PIL import Image

    turned = Image.fromarray(grey).rotate(-degrees, resample=Image.Resampling.BICUBIC, fillcolor=255)
    return np.asarray(turned, np.uint8)


def _words_of(text: str, run: Run) -> Iterator[Run]:
    """Cut a run at its spaces."""
    for match in re.finditer(r"\S+", text[run.start : run.end]):
        first, last = match.span()
        yield Run(run.start + first, run.start + last, run.top, run.bottom, run.edges[first : last + 1])


def _data_for(languages: Sequence[str]) -> str:
    there = installed_languages()
    wanted = [_LANGUAGE_DATA[language] for language in languages if _LANGUAGE_DATA.get(language) in there]
    if not wanted:
        wanted = ["eng"] if "eng" in there else sorted(there - {"osd"})[:1]
    return "+".join(wanted)


def _run(grey: Grey, data: str) -> list[dict[str, str]]:
    try:
        rows = in_a_fork(lambda: tesseract.words_of(grey, data, RECOGNISED_DPI), timeout_s=TIMEOUT_S)
    except ForkTimeoutError as failure:
        raise errors.broke_the_reader(f"text recognition took over {TIMEOUT_S:.0f} seconds for a page") from failure
    except ForkFailedError as failure:
        raise errors.broke_the_reader("text recognition broke on one of its pages") from failure
    lines = [line.split("\t") for line in rows.decode("utf-8", "replace").split("\n")]
    found = [dict(zip(tesseract.COLUMNS, line, strict=True)) for line in lines if len(line) == len(tesseract.COLUMNS)]
    return [row for row in found if row["level"] == _WORD_LEVEL]
