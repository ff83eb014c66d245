# SPDX-License-Identifier: GPL-3.0-or-later
"""Who does what, and which number belongs to what: whether a claim joins the cited words otherwise than they stand.

There is no grammar here, only order and neighbourhood: clauses, who begins them,
what stands beside what. Where both sentences put the same words together in
another way, that is a doubt; where nothing speaks against it, there is none.
"""

import itertools
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from redlantern.answering.checking.clauses import as_written, clauses_of, matched, steps, words_and_values
from redlantern.answering.checking.phrasing import base_form, content
from redlantern.text.quantities import is_unit, quantities, values
from redlantern.text.stems import STOP_WORDS
from redlantern.text.tokens import tokens
from redlantern.translation import tr

LEAST_SHARED = 2
"""So many words a claim and a clause must share at least, for the claim to be from it."""
_SUBJECT_WORDS = 2
NAME = re.compile(r"\b[A-ZÀ-Þ][\w’'-]+")
_RANGE = re.compile(r"\s+(?=to\s+\d)")
_LEADING = re.compile(
    r"^(?:for|on|in|within|if|unless|at|by|when|of|after|before|with|from|to|according|otherwise|under|during|as|since|until)\b",
    re.IGNORECASE,
)
_PASSIVE = re.compile(r"\b(?:is|are|was|were|be|been|being)\s+(?:\w+\s+)?\w+(?:ed|en|t|d|de|wn|ne)\b", re.IGNORECASE)
_GIVEN_TO = re.compile(
    r"(?<!according )(?<!According )\b(?:to|for|from|with|against)\s+(?:(?:Mr|Mrs|Ms|Dr|Prof)\.?\s+)?(?:[A-ZÀ-Þ]\w+\s+)*$"
)
_CLAUSE_NUMBER = re.compile(r"^\W*\d+(?:\.\d+)+\.?\s+(?=[A-ZÀ-Þ])")
_BEING = frozenset("is are was were be been being".split())
_JOINING = frozenset("of for to by in on at with from and or".split())


_BEGINNING_NAME = re.compile(r"(?:(?:Mr|Mrs|Ms|Dr|Prof)\.? )?((?:[A-ZÀ-Þ][\w’'-]+ ?)+)")
_WORD = re.compile(r"[^\W\d_]+")


@dataclass(frozen=True)
class Doubt:
    """What speaks against a claim, in plain words; `absent` are the words of the claim that it is about."""

    words: str
    is_grave: bool
    absent: tuple[str, ...] = ()


def doubts_about_roles(claim: str, cited: str) -> Iterator[Doubt | None]:
    """Each way in which a claim may join the cited words wrongly: a doubt, or None.

    Both are sentences that `quantities.plain` has gone over. The number of a clause is nobody of whom something is said.
    """
    claim, cited = (_CLAUSE_NUMBER.sub("", text) for text in (claim, cited))
    clauses = clauses_of(cited)
    yield _paired_otherwise(claim, cited)
    yield _other_doer(claim, clauses)
    yield _other_subject(claim, clauses)
    yield _names_exchanged(claim, cited)
    yield _doer_by_case(claim, cited)
    yield _name_elsewhere(claim, clauses)
    yield _joined_otherwise(claim, cited, clauses)
    yield _the_other_way_round(claim, ". ".join(matched(claim, clauses, LEAST_SHARED)))


def _paired_otherwise(claim: str, cited: str) -> Doubt | None:
    """A number beside a date, or beside words, that the cited words put beside another."""
    segments = [part for clause in clauses_of(cited) for part in _parts(clause)]
    for part in (part for clause in clauses_of(claim) for part in _parts(clause)):
        mine = quantities(part)
        for pair in mine:
            holding = [segment for segment in segments if pair.value in values(quantities(segment))]
            for other in mine:
                if other.kind == pair.kind or not any(
                    other.value in values(quantities(segment)) for segment in segments
                ):
                    continue
                rivals = [[q for q in quantities(segment) if q.kind == other.kind] for segment in holding]
                if holding and all(found and other.value not in values(found) for found in rivals):
                    return Doubt(
                        tr("“{said}” does not stand with “{other}” there").format(said=pair.said, other=other.said),
                        True,
                        (pair.said,),
                    )
    return _words_elsewhere(claim, cited)


