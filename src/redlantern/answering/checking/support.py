# SPDX-License-Identifier: GPL-3.0-or-later
"""How far the cited words bear a claim out, against one line.

A claim is judged in steps, and the first that fails decides: its numbers, dates
and names must stand in the cited words, with the same units and bounds; a number
of a table's row must stand under the column that the claim speaks of; what the
line says no to, the claim may not say yes to; nobody may do what the line says
another does; a claim may not be stronger than the line, nor leave out its doubt
or condition; and every other word with content must stand there or above it.
What the question said already need not stand there: a claim that repeats it is
then supported in part only, and is wrong where next to nothing of what it adds
stands there. docs/answers.md says how often that is right.
"""

import re
from collections.abc import Iterable, Sequence, Set
from dataclasses import dataclass
from typing import NamedTuple

from redlantern.answering.checking.clauses import SHORTENED, clauses_of, matched
from redlantern.answering.checking.naming import NOWHERE, Elsewhere, is_from, missing_names, speaks_of
from redlantern.answering.checking.phrasing import (
    CONDITIONS,
    LIGHT,
    NEGATIONS,
    ROW_LIGHT,
    base_form,
    content,
    left_out,
    opposite_in,
    too_strong,
)
from redlantern.answering.checking.roles import LEAST_SHARED, Doubt, doubts_about_roles
from redlantern.answering.checking.rows import Cells, other_column, other_unit_in_row
from redlantern.answering.sheet import Support
from redlantern.text.listing import quoted
from redlantern.text.quantities import ORDINAL_DIGITS, Quantity, plain, quantities, stated_values, values
from redlantern.text.tokens import tokens
from redlantern.translation import tr, trn

_NOT = re.compile(r"\b\w+n['’]t\b", re.IGNORECASE)
_BOUND_NOT = re.compile(r"\b(?:no|nor|not) (?:(?:more|less|fewer|later|longer) than|exceed(?:ing)?)\b", re.IGNORECASE)
_NUMBERED = re.compile(r"\bNo\.\s?(?=[\dA-Z])")
_NEGATED_WORDS = 6
_NEGATION_END = re.compile(
    rf"[;:!?,]\s+|{SHORTENED}\.\s+|\s+(?:but|unless|except|until|because)\s+|"
    r"\s+and\s+(?=(?:has|had|have|is|are|was|were|shall|will|may|must|can|he|she|it|they|the|that)\b)"
)
_PARTLY_SHARE = 0.4
_OUTSIDE_SHARE = 0.35
_TAKEN_BACK_WITHIN = 2
_SMALL_NUMBERS = {word: str(number) for number, word in enumerate("two three four five six".split(), start=2)}


@dataclass(frozen=True)
class Judgement:
    """What became of a claim against one line.

    `doubt` says in plain words what is not borne out, `absent` are those words of the claim, `share` is the part of its
    content that is borne out, from 0 to 1. `is_outside` says that it has next to nothing from the line, with or without
    what it repeats of the question.
    """

    support: Support
    doubt: str
    share: float
    absent: tuple[str, ...] = ()
    is_outside: bool = False


class CitedLine(NamedTuple):
    """A line as a claim is judged by it; see `judge`."""

    cited: str
    context: str
    cells: Cells = ()
    passage: str = ""


