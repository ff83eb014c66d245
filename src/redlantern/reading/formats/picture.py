# SPDX-License-Identifier: GPL-3.0-or-later
"""PNG, JPEG and TIFF: each picture a page, its words by text recognition."""

import io
import warnings
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from typing import Any

import numpy as np

from redlantern.reading import errors, recognition
from redlantern.reading.blocks import PrintedPage, build_pages
from redlantern.reading.layout import lines_in_reading_order
from redlantern.reading.material import Material
from redlantern.reading.values import Page, ReadFile

MOST_PIXELS = 120_000_000
MOST_PICTURES = 2_000
_USUAL_DPI = 200.0
_LETTER_HEIGHT_PT = 792.0


def read_picture(material: Material, on_page: Callable[[int, int], None], languages: tuple[str, ...] = ()) -> ReadFile:
    """Read a picture of one or more pages.

    Raises
    ------
    FileRefusedError
        If it is damaged or too large, or there is no text recognition here, or no words on it.
    """
    if not recognition.is_installed():
        raise errors.scan_without_recognition()
    with _opened(material) as picture:
        n_pages = min(getattr(picture, "n_frames", 1), MOST_PICTURES)
        printed, recognised = [], []
        for page_index in range(n_pages):
            grey, scale = _page(picture, page_index)
            found = recognition.recognise(grey, scale, languages)
            height, width = grey.shape
            lines = lines_in_reading_order(found.words)
            printed.append(PrintedPage(page_index + 1, width * scale, height * scale, lines))
            recognised.append(found)
            on_page(page_index + 1, n_pages)
        kind = str(picture.format or "picture").lower()
    if not any(page.lines for page in printed):
        raise errors.no_text()
    pages = tuple(recognised_page(page, found) for page, found in zip(build_pages(printed), recognised, strict=True))
    return ReadFile("jpeg" if kind == "mpo" else kind, material.plain_name, pages)


def recognised_page(page: Page, found: recognition.Recognised) -> Page:
    """Say of a page that it was recognised, put its words where they are printed, and warn where it is doubtful."""
    if not page.text:
        return replace(page, origin="none", warnings=("No words were found on this page.",))
    warnings: tuple[str, ...] = ()
    if found.confidence < recognition.LOW_CONFIDENCE:
        warnings = (f"Text recognition is only {found.confidence:.0%} sure of this page: compare it with the print.",)
    page = replace(page, origin="recognised", confidence=found.confidence, warnings=warnings)
    return found.turn.undone(page)


def page_pixels(material: Material, page_index: int, scale: float) -> tuple[int, int, bytes]:
    """Give a page in pixels; see formats.pdf.page_picture."""
    from PIL import Image

    with _opened(material) as picture:
        points_per_px = _seek(picture, page_index)
        shown = _upright(picture).convert("RGB")
        size = (max(1, round(shown.width * points_per_px * scale)), max(1, round(shown.height * points_per_px * scale)))
        small = shown.resize(size, Image.Resampling.LANCZOS, reducing_gap=2.0)
        red, green, blue = small.split()
        pixels = Image.merge("RGBA", (blue, green, red, Image.new("L", size, 255)))
        return size[0], size[1], pixels.tobytes()


@contextmanager
def _opened(material: Material) -> Iterator[Any]:
    from PIL import Image, UnidentifiedImageError

    Image.MAX_IMAGE_PIXELS = MOST_PIXELS
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # about what is broken and not needed
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(material.read()), formats=("PNG", "JPEG", "TIFF", "MPO")) as picture:
                yield picture
    except (Image.DecompressionBombWarning, Image.DecompressionBombError) as failure:
        raise errors.unsafe(f"it has a picture of more than {MOST_PIXELS // 10**6} million pixels") from failure
    except (
        UnidentifiedImageError,
        OSError,
        ValueError,
        SyntaxError,
        EOFError,
        TypeError,
        IndexError,
        KeyError,
    ) as failure:
        raise errors.damaged("picture") from failure


def _page(picture: Any, page_index: int) -> tuple[Any, float]:
    """A page as grey pixels at about the resolution that recognition likes, and its points per pixel."""
    from PIL import Image

    points_per_px = _seek(picture, page_index)
    grey = _on_white(_upright(picture)).convert("L")
    factor = points_per_px * recognition.RECOGNISED_DPI / 72
    if factor < 0.8 or factor > 1.25:
        # No larger than 4 times: what is not in the picture cannot be found by blowing it up.
        factor = min(factor, 4.0)
        size = (max(1, round(grey.width * factor)), max(1, round(grey.height * factor)))
        if size[0] * size[1] <= MOST_PIXELS:
            grey = grey.resize(size, Image.Resampling.LANCZOS)
            points_per_px /= factor
    return np.asarray(grey, np.uint8), points_per_px


def _seek(picture: Any, page_index: int) -> float:
    """Go to a page; gives its points per pixel: as stated, or so that it is as tall as a letter."""
    if page_index:
        picture.seek(page_index)
    if picture.width * picture.height > MOST_PIXELS:
        raise errors.unsafe(f"it has a picture of more than {MOST_PIXELS // 10**6} million pixels")
    stated = picture.info.get("dpi")
    dpi = float(stated[1]) if stated and 50 <= float(stated[1]) <= 2400 else 0.0
    longest = max(picture.width, picture.height)
    return 72 / dpi if dpi and dpi != 72 and dpi != 96 else min(_LETTER_HEIGHT_PT / longest, 72 / _USUAL_DPI * 2)


def _upright(picture: Any) -> Any:
    from PIL import ImageOps

    return ImageOps.exif_transpose(picture)


def _on_white(picture: Any) -> Any:
    """Put a picture with see-through parts onto white paper."""
    from PIL import Image

    if picture.mode not in ("RGBA", "LA", "PA") and "transparency" not in picture.info:
        return picture
    shown = picture.convert("RGBA")
    white = Image.new("RGBA", shown.size, (255, 255, 255, 255))
    white.alpha_composite(shown)
    return white