def _parts(clause: str) -> list[str]:
    """A clause with "from ... to ..." in two, where each end has a date or a sum of its own."""
    cut = _RANGE.split(clause, maxsplit=1)
    return cut if len(cut) > 1 and all(len(quantities(part)) > 1 for part in cut) else [clause]


def _words_elsewhere(claim: str, cited: str) -> Doubt | None:
    """A number of the claim whose clause speaks of something else, while what the claim speaks of has a number of its own."""
    clauses = clauses_of(cited)
    said = [base_form(token) for token in content(claim) if not is_unit(token)]
    mine = values(quantities(claim))
    first_words = [base_form(token) for token in content(cited)][:2]
    for quantity in (q for q in quantities(claim) if q.kind != "order"):
        holding = [clause for clause in clauses if quantity.value in values(quantities(clause))]
        if len(holding) != 1 or len(clauses) == 1:
            continue
        own = [base_form(token) for token in content(holding[0]) if not is_unit(token)]
        extra = [word for word in own if word not in said]
        extra += [q.value for q in quantities(holding[0]) if q.value not in mine]
        rivals = [
            clause for clause in clauses
            if clause != holding[0]
            and any(q.kind == quantity.kind and q.unit == quantity.unit and q.value not in mine for q in quantities(clause))
        ]  # fmt: skip
        missing = {
            word for word in said if word not in own and any(word in map(base_form, content(rival)) for rival in rivals)
        }
        begins_alike = bool(own) and own[0] in said
        if missing and extra and not (begins_alike and missing <= set(first_words)):
            return Doubt(
                tr("“{said}” is said of something else there").format(said=quantity.said), True, (quantity.said,)
            )
    return None


def _other_doer(claim: str, clauses: Sequence[str]) -> Doubt | None:
    """Somebody or something said to do what the cited clause says of another, who is also named there."""
    said = {base_form(token) for token in content(claim)}
    held = [words_and_values(clause) for clause in clauses]
    others = {word for holding in held for word in holding}
    for part in clauses_of(claim):
        words = words_and_values(part)
        shared = [len(set(words) & set(holding)) for holding in held]
        if len(words) < LEAST_SHARED or not max(shared, default=0) or _LEADING.match(part.strip()):
            continue
        subject = words[0]
        for main, n in zip(held, shared, strict=True):
            is_main = n == max(shared) and bool(set(words[1:]) & set(main))
            if is_main and subject in others and subject not in main and main[0] not in said:
                return _said_of(main[0], subject, claim, clauses)
    return None


def _other_subject(claim: str, clauses: Sequence[str]) -> Doubt | None:
    """The clause that the claim is from begins with something else than the claim, which begins another clause."""
    said = words_and_values(claim)
    held = [words_and_values(clause) for clause in clauses]
    counts = [len(set(said) & set(holding)) for holding in held]
    most = max(counts, default=0)
    if most < LEAST_SHARED or _LEADING.match(claim):
        return None
    # Of clauses that share as much, the one with the claim's last word: what is said of something comes last.
    best = max(range(len(held)), key=lambda at: (counts[at], said[-1] in held[at], -at))
    main = held.pop(best)
    numbers = [word for word in main if word[:1].isdigit()]
    cited = " ".join(clauses)
    extra = [
        word
        for word in (*main[:_SUBJECT_WORDS], *numbers)
        if word not in said and not _is_place(as_written(word, cited), cited)
    ]
    moved = [word for holding in held for word in holding[:_SUBJECT_WORDS] if word in said and word not in main]
    if extra and moved and said.index(moved[0]) < _SUBJECT_WORDS:
        return _said_of(extra[0], moved[0], claim, clauses)
    return None


