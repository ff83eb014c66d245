# SPDX-License-Identifier: GPL-3.0-or-later
"""Looks again at the passages that a search found, and puts them in their last order.

Of the best few passages the most promising lines are given to the embedding
model once more, and each word of the question is compared with each word of
them (late interaction: Khattab and Zaharia, "ColBERT", 2020). All are looked
through for the question's words standing close together. Lists of contents and
passages that only repeat a better one go to the end. docs/retrieval.md has what
each step brings.
"""

import itertools
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from redlantern import fitted
from redlantern.collection.values import StoredPassage
from redlantern.models.embedding import Embedder, Vectors
from redlantern.retrieval.index import Hit
from redlantern.retrieval.plain_lines import line_in_words
from redlantern.text.question import ParsedQuestion
from redlantern.text.stems import stem, stems

DIGEST_TOKENS = 96
_FARTHEST_APART = 3
_LEADER = re.compile(r"(?:\. ?){4,}\s*[ivxlc\d]+\s*$|…+\s*\d+\s*$", re.IGNORECASE)


_MOST_JOINED = 3
_GAP_CHARS = 2
"""Line ends between two passages that follow each other."""


@dataclass(frozen=True)
class QuestionWords:
    """A question's content words in its context.

    `starts` are their places in the text, `vectors` has shape (n, dim),
    `idfs` (inverse document frequencies) shape (n,). `whole` is the direction
    of all words together, shape (dim,); `idf` gives that of any stem.
    """

    question: ParsedQuestion
    starts: Sequence[int]
    vectors: Vectors
    idfs: npt.NDArray[np.float32]
    whole: Vectors
    idf: Callable[[str], float]

    @property
    def weights(self) -> npt.NDArray[np.float32]:
        """What each word counts; together 1. The root, so that one rare word does not outvote all others."""
        roots = np.sqrt(self.idfs)
        return np.asarray(roots / max(float(roots.sum()), 1e-9), np.float32)


@dataclass(frozen=True)
class Reranked:
    """A passage in its last place (the rank of `hit`), and why.

    `max_sim` is how near the words of its best lines come to the question's, from 0
    to 1, None where they were not compared; `proximity` how close together the
    question's words stand in it, from 0 to 1; `before` and `after` its ranks
    before and after looking again, before neighbours were joined; `repeats` the
    rank of the passage whose words it only repeats, 0 for none; `joined` are its
    neighbours on the page that were found behind it.
    """

    hit: Hit
    passage: StoredPassage
    score: float
    before: int
    after: int = 0
    max_sim: float | None = None
    proximity: float = 0.0
    is_contents: bool = False
    repeats: int = 0
    joined: tuple["Reranked", ...] = ()

    @property
    def members(self) -> "tuple[Reranked, ...]":
        """The passage itself and those joined to it."""
        return (self, *self.joined)

    @property
    def span(self) -> tuple[int, int]:
        """Where it stands on its page together with those joined to it."""
        return min(member.passage.start for member in self.members), max(member.passage.end for member in self.members)


def question_words(question: ParsedQuestion, embedder: Embedder, idf: Callable[[str], float]) -> QuestionWords:
    """Embed a question's words; those that carry no content count only where there are no others.

    What stands in brackets at the end counts half: the words that a follow-up took from its thread say where to look, its
    own say what for. Chosen on the follow-ups of bench/tuning.
    """
    text, content = question.text, set(question.content_words)
    [words] = embedder.embed_words([text], asked=True, in_english=question.is_english)
    chosen = [word for word in words if text[slice(*word[0])].casefold() in content] or words
    idfs = np.array(
        [
            idf(stem(text[start:end].casefold())) * (fitted.ASIDE if start >= question.aside else 1)
            for (start, end), _ in chosen
        ],
        np.float32,
    )
    vectors = np.array([vector for _, vector in chosen], np.float32).reshape(len(chosen), -1)
    mean = np.array([vector for _, vector in words], np.float32).reshape(len(words), -1).sum(axis=0)
    # As long as the words' own vectors are, whatever an embedder takes for a length.
    length = float(np.linalg.norm(vectors, axis=1).mean()) if len(chosen) else 1.0
    whole = np.asarray(mean * length / max(float(np.linalg.norm(mean)), 1e-9), np.float32)
    return QuestionWords(question, [start for (start, _), _ in chosen], vectors, idfs, whole, idf)


