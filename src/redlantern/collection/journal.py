# SPDX-License-Identifier: GPL-3.0-or-later
"""The journal of a collection: what was done and when, each entry chained to the one before by a hash.

An entry's hash covers its number, time, kind, the digest of its words and the
hash of the entry before. The words themselves (a title, a question) are behind
a digest made with random bytes kept beside them: they can be erased, and then
neither they nor a guess at them can be found again, while the chain still
holds. Whoever notes the last hash down can tell later that nothing before it
was changed or taken out.
"""

import hashlib
import json
import secrets
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, Literal

from redlantern.collection.facts import Facts
from redlantern.collection.file import CollectionFile
from redlantern.safety.names import json_line, storable

What = Literal[
    "made", "opened", "unlocked", "locked", "added", "read again", "refused", "removed", "taken out", "asked", "exported",
    "erased", "key changed", "backed up", "moved", "mended", "settings",
]  # fmt: skip
_START = "0" * 64


@dataclass(frozen=True)
class Entry:
    """One entry. `at` is ISO 8601 in UTC; `words` is None when they were erased; `number` counts from 1."""

    number: int
    at: str
    what: str
    words: str | None
    hash: str
    clock_went_back: bool = False


def now_utc() -> str:
    """The time by this machine's clock."""
    return datetime.now(UTC).isoformat(timespec="seconds")


class Journal:
    """Writes and reads a collection's journal. What is written within a transaction is a part of it."""

    def __init__(self, file: CollectionFile, clock: Callable[[], str] = now_utc) -> None:
        self._file, self._clock = file, clock
        self._facts = Facts(file)

    @property
    def keeps_questions(self) -> bool:
        """Whether the words of questions are noted."""
        return self._facts.get("journal keeps questions") != "no"

    def keep_questions(self, is_wanted: bool) -> None:
        """Note the words of questions from now on, or no longer; those noted before stay."""
        with self._file.writing():
            self._facts.put("journal keeps questions", "yes" if is_wanted else "no")
            self.note("settings", "Words of questions are " + ("noted" if is_wanted else "no longer noted"))

    def note(self, what: What, words: str = "", *, about: str = "") -> None:
        """Add an entry.

        Parameters
        ----------
        what : What
            Its kind.
        words : str
            The particulars.
        about : str
            The key of the document that they are about, so that they can be erased with it.
        """
        if what == "asked" and not self.keeps_questions:
            words = ""
        words = storable(words)
        with self._file.writing() as connection:
            last = connection.execute("SELECT id, hash FROM journal ORDER BY id DESC LIMIT 1").fetchone()
            number, before = (last[0] + 1, last[1]) if last else (1, _START)
            at, nonce = self._clock(), secrets.token_bytes(16)
            digest = _digest(nonce, about, words)
            link = _link(number, at, what, digest, before)
            connection.execute(
                "INSERT INTO journal VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
                (number, at, what, words, about, nonce, digest, link),
            )
            # Entries taken off the end would leave a chain that holds; this remembers how long it is.
            self._facts.put("journal end", f"{number} {link}")

    def entries(self, *, newest: int | None = None) -> list[Entry]:
        """The entries, oldest first; only so many of the newest if asked."""
        limit = -1 if newest is None else newest
        rows = self._file.rows("SELECT id, at, what, words, hash FROM journal ORDER BY id DESC LIMIT ?", limit)[::-1]
        before, found = "", []
        for number, at, what, words, link in rows:
            found.append(Entry(number, at, what, words, link, at < before))
            before = at
        return found

    def erase_words(self, keys: set[str]) -> int:
        """Erase what the journal says about the documents with these keys; gives how many entries lost their words."""
        with self._file.writing() as connection:
            erased = [
                connection.execute(
                    "UPDATE journal SET words = NULL, about = NULL, nonce = NULL WHERE about = ?", (key,)
                ).rowcount
                for key in keys
            ]
            return sum(erased)

    def faults(self) -> Iterator[str]:
        """Say where the chain does not hold; nothing when it does."""
        before, number = _START, 0
        rows = self._file.rows("SELECT id, at, what, words, about, nonce, digest, hash FROM journal ORDER BY id")
        for number_found, at, what, words, about, nonce, digest, link in rows:
            number += 1
            if number_found != number:
                yield f"Entry {number} of the journal is missing"
                number = number_found
            if words is not None and _digest(nonce, about, words) != digest:
                yield f"The words of entry {number} of the journal were changed"
            if _link(number, at, what, digest, before) != link:
                yield f"Entry {number} of the journal does not follow from the one before"
            before = link
        if self._facts.get("journal end", f"{number} {before}") != f"{number} {before}":
            yield "The last entries of the journal are missing"


def as_json_lines(entries: list[Entry]) -> str:
    """The form that a journal is exported in: one JSON object a line, oldest first."""
    forms = (
        {"number": entry.number, "at": entry.at, "what": entry.what, "words": entry.words, "hash": entry.hash}
        for entry in entries
    )
    return "".join(json_line(json.dumps(form, ensure_ascii=False)) + "\n" for form in forms)


def _digest(nonce: bytes | None, about: str, words: str) -> str:
    return hashlib.sha256((nonce or b"") + json.dumps([about, words]).encode()).hexdigest()


def _link(*parts: Any) -> str:
    return hashlib.sha256(json.dumps(parts).encode()).hexdigest()
