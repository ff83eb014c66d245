# SPDX-License-Identifier: GPL-3.0-or-later
"""The briefs that a collection keeps."""

from collections.abc import Collection

from redlantern.collection.file import CollectionFile
from redlantern.collection.numbered_facts import NumberedFacts


class KeptBriefs(NumberedFacts):
    """The briefs of one collection."""

    def __init__(self, file: CollectionFile) -> None:
        super().__init__(file, "brief ")

    def forget(self, keys: Collection[str]) -> int:
        """Take out every entry that stands on documents that are erased; gives how many there were."""
        n_gone = 0
        with self._file.writing():
            for number, values in self.all().items():
                left = [entry for entry in values["entries"] if not _quotes(entry).intersection(keys)]
                if len(left) < len(values["entries"]):
                    n_gone += len(values["entries"]) - len(left)
                    self.keep(values | {"entries": left}, number)
        return n_gone

    def hold_words_of(self, keys: Collection[str]) -> bool:
        """Whether any entry stands on documents with these keys."""
        quoted = {key for values in self.all().values() for entry in values["entries"] for key in _quotes(entry)}
        return not quoted.isdisjoint(keys)


def _quotes(entry: dict[str, object]) -> set[str]:
    quotes = entry.get("quotes", [])
    return {quote["document_key"] for quote in quotes} if isinstance(quotes, list) else set()
