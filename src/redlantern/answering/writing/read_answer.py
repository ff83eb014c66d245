# SPDX-License-Identifier: GPL-3.0-or-later
"""The answer of a model that reads: is it answered at all, what is it, and does every sentence of it hold?

Whether the documents answer is decided before anything is shown as an answer, from
the model's first word and the evidence together. A sentence that the cited words
do not bear out is mended once, with the reason given; what does not hold then is
left out, and the sheet says so. Where hardly anything held and the chance was not
high to begin with, there is no answer after all; where nothing did and it was
high, the line that it came nearest to comes first of the found ones.
"""

import re
import time
from collections.abc import Generator, Iterator, Sequence
from dataclasses import replace

from redlantern.answering import wording
from redlantern.answering.evidence.refusal import reading_chance, strength, written_chance
from redlantern.answering.sheet import AnsweredSheet, Claim, FoundLine, RefusedSheet, Sheet, made_into
from redlantern.answering.writing.claims import sentences_of
from redlantern.answering.writing.excerpts import Excerpt, choose_excerpts
from redlantern.answering.writing.grounds import AskedPart, Grounds, check_sentence
from redlantern.answering.writing.instructions import is_to_a_model
from redlantern.answering.writing.prompt import Prompt
from redlantern.answering.writing.reading import (
    FEWEST_WORDS,
    SYSTEM,
    is_line_by_line,
    judging_user,
    mending_prompt,
    reading_prompt,
    room_for_excerpts,
    wants_to_answer,
    whole_prompt,
)
from redlantern.answering.writing.second_search import search_again
from redlantern.answering.writing.streams import WritingStep, written_to
from redlantern.models.protocols import LanguageModel
from redlantern.progress import Cancel
from redlantern.settings import Method
from redlantern.text.languages import ENGLISH, name_of_language
from redlantern.text.question import ParsedQuestion

_SAYS_NOTHING = re.compile(
    r"\b(?:passages?|documents?|text|excerpts?)\b[^.]{0,40}\b(?:do|does|did|is|are) not\b[^.]{0,20}"
    r"\b(?:say|state|mention|give|provide|specify|contain|answer|stated|mentioned|given|provided|specified)\b|"
    r"\bnot (?:stated|mentioned|given|provided|specified|answered)\b[^.]{0,20}\b(?:passages?|documents?|text)\b",
    re.IGNORECASE,
)
"""A sentence that says that there is no answer is none; where it is all that was written, the question is refused."""


def read_answer(
    sheet: AnsweredSheet, grounds: Grounds, model: LanguageModel, method: Method, began: float, cancel: Cancel
) -> Iterator[WritingStep | Sheet]:
    """Read, decide, write and check: WritingSteps, then the sheet with its claims, or refused.

    Raises
    ------
    LanguageModelError, NoRoomError, Cancelled
    """
    model.start(cancel)
    grounds = search_again(grounds, model, cancel)
    sheet = replace(sheet, searched_also=grounds.searched_also)
    excerpts = excerpts_of(grounds, model, method)
    if not excerpts:
        yield replace(sheet, no_prose_reason=wording.ONLY_ORDERS)
        return
    reader = _AnswerReader(sheet, grounds, excerpts, model, method, began, cancel)
    yield from reader.steps()
    yield reader.result()


def excerpts_of(grounds: Grounds, model: LanguageModel, method: Method) -> tuple[Excerpt, ...]:
    """What the model reads; nothing where all of it speaks to a machine."""
    readable = [line for line in grounds.others if not is_to_a_model(line.passage.text)]
    if not readable:
        return ()
    wanted = [stem for part in grounds.parts for stem in part.question.stems()]
    room = room_for_excerpts(model, method, max((part.question.text for part in grounds.parts), key=len))
    return choose_excerpts(
        readable, grounds.ranks, wanted, title=grounds.title, count_tokens=model.count_tokens, room=room
    )


def judge(part: AskedPart, excerpts: Sequence[Excerpt], model: LanguageModel, cancel: Cancel) -> float | None:
    """The model's log-odds that the excerpts answer a part of the question; None where it cannot tell.

    Raises
    ------
    LanguageModelError, Cancelled
    """
    return wants_to_answer(model.first_words(SYSTEM, judging_user(part.question.text, excerpts), cancel))


