# SPDX-License-Identifier: GPL-3.0-or-later
"""Why a file could not be read, each with what its owner can do about it."""

import contextlib
from collections.abc import Iterator

from redlantern.errors import RedlanternError
from redlantern.translation import tr


class FileRefusedError(RedlanternError):
    """A file gave no document. `reason` is a clause, `advice` a sentence; both are for the user."""

    def __init__(self, reason: str, advice: str) -> None:
        super().__init__(reason, advice)
        self.reason, self.advice = reason, advice

    def __str__(self) -> str:
        return f"{self.reason[:1].upper()}{self.reason[1:]}. {self.advice}"


def damaged(what: str) -> FileRefusedError:
    """The bytes are not what such a file must hold."""
    return FileRefusedError(
        tr("the {what} is damaged or cut short").format(what=what),
        tr("Open it in its own program, save it again, and update."),
    )


def not_readable(kind: str) -> FileRefusedError:
    """A kind of file there is no reader for."""
    return FileRefusedError(
        tr("{kind} cannot be read by this version").format(kind=kind),
        tr("Export it as PDF or plain text to include it."),
    )


def no_text() -> FileRefusedError:
    """Nothing in it can be read as words."""
    return FileRefusedError(tr("no words were found in it"), tr("Nothing to do, unless it should hold some."))


def scan_without_recognition() -> FileRefusedError:
    """Every page is a picture, and there is no text recognition on this machine."""
    return FileRefusedError(
        tr("its pages are pictures, and text recognition is not installed"),
        tr("Install tesseract-ocr and the language's package from Debian, then read it again."),
    )


def unsafe(what: str) -> FileRefusedError:
    """The file is made so that reading it would do harm, or looks so."""
    return FileRefusedError(
        what, tr("It was not read, as it may be made to do harm. Open it in its own program and export it as PDF.")
    )


def wrong_password() -> FileRefusedError:
    """The password that was given does not open the file."""
    return FileRefusedError(tr("the password does not open it"), tr("Try again with another password."))


def not_a_document(what: str) -> FileRefusedError:
    """It is no document at all."""
    return FileRefusedError(
        tr("{what} is not a document").format(what=what), tr("Nothing to do: there are no words to read in it.")
    )


def password_needed() -> FileRefusedError:
    """The file is encrypted."""
    return FileRefusedError(
        tr("a password is needed to open it"), tr("Give it with Read Again, or save a copy without one.")
    )


def empty_file() -> FileRefusedError:
    """The file has no bytes, or nothing but white space."""
    return FileRefusedError(tr("the file is empty"), tr("Nothing to do, unless it should hold something."))


def too_large(limit_mb: int) -> FileRefusedError:
    """The file is larger than a reader may take."""
    return FileRefusedError(
        tr("the file is larger than {limit_mb} MB").format(limit_mb=limit_mb),
        tr("Split it into smaller files to include it."),
    )


_MAY_BE_HOSTILE = tr("The file may be damaged or hostile. Open it in its own program, save it again, and update.")


class ReaderBrokeError(FileRefusedError):
    """The reader process ended on this file, or on what an earlier one had left behind in it."""

    def __init__(self) -> None:
        super().__init__(tr("it broke the reader"), _MAY_BE_HOSTILE)


def broke_the_reader(what: str) -> FileRefusedError:
    """The file was more than a reader process could take."""
    return FileRefusedError(what, _MAY_BE_HOSTILE)


def no_confinement(reason: str) -> FileRefusedError:
    """A reader cannot be kept from the network and from other files on this machine."""
    return FileRefusedError(
        tr("no file is read here, for a reader could not be confined"),
        tr("{reason} Then start Red Lantern again and update.").format(reason=reason),
    )


def unforeseen(what: str) -> FileRefusedError:
    """Something happened that nobody thought of; `what` is its kind, and never words of the file."""
    return FileRefusedError(
        tr("something unforeseen happened while it was indexed ({what})").format(what=what),
        tr("The other files were indexed. Save it again in its own program, or report it with the kind in brackets."),
    )


@contextlib.contextmanager
def making_sense() -> Iterator[None]:
    """Tell whatever a library raises on a hostile file as a refusal of it, or of the one document within it.

    The edge between us and them: they may raise anything. What the file system
    says, and a refusal, stay what they are.
    """
    try:
        yield
    except (FileRefusedError, OSError):
        raise
    except MemoryError as failure:
        raise broke_the_reader(tr("reading it took more memory than a reader may use")) from failure
    except Exception as failure:
        raise broke_the_reader(
            tr("the reader could not make sense of it ({name})").format(name=type(failure).__name__)
        ) from failure


def unreadable(why: str) -> FileRefusedError:
    """The file system did not let us read the file."""
    return FileRefusedError(
        tr("the file could not be opened ({why})").format(why=why), tr("Check that you may read it, then update.")
    )
