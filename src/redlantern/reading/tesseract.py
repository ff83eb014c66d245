# SPDX-License-Identifier: GPL-3.0-or-later
"""Tesseract as a library: the few functions of its C interface that recognising a page takes.

Called in a forked process only: what it loads and allocates goes with that.
"""

import ctypes
import os
from functools import lru_cache
from pathlib import Path

import numpy as np
import numpy.typing as npt

COLUMNS = (
    "level",
    "page_num",
    "block_num",
    "par_num",
    "line_num",
    "word_num",
    "left",
    "top",
    "width",
    "height",
    "conf",
    "text",
)
"""Of the rows that `words_of` gives, by their names in Tesseract's documentation."""
_LIBRARIES = ("libtesseract.so.5", "libtesseract.so.4")
_DATA_PLACES = ("/usr/share/tesseract-ocr/5/tessdata", "/usr/share/tesseract-ocr/4.00/tessdata", "/usr/share/tessdata")
_AUTOMATIC_SEGMENTATION = 3  # PSM_AUTO


_LIBRARY_PLACES = (
    "/usr/lib/x86_64-linux-gnu",
    "/usr/lib/aarch64-linux-gnu",
    "/usr/lib",
    "/usr/lib64",
    "/usr/local/lib",
)


class RecognitionError(Exception):
    """Tesseract did not do what it was asked for."""


@lru_cache(maxsize=1)
def is_installed() -> bool:
    """Whether the library and any language data are there. Loads nothing."""
    return bool(installed_data()) and any(
        (folder / name).exists() for folder in map(Path, _LIBRARY_PLACES) for name in _LIBRARIES
    )  # fmt: skip


def installed_data() -> frozenset[str]:
    """The names of all language data."""
    place = _data_place()
    return frozenset(path.stem for path in place.glob("*.traineddata")) if place is not None else frozenset()


def words_of(grey: npt.NDArray[np.uint8], data: str, dpi: int) -> bytes:
    """Recognise a page.

    Parameters
    ----------
    grey : uint8 array of shape (height, width)
        0 is black.
    data : str
        Names of language data, joined by "+".
    dpi : int
        Pixels to the inch.

    Returns
    -------
    bytes
        Rows of COLUMNS in UTF-8, separated by tabs.

    Raises
    ------
    RecognitionError
        If the library cannot be loaded, or refuses.
    """
    # One thread each: there is a reader for every core. Read when the library is loaded.
    os.environ["OMP_THREAD_LIMIT"] = "1"
    library = _library()
    place = _data_place()
    api = library.TessBaseAPICreate()
    if library.TessBaseAPIInit3(api, os.fsencode(place) if place is not None else None, data.encode()) != 0:
        raise RecognitionError("its language data cannot be loaded")
    library.TessBaseAPISetPageSegMode(api, _AUTOMATIC_SEGMENTATION)
    library.TessBaseAPISetVariable(api, b"user_defined_dpi", str(dpi).encode())
    pixels = np.ascontiguousarray(grey, np.uint8)
    height, width = pixels.shape
    library.TessBaseAPISetImage(api, pixels.ctypes.data_as(ctypes.c_char_p), width, height, 1, width)
    found = library.TessBaseAPIGetTsvText(api, 0)
    if not found:
        raise RecognitionError("it gave nothing")
    return ctypes.string_at(found)


def _data_place() -> Path | None:
    named = os.environ.get("TESSDATA_PREFIX")
    places = [Path(place) for place in ([named] if named else []) + list(_DATA_PLACES)]
    return next((place for place in places if place.is_dir()), None)


def _library() -> ctypes.CDLL:
    for name in _LIBRARIES:
        try:
            library = ctypes.CDLL(name)
        except OSError:
            continue
        pointer, text, number = ctypes.c_void_p, ctypes.c_char_p, ctypes.c_int
        library.TessBaseAPICreate.restype = pointer
        library.TessBaseAPIInit3.argtypes = [pointer, text, text]
        library.TessBaseAPISetPageSegMode.argtypes = [pointer, number]
        library.TessBaseAPISetVariable.argtypes = [pointer, text, text]
        library.TessBaseAPISetImage.argtypes = [pointer, text, number, number, number, number]
        library.TessBaseAPIGetTsvText.argtypes = [pointer, number]
        library.TessBaseAPIGetTsvText.restype = pointer
        return library
    raise RecognitionError("the library is not installed")
