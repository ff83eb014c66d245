# SPDX-License-Identifier: GPL-3.0-or-later
"""Counts over many marked answers, by kind of question, and the table that they are printed in."""

import statistics
from collections.abc import Iterable, Mapping
from dataclasses import asdict, dataclass, field

from redlantern.trials.values import Marked, TrialQuestion

ANSWERABLE, UNANSWERABLE = "answerable", "unanswerable"
_LEGEND = """
page@k: a right page among the first k passages
cited: a right page is cited, by a claim or, without prose, by a found line; named: one that is named with the question
said: the expected words are there, likewise, of the questions that have any
not in cited: claims called supported of which a number or date is not in the cited words, or a name not on their page"""


@dataclass
class Counts:
    """Of the questions of one kind: how many had a right page first or among the first five, were refused, were answered with a
    warning of weak evidence, cited a right page, one named with the question (not only judged right in the pool), said the
    expected words; their claims, and the seconds to the first word and to the end of those that were answered in words.
    """

    asked: int = 0
    page_at_1: int = 0
    page_at_5: int = 0
    refused: int = 0
    cited: int = 0
    has_expected: int = 0
    said: int = 0
    claims: int = 0
    supported: int = 0
    not_in_cited: int = 0
    weak: int = 0
    cited_named: int = 0
    first_word_s: list[float] = field(default_factory=list)
    total_s: list[float] = field(default_factory=list)

    def add(self, other: "Counts") -> None:
        """Add another's counts."""
        for name, value in asdict(other).items():
            setattr(self, name, getattr(self, name) + value)


def counts_of(marked: Marked) -> Counts:
    """The counts of one answer."""
    rank = marked.ranks.reciprocal_rank if marked.ranks is not None else 0.0
    return Counts(
        asked=1,
        page_at_1=int(rank == 1),
        page_at_5=int(rank >= 1 / 5),
        refused=int(marked.is_refused),
        cited=int(bool(marked.is_cited)),
        has_expected=int(marked.is_said is not None),
        said=int(bool(marked.is_said)),
        claims=marked.n_claims,
        supported=marked.n_supported,
        not_in_cited=marked.n_not_in_cited,
        weak=int(marked.is_weak),
        cited_named=int(bool(marked.is_cited_named)),
        first_word_s=[marked.first_word_s] if marked.first_word_s is not None else [],
        total_s=[marked.total_s] if marked.is_written else [],
    )


def by_kind(answers: Iterable[tuple[TrialQuestion, Marked]]) -> dict[str, Counts]:
    """The counts by tag, those that questions have first before their others, then of all that are answerable and of the rest."""
    pairs = list(answers)
    first = [question.tags[0] for question, _ in pairs if question.tags]
    others = [tag for question, _ in pairs for tag in question.tags[1:]]
    counts = {tag: Counts() for tag in [*first, *others, ANSWERABLE, UNANSWERABLE]}
    for question, marked in pairs:
        whole = UNANSWERABLE if question.is_absent else ANSWERABLE
        for tag in dict.fromkeys([*question.tags, whole]):
            counts[tag].add(counts_of(marked))
    return {tag: count for tag, count in counts.items() if count.asked}


def table(titled: Mapping[str, Mapping[str, Counts]]) -> str:
    """The tables by title, with what their columns mean under the last."""
    head = f"{'asked':>7}{'page@1':>8}{'page@5':>8}{'refused':>9}{'weak':>6}{'cited':>7}{'named':>7}"
    head += f"{'said':>11}{'claims':>8}{'supported':>11}{'not in cited':>14}{'first word':>12}{'end':>7}"
    lines = []
    for title, kinds in titled.items():
        lines += ["", title, f"{'':14}{head}"]
        for kind, count in kinds.items():
            said = f"{count.said} of {count.has_expected}" if count.has_expected else "-"
            lines.append(
                f"{kind:14}{count.asked:7}{count.page_at_1:8}{count.page_at_5:8}{count.refused:9}{count.weak:6}{count.cited:7}"
                f"{count.cited_named:7}{said:>11}{count.claims:8}{count.supported:11}{count.not_in_cited:14}"
                f"{_median(count.first_word_s):>12}{_median(count.total_s):>7}"
            )
    return "\n".join([*lines, _LEGEND])


def _median(seconds: list[float]) -> str:
    return f"{statistics.median(seconds):.1f} s" if seconds else "-"
