# SPDX-License-Identifier: GPL-3.0-or-later
"""Reads pages by their lines: every line is compared with what is looked for, by words and by meaning.

No language model takes part. The chance that a page is a hit is a logistic
function of a few measures of its best line, its passages, and how they stand out
from the other pages in scope; `bench/fit_readthrough.py` fitted it on questions that
nothing is measured with.
"""

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from redlantern import fitted
from redlantern.collection.joint import Joint
from redlantern.collection.store import Collection
from redlantern.collection.values import Document, StoredPassage
from redlantern.models.embedding import Embedder, Vectors
from redlantern.reading.values import Page
from redlantern.readthrough.values import FoundWords, PageRead, PageWish, State
from redlantern.retrieval.index import Index
from redlantern.retrieval.plain_lines import line_in_words
from redlantern.text.answer_kind import holds
from redlantern.text.question import ParsedQuestion, parse_question
from redlantern.text.stems import stems

_PAGES = r"(?:pages?|clauses?|passages?|places?|documents?|letters?|sections?|paragraphs?|lines?)"
_SAYING = (
    r"(?:names?|mentions?|touch(?:es)?(?:\s+on)?|(?:speaks?|tells?|says?)(?:\s+(?:of|about|something about))?|concerns?|deals? with|"
    r"(?:is|are) about|has|have|holds?|states?|describes?|explains?|contains?|refers? to)"
)
_FRAME = re.compile(
    r"^\W*(?:(?:please\s+)?(?:find|list|show|give|mark|collect)(?:\s+me)?\s+)?(?:all|every|each|any|which|what)(?:\s+(?:of\s+the|the))?"
    rf"\s+{_PAGES}(?:\s+(?:that|which|where|on which|in which))?\s+(?:(?:do|does|is|are)\s+)?(?:{_SAYING}\s+)?",
    re.IGNORECASE,
)
"""What only says that every page is meant, in front of what is looked for."""
_COUNTS_SHARE = 0.5
_LIKE, _UNLIKE = 0.75, 0.25
"""Moves what is looked for towards examples and away from others (Rocchio, 1971)."""
_MOST_LINES = 3
_NEAR_BEST = 0.85
_FEW_WORDS = 4
_POOR_SCAN = 0.5
_ALL, _MOST_ABOVE = 0.97, 8.0
_OR = re.compile(r"\s+or\s+", re.IGNORECASE)
FEATURES = (
    "best line", "best three lines", "passage", "passage above others", "line's words", "page's words", "kind", "names",
    "all words in a line", "words above others", "meaning against the best", "words against the best",
)  # fmt: skip
BY_LINES = "by its lines"
NOT_COMPARED = "its lines could not be compared"
Chances = npt.NDArray[np.float64]


def subject_of(question: str) -> str:
    """What is looked for, without the words that only say that every page is meant; the question itself where nothing else is."""
    rest = _FRAME.sub("", question).strip(" .?!")
    return rest or question.strip()


def unreadable_because(page: Page) -> str:
    """Why nothing can be said of a page; empty where something can."""
    if page.origin == "none" and page.warnings:
        return "; ".join(page.warnings)
    if page.origin == "recognised" and page.confidence < _POOR_SCAN:
        return f"a scan too poor to be relied on: text recognition is {page.confidence:.0%} certain"
    return ""


@dataclass(frozen=True)
class LineRead:
    """A line of a page, its words with what it stands under, and how it compares."""

    start: int
    end: int
    said: str
    meaning: float
    coverage: float
    has_kind: bool

    @property
    def score(self) -> float:
        """By what lines of a page are ordered."""
        return self.meaning + fitted.LINE_COVERAGE * self.coverage


@dataclass(frozen=True)
class PageLines:
    """A page with its lines compared, best first, and the measures of FEATURES; `heading` is that of its best line."""

    page: Page
    lines: tuple[LineRead, ...]
    features: tuple[float, ...]
    title: str


@dataclass(frozen=True)
class _Aim:
    question: ParsedQuestion
    ways: tuple[Mapping[str, float], ...]
    """The stems that are looked for with their weights: of "Kerberos or LDAP" one way of saying it each."""
    names: frozenset[str]
    vector: Vectors


