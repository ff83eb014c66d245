# SPDX-License-Identifier: GPL-3.0-or-later
"""What an answer stands on, and how every claim of it is checked against that."""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise

from redlantern.answering.checking.naming import NOWHERE, Elsewhere, full_names
from redlantern.answering.checking.support import CitedLine, Judgement, best_line
from redlantern.answering.evidence.lines import Candidate
from redlantern.answering.sheet import Claim
from redlantern.answering.writing.claims import drafts_of
from redlantern.answering.writing.instructions import as_material, is_to_a_model
from redlantern.collection.values import Citation
from redlantern.reading.values import cells_of_row
from redlantern.retrieval.plain_lines import cells_of
from redlantern.splitting.headings import row_printed
from redlantern.text.listing import quoted
from redlantern.text.quantities import plain, quantities, values
from redlantern.text.question import ParsedQuestion
from redlantern.translation import tr, trn

_NUMBER = re.compile(r"\d+(?:[.,'’\u00a0]\d+)*(?:[ \u00a0]?%)?")
OWN_WORDS = "the model's own words, from no document"


@dataclass(frozen=True)
class AskedPart:
    """One part of a question, and how strong the evidence for it is, from 0 to 1."""

    question: ParsedQuestion
    evidence_score: float


@dataclass(frozen=True)
class Grounds:
    """What an answer may stand on: the found lines, the other lines of the evidence, how a line is cited, and the place of each
    passage in the order of passages, by passage id.
    """

    lines: Sequence[Candidate]
    others: Sequence[Candidate]
    cite: Callable[[Candidate], Citation]
    title: Callable[[Candidate], str]
    ranks: Mapping[int, int] = field(default_factory=dict)
    parts: tuple[AskedPart, ...] = ()
    language: Callable[[Candidate], str] = lambda _: ""
    """The language of a line's document, by its ISO 639-1 code; empty where it is not known."""
    found_with: "Callable[[Sequence[str]], Grounds] | None" = None
    """Searches once more with words for each part of the question, none for an empty one: what is found then stands before the rest.
    None in a collection that is too small for that."""
    searched_also: tuple[str, ...] = ()
    """The words that were searched with once more."""
    known_words: dict[str, str] = field(default_factory=dict, repr=False)
    """The words that a model named for its last prompts: for a question that was read ahead it need not be asked again."""

    def material(self, candidate: Candidate) -> CitedLine:
        """A line as a claim is judged by it: its words, what it stands under and in, and its cells if it is a row."""
        headings = candidate.passage.headings
        # A row means something only with its column names, so they count as cited with it.
        cells = cells_of(candidate.text, headings) if candidate.is_row else ()
        context = f"{self.title(candidate)} {headings.printed}"
        passage = candidate.passage
        said = " ".join(map(passage.line_text, passage.own_lines()))
        return CitedLine(as_material(candidate), context, cells, said)


def check_claims(written: str, lines: Sequence[Candidate], grounds: Grounds) -> tuple[Claim, ...]:
    """Judge every finished claim that names a line by its number, from 1; one cut off at the end is left out.

    First against the line that it names, then against the others that the model was
    given, then against all others of the evidence: the call-mark goes to the line
    that bears the claim out best.
    """
    claims = []
    for draft in drafts_of(written):
        if draft.is_own:
            claims.append(Claim(draft.text, "unsupported", (), OWN_WORDS, (), True))
        if draft.number:
            chosen, judgement = _best_of(draft.text, lines, draft.number - 1, (), grounds, NOWHERE)
            claims.append(_with_header(_claim(draft.text, judgement, grounds.cite(chosen)), chosen, grounds))
    return tuple(claims)


def check_sentence(text: str, excerpts: Sequence[Sequence[Candidate]], grounds: Grounds, asked: str = "") -> Claim:
    """Judge a sentence that names no source: its call-mark goes to the line that bears it out best, of those that were read first.

    `excerpts` are the lines of each, in the order of the page, and `asked` the question, whose words a sentence may repeat.
    """
    given = [line for lines in excerpts for line in lines]
    printed = [as_material(line) for line in given]
    text = numbers_as_printed(text, printed)
    pairs = [pair for lines in excerpts for pair in _in_pairs(lines)]
    elsewhere = Elsewhere(asked, frozenset().union(*map(full_names, printed)))
    chosen, judgement = _best_of(text, given, 0, pairs, grounds, elsewhere)
    return _with_header(_claim(text, judgement, grounds.cite(chosen)), chosen, grounds)


def numbers_as_printed(text: str, lines: Sequence[str]) -> str:
    """A sentence with its numbers written as the lines write them: a model turns 6.000,00 into 6,000,00, digit by digit the same.

    Only where one way of writing these digits stands in the lines, and not the sentence's own.
    """
    printed: dict[str, set[str]] = {}
    for line in lines:
        for match in _NUMBER.finditer(line):
            printed.setdefault(_digits(match.group()), set()).add(match.group())

    def as_there(match: re.Match[str]) -> str:
        ways = printed.get(_digits(match.group()), set())
        return next(iter(ways)) if len(ways) == 1 else match.group()

    return _NUMBER.sub(as_there, text)


def _digits(number: str) -> str:
    return re.sub(r"[^\d%]", "", number)


def _best_of(
    text: str,
    given: Sequence[Candidate],
    named: int,
    pairs: Sequence[Candidate],
    grounds: Grounds,
    elsewhere: Elsewhere,
) -> tuple[Candidate, Judgement]:
    """The line that bears a claim out best, and how far: of the given ones, then of these pairs, then of all others."""
    at, judgement = best_line(text, [grounds.material(line) for line in given], named, elsewhere)
    best = given[at], judgement
    if judgement.support == "supported":
        return best
    others = [other for other in grounds.others if other not in given and not is_to_a_model(other.passage.text)]
    for among in (pairs, others):
        if among:
            at, judgement = best_line(text, [grounds.material(line) for line in among], 0, elsewhere)
            if judgement.support == "supported":
                return among[at], judgement
    return best


def _in_pairs(lines: Sequence[Candidate]) -> list[Candidate]:
    """Lines that follow each other, two by two: a sentence may say what two of the document's do."""
    return [
        replace(before, first=before.line, last=after.line)
        for before, after in pairwise(lines)
        if after.line == before.line + 1 and not (before.is_row or after.is_row)
    ]


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
    doubt = trn(
        "{{said}} stands above the cited row, not in it", "{{said}} stand above the cited row, not in it", len(missing)
    )
    return replace(claim, support="partly supported", doubt=doubt.format(said=quoted(sorted(missing))))


def _numbers(text: str) -> set[str]:
    return values(quantities(plain(text)))


def _claim(text: str, judgement: Judgement, citation: Citation) -> Claim:
    is_outside = judgement.is_outside and judgement.support == "unsupported"
    doubt = tr("not from the documents; {doubt}").format(doubt=judgement.doubt) if is_outside else judgement.doubt
    return Claim(text, judgement.support, (citation,), doubt, judgement.absent, is_outside)
