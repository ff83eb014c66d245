"""Found lines: the verbatim lines of the best passages that answer a question, and how strong the evidence is."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from redlantern.answering.wants import holds, kind_wanted
from redlantern.collection.values import StoredPassage
from redlantern.retrieval.analysis import stems
from redlantern.retrieval.index import Hit, searched_stems
from redlantern.splitting.passages import HEADING_SEPARATOR

_MIN_WORDS = 3
_SEARCHED_PASSAGES = 10
_KEPT_SHARE = 0.72
"""A line is kept whose score is at least this share of the best one's."""


@dataclass(frozen=True)
class Candidate:
    """A line that may answer.

    `coverage` is the share of the question's words, weighted by rarity, that
    stand in the line or its heading; `cosine` is its nearness in meaning.
    """

    passage: StoredPassage
    line: int
    score: float
    cosine: float
    coverage: float
    has_kind: bool

    @property
    def text(self) -> str:
        """The line's words."""
        return self.passage.line_text(self.line)


@dataclass(frozen=True)
class EvidenceFeatures:
    """What decides whether a question is answered at all; each from 0 to 1.

    `cosine` is that of the nearest passage, `line_cosine` that of the nearest
    line; `coverage` and `passage_coverage` are the shares of the question's
    words, by rarity, in the best line and the best passage; `missing` is the
    share that no document has; `has_kind` is 1 when one of the best lines holds
    the kind of answer that is wanted.
    """

    cosine: float
    line_cosine: float
    coverage: float
    passage_coverage: float
    missing: float
    has_kind: float

    def row(self) -> list[float]:
        """The features in their order."""
        return [self.cosine, self.line_cosine, self.coverage, self.passage_coverage, self.missing, self.has_kind]


def rank_lines(
    question: str, hits: Sequence[Hit], passages: Sequence[StoredPassage], rarity: Callable[[str], float]
) -> list[Candidate]:
    """Score every line of the best passages, best first.

    Parameters
    ----------
    question : str
    hits, passages : sequences of the same length
        What was found, best first.
    rarity : callable
        Inverse document frequency of a stem.
    """
    kind = kind_wanted(question)
    wanted = {stem: rarity(stem) for stem in searched_stems(question)}
    candidates: dict[tuple[int, int, int], Candidate] = {}
    for hit, passage in list(zip(hits, passages, strict=True))[:_SEARCHED_PASSAGES]:
        headings = passage.heading.split(HEADING_SEPARATOR)
        around = _coverage(wanted, stems(f"{passage.heading} {passage.text}"))
        for index, cosine in enumerate(hit.line_scores.tolist()):
            text = passage.line_text(index)
            if text in headings or len(text.split()) < _MIN_WORDS:
                continue
            coverage = _coverage(wanted, stems(text))
            has_kind = holds(kind, text)
            score = cosine + 0.5 * coverage + 0.2 * around + 0.12 * has_kind + 0.15 / hit.rank
            place = (passage.document_id, passage.page_number, passage.lines[index][0])
            candidate = Candidate(passage, index, score, cosine, coverage, has_kind)
            if place not in candidates or candidates[place].score < score:
                candidates[place] = candidate
    return sorted(candidates.values(), key=lambda one: (-one.score, one.passage.passage_id, one.line))


def choose_lines(candidates: Sequence[Candidate], most: int) -> list[Candidate]:
    """Take the best lines, without those far behind the best and without repeated words."""
    chosen: list[Candidate] = []
    seen: set[str] = set()
    for candidate in candidates:
        if len(chosen) == most or candidate.score < _KEPT_SHARE * candidates[0].score:
            break
        words = " ".join(candidate.text.casefold().split())
        if words not in seen:
            seen.add(words)
            chosen.append(candidate)
    return chosen


def features_of(
    question: str,
    hits: Sequence[Hit],
    passages: Sequence[StoredPassage],
    candidates: Sequence[Candidate],
    *,
    rarity: Callable[[str], float],
    is_known: Callable[[str], bool],
) -> EvidenceFeatures:
    """Measure the evidence for a question; see EvidenceFeatures. All zero without any."""
    if not hits or not candidates:
        return EvidenceFeatures(0, 0, 0, 0, 1, 0)
    wanted = {stem: rarity(stem) for stem in searched_stems(question)}
    total = sum(wanted.values()) or 1.0
    best = candidates[:3]
    return EvidenceFeatures(
        max(0.0, max(hit.meaning for hit in hits)),
        max(0.0, max(one.cosine for one in candidates)),
        max(one.coverage for one in best),
        max(_coverage(wanted, stems(f"{one.heading} {one.text}")) for one in passages[:5]),
        sum(weight for stem, weight in wanted.items() if not is_known(stem)) / total,
        float(any(one.has_kind for one in best)),
    )


def _coverage(wanted: dict[str, float], present: Sequence[str]) -> float:
    total = sum(wanted.values())
    here = set(present)
    return sum(weight for stem, weight in wanted.items() if stem in here) / total if total else 0.0