def rerank(
    words: QuestionWords, hits: Sequence[Hit], passages: Sequence[StoredPassage], embedder: Embedder, n_compared: int
) -> list[Reranked]:
    """Put found passages in their last order.

    Parameters
    ----------
    words : QuestionWords
    hits, passages : sequences of the same length
        What was found, best first.
    embedder : Embedder
    n_compared : int
        How many of the best are compared word by word; the others stay behind
        them in the order they had. 0 leaves the order as it is but for contents
        and repetitions.

    Returns
    -------
    list of Reranked
        Each passage once, best first.
    """
    stemmed = [stems(f"{passage.headings.innermost}\n{passage.text}") for passage in passages]
    proximity = [_proximity(words, terms) for terms in stemmed]
    compared = [index for index, passage in enumerate(passages) if not is_contents(passage)][:n_compared]
    max_sims = dict(
        zip(
            compared,
            _max_sims(words, [hits[i] for i in compared], [passages[i] for i in compared], embedder),
            strict=True,
        )
    )
    found = []
    for index, (hit, passage) in enumerate(zip(hits, passages, strict=True)):
        max_sim = max_sims.get(index)
        score = hit.fused + fitted.PROXIMITY * proximity[index] * bool(n_compared)
        score += 2 * fitted.MAX_SIM * max_sim if max_sim is not None else 0.0
        found.append(Reranked(hit, passage, score, index + 1, 0, max_sim, proximity[index], is_contents(passage)))
    found.sort(
        key=lambda reranked: (
            reranked.is_contents,
            reranked.max_sim is None,
            -reranked.score,
            reranked.passage.passage_id,
        )
    )
    return _repetitions_last(
        found, {passage.passage_id: set(words_of) for passage, words_of in zip(passages, stemmed, strict=True)}
    )


def join_neighbours(found: Sequence[Reranked]) -> list[Reranked]:
    """Join passages that adjoin a better one on the same page to it, so that they fill one place together."""
    kept: list[Reranked] = []
    for reranked in found:
        at = next((at for at, better in enumerate(kept) if _adjoin(better, reranked)), None)
        if at is None:
            kept.append(reranked)
        else:
            kept[at] = replace(kept[at], joined=(*kept[at].joined, reranked))
    places = {member.after: rank for rank, passage_kept in enumerate(kept, start=1) for member in passage_kept.members}
    return [
        replace(passage_kept, repeats=places.get(passage_kept.repeats, 0), hit=replace(passage_kept.hit, rank=rank))
        for rank, passage_kept in enumerate(kept, start=1)
    ]


def _adjoin(reranked: Reranked, other: Reranked) -> bool:
    here, there = reranked.passage, other.passage
    if (here.document_id, here.page_number) != (there.document_id, there.page_number) or other.repeats:
        return False
    start, end = reranked.span
    return len(reranked.members) < _MOST_JOINED and there.start <= end + _GAP_CHARS and start <= there.end + _GAP_CHARS


def is_contents(passage: StoredPassage) -> bool:
    """Whether a passage is a list of contents: half of its lines or more lead with dots to a page number."""
    lines = [passage.line_text(index) for index in range(len(passage.lines))]
    return sum(_LEADER.search(line) is not None for line in lines) * 2 >= max(len(lines), 1)