def _said_of(doer: str, claimed: str, claim: str, clauses: Sequence[str]) -> Doubt:
    return Doubt(
        tr("that is said of “{whom}” there").format(whom=as_written(doer, " ".join(clauses))),
        True,
        (as_written(claimed, claim),),
    )


def _names_exchanged(claim: str, cited: str) -> Doubt | None:
    """Two names in the other order, where both sentences are active or both passive; "A and B" is no order."""
    if _LEADING.match(claim) or bool(_PASSIVE.search(claim)) != bool(_PASSIVE.search(cited)):
        return None
    mine = [match for match in NAME.finditer(claim) if content(match.group())]
    for name, other in itertools.pairwise(mine):
        first, second = name.group(), other.group()
        between = claim[name.end() : other.start()]
        if first == second or not content(between) or cited.count(first) != 1 or cited.count(second) != 1:
            continue
        if cited.index(second) < cited.index(first):
            return Doubt(
                tr("there “{second}” comes before “{first}”").format(second=second, first=first), True, (first, second)
            )
    return None


def _name_elsewhere(claim: str, clauses: Sequence[str]) -> Doubt | None:
    """A name of the claim in a clause that has nothing else of it, while the clause that it is from has another name."""
    for part in clauses_of(claim):
        said = words_and_values(part)
        shared = [len(set(said) & set(words_and_values(clause))) for clause in clauses]
        if max(shared, default=0) < LEAST_SHARED:
            continue
        main = clauses[shared.index(max(shared))]
        others = [name for name in names_in(main, 1) if not _is_place(name, main)]
        for name in names_in(part):
            is_alone = any(name in clause and n == 1 for clause, n in zip(clauses, shared, strict=True))
            strangers = [other for other in others if other not in claim and other.casefold() not in claim.casefold()]
            if name not in main and is_alone and strangers:
                return Doubt(tr("that is said of “{whom}” there").format(whom=strangers[0]), True, (name,))
    return None


def _is_place(name: str, clause: str) -> bool:
    """Whether a name says where, and so is nobody of whom something is said: "in the Loft"."""
    where = rf"\b(?:in|at|within|inside|outside|near|under|above|below|behind)\s+(?:the\s+|an?\s+)?{re.escape(name)}\b"
    return re.search(where, clause) is not None


def names_in(text: str, start: int = 0) -> list[str]:
    """Words with a capital that are no dates and no stop words; what begins a sentence is passed over with a start of 1."""
    found = [match.group() for match in NAME.finditer(text, start)]
    return [name for name in found if content(name) and not quantities(name)]


def _doer_by_case(claim: str, cited: str) -> Doubt | None:
    """Somebody made the doer who is given to, or taken from, in the cited words; or who writes there of what another does."""
    begins = _BEGINNING_NAME.match(claim)
    if begins is None or not content(begins.group(1)) or tokens(begins.group(1))[0] in STOP_WORDS:
        return None
    name = begins.group(1).split()[-1]
    done = next((base_form(token) for token in content(claim[begins.end() :])), "")
    if not done:
        return None
    before = [cited[: match.start()] for match in re.finditer(rf"\b{re.escape(name)}\b", cited)]
    if before:
        is_given_to = not _is_done_to(done, claim) and all(map(_GIVEN_TO.search, before))
        return (
            Doubt(tr("there “{name}” is not the one who does it").format(name=name), True, (name,))
            if is_given_to
            else None
        )
    return Doubt(tr("there another does that"), True, (name,)) if _is_told_of_another(done, cited) else None


def _is_told_of_another(done: str, cited: str) -> bool:
    """Whether somebody tells there, in the first person, of what another does: "I saw Tomas leave"."""
    teller = re.search(r"\b(?:I|[Ww]e)\b", cited)
    told = cited[teller.end() :] if teller is not None else ""
    verb = next((match for match in _WORD.finditer(told) if base_form(match.group().casefold()) == done), None)
    return verb is not None and NAME.search(told[: verb.start()]) is not None


