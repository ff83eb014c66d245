"""How far the cited words bear a claim out: its numbers, dates, names, negation and content, against one line.

A claim is never called supported when a number, a date or a name in it does
not stand in the cited words.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from redlantern.answering.sheet import Support
from redlantern.retrieval.analysis import STOP_WORDS, stem, tokens

_NUMBER_WORDS = {
    word: str(value)
    for value, word in enumerate(
        "zero one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen sixteen seventeen "
        "eighteen nineteen twenty".split()
    )
} | {
    "thirty": "30",
    "forty": "40",
    "fifty": "50",
    "sixty": "60",
    "seventy": "70",
    "eighty": "80",
    "ninety": "90",
    "hundred": "100",
}
_MONTHS = {
    name: full
    for full in "january february march april may june july august september october november december".split()
    for name in (full, full[:3])
}
_DAYS = frozenset("monday tuesday wednesday thursday friday saturday sunday".split())
_NEGATIONS = frozenset("not no never none nor neither cannot without nobody nothing unless except".split())
_NEGATED = re.compile(r"\b\w+n['’]t\b", re.IGNORECASE)
_NAME = re.compile(r"\b[A-ZÀ-Þ][\w’'-]+")
_ORDINAL = re.compile(r"(\d)(?:st|nd|rd|th)\b")
_ISO_DATE = re.compile(r"\b(\d{4})-(\d{2})-(\d{2})\b")
_NUMERIC_DATE = re.compile(r"\b(\d{1,2})[./](\d{1,2})[./](\d{4})\b")

_SUPPORTED_SHARE = 0.75
_PARTLY_SHARE = 0.4


@dataclass(frozen=True)
class Judgement:
    """What became of a claim against one line: its support, the doubt in plain words, and the share of content borne out."""

    support: Support
    doubt: str
    share: float


def judge(claim: str, cited: str, context: str) -> Judgement:
    """Judge a claim against the words it cites.

    Parameters
    ----------
    claim : str
        One sentence.
    cited : str
        The verbatim line. Numbers and dates must stand here.
    context : str
        What the line stands under (headings, a table's header row, the
        document's title). Names and other words may stand here, too.

    Returns
    -------
    Judgement
    """
    missing = sorted(_numbers(claim) - _numbers(cited) - _clause_numbers(context))
    if missing:
        return Judgement("unsupported", f"{_listed(missing)} {_stands(missing)} not in the cited words", 0.0)
    around = f"{context} {cited}"
    names = _missing_names(claim, around)
    if names:
        return Judgement("unsupported", f"{_listed(names)} {_stands(names)} not in the cited words", 0.0)
    share, absent = _content(claim, around)
    if _is_negated(claim) != _is_negated(cited):
        return Judgement("unsupported", "one of the two says “not” and the other does not", share)
    if share >= _SUPPORTED_SHARE:
        return Judgement("supported", "", share)
    doubt = f"the cited words do not speak of {_listed(absent[:3])}"
    return Judgement("partly supported" if share >= _PARTLY_SHARE else "unsupported", doubt, share)


def best_line(claim: str, lines: Sequence[tuple[str, str]], named: int) -> tuple[int, Judgement]:
    """Judge a claim against the line it names, and against the others if that one does not bear it out.

    Parameters
    ----------
    claim : str
    lines : sequence of (cited, context)
        All the lines the model was given.
    named : int
        Index of the line whose number the claim ends in.

    Returns
    -------
    tuple of (int, Judgement)
        The named line unless another bears the claim out better; ties go to
        the earlier line.
    """
    judgements = [judge(claim, *line) for line in lines]
    order = {"supported": 2, "partly supported": 1, "unsupported": 0}

    def strength(index: int) -> tuple[int, float, bool, int]:
        judgement = judgements[index]
        return order[judgement.support], judgement.share, index == named, -index

    if judgements[named].support == "supported":
        return named, judgements[named]
    best = max(range(len(lines)), key=strength)
    return best, judgements[best]


def _numbers(text: str) -> set[str]:
    """Numbers in one spelling: 1,299.50 and 1.299,50 alike, twelve as 12, dates as day, month and year."""
    text = _ISO_DATE.sub(lambda match: _date(match.group(3), match.group(2), match.group(1)), text)
    text = _NUMERIC_DATE.sub(lambda match: _date(match.group(1), match.group(2), match.group(3)), text)
    found = set()
    for token in tokens(_ORDINAL.sub(r"\1", text)):
        if token[0].isdigit():
            number = stem(token)
            found.add(re.sub(r"\.0+$", "", number.lstrip("0")) or "0")
        elif token in _NUMBER_WORDS and token != "one":
            found.add(_NUMBER_WORDS[token])
        elif token in _DAYS:
            found.add(token)
        elif token in _MONTHS and _is_month(token, text):
            found.add(_MONTHS[token])
    return found


def _is_month(token: str, text: str) -> bool:
    # "may" and "march" are verbs, too: a month begins with a capital and stands beside a number.
    if token not in ("may", "march", "mar", "sep", "dec", "jan", "oct", "nov", "jun", "jul", "apr", "feb", "aug"):
        return True
    word = token.capitalize()
    return bool(
        re.search(
            rf"(?:\d\s*(?:of\s+)?{word}\b|\b{word}\.?\s+\d|\b(?:in|by|until|since|of|last|next|early|late|mid)\s+{word}\b)",
            text,
        )
    )


def _date(day: str, month: str, year: str) -> str:
    names = list(dict.fromkeys(_MONTHS.values()))
    index = int(month) - 1
    return f"{int(day)} {names[index].capitalize() if index < len(names) else month} {year}"


def _clause_numbers(context: str) -> set[str]:
    """The numbers of clauses and sections above the line: "7.2 Humidity" lets a claim name clause 7.2."""
    return {match for match in re.findall(r"\b\d{1,3}(?:\.\d{1,3})*\b", context) if len(match) < 7}


def _missing_names(claim: str, around: str) -> list[str]:
    here = {_name_form(token) for token in tokens(around)}
    missing = []
    for match in _NAME.finditer(claim):
        name = match.group()
        forms = tokens(name)
        is_first = not claim[: match.start()].strip(" “\"'(")
        if not forms or forms[0] in STOP_WORDS or forms[0] in _MONTHS or forms[0] in _DAYS or forms[0] in _NUMBER_WORDS:
            continue
        # The first word is a capital anyway; it is a name only if the line does not have it as a common word.
        if is_first and not _goes_on_as_name(claim, match.end()):
            continue
        if not all(_name_form(form) in here for form in forms):
            missing.append(name)
    return list(dict.fromkeys(missing))


def _goes_on_as_name(claim: str, end: int) -> bool:
    return bool(re.match(r"\s+[A-ZÀ-Þ][\w’'-]+", claim[end:]))


def _name_form(token: str) -> str:
    return stem(token)


def _content(claim: str, around: str) -> tuple[float, list[str]]:
    here = {stem(token) for token in tokens(around)}
    # Numbers and dates were compared already, in one spelling.
    plain = _ORDINAL.sub(r"\1", claim)
    dated = _MONTHS.keys() | _DAYS
    words = [
        token
        for token in dict.fromkeys(tokens(plain))
        if token not in STOP_WORDS and not token[0].isdigit() and token not in dated
    ]
    if not words:
        return 1.0, []
    absent = [word for word in words if stem(word) not in here]
    return 1 - len(absent) / len(words), absent


def _is_negated(text: str) -> bool:
    return bool(_NEGATED.search(text)) or any(token in _NEGATIONS for token in tokens(text))


def _listed(words: Sequence[str]) -> str:
    quoted = [f"“{word}”" for word in words]
    return quoted[0] if len(quoted) == 1 else f"{', '.join(quoted[:-1])} and {quoted[-1]}"


def _stands(words: Sequence[str]) -> str:
    return "is" if len(words) == 1 else "are"
