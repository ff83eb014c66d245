# SPDX-License-Identifier: GPL-3.0-or-later
"""What the headless commands share: opening an engine, showing progress, printing text that is not ours."""

import contextlib
import re
import signal
import sys
import threading
from collections.abc import Iterator
from pathlib import Path
from types import FrameType

from redlantern.answering.engine import Engine
from redlantern.application.models import tested_ability
from redlantern.application.opening import Models, NewKey, WriteAccess, open_session
from redlantern.commands.unlock import BY_COMMAND, passphrase_from
from redlantern.errors import UsageError
from redlantern.models.readers import reader_of
from redlantern.models.register import READERS, sha256_of
from redlantern.progress import Cancel, Progress
from redlantern.safety.names import storable, visible


@contextlib.contextmanager
def engine_on(
    path: Path,
    *,
    creates: NewKey | None = None,
    writes: bool = False,
    writes_prose: bool = True,
    model: Path | None = None,
    passphrase_source: str | None = None,
    models: Models | None = None,
) -> Iterator[Engine]:
    """Open a collection with its models, and close both at the end.

    Parameters
    ----------
    path : Path
    creates : NewKey
        Make the collection if there is none, with its key held so.
    writes : bool
        Claim the right to change it.
    writes_prose : bool
        Whether a language model is wanted.
    model : Path
        A GGUF file instead of the collection's own, or the word of a packaged reader. A file that was never put to the reading
        test is put to it first.
    passphrase_source : str
        Where its passphrase comes from; see unlock.passphrase_from.
    models : Models
        How the models are made.
    """
    model = _model_file(model) if model is not None else None
    session = open_session(
        path,
        by=BY_COMMAND,
        passphrase=lambda: passphrase_from(passphrase_source),
        new_key=creates,
        claim=WriteAccess.MUST if writes else WriteAccess.NO,
        models=models,
        language_model=model,
        writes_prose=writes_prose,
    )
    if session.notice:
        print(f"redlantern: {visible(session.notice)}", file=sys.stderr)
    try:
        yield session.engine
    finally:
        session.close()


def _model_file(model: Path) -> Path:
    """The file that a model was named by, tested."""
    if str(model) in [reader.word for reader in READERS]:
        reader = reader_of(str(model))
        if reader is None:
            raise UsageError(f"the {model} reader is not on this machine; ./run setup fetches it")
        return reader.place
    if not model.is_file():
        raise UsageError(f"there is no model file {model}")
    with stoppable() as cancel:
        tested_ability(model, sha256_of(model), cancel, lambda words: print(f"redlantern: {words}", file=sys.stderr))
    return model


@contextlib.contextmanager
def stoppable() -> Iterator[Cancel]:
    """A Cancel that Ctrl+C and a polite kill set."""
    cancel = Cancel()

    def stop(number: int, frame: FrameType | None) -> None:
        # In a thread: setting it may wait for a lock that the interrupted code holds.
        threading.Thread(target=cancel.now, daemon=True).start()

    before = {number: signal.signal(number, stop) for number in (signal.SIGINT, signal.SIGTERM)}
    try:
        yield cancel
    finally:
        for number, handler in before.items():
            signal.signal(number, handler)


class ProgressLine:
    """Shows progress on standard error: one line that changes on a terminal, few lines elsewhere."""

    def __init__(self) -> None:
        self._is_terminal = sys.stderr.isatty()
        self._last_stage = ""

    def __call__(self, progress: Progress) -> None:
        """Show one report."""
        counted = f"{progress.done} of {progress.total} {progress.unit}" if progress.total is not None else ""
        line = f"{progress.stage}  {counted}  {plain(progress.detail)[:50]}".rstrip()
        if self._is_terminal:
            print(f"\r\x1b[K{line}", end="", file=sys.stderr, flush=True)
        elif progress.stage != self._last_stage or progress.done == progress.total:
            print(line, file=sys.stderr, flush=True)
        self._last_stage = progress.stage

    def finish(self) -> None:
        """End the line."""
        if self._is_terminal:
            print("\r\x1b[K", end="", file=sys.stderr, flush=True)


def duration(seconds: float) -> str:
    """A time as people say it."""
    if seconds < 90:
        return f"{max(1, round(seconds))} seconds"
    return f"{round(seconds / 60)} minutes"


def plain(text: str) -> str:
    """Make text that is not ours safe for a terminal, on one line: what would steer it is shown instead; tabs as bars."""
    return visible(text.replace("\t", " | ").replace("\r\n", " ").replace("\n", " "))


def check_text(*texts: str) -> None:
    """See that words given on the command line, or in a file, are text at all.

    Raises
    ------
    UsageError
        If they hold bytes that are no UTF-8, or half of a character.
    """
    for text in texts:
        if text != storable(text) or any("\ud800" <= sign <= "\udfff" for sign in text):
            raise UsageError("the question is not valid text (UTF-8)")


def check_pattern(pattern: str | None) -> None:
    """See that a scope is a pattern that can fit something.

    Raises
    ------
    UsageError
        If a bracket is not closed, or there is nothing in it.
    """
    if pattern is None:
        return
    check_text(pattern)
    if not pattern.strip():
        raise UsageError("the scope is empty; give a pattern such as 'letters/*'")
    rest = re.sub(r"\[!?\]?[^\]]*\]", "", pattern)
    if "[" in rest:
        raise UsageError(f"the scope {pattern} has a bracket that is not closed")
