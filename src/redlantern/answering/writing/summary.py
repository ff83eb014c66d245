# SPDX-License-Identifier: GPL-3.0-or-later
"""Summaries: section by section, then the whole; every claim cited and checked as in an answer.

Which lines matter is chosen by `centrality`, without the language model. A small
model then only shortens them, and the whole is made of what it has written; a
larger one writes of them in its own sentences, of the sections and of the whole.
"""

import time
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from redlantern.answering import wording
from redlantern.answering.evidence.centrality import Central, Section, central_lines, mmr, sections_of, whole_mean
from redlantern.answering.evidence.lines import Candidate
from redlantern.answering.evidence.neighbours import joined_with_neighbours
from redlantern.answering.question.requests import Length
from redlantern.answering.sheet import Claim, FoundLine, Sheet, SummarySection, SummarySheet, made_into
from redlantern.answering.writing.grammars import every_line_grammar, sentence_grammar
from redlantern.answering.writing.grounds import Grounds, check_claims
from redlantern.answering.writing.instructions import is_to_a_model
from redlantern.answering.writing.prompt import NoRoomError, fitted
from redlantern.answering.writing.streams import WritingStep, drafts_with_marks, written_to
from redlantern.collection.joint import Joint
from redlantern.collection.store import Collection
from redlantern.collection.values import Citation
from redlantern.models.embedding import Embedder
from redlantern.models.protocols import LanguageModel, LanguageModelError
from redlantern.progress import Cancel
from redlantern.retrieval.index import Index
from redlantern.settings import Method

SYSTEM = (
    "Say briefly what the numbered lines say, one sentence each. Copy numbers, dates and names exactly. "
    "End each sentence with the number of its line in brackets."
)
REQUEST = "Summary:"
N_LINES: dict[Length, tuple[int, int]] = {"short": (1, 3), "medium": (2, 5), "long": (4, 9)}
"""By length: lines of each section, lines of the whole."""
_ANSWER_TOKENS_A_LINE = 90


_SPARE_LINES = 3


@dataclass(frozen=True)
class PartStep:
    """Another section is summarised: the sheet so far, and how many of the sections are done."""

    sheet: Sheet
    done: int
    total: int


@dataclass(frozen=True)
class PlannedSection:
    """A section and its lines that are to be said, in the order of the document."""

    title: str
    lines: tuple[Candidate, ...]
    n_rows: int


@dataclass(frozen=True)
class SummaryPlan:
    """What a summary is to say: the lines of each section, and of the whole."""

    parts: tuple[PlannedSection, ...]
    whole: tuple[Candidate, ...]


@dataclass(frozen=True)
class Topic:
    """What one part of a summary is about: a section of the one document, or one of several documents with all its sections."""

    title: str
    sections: tuple[Section, ...]


def topics_of(
    index: Index, collection: Collection | Joint, embedder: Embedder, documents: Iterable[int], cancel: Cancel
) -> list[Topic]:
    """The sections of one document; of several, each document as one topic under its title."""
    topics = []
    for document_id in sorted(documents):
        cancel.check()
        ids, vectors = index.lines_of(document_id)
        by_id = {passage.passage_id: passage for passage in collection.passages(ids)}
        # A passage that an update took away a moment ago is left out.
        there = [
            (by_id[document_id], rows)
            for document_id, rows in zip(ids, vectors, strict=True)
            if document_id in by_id and len(rows)
        ]
        title = index.documents[document_id].title
        sections = sections_of([document for document, _ in there], [rows for _, rows in there])
        about = embedder.embed_question(title)
        topics += [Topic(title, tuple(replace(section, about=about) for section in sections))] if sections else []
    if len(topics) != 1:
        return topics
    title = topics[0].title
    return [
        Topic(section.title or title, (replace(section, about=embedder.embed_question(f"{title}. {section.title}")),))
        for section in topics[0].sections
    ]


def plan_summary(topics: Sequence[Topic], length: Length) -> SummaryPlan:
    """Choose the lines of a summary."""
    if not topics:
        return SummaryPlan((), ())
    of_each, of_all = N_LINES[length]
    mean = whole_mean([section for topic in topics for section in topic.sections])
    parts, every = [], list[Central]()
    for topic in topics:
        # A few more are chosen than are said, for some may speak to a machine.
        chosen = central_lines(topic.sections, mean, of_each + _SPARE_LINES)
        chosen = [central for central in chosen if not is_to_a_model(central.line.passage.text)][:of_each]
        every += chosen
        n_rows = sum(section.n_rows for section in topic.sections)
        parts.append(
            PlannedSection(topic.title, _in_order(joined_with_neighbours([central.line for central in chosen])), n_rows)
        )
    if not every:
        return SummaryPlan(tuple(parts), ())
    lines, vectors = [central.line for central in every], np.stack([central.vector for central in every])
    scores = np.array([line.score for line in lines])
    whole = [lines[at] for at in mmr(scores, vectors, of_all, [line.text for line in lines])]
    return SummaryPlan(tuple(parts), _in_order(joined_with_neighbours(whole)))


