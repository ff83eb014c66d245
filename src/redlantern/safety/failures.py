# SPDX-License-Identifier: GPL-3.0-or-later
"""The log of failures that are bugs of ours: what kind, where in the program, when; never a word or a name of a document.

The text of an exception may hold words of a document or a question, and so may
the values in its frames: neither is written. What is written is of a fixed form
made of our own code's places.
"""

import logging
import threading
import traceback
from logging.handlers import RotatingFileHandler
from pathlib import Path

from redlantern import __version__
from redlantern.errors import RedlanternError
from redlantern.safety.places import state_directory

_PLACE = "failures.log"
_MOST_BYTES, _N_OLD = 256 * 1024, 2
_MOST_FRAMES = 40
_PACKAGE = "redlantern"
_lock = threading.Lock()


def log_path() -> Path:
    """Where the log is, if anything was ever written to it."""
    return state_directory() / _PLACE


def note_failure(failure: BaseException) -> Path | None:
    """Write down a failure; gives the log, or None where it cannot be written."""
    try:
        with _lock:
            handler = RotatingFileHandler(log_path(), maxBytes=_MOST_BYTES, backupCount=_N_OLD, encoding="utf-8")
            handler.setFormatter(logging.Formatter("%(asctime)s %(message)s", "%Y-%m-%dT%H:%M:%S%z"))
            try:
                # By itself and not through a logger: other libraries' records must never come into this file.
                handler.emit(logging.LogRecord(_PACKAGE, logging.ERROR, "", 0, in_our_words(failure), None, None))
            finally:
                handler.close()
            log_path().chmod(0o600)
        return log_path()
    except (OSError, RedlanternError):
        return None


def something_went_wrong(failure: BaseException) -> str:
    """Write down a failure that is a bug of ours, and say so to whoever is at the screen: its kind alone, for its text is not ours."""
    log = note_failure(failure)
    written = f" What happened is written in {log}, without a word of your documents." if log is not None else ""
    return (
        f"Something went wrong in redlantern ({type(failure).__name__}). Nothing was lost; please report it.{written}"
    )


def in_our_words(failure: BaseException) -> str:
    """The kinds of a failure and its causes, and the frames of each: a module, a line, a function."""
    lines = [f"redlantern {__version__}"]
    cause: BaseException | None = failure
    seen: set[int] = set()
    while cause is not None and id(cause) not in seen:
        seen.add(id(cause))
        lines.append(f"{type(cause).__module__}.{type(cause).__qualname__}")
        frames = traceback.extract_tb(cause.__traceback__)[-_MOST_FRAMES:]
        lines += [f"  {_place(frame.filename)}:{frame.lineno} in {frame.name}" for frame in frames]
        cause = cause.__cause__ or cause.__context__
    return "\n".join(lines)


def _place(filename: str) -> str:
    """A file of code by its place in its package; nothing of where somebody keeps it."""
    parts = Path(filename).parts
    for package in (_PACKAGE, "site-packages"):
        if package in parts:
            return "/".join(parts[len(parts) - parts[::-1].index(package) - 1 :])
    return parts[-1] if parts else ""