class _AnswerReader:
    """One answer being read and written, part by part."""

    def __init__(
        self,
        sheet: AnsweredSheet,
        grounds: Grounds,
        excerpts: Sequence[Excerpt],
        model: LanguageModel,
        method: Method,
        began: float,
        cancel: Cancel,
    ) -> None:
        self._sheet, self._grounds, self._excerpts = sheet, grounds, excerpts
        self._model, self._method, self._began, self._cancel = model, method, began, cancel
        self._claims: list[Claim] = []
        self._dropped: list[Claim | None] = []
        self._unanswered: list[str] = []
        self._chances: list[float] = []
        self._n_read = self._n_written = 0
        self._first_word: float | None = None
        self._says_nothing = False

    def steps(self) -> Iterator[WritingStep]:
        """Read and write each part that the documents answer."""
        for part in self._grounds.parts:
            chance = self._chance(part)
            if chance >= self._method.answer_threshold:
                chance = yield from self._written(part.question, chance)
            self._chances.append(chance)
            if chance < self._method.answer_threshold:
                self._unanswered.append(part.question.text)

    def _written(self, asked: ParsedQuestion, chance: float) -> Generator[WritingStep, None, float]:
        """Write the answer to a part, and take it back where what it is worth speaks against its being one; gives the chance anew."""
        yield WritingStep(self._written_so_far())
        before, dropped = list(self._claims), list(self._dropped)
        language = self._answered_in(asked)
        yield from self._write(
            reading_prompt(asked.text, asked.kind, self._excerpts, self._model, self._method, language=language),
            asked.text,
            may_mend=not is_line_by_line(asked.kind),
        )
        if self._model.can_judge:
            chance = written_chance(chance, strength(self._claims[len(before) :]))
        if chance < self._method.answer_threshold:
            self._claims, self._dropped = before, dropped
        return chance

    def result(self) -> Sheet:
        """The sheet with what was written; refused where no part is answered."""
        models = self._sheet.models | {"language": self._model.name}
        sheet = replace(
            self._sheet, models=models, evidence_score=max(self._chances), n_prompt_tokens=self._n_read,
            n_written_tokens=self._n_written, seconds=replace(self._sheet.seconds, first_word=self._first_word),
        )  # fmt: skip
        is_taken_back = self._says_nothing and not self._claims
        if len(self._unanswered) == len(self._grounds.parts) or is_taken_back:
            reason = wording.not_answered(sheet.missing_words)
            return made_into(RefusedSheet, sheet, refusal_reason=reason, found_lines=sheet.found_lines)
        n_orders = len({line.passage.passage_id for line in self._grounds.lines if is_to_a_model(line.passage.text)})
        done = replace(
            sheet,
            claims=tuple(self._claims),
            unanswered=tuple(self._unanswered) if len(self._grounds.parts) > 1 else (),
            left_out=wording.left_out(n_orders, 0, len(self._dropped)),
            found_lines=_cited_first(sheet.found_lines, self._claims or self._near()),
        )
        return done if self._claims else replace(done, no_prose_reason=wording.NOTHING_HELD)

    def _chance(self, part: AskedPart) -> float:
        """The chance that the documents answer a part, by the evidence and by reading, if the model can judge."""
        can_judge = self._model.can_judge
        wants = judge(part, self._excerpts, self._model, self._cancel) if can_judge else None
        return reading_chance(part.evidence_score, wants)

    def _answered_in(self, question: ParsedQuestion) -> str:
        """The language that is answered in: that of the document that is read first, for no other could be checked against it.

        Nothing where English is asked and read.
        """
        code = self._grounds.language(self._excerpts[0].lines[0])
        return "" if (code or ENGLISH.code) == question.language.code == ENGLISH.code else name_of_language(code)

    def _write(self, prompt: Prompt, asked: str, *, may_mend: bool) -> Iterator[WritingStep]:
        written, is_cut_off = "", False
        for step in written_to(prompt, self._model, self._method, self._cancel):
            if not step.words:
                self._n_read += step.n_prompt_tokens
                self._n_written += step.n_written_tokens
                is_cut_off = step.is_cut_off
                continue
            self._first_word = self._first_word or time.perf_counter() - self._began
            written += step.words
            yield WritingStep(self._written_so_far() + tuple((text, "") for text in sentences_of(written)))
        said = sentences_of(written)[:-1] if is_cut_off else sentences_of(written)
        if may_mend and len(said) == 1 and len(said[0].split()) < FEWEST_WORDS:
            again = self._again(whole_prompt(prompt, said[0]))
            said = [text for text in again if len(text.split()) >= FEWEST_WORDS] or said
        for text in said:
            if _SAYS_NOTHING.search(text):
                self._says_nothing = True
                continue
            claim = self._checked(text, asked)
            is_worth_mending = may_mend and claim.support == "unsupported" and not claim.is_outside
            self._take(self._mended(claim, prompt, asked) if is_worth_mending else claim)

    def _checked(self, text: str, asked: str) -> Claim:
        return check_sentence(text, [excerpt.lines for excerpt in self._excerpts], self._grounds, asked)

    def _near(self) -> list[Claim]:
        """What did not hold and is from the documents all the same."""
        return [claim for claim in self._dropped if claim is not None and not claim.is_outside]

    def _take(self, claim: Claim | None) -> None:
        """Keep a claim that holds, once."""
        if claim is None or claim.support == "unsupported":
            self._dropped.append(claim)
        elif _bare(claim.text) not in {_bare(other.text) for other in self._claims}:
            self._claims.append(claim)

    def _mended(self, claim: Claim, prompt: Prompt, asked: str) -> Claim | None:
        """Let the model write a sentence once more that did not hold, told why; None where it takes it back."""
        said = self._again(mending_prompt(prompt, claim.text, claim.doubt))
        return self._checked(said[0], asked) if said and not _SAYS_NOTHING.search(said[0]) else None

    def _again(self, prompt: Prompt) -> list[str]:
        """The sentences that the model writes when it is asked once more."""
        written = ""
        for step in written_to(prompt, self._model, self._method, self._cancel):
            written += step.words
            self._n_written += step.n_written_tokens
        return sentences_of(written)

    def _written_so_far(self) -> tuple[tuple[str, str], ...]:
        return tuple((claim.text, claim.citations[0].mark) for claim in self._claims)


def _cited_first(lines: Sequence[FoundLine], claims: Sequence[Claim]) -> tuple[FoundLine, ...]:
    """The found lines anew: those that the answer stands on, or came nearest to, before the others."""
    known = {line.citation: line for line in lines}
    best = max((line.score for line in lines), default=1.0)
    cited = dict.fromkeys(claim.citations[0] for claim in claims if claim.citations)
    first = [known.get(citation) or FoundLine(citation, best) for citation in cited]
    return (*first, *(line for line in lines if line.citation not in cited))


def _bare(text: str) -> str:
    """A sentence to tell repeats by: "That the key was lost" says no more than "The key was lost"."""
    return " ".join(text.casefold().split()).rstrip(".").removeprefix("that ")