def judge(
    claim: str, cited: str, context: str, cells: Cells = (), passage: str = "", *, elsewhere: Elsewhere = NOWHERE
) -> Judgement:
    """Judge a claim against the words it cites.

    Parameters
    ----------
    claim : str
        One sentence.
    cited : str
        The verbatim line. Numbers and dates must stand here.
    context : str
        What the line stands under (headings, the document's title). Names and
        other words may stand here, too.
    cells : sequence of (column, value)
        If the line is a row of a table.
    passage : str
        What the line stands in. The name that it begins with, where the line
        itself names nobody or says "she", makes a claim doubtful and not wrong.
    elsewhere : Elsewhere
        What makes it doubtful and not wrong, too.

    Returns
    -------
    Judgement
    """
    if _is_beginning(claim, cited):
        return Judgement("supported", "", 1.0)
    claim, cited = plain(claim), plain(cited)
    around = f"{context} {cited}"
    missing = missing_names(claim, around)
    is_near = speaks_of(missing, cited, passage) or all(is_from(name, claim, around, elsewhere) for name in missing)
    light = LIGHT | ROW_LIGHT if cells else LIGHT
    share, absent = _content(claim, f"{around} {' '.join(missing)}" if is_near else around, light)
    own_share = _share_of_its_own(claim, absent, light, elsewhere.asked, share)
    doubt_of_names = Doubt(_not_there(missing), not is_near, tuple(missing)) if missing else None
    doubts = _doubts(claim, cited, context, cells, doubt_of_names, elsewhere.asked)
    doubt = next((doubt for doubt in doubts if doubt is not None), None)
    if absent and (doubt is None or (not doubt.is_grave and own_share < _PARTLY_SHARE)):
        # A word of doubt left out is nothing against a claim that is hardly from there at all.
        doubt = Doubt(
            tr("the cited words do not speak of {words}").format(words=quoted(absent[:3])),
            own_share < _PARTLY_SHARE,
            tuple(absent),
        )
    if doubt is None:
        return Judgement("supported", "", share)
    support: Support = "unsupported" if doubt.is_grave else "partly supported"
    unheld = tuple(dict.fromkeys([*doubt.absent, *absent]))
    return Judgement(support, doubt.words, share, unheld, max(share, own_share) < _OUTSIDE_SHARE)


def _is_beginning(claim: str, cited: str) -> bool:
    """Whether a claim is the line itself, word for word, or its beginning, with nothing after it that takes something back."""
    mine, theirs = claim.casefold().split(), cited.casefold().split()
    if not mine or [quantity.rstrip(".,;:") for quantity in mine] != [
        their.rstrip(".,;:") for their in theirs[: len(mine)]
    ]:
        return False
    rest = [their.strip(".,;:") for their in theirs[len(mine) : len(mine) + _TAKEN_BACK_WITHIN]]
    is_whole_sentence = theirs[len(mine) - 1].endswith((".", ";"))
    return is_whole_sentence or not (CONDITIONS | {"but", "only"}) & set(rest)


def best_line(
    claim: str, lines: Sequence[CitedLine], named: int, elsewhere: Elsewhere = NOWHERE
) -> tuple[int, Judgement]:
    """Judge a claim against the line it names, and against the others if that one does not bear it out.

    Parameters
    ----------
    claim : str
    lines : sequence of CitedLine
        All the lines that it may stand on.
    named : int
        Index of the line whose number the claim ends in.
    elsewhere : Elsewhere

    Returns
    -------
    tuple of (int, Judgement)
        The named line unless another bears the claim out better; ties go to
        the earlier line.
    """
    judgements = [judge(claim, *lines[named], elsewhere=elsewhere)]
    if judgements[0].support == "supported":
        return named, judgements[0]
    judgements = [judge(claim, *line, elsewhere=elsewhere) for line in lines]
    order = {"supported": 2, "partly supported": 1, "unsupported": 0}

    def strength(index: int) -> tuple[int, float, bool, int]:
        judgement = judgements[index]
        return order[judgement.support], judgement.share, index == named, -index

    best = max(range(len(lines)), key=strength)
    return best, judgements[best]


def _doubts(
    claim: str, cited: str, context: str, cells: Cells, doubt_of_names: Doubt | None, asked: str
) -> Iterable[Doubt | None]:
    mine, theirs = quantities(claim), quantities(cited)
    yield _missing_quantities(mine, theirs, cited, context, asked)
    yield doubt_of_names
    if cells:
        # A row has no clauses, and says neither who does what nor how surely.
        yield other_column(claim, cells)
        yield other_unit_in_row(mine, cells)
        yield _negation(claim, cited)
        yield _opposite(claim, cited)
        return
    yield _other_measure(mine, theirs)
    clauses = clauses_of(cited)
    yield _negation(claim, ". ".join(matched(claim, clauses, 1)))
    yield _opposite(claim, cited)
    yield from doubts_about_roles(claim, cited)
    yield _strength(claim, ". ".join(matched(claim, clauses, LEAST_SHARED)))
    yield _part_of_a_number(claim, theirs, cited)


