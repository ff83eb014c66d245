"""The written answer: what the language model makes of the found lines, and every claim of it checked."""

import contextlib
import time
from collections.abc import Callable, Generator, Iterator, Sequence
from dataclasses import dataclass, replace

from redlantern.answering import wording
from redlantern.answering.checking.support import Cells, Judgement, best_line
from redlantern.answering.evidence.lines import Candidate
from redlantern.answering.sheet import AnsweredSheet, Claim, Sheet
from redlantern.answering.writing.claims import drafts_of
from redlantern.answering.writing.drafting import build_draft_prompt
from redlantern.answering.writing.instructions import as_material, is_to_a_model
from redlantern.answering.writing.prompt import NoRoomError, Prompt, build_prompt
from redlantern.collection.values import Citation
from redlantern.models.protocols import LanguageModel, LanguageModelError, Sampling, Written
from redlantern.progress import Cancel
from redlantern.reading.values import cells_of_row
from redlantern.retrieval.plain_lines import cells_of
from redlantern.retrieval.spelling import replaced_words
from redlantern.settings import Method
from redlantern.splitting.headings import row_printed
from redlantern.text.listing import quoted
from redlantern.text.quantities import plain, quantities, values

_ALONE = "Answer the question in one to three short sentences."


@dataclass(frozen=True)
class WritingStep:
    """More of the answer was written: (text, call-mark) of each claim so far; no mark while one is unfinished."""

    claims: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class Grounds:
    """What an answer may stand on: the found lines, the other lines of the evidence, and how a line is cited."""

    lines: Sequence[Candidate]
    others: Sequence[Candidate]
    cite: Callable[[Candidate], Citation]
    title: Callable[[Candidate], str]

    def material(self, candidate: Candidate) -> tuple[str, str, Cells]:
        """A line as a claim is judged by it: its words, what it stands under, and its cells if it is a row."""
        headings = candidate.passage.headings
        # A row means something only with its column names, so they count as cited with it.
        cells = cells_of(candidate.text, headings) if candidate.is_row else ()
        return as_material(candidate), f"{self.title(candidate)} {headings.printed}", cells


def write_answer(
    sheet: AnsweredSheet, grounds: Grounds, model: LanguageModel | None, method: Method, began: float, cancel: Cancel
) -> Iterator[WritingStep | Sheet]:
    """Write and check the answer: WritingSteps, then the sheet with its claims, or with the reason why there are none.

    `began` is when the question came, by `time.perf_counter`.
    """
    if model is None:
        yield replace(sheet, no_prose_reason=wording.NO_MODEL)
        return
    written, first_word, n_read, n_written = "", None, 0, 0
    question = replaced_words(sheet.standalone_question, sheet.mended)
    # What stands around an order may be part of it.
    lines = [line for line in grounds.lines if not is_to_a_model(line.passage.text)]
    if not lines:
        yield replace(sheet, no_prose_reason=wording.ONLY_ORDERS)
        return
    try:
        if sheet.draft:
            prompt = build_draft_prompt(sheet.draft.kind, sheet.question, lines, model, method)
        else:
            prompt = build_prompt(question, lines, model, method)
        marks = [grounds.cite(line).mark for line in prompt.lines]
        with contextlib.closing(written_to(prompt, model, method, cancel)) as steps:
            for step in steps:
                if not step.words:
                    n_read, n_written = step.n_prompt_tokens, step.n_written_tokens
                    continue
                first_word = first_word or time.perf_counter() - began
                written += step.words
                yield WritingStep(drafts_with_marks(written, marks))
    except (LanguageModelError, NoRoomError) as failure:
        yield replace(sheet, no_prose_reason=str(failure))
        return
    claims = check_claims(written, prompt.lines, grounds)
    n_outside = sum(claim.is_outside for claim in claims)
    if not method.keeps_outside_claims:
        claims = tuple(claim for claim in claims if not claim.is_outside)
    models = sheet.models | {"language": model.name}
    left_out = wording.left_out(len(grounds.lines) - len(lines), prompt.n_left_out)
    done = replace(
        sheet, claims=claims, models=models, left_out=left_out, n_prompt_tokens=n_read, n_written_tokens=n_written
    )
    if not claims:
        reason = "nothing that is from the documents" if n_outside else "nothing that could be used"
        done = replace(done, no_prose_reason=f"The language model wrote {reason}.")
    yield replace(done, seconds=replace(done.seconds, first_word=first_word))


