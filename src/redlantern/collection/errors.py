# SPDX-License-Identifier: GPL-3.0-or-later
"""What can go wrong with a collection file, in words for its owner."""

from redlantern.errors import RedlanternError
from redlantern.translation import tr


class CollectionMissingError(RedlanternError):
    """There is no file at this place."""

    def __init__(self, path: str) -> None:
        super().__init__(path)
        self.path = path

    def __str__(self) -> str:
        return tr(
            "There is no collection at {path}. Check the name, or make one with: redlantern index {path2} FOLDER"
        ).format(path=self.path, path2=self.path)


class NotACollectionError(RedlanternError):
    """The file is something else, or its key is not on this machine."""

    def __init__(self, path: str) -> None:
        super().__init__(path)
        self.path = path

    def __str__(self) -> str:
        return tr(
            "{path} is not a collection of Red Lantern, or its key is not on this machine. The file was left as "
            "it is. If it was made under another login, copy its key file as well."
        ).format(path=self.path)


class KeyMissingError(RedlanternError):
    """The file is a collection whose key this login does not hold."""

    def __init__(self, path: str) -> None:
        super().__init__(path)
        self.path = path

    def __str__(self) -> str:
        return tr(
            "The key of {path} is not held by this login, so it cannot be opened here. The file was left as it "
            "is. Open it under the login that made it, and give it a passphrase there before you take it along."
        ).format(path=self.path)


class DamagedCollectionError(RedlanternError):
    """The file is a collection, but some of it cannot be read."""

    def __init__(self, path: str, what: str) -> None:
        super().__init__(path, what)
        self.path, self.what = path, what

    def __str__(self) -> str:
        return tr(
            "The collection {path} is damaged: {what}. The original documents are untouched. Restore it from a "
            "backup, or keep what can still be read of it with: redlantern mend {path2}"
        ).format(path=self.path, what=self.what, path2=self.path)


class NewerCollectionError(RedlanternError):
    """A later version of the program made it."""

    def __init__(self, path: str, found: int, known: int) -> None:
        super().__init__(path, found, known)
        self.path, self.found, self.known = path, found, known

    def __str__(self) -> str:
        return tr(
            "{path} was made by a newer Red Lantern (file version {found}; this one knows {known}). It was left "
            "as it is. Open it with the newer version."
        ).format(path=self.path, found=self.found, known=self.known)


class CollectionInUseError(RedlanternError):
    """Another process may write to it just now."""

    def __init__(self, path: str, holder: str) -> None:
        super().__init__(path, holder)
        self.path, self.holder = path, holder

    def __str__(self) -> str:
        return tr(
            "{path} is open in another window or command{holder}. Nothing was changed. Close it there, or work "
            "there; questions can be asked with “redlantern ask” meanwhile."
        ).format(path=self.path, holder=self.holder)


class ClosedCollectionError(RedlanternError):
    """Something wanted to use a collection that was closed meanwhile."""

    def __init__(self, path: str) -> None:
        super().__init__(path)
        self.path = path

    def __str__(self) -> str:
        return tr("The collection {path} was closed. Nothing was changed. Open it again to go on.").format(
            path=self.path
        )


class DocumentChangedError(RedlanternError):
    """A document was read again, or taken out, between finding a stretch of it and citing it."""

    def __str__(self) -> str:
        return tr(
            "A document was changed in the collection while its words were looked for. Nothing was lost; ask again."
        )


class CollectionBusyError(RedlanternError):
    """Two works wanted to change the documents of one collection at the same time."""

    def __init__(self, path: str) -> None:
        super().__init__(path)
        self.path = path

    def __str__(self) -> str:
        return tr(
            "The documents of {path} are being read or embedded anew just now. Nothing was changed. Wait until "
            "that is finished, or stop it; then try again."
        ).format(path=self.path)


class CannotLockError(RedlanternError):
    """The file system keeps no locks, so nothing would keep two programs from changing the file at once."""

    def __init__(self, path: str, why: str) -> None:
        super().__init__(path, why)
        self.path, self.why = path, why

    def __str__(self) -> str:
        return tr(
            "{path} cannot be locked where it lies ({why_words}): two programs could change it at once and "
            "destroy it. It was not opened and is as it was. Move it to a disk of this machine, or to a shared "
            "folder that keeps locks."
        ).format(path=self.path, why_words=why_words(self.why))


class DiskFullError(RedlanternError):
    """There was no room to write."""

    def __init__(self, path: str) -> None:
        super().__init__(path)
        self.path = path

    def __str__(self) -> str:
        return tr(
            "The disk that holds {path} is full. Every document finished before is kept; the one being added was "
            "left out whole. Make room, then update again."
        ).format(path=self.path)


class CannotWriteError(RedlanternError):
    """The file system refused to write."""

    def __init__(self, path: str, why: str) -> None:
        super().__init__(path, why)
        self.path, self.why = path, why

    def __str__(self) -> str:
        return tr("{path} could not be written ({why_words}). Choose a place that you may write to.").format(
            path=self.path, why_words=why_words(self.why)
        )


class CannotReadError(RedlanternError):
    """The file system did not let us read."""

    def __init__(self, path: str, why: str) -> None:
        super().__init__(path, why)
        self.path, self.why = path, why

    def __str__(self) -> str:
        return tr("{path} could not be read ({why_words}). It was left as it is. Check that you may read it.").format(
            path=self.path, why_words=why_words(self.why)
        )


class SourceMissingError(RedlanternError):
    """A folder or file to be read is not there."""

    def __init__(self, path: str) -> None:
        super().__init__(path)
        self.path = path

    def __str__(self) -> str:
        return tr(
            "There is no file or folder {path}. Nothing was changed. If it is on another disk, connect it first."
        ).format(path=self.path)


class NothingToReadError(RedlanternError):
    """The folders hold no files at all."""

    def __init__(self, path: str) -> None:
        super().__init__(path)
        self.path = path

    def __str__(self) -> str:
        return tr(
            "The folder {path} holds no files. Nothing was changed. Put documents in it, or choose another folder."
        ).format(path=self.path)


def why_words(why: str) -> str:
    """Make the operating system's reason begin with a small letter."""
    return why[:1].lower() + why[1:]