def _joined_otherwise(claim: str, cited: str, clauses: Sequence[str]) -> Doubt | None:
    """Two words together in the claim that the cited words join to others: "the grey car", of a blue car and a grey van."""
    said = {base_form(token) for token in content(claim)}
    mine, theirs = steps(claim), steps(cited)
    pairs = {(their, other) for their, other, _ in theirs}
    here = {word for pair in pairs for word in pair}
    held = [[base_form(token) for token in content(clause)] for clause in clauses]
    for at, (one, other, between) in enumerate(mine):
        if one == other or not {one, other} <= here or (one, other) in pairs:
            continue
        after = [word for first, word, gap in theirs if first == one and (between or not gap)]
        before = [word for word, second, gap in theirs if second == other and (between or not gap)]
        # A clause that begins with it may leave out whom it is said of.
        is_apart = not any({one, other} <= set(words) or other in words[:1] for words in held)
        if (is_apart or not between) and after and before and not said & {*after, *before}:
            joined = [as_written(word, cited) for word in (one, after[0], before[0], other)]
            doubt = tr("there it is “{a} {b}” and “{c} {d}”").format(a=joined[0], b=joined[1], c=joined[2], d=joined[3])
            return Doubt(doubt, True, (as_written(one, claim), as_written(other, claim)))
        # What it is done to, said to have done it: no turn into the passive, and not "the survey of the bridge".
        head = mine[at + 1][1] if at + 1 < len(mine) and not mine[at + 1][2] else other
        turned = [gap for first, second, gap in theirs if second == one and first in (other, head)]
        is_joined = any(word in _JOINING for gap in (*turned, between) for word in gap)
        is_turned = any(
            _is_done_to(word, claim) != _is_done_to(word, cited) or _is_agent(word, cited)
            for word in (one, other, head)
        )
        if at and turned and not is_joined and not is_turned and not _is_agent(mine[0][0], cited):
            doubt = tr("there “{first}” comes before “{second}”").format(
                first=as_written(head, cited), second=as_written(one, cited)
            )
            return Doubt(doubt, True, (as_written(one, claim), as_written(head, claim)))
    return None


def _the_other_way_round(claim: str, cited: str) -> Doubt | None:
    """The doer and the one it is done to, exchanged; not where one of the two sentences is in the passive."""
    if _LEADING.match(claim) or bool(_PASSIVE.search(claim)) != bool(_PASSIVE.search(cited)):
        return None
    mine = list(dict.fromkeys(base_form(token) for token in content(claim)))
    theirs = list(dict.fromkeys(base_form(token) for token in content(cited)))
    mine = [word for word in mine if word in theirs]
    if len(mine) <= LEAST_SHARED:
        return None
    place = {word: at for at, word in enumerate(theirs)}
    doer = mine[0]
    # One that begins with what the cited words do not have, or have in another form, has another doer.
    begins = next(iter(content(claim)))
    if base_form(begins) != doer or (_is_agent(doer, cited) and not _PASSIVE.search(claim)):
        return None
    for at, other in enumerate(mine[2:], start=2):
        between = [word for word in mine[1:at] if place[other] < place[word] < place[doer]]
        if between and place[other] == 0:
            doubt = tr("there “{first}” comes first, and not “{second}”").format(
                first=as_written(other, cited), second=as_written(doer, cited)
            )
            return Doubt(doubt, True, (as_written(doer, claim),))
    return None


def _is_agent(word: str, text: str) -> bool:
    """Whether something is done by it: "by the clause"."""
    agents = re.findall(r"\bby\s+(?:(?:the|this|that|an?|its|their)\s+)?(\w+)", text, re.IGNORECASE)
    return word in {base_form(agent.casefold()) for agent in agents}


def _is_done_to(word: str, text: str) -> bool:
    """Whether a verb stands in the passive."""
    words = tokens(text)
    at = next((at for at, token in enumerate(words) if base_form(token) == word), 0)
    return bool(_BEING & set(words[max(0, at - 2) : at]))
