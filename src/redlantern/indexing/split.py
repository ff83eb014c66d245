# SPDX-License-Identifier: GPL-3.0-or-later
"""Splits what was read by the settings of a method, the same way for keeping and for a look."""

import json
from dataclasses import replace

from redlantern.models.embedding import Embedder
from redlantern.reading.values import ReadFile
from redlantern.settings import Method
from redlantern.splitting.passages import SPLITTER_VERSION, Passage, split_pages


def split_read(read: ReadFile, embedder: Embedder, method: Method) -> list[Passage]:
    """Split a document into passages that the embedding model can take."""
    return split_pages(
        read.title,
        read.pages,
        embedder.count_tokens,
        most_tokens=min(method.passage_tokens, embedder.most_tokens),
        overlap_tokens=method.overlap_tokens,
        by_heading=method.by_heading,
        by_record=method.by_record,
        language=read.language,
    )


_KEYS = ("passage_tokens", "overlap_tokens", "by_heading", "by_record")


def splitting_of(method: Method) -> str:
    """Name how a method splits, to be recorded with what it made."""
    return json.dumps({"splitter": SPLITTER_VERSION} | {key: getattr(method, key) for key in _KEYS})


def is_current_splitting(recorded: str) -> bool:
    """Whether the splitter has not changed since; whatever settings were chosen for a document are its own."""
    return not recorded or json.loads(recorded)["splitter"] == SPLITTER_VERSION


def method_of(recorded: str, method: Method) -> Method:
    """The method with the recorded settings of splitting in place of its own."""
    if not recorded:
        return method
    kept = json.loads(recorded)
    return replace(method, **{key: kept[key] for key in _KEYS})