class LineReader:
    """Compares the lines of every page with one wish. Made anew when the collection has changed."""

    def __init__(self, wish: PageWish, index: Index, collection: Collection | Joint, embedder: Embedder) -> None:
        self._index, self._collection, self._embedder = index, collection, embedder
        self._aim = self._aimed(wish)
        self._rows = {int(passage_id): row for row, passage_id in enumerate(index.passage_ids.tolist())}
        self._meaning = index.meaning_scores(self._aim.vector)
        self._words = index.word_scores(self._aim.question) / index.best_possible(self._aim.question)
        ids = {document.document_id for document in in_scope(index.documents.values(), wish)}
        is_in = index.in_scope(ids)
        self._mean, self._spread = _middle_and_spread(self._meaning[is_in])
        self._mean_words, self._spread_words = _middle_and_spread(self._words[is_in])
        self._best, self._best_words = (
            float(scores[is_in].max(initial=0.0)) for scores in (self._meaning, self._words)
        )

    def pages(self, document: Document, wanted: frozenset[int]) -> Iterator[PageLines]:
        """The wanted pages of a document, in order; one that is gone meanwhile is left out."""
        ids, vectors = self._index.lines_of(document.document_id)
        stored = {passage.passage_id: passage for passage in self._collection.passages(ids)}
        by_page: dict[int, list[tuple[StoredPassage, Vectors]]] = {}
        for passage_id, lines in zip(ids, vectors, strict=True):
            if passage_id in stored and stored[passage_id].page_number in wanted:
                by_page.setdefault(stored[passage_id].page_number, []).append((stored[passage_id], lines))
        for number in sorted(wanted):
            page = self._collection.page(document.document_id, number)
            if page is not None:
                yield self._compared(document, page, by_page.get(number, []))

    def _aimed(self, wish: PageWish) -> _Aim:
        subject = subject_of(wish.question)
        question = parse_question(subject)
        embed, languages = self._embedder.embed_question, self._index.words.languages
        vector = embed(subject, in_english=question.is_english)
        if wish.counts:
            vector = vector + _COUNTS_SHARE * embed(wish.counts, in_english=question.is_english)
        for is_hit, share in ((True, _LIKE), (False, -_UNLIKE)):
            texts = [example.text for example in wish.examples if example.is_hit == is_hit]
            if texts:
                embedded = [one for _, one in self._embedder.embed(texts, [[] for _ in texts])]
                vector = vector + share * np.mean([each.text for each in embedded], axis=0)
        vector = np.asarray(vector / max(float(np.linalg.norm(vector)), 1e-9), np.float32)
        idf = self._index.words.idf
        further = parse_question(wish.counts).stems(languages) if wish.counts else []
        ways = []
        for part in _alternatives(subject):
            weights = {term: idf(term) for term in parse_question(part).stems(languages)}
            for term in further:
                weights.setdefault(term, _COUNTS_SHARE * idf(term))
            ways.append(weights)
        names = {term for start, end in question.entities for term in stems(subject[start:end])}
        return _Aim(question, tuple(ways), frozenset(names), vector)

    def _compared(self, document: Document, page: Page, passages: Sequence[tuple[StoredPassage, Vectors]]) -> PageLines:
        aim = self._aim
        lines: dict[int, LineRead] = {}
        here: set[str] = set()
        for passage, vectors in passages:
            # Without vectors, for the embedding model has not come to it yet, its words still count.
            is_whole = len(vectors) == len(passage.lines) > 0
            cosines = (vectors @ aim.vector).tolist() if is_whole else [0.0] * len(passage.lines)
            for at, cosine in enumerate(cosines):
                start, end = passage.lines[at]
                said = line_in_words(passage.line_text(at), passage.headings)
                present = set(stems(said, self._index.words.languages))
                here |= present
                # The kind is looked at only where it can change anything.
                lines[start] = LineRead(start, end, said, float(cosine), self._coverage(present), False)
        ordered = sorted(lines.values(), key=lambda line: (-line.score, line.start))
        if ordered:
            best = ordered[0]
            has_kind = holds(aim.question.kind, best.said, aim.question.text, aim.question.language)
            ordered[0] = LineRead(best.start, best.end, best.said, best.meaning, best.coverage, bool(has_kind))
        rows = [self._rows[passage.passage_id] for passage, _ in passages if passage.passage_id in self._rows]
        return PageLines(page, tuple(ordered), self._features(ordered, rows, here), document.title)

    def _features(self, lines: Sequence[LineRead], rows: Sequence[int], here: set[str]) -> tuple[float, ...]:
        """The measures of FEATURES; all 0 for a page without a line."""
        if not lines or not rows:
            return (0.0,) * len(FEATURES)
        best = sorted((line.meaning for line in lines), reverse=True)[:_MOST_LINES]
        passage = float(self._meaning[list(rows)].max())
        names, in_line, on_page = self._aim.names, max(line.coverage for line in lines), self._coverage(here)
        share = float(self._words[list(rows)].max())
        found = (
            best[0],
            float(np.mean(best)),
            passage,
            (passage - self._mean) / self._spread,
            in_line,
            on_page,
            float(lines[0].has_kind),
            len(names & here) / len(names) if names else 0.5,
            float(in_line >= _ALL),
            min(_MOST_ABOVE, (share - self._mean_words) / self._spread_words),
            (passage - self._mean) / max(self._best - self._mean, 1e-6),
            share / max(self._best_words, 1e-6),
        )
        return tuple(round(value, 4) for value in found)

    def _coverage(self, present: set[str]) -> float:
        return max(
            sum(weight for term, weight in way.items() if term in present) / max(sum(way.values()), 1e-9)
            for way in self._aim.ways
        )