def _max_sims(
    words: QuestionWords, hits: Sequence[Hit], passages: Sequence[StoredPassage], embedder: Embedder
) -> list[float]:
    """For each passage the mean of how its best line and how all its chosen lines together come near the question's words."""
    if not passages or not len(words.weights):
        return [0.0] * len(passages)
    digests = [_digest(words, hit, passage, embedder) for hit, passage in zip(hits, passages, strict=True)]
    found = []
    for (_, spans), row in zip(digests, embedder.embed_words([text for text, _ in digests]), strict=True):
        if not row:
            found.append(0.0)
            continue
        near = np.array([vector for _, vector in row]) @ words.vectors.T
        whole = float(near.max(axis=0) @ words.weights)
        lines = []
        for start, end in spans:
            within = [at for at, ((first, last), _) in enumerate(row) if first >= start and last <= end]
            if within:
                lines.append(float(near[within].max(axis=0) @ words.weights))
        found.append(float(np.clip((whole + max(lines, default=whole)) / 2, 0, 1)))
    return found


def _digest(
    words: QuestionWords, hit: Hit, passage: StoredPassage, embedder: Embedder
) -> tuple[str, list[tuple[int, int]]]:
    """The most promising lines of a passage under its title and heading, in reading order, and where each stands."""
    headings = passage.headings
    text = ". ".join(dict.fromkeys(part for part in (headings.title, headings.innermost) if part)) + ". "
    wanted = {stem(token) for token in words.question.content_tokens}
    total = sum(map(words.idf, wanted)) or 1.0
    said = [line_in_words(passage.line_text(index), headings) for index in range(len(passage.lines))]

    def promise(index: int) -> float:
        covered = sum(map(words.idf, wanted & set(stems(said[index]))))
        return float(hit.line_scores[index]) + fitted.DIGEST_COVERAGE * covered / total

    room = DIGEST_TOKENS
    lengths = embedder.count_tokens([text, *said])
    room -= lengths[0]
    chosen: list[int] = []
    for index in sorted(range(min(len(said), len(hit.line_scores))), key=promise, reverse=True):
        if chosen and lengths[index + 1] > room:
            break
        chosen.append(index)
        room -= lengths[index + 1]
    spans = []
    for index in sorted(chosen):
        spans.append((len(text), len(text) + len(said[index])))
        text += said[index] + " "
    return text, spans


def _proximity(words: QuestionWords, stemmed: Sequence[str]) -> float:
    """The share of the question's neighbouring words, by idf, that stand near each other; nearest counts most."""
    asked = [stem(token) for token in words.question.content_tokens]
    places: dict[str, list[int]] = {}
    for at, term in enumerate(stemmed):
        places.setdefault(term, []).append(at)
    gained = possible = 0.0
    for one, other in itertools.pairwise(asked):
        weight = min(words.idf(one), words.idf(other))
        possible += weight
        if one == other or one not in places or other not in places:
            continue
        apart = min(abs(here - there) for here in places[one] for there in places[other])
        if apart <= _FARTHEST_APART:
            gained += weight / apart
    return gained / possible if possible else 0.0


def _repetitions_last(found: Sequence[Reranked], words: dict[int, set[str]]) -> list[Reranked]:
    """Move passages that say little else than a better one behind all others, so that five copies fill one place."""
    kept: list[Reranked] = []
    repeated: list[Reranked] = []
    for reranked in found:
        mine = words[reranked.passage.passage_id]
        rank = next(
            (
                rank
                for rank, better in enumerate(kept, start=1)
                if _likeness(mine, words[better.passage.passage_id]) >= fitted.SAME_WORDS
            ),
            0,
        )
        if rank:
            repeated.append(replace(reranked, repeats=rank))
        else:
            kept.append(reranked)
    return [
        replace(passage_kept, after=rank, hit=replace(passage_kept.hit, rank=rank))
        for rank, passage_kept in enumerate(kept + repeated, start=1)
    ]


def _likeness(one: set[str], other: set[str]) -> float:
    """Jaccard's measure: the words of both among the words of either."""
    return len(one & other) / len(one | other) if one or other else 1.0
