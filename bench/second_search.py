# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures what a second search with the close reader's words brings, on the tuning questions whose evidence is weak.

Run as `python -m bench.second_search`, after `python -m bench.open_documents`: how
many answerable questions with weak evidence have their expected words, and on the
manual a right page, in what would be read: without it, with it, and with what the
words find in place of what is found without them or by themselves.
"""

import sys
import tempfile
import time
from dataclasses import dataclass
from typing import Any
from unittest import mock

import numpy as np

from bench.collections import opened
from bench.excerpts import asking_of, expecting, has_expected, has_right_page
from bench.fit_refusal import TUNING, kept_in
from bench.open_documents import CHOSEN_ON
from redlantern.answering import asking
from redlantern.answering.engine import Engine
from redlantern.answering.question.understanding import Question
from redlantern.answering.writing.excerpts import choose_excerpts
from redlantern.answering.writing.second_search import search_again
from redlantern.models.hosted import HostedModel
from redlantern.models.protocols import LanguageModel
from redlantern.models.readers import reader_of
from redlantern.progress import Cancel
from redlantern.safety import seal
from redlantern.text.question import with_aside

_ROOM = 290
_WAYS = ("without it", "with it", "in its place", "the words alone")


@dataclass(frozen=True)
class _Looked:
    """Whether the expected words and a right page would be read, each way, and what the model took."""

    words: tuple[bool, ...]
    pages: tuple[bool, ...]
    seconds: float


def main() -> int:
    """Measure, and print."""
    seal.put_on()
    reader = reader_of("close")
    assert reader is not None, "the close reader is not here"
    model = HostedModel(reader.place)
    model.start()
    letters, manual = expecting()
    try:
        # In a small collection as well, where the program makes none.
        with mock.patch.object(asking, "SEARCHED_AGAIN_FROM", 0):
            for name, documents, asked in (
                ("letters and reports", TUNING / "documents", letters), ("manual", CHOSEN_ON.documents, manual),
            ):  # fmt: skip
                with tempfile.TemporaryDirectory() as folder, opened(kept_in(documents, folder), documents) as engine:
                    looked = [found for row in asked if (found := _look(engine, row, model)) is not None]
                _print(name, len(asked), looked)
    finally:
        model.close()
    return 0


def _look(engine: Engine, row: dict[str, Any], model: LanguageModel) -> _Looked | None:
    """What would be read of one question, each way; None where its evidence is not weak."""
    put = asking_of(engine)
    without, began = put.grounds_of(Question(row["q"])), time.perf_counter()
    with_it = search_again(without, model, Cancel())
    seconds = time.perf_counter() - began
    if not with_it.searched_also:
        return None
    words = "; ".join(with_it.searched_also)
    wanted = without.parts[0].question.stems()
    ways = (without, with_it, put.grounds_of(Question(with_aside(row["q"], words))), put.grounds_of(Question(words)))
    read = [
        choose_excerpts(
            way.others, way.ranks, wanted, title=way.title, count_tokens=model.count_tokens, room=_ROOM
        )
        for way in ways
    ]  # fmt: skip
    pages = tuple(has_right_page(engine, excerpts, row) for excerpts in read) if "right" in row else ()
    return _Looked(tuple(has_expected(excerpts, row) for excerpts in read), pages, seconds)


def _print(name: str, n_asked: int, looked: list[_Looked]) -> None:
    """Print a collection's figures."""
    median = float(np.median([each.seconds for each in looked]))
    print(f"{name}: the evidence is weak for {len(looked)} of {n_asked}; median {median:.1f} s")
    for at, way in enumerate(_WAYS):
        pages = [each.pages[at] for each in looked if each.pages]
        right = f", a right page for {sum(pages)}" if pages else ""
        print(f"  {way:16} the words are read for {sum(each.words[at] for each in looked)}{right}")


if __name__ == "__main__":
    sys.exit(main())