def planned_sheet(sheet: Sheet, plan: SummaryPlan, cite: Callable[[Candidate], Citation]) -> SummarySheet:
    """A sheet with the lines of a plan: word for word, nothing written yet."""

    def found(lines: Sequence[Candidate]) -> tuple[FoundLine, ...]:
        return tuple(FoundLine(cite(line), line.score) for line in lines)

    sections = tuple(
        SummarySection(part.title, found(part.lines), (), wording.table_rows(part.n_rows, has_text=bool(part.lines)))
        for part in plan.parts
    )
    return made_into(SummarySheet, sheet, found_lines=found(plan.whole), sections=sections)


def write_summary(
    sheet: SummarySheet,
    plan: SummaryPlan,
    grounds: Grounds,
    model: LanguageModel | None,
    method: Method,
    began: float,
    cancel: Cancel,
) -> Iterator[PartStep | WritingStep | Sheet]:
    """Write a summary: a PartStep after each section, WritingSteps of the whole, and the sheet with all of it.

    Parameters
    ----------
    sheet : Sheet
        As `planned_sheet` gave it.
    began : float
        When it was asked for, by `time.perf_counter`.
    """
    if model is None:
        yield replace(sheet, no_prose_reason=wording.NO_MODEL_FOR_SUMMARY)
        return
    sections, total = list(sheet.sections), len(plan.parts)
    sheet = replace(sheet, models=sheet.models | {"language": model.name})
    n_read = n_written = 0
    try:
        for number, planned in enumerate(plan.parts):
            cancel.check()
            if planned.lines:
                writer = _Writer(planned.lines, grounds, model, method, cancel)
                for _ in writer:
                    if sheet.seconds.first_word is None:
                        first_word = time.perf_counter() - began
                        sheet = replace(sheet, seconds=replace(sheet.seconds, first_word=first_word))
                sections[number] = replace(sections[number], claims=writer.claims)
                n_read, n_written = n_read + writer.n_read, n_written + writer.n_written
            sheet = replace(sheet, sections=tuple(sections), n_prompt_tokens=n_read, n_written_tokens=n_written)
            yield PartStep(sheet, number + 1, total)
        if not model.can_read or total == 1:
            yield replace(sheet, claims=_of_the_whole(sheet))
            return
        writer = _Writer(plan.whole, grounds, model, method, cancel)
        yield from writer
        n_read, n_written = n_read + writer.n_read, n_written + writer.n_written
        yield replace(sheet, claims=writer.claims, n_prompt_tokens=n_read, n_written_tokens=n_written)
    except (LanguageModelError, NoRoomError) as failure:
        yield replace(sheet, no_prose_reason=str(failure))


class _Writer:
    """One round of writing: gives WritingSteps; then has the checked claims and the counts."""

    def __init__(
        self, lines: Sequence[Candidate], grounds: Grounds, model: LanguageModel, method: Method, cancel: Cancel
    ) -> None:
        self._lines, self._grounds = lines, grounds
        self._model, self._method, self._cancel = model, method, cancel
        self.claims: tuple[Claim, ...] = ()
        self.n_read = self.n_written = 0

    def __iter__(self) -> Iterator[WritingStep]:
        model, method = self._model, self._method

        def grammar(kept: Sequence[Candidate], printed: Sequence[str]) -> str:
            return (
                sentence_grammar(len(kept), len(kept))
                if model.can_read
                else every_line_grammar(printed, [kept_one.least_said for kept_one in kept])
            )

        prompt = fitted(
            self._lines, model, method, system=SYSTEM, request=REQUEST, grammar=grammar,
            answer_tokens=_ANSWER_TOKENS_A_LINE * len(self._lines),
        )  # fmt: skip
        marks = [self._grounds.cite(line).mark for line in prompt.lines]
        written = ""
        for step in written_to(prompt, model, method, self._cancel):
            if step.words:
                written += step.words
                yield WritingStep(drafts_with_marks(written, marks))
            else:
                self.n_read, self.n_written = step.n_prompt_tokens, step.n_written_tokens
        claims = check_claims(written, prompt.lines, self._grounds)
        keeps = method.keeps_outside_claims
        # What a model says freely and no line bears out is left out: the lines themselves are there.
        self.claims = tuple(
            claim
            for claim in claims
            if (keeps or not claim.is_outside) and not (model.can_read and claim.support == "unsupported")
        )


def _of_the_whole(sheet: SummarySheet) -> tuple[Claim, ...]:
    """What was written of the lines that say what the whole is about."""
    wanted = {(line.citation.document_id, line.citation.page_number, line.citation.start) for line in sheet.found_lines}
    return tuple(
        claim
        for section in sheet.sections
        for claim in section.claims
        if any((citation.document_id, citation.page_number, citation.start) in wanted for citation in claim.citations)
    )


def _in_order(lines: Sequence[Candidate]) -> tuple[Candidate, ...]:
    return tuple(sorted(lines, key=_place))


def _place(candidate: Candidate) -> tuple[int, int, int]:
    return candidate.passage.document_id, candidate.passage.page_number, candidate.passage.lines[candidate.line][0]
