# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures what a second search with the close reader's words brings, on the tuning questions whose evidence is weak.

Run as `python -m bench.second_search`, after `python -m bench.open_documents`: how
many answerable questions with weak evidence have their expected words, and on the
manual a right page, in what would be read, without it and with it, and what it
takes.
"""

import sys
import tempfile
import time
from dataclasses import dataclass

import numpy as np

from bench.collections import opened
from bench.excerpts import asking_of, expecting, has_expected, has_right_page
from bench.fit_refusal import TUNING, kept_in
from bench.open_documents import CHOSEN_ON
from redlantern.answering.question.understanding import Question
from redlantern.answering.writing.excerpts import choose_excerpts
from redlantern.answering.writing.second_search import search_again
from redlantern.models.hosted import HostedModel
from redlantern.models.readers import reader_of
from redlantern.progress import Cancel
from redlantern.safety import seal

_ROOM = 290


@dataclass(frozen=True)
class _Looked:
    """Whether the expected words and a right page would be read, without the second search and with it."""

    words: tuple[bool, bool]
    page: tuple[bool, bool] | None
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
        for name, documents, asked in (
            ("letters and reports", TUNING / "documents", letters), ("manual", CHOSEN_ON.documents, manual),
        ):  # fmt: skip
            with tempfile.TemporaryDirectory() as folder, opened(kept_in(documents, folder), documents) as engine:
                asking = asking_of(engine)
                looked = []
                for row in asked:
                    grounds, began = asking.grounds_of(Question(row["q"])), time.perf_counter()
                    more = search_again(grounds, model, Cancel())
                    if not more.searched_also:
                        continue
                    seconds = time.perf_counter() - began
                    wanted = grounds.parts[0].question.stems()
                    both = [
                        choose_excerpts(
                            each.others,
                            each.ranks,
                            wanted,
                            title=each.title,
                            count_tokens=model.count_tokens,
                            room=_ROOM,
                        )
                        for each in (grounds, more)
                    ]
                    without, with_it = both
                    page = (
                        (has_right_page(engine, without, row), has_right_page(engine, with_it, row))
                        if "right" in row
                        else None
                    )
                    looked.append(_Looked((has_expected(without, row), has_expected(with_it, row)), page, seconds))
                    print(f"{row['q']} | {', '.join(more.searched_also)} | {page}", file=sys.stderr)
            _print(name, len(asked), looked)
    finally:
        model.close()
    return 0


def _print(name: str, n_asked: int, looked: list[_Looked]) -> None:
    """Print a collection's figures."""
    n = len(looked)
    print(
        f"{name}: the evidence is weak for {n} of {n_asked}; median {np.median([each.seconds for each in looked]):.1f} s"
    )
    for what, pairs in (
        ("words", [each.words for each in looked]),
        ("right page", [each.page for each in looked if each.page]),
    ):
        if pairs:
            print(
                f"  {what}: without {sum(pair[0] for pair in pairs)}, with it {sum(pair[1] for pair in pairs)} of {len(pairs)}"
            )


if __name__ == "__main__":
    sys.exit(main())