def _missing_quantities(
    mine: Sequence[Quantity], theirs: Sequence[Quantity], cited: str, context: str, asked: str
) -> Doubt | None:
    in_dates = values([quantity for quantity in theirs if quantity.kind == "date"])
    measured = stated_values(cited, without_dates=True) | _clause_numbers(context)
    here = in_dates | measured
    # "6 years" is not in "6 May"; but what looks like a year may be a sum: "1950" in a column of pounds.
    days = {value for value in in_dates - measured if len(value) < 3}
    # "The first invoice" may be what a title calls it.
    missing = [
        quantity
        for quantity in mine
        if (quantity.value not in here or (quantity.unit and quantity.value in days))
        and not (quantity.kind == "order" and quantity.said in tokens(context))
    ]
    if not missing:
        return None
    said = list(dict.fromkeys(quantity.said for quantity in missing))
    # "Two people", as the question says, of a line that counts nothing. A year or a sum is what it is asked about.
    counted = {_SMALL_NUMBERS[word] for word in tokens(asked) if word in _SMALL_NUMBERS}
    is_wrong = not set(said) <= counted or any(quantity.kind == "number" for quantity in theirs)
    return Doubt(_not_there(said), is_wrong, tuple(said))


def _clause_numbers(context: str) -> set[str]:
    """The numbers of clauses and sections above the line: "7.2 Humidity" lets a claim name clause 7.2."""
    return {match for match in re.findall(r"\b\d{1,3}(?:\.\d{1,3})*\b", context) if len(match) < 7}


def _other_measure(mine: Sequence[Quantity], theirs: Sequence[Quantity]) -> Doubt | None:
    """A number with another unit, or with another bound ("up to", "about"), than in the cited words."""
    for quantity in mine:
        same = [other for other in theirs if other.value == quantity.value and other.kind == quantity.kind]
        units = {other.unit for other in same}
        if quantity.unit and same and "" not in units and quantity.unit not in units:
            return Doubt(
                tr("“{said}” stands there with another unit ({unit})").format(
                    said=quantity.said, unit=sorted(units)[0]
                ),
                True,
                (quantity.said,),
            )
        bounds = {other.bound for other in same}
        if not same or quantity.bound in bounds:
            continue
        theirs_said = sorted(bounds)[0]
        if quantity.bound and theirs_said:
            return Doubt(
                tr("the cited words say “{theirs} {said}”, not “{bound}”").format(
                    theirs=theirs_said, said=quantity.said, bound=quantity.bound
                ),
                True,
                (quantity.said,),
            )
        if quantity.bound:
            return Doubt(
                tr("the cited words do not say “{bound} {said}”").format(bound=quantity.bound, said=quantity.said),
                False,
                (quantity.said,),
            )
        return Doubt(
            tr("the cited words say “{theirs} {said}”").format(theirs=theirs_said, said=quantity.said),
            False,
            (quantity.said,),
        )
    return None


def _negation(claim: str, cited: str) -> Doubt | None:
    """A word that is said no to in one of the two and not in the other."""
    mine, theirs = _negated(claim), _negated(cited)
    said = {base_form(token) for token in content(claim)}
    plainly = {base_form(token) for token in _plain_words(cited)}
    here = {base_form(token) for token in content(cited)}
    is_plain_no = _says_no(claim) and not _says_no(cited)
    if is_plain_no or (mine & here) - theirs or (said & theirs) - mine - plainly:
        return Doubt(tr("one of the two says “not” and the other does not"), True)
    return None


def _says_no(text: str) -> bool:
    return bool(NEGATIONS & set(tokens(_without_bounds(text))))


