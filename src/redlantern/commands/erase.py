# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern erase`: erases documents, a collection, or everything; says first what goes and what it cannot promise."""

import sys
from pathlib import Path

from redlantern.application.upkeep import erase_collection
from redlantern.collection import upkeep
from redlantern.collection.opening import files_of
from redlantern.collection.upkeep.erasing import check_is_ours
from redlantern.collection.upkeep.erasing_everything import CANNOT_PROMISE, erase_everything, everything
from redlantern.commands.shared import check_pattern, plain
from redlantern.commands.unlock import open_to_change
from redlantern.errors import UsageError


def erase(
    path: Path | None, *, scope: str | None, is_everything: bool, is_sure: bool, passphrase_source: str | None
) -> int:
    """Erase what is named; nothing without a yes, typed or given as --yes."""
    if is_everything:
        if path is not None:
            raise UsageError("erase either a collection or, with --everything, all of them")
        return _everything(is_sure=is_sure)
    if path is None:
        raise UsageError("name the collection to erase, or give --everything")
    if scope is not None:
        return _documents(path, scope, is_sure=is_sure, passphrase_source=passphrase_source)
    check_is_ours(path)
    lines = [plain(str(file)) for file in files_of(path.resolve())]
    if not _confirmed("This goes for good, its key first:", lines, is_sure=is_sure):
        return 1
    erased = erase_collection(path)
    print(f"{plain(str(path))} is erased. Not reached: {'; '.join(CANNOT_PROMISE)}.")
    if erased.key_kept_for:
        print("Its key was kept, for these need it:")
        print(*(f"  {plain(file)}" for file in erased.key_kept_for), sep="\n")
    return 0


def _documents(path: Path, scope: str, *, is_sure: bool, passphrase_source: str | None) -> int:
    check_pattern(scope)
    collection = open_to_change(path, passphrase_source)
    try:
        chosen = [document for document in collection.documents() if document.fits(scope)]
        if not chosen:
            raise UsageError(f"no document fits {scope}; nothing was erased")
        if not _confirmed("These go for good:", [plain(document.path) for document in chosen], is_sure=is_sure):
            return 1
        names = {document.key for document in chosen}
        erased = upkeep.erase_documents(collection, chosen)
        left = upkeep.remnants(collection, names)
    finally:
        collection.close()
    print(f"{erased.n_documents} documents are erased; {erased.n_sheets} sheets had cited them.")
    for sentence in left:
        print(f"Left: {sentence}")
    print(f"Not reached: {'; '.join(CANNOT_PROMISE)}.")
    return 1 if left else 0


def _everything(*, is_sure: bool) -> int:
    found = everything()
    if not _confirmed("Everything goes for good:", found.lines, is_sure=is_sure):
        return 1
    problems = erase_everything(found)
    for problem in problems:
        print(problem, file=sys.stderr)
    print("Everything is erased." if not problems else "Some of it could not be erased; the rest is gone.")
    print(f"Not reached: {'; '.join(CANNOT_PROMISE)}.")
    return 1 if problems else 0


def _confirmed(what: str, lines: list[str], *, is_sure: bool) -> bool:
    print(what, *(f"  {line}" for line in lines), sep="\n")
    if is_sure:
        return True
    if not sys.stdin.isatty():
        raise UsageError("nothing was erased: confirm on a terminal, or give --yes")
    return input("Type erase to go on: ").strip() == "erase"