def _alternatives(subject: str) -> list[str]:
    """What is looked for, taken apart where one thing or another is: "Kerberos or LDAP"; whole where a part would say nothing."""
    parts = [part.strip() for part in _OR.split(subject)]
    return parts if all(parse_question(part).content_words for part in parts) else [subject]


def _middle_and_spread(scores: npt.NDArray[np.float32]) -> tuple[float, float]:
    return (float(scores.mean()), float(scores.std()) or 1.0) if len(scores) else (0.0, 1.0)


def chance_by_lines(features: Sequence[float]) -> float:
    """The chance from 0 to 1 that a page with such features is a hit."""
    total = fitted.PAGE_INTERCEPT + float(np.dot(fitted.PAGE_WEIGHTS, features))
    return float(1 / (1 + np.exp(-np.clip(total, -30, 30))))


def state_of(chance: float) -> State:
    """What a page is taken for until a person says otherwise."""
    return "hit" if chance >= fitted.PAGE_HIT else "doubtful" if chance >= fitted.PAGE_DOUBT else "silent"


def best_words(read: PageLines) -> tuple[FoundWords, ...]:
    """The lines that speak for a page, best first: at most three, none much worse than the best.

    A heading says in two words what the line under it says whole, so it comes behind.
    """
    near = [line for line in read.lines if line.score >= _NEAR_BEST * read.lines[0].score]
    near.sort(key=lambda line: len(read.page.text[line.start : line.end].split()) < _FEW_WORDS)
    return tuple(FoundWords(line.start, line.end, read.page.text[line.start : line.end]) for line in near[:_MOST_LINES])


def page_by_lines(document: Document, read: PageLines, read_at: str) -> PageRead:
    """What a page gave by its lines."""
    place = (document.key, read.page.page_number)
    reason = unreadable_because(read.page)
    if reason:
        return PageRead(place, "unreadable", 0.0, best_words(read), "", reason, read.features, read_at)
    if not read.lines and _says_something(read.page):
        # Never silent unread: a person is to look at it.
        return PageRead(
            place, "doubtful", fitted.PAGE_DOUBT, _beginning(read.page), NOT_COMPARED, "", read.features, read_at
        )
    if not read.lines:
        return PageRead(place, "silent", 0.0, (), "nothing stands on it", "", read.features, read_at)
    chance = chance_by_lines(read.features)
    return PageRead(place, state_of(chance), round(chance, 4), best_words(read), BY_LINES, "", read.features, read_at)


def _says_something(page: Page) -> bool:
    """Whether a page has words that are no running header or footer."""
    return any(
        any(map(str.isalnum, page.text[block.start : block.end]))
        for block in page.blocks
        if block.kind not in ("header", "footer")
    )


def _beginning(page: Page) -> tuple[FoundWords, ...]:
    block = next(block for block in page.blocks if block.kind not in ("header", "footer") and block.end > block.start)
    return (FoundWords(block.start, block.end, page.text[block.start : block.end]),)


def in_scope(documents: Iterable[Document], wish: PageWish) -> list[Document]:
    """The documents that a wish is about, in the order of their places; refused ones, too."""
    chosen = [document for document in documents if wish.paths is None or document.full_path in wish.paths]
    return sorted(chosen, key=lambda document: (document.path, document.document_id))