def _without_bounds(text: str) -> str:
    """A text with "n't" as a word, and without the "no" of "no more than" and of "No. 12"."""
    return _NUMBERED.sub(" ", _NOT.sub(" not ", _BOUND_NOT.sub(" ", text)))


def _negated(text: str) -> set[str]:
    """The stems that a text says no to: those after each "not", "no", "never", as far as the clause goes."""
    return {base_form(word) for word, is_negated in _with_negation(text) if is_negated}


def _plain_words(text: str) -> list[str]:
    return [word for word, is_negated in _with_negation(text) if not is_negated]


def _with_negation(text: str) -> list[tuple[str, bool]]:
    found = []
    for clause in _NEGATION_END.split(_without_bounds(text)):
        left = 0
        for token in tokens(clause):
            if token in NEGATIONS:
                left = _NEGATED_WORDS
            elif content(token):
                found.append((token, left > 0))
                left -= 1
    return found


def _opposite(claim: str, cited: str) -> Doubt | None:
    found = opposite_in(claim, cited)
    if found is None:
        return None
    return Doubt(
        tr("the cited words say “{theirs}”, not “{ours}”").format(theirs=found[1], ours=found[0]), True, (found[0],)
    )


def _strength(claim: str, matched: str) -> Doubt | None:
    word = too_strong(claim, matched)
    if word:
        return Doubt(tr("“{word}” is more than the cited words say").format(word=word), False, (word,))
    dropped = left_out(claim, matched)
    if dropped:
        is_condition = dropped in CONDITIONS
        said = (
            tr("the cited words make a condition: “{word}”")
            if is_condition
            else tr("the cited words make a reserve: “{word}”")
        )
        return Doubt(said.format(word=dropped), False)
    return None


_OF_THE = re.compile(r"\b([\w.,]+) of (?:the|these|those|our|its|their)? ?(?:[\w.,]+ )?([a-z]{3,})", re.IGNORECASE)


def _part_of_a_number(claim: str, theirs: Sequence[Quantity], cited: str) -> Doubt | None:
    """Something said of all of a number of which the cited words say it of a part: "eleven of the forty cows"."""
    said = {base_form(token) for token in tokens(claim)}
    present = values(quantities(claim))
    for match in _OF_THE.finditer(cited):
        part = values(quantities(match.group(1)))
        if part and part <= values(theirs) and base_form(match.group(2).casefold()) in said and not part & present:
            return Doubt(tr("the cited words say it of “{whom}” only").format(whom=match.group(1)), False)
    return None


def _content(claim: str, around: str, light: Set[str]) -> tuple[float, list[str]]:
    """The share of the claim's words with content that stand around the line, and those that do not."""
    here = {base_form(token) for token in tokens(around)}
    words = _content_words(claim, light)
    absent = [word for word in words if base_form(word) not in here]
    return 1 - len(absent) / max(1, len(words)), absent


def _content_words(claim: str, light: Set[str]) -> list[str]:
    # Numbers, dates and units are compared by themselves, in one spelling.
    written = dict.fromkeys(content(ORDINAL_DIGITS.sub(" ", claim)))
    measured = {quantity.unit_word for quantity in quantities(claim)}
    words = [token for token in written if not quantities(token.capitalize()) and token not in measured]
    return [token for token in words if base_form(token) not in light]


def _share_of_its_own(claim: str, absent: Sequence[str], light: Set[str], asked: str, share: float) -> float:
    """The share of what a claim says beyond the question that stands around the line; of all that it says, where that is nothing
    or but a number: what the number is of must stand there.
    """
    repeated = {base_form(token) for token in tokens(asked)}
    n_own = len(_content_words(claim, light | repeated))
    if not n_own:
        return share
    return 1 - sum(base_form(word) not in repeated for word in absent) / n_own


def _not_there(words: Sequence[str]) -> str:
    """That words of the claim are not in what it cites."""
    said = trn("{{words}} is not in the cited words", "{{words}} are not in the cited words", len(words))
    return said.format(words=quoted(words))