def drafts_with_marks(written: str, marks: Sequence[str]) -> tuple[tuple[str, str], ...]:
    """What was written so far as (text, call-mark) of each claim; no mark while one is unfinished, or where it is the model's
    own.
    """
    return tuple(
        (written_claim.text, marks[written_claim.number - 1] if written_claim.number else "")
        for written_claim in drafts_of(written)
    )


OWN_WORDS = "the model's own words, from no document"


def written_to(prompt: Prompt, model: LanguageModel, method: Method, cancel: Cancel) -> Generator[Written]:
    """What a model writes to a prompt, with the method's own sampling."""
    steps = model.write(
        prompt.system, prompt.user, grammar=prompt.grammar, most_tokens=prompt.answer_tokens, cancel=cancel,
        sampling=Sampling(method.temperature, method.seed),
    )  # fmt: skip
    with contextlib.closing(steps):  # type: ignore[type-var]
        yield from steps


def write_without_documents(question: str, model: LanguageModel, method: Method, cancel: Cancel) -> Iterator[str]:
    """What the model says of a question by itself: all that it has written so far, again and again.

    Nothing of it stands on any document.

    Raises
    ------
    LanguageModelError, Cancelled
    """
    written = ""
    with contextlib.closing(
        model.write(
            _ALONE, question, grammar="", most_tokens=method.answer_tokens, cancel=cancel,
            sampling=Sampling(method.temperature, method.seed),
        )
    ) as steps:  # type: ignore[type-var]  # fmt: skip
        for step in steps:
            if step.words:
                written += step.words
                yield written.strip()


def check_claims(written: str, lines: Sequence[Candidate], grounds: Grounds) -> tuple[Claim, ...]:
    """Judge every finished claim; one cut off at the end is left out.

    First against the lines that the model was given, then against all others of
    the evidence: the call-mark goes to the line that bears the claim out best.
    """
    given = [grounds.material(line) for line in lines]
    claims = []
    for draft in drafts_of(written):
        if draft.is_own:
            claims.append(Claim(draft.text, "unsupported", (), OWN_WORDS, (), True))
        if not draft.number:
            continue
        at, judgement = best_line(draft.text, given, draft.number - 1)
        chosen = lines[at]
        is_borne_out = judgement.support == "supported"
        others = (
            []
            if is_borne_out
            else [other for other in grounds.others if other not in lines and not is_to_a_model(other.passage.text)]
        )
        if others:
            among, elsewhere = best_line(draft.text, [grounds.material(other) for other in others], 0)
            if elsewhere.support == "supported":
                chosen, judgement = others[among], elsewhere
        claims.append(_with_header(_claim(draft.text, judgement, grounds.cite(chosen)), chosen, grounds))
    return tuple(claims)


def _with_header(claim: Claim, row: Candidate, grounds: Grounds) -> Claim:
    """A claim on a row that takes numbers from above it cites what they stand in, too, or else is not called supported."""
    if not row.is_row or claim.support != "supported":
        return claim
    missing = _numbers(claim.text) - _numbers(f"{grounds.title(row)}. {row.text}")
    above = [replace(row, line=at) for at in range(row.line)] if missing else []
    # A heading of the row's path that stands in its own passage: the names of the columns, what is written over the table.
    printed = row.passage.headings.printed
    headers = [
        line
        for line in above
        if row_printed(tuple(cells_of_row(line.text))) in printed and missing & _numbers(line.text)
    ]
    if missing <= set[str]().union(*(_numbers(header.text) for header in headers)):
        return replace(claim, citations=(*claim.citations, *map(grounds.cite, headers)))
    said = quoted(sorted(missing))
    verb = "stands" if len(missing) == 1 else "stand"
    return replace(claim, support="partly supported", doubt=f"{said} {verb} above the cited row, not in it")


def _numbers(text: str) -> set[str]:
    return values(quantities(plain(text)))


def _claim(text: str, judgement: Judgement, citation: Citation) -> Claim:
    is_outside = judgement.is_outside and judgement.support == "unsupported"
    doubt = f"not from the documents; {judgement.doubt}" if is_outside else judgement.doubt
    return Claim(text, judgement.support, (citation,), doubt, judgement.absent, is_outside)
