"""What kind of answer a question wants, and whether a line holds one that the question does not hold already."""

import re
from typing import Literal

Kind = Literal[
    "date", "sum", "number", "name", "telephone number", "e-mail address", "colour", "age", "reason", "yes or no", "anything"
]  # fmt: skip

_MONTHS = (
    "january|february|march|april|may|june|july|august|september|october|november|december|"
    "jan|feb|mar|apr|jun|jul|aug|sept?|oct|nov|dec"
)
_NUMBER_WORDS = (
    "one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|fifteen|twenty|thirty|forty|fifty|hundred|thousand|"
    "once|twice|half|none|no"
)
_MONEY = r"€|£|\$|eur|euros?|pounds?|dollars?|gbp|usd|chf|francs?"

# What an answer of each kind looks like. Kinds that are not here have no form of their own.
_FORMS: dict[Kind, re.Pattern[str]] = {
    "date": re.compile(
        rf"\b\d{{1,2}}(?:st|nd|rd|th)?\s+(?:{_MONTHS})\b|\b(?:{_MONTHS})\s+\d{{1,4}}\b|\b\d{{4}}-\d{{2}}-\d{{2}}\b|"
        rf"\b\d{{1,2}}[./]\d{{1,2}}[./]\d{{2,4}}\b|\b(?:19|20)\d\d\b|\b\d{{1,2}}[:.]\d{{2}}\b|"
        rf"\b(?:in|by|until|since|during|before|after|of|last|next) (?:{_MONTHS})\b|\bmonths?'? notice\b|"
        r"\b(?:mon|tues|wednes|thurs|fri|satur|sun)day\b|\b(?:days?|weeks?|months?|years?|hours?|minutes?) (?:after|before|of)\b|"
        r"\b(?:minutes?|hours?|days?) late\b",
        re.IGNORECASE,
    ),
    "sum": re.compile(
        rf"(?:[€£$]\s?\d[\d.,]*)|\b\d[\d.,\u00a0]*\s?(?:{_MONEY})(?!\w)|\b\d{{1,3}}(?:[.,]\d{{3}})*[.,]\d\d\b(?!\s?(?:%|m|Hz))|"
        # "18.600 cubic metres" is no sum; a large number alone, as in a table, may be one.
        rf"\b\d{{1,3}}(?:[.,]\d{{3}})+\b(?![.,]?\d|\s+(?!(?:{_MONEY}|and|or|in|for|to|plus|per)\b)[a-z]{{2}})",
        re.IGNORECASE,
    ),
    "number": re.compile(rf"\b\d[\d.,]*|\b(?:{_NUMBER_WORDS})\b", re.IGNORECASE),
    "name": re.compile(
        r"(?:(?<=[a-z,;:] )|(?<=\t)|\b(?:Mr|Mrs|Ms|Dr|Prof)\.? )[A-ZÀ-Þ][\w’'-]+|^[A-Z][\w’'-]+(?= [A-Z])"
        # Who did it may have no name: "found by the angling club".
        r"|\bby (?:the|an?|our|their) (?!end\b|time\b|way\b|day\b|hour\b|week\b|month\b|year\b)[a-z]{3,}"
    ),
    "telephone number": re.compile(r"\+?\d[\d /()-]{5,}\d"),
    "e-mail address": re.compile(r"\S@\S"),
    "colour": re.compile(
        r"\b(?:red|blue|green|yellow|black|white|brown|grey|gray|orange|pink|purple|violet|gold|golden|silver|beige|ivory|"
        r"crimson|scarlet|navy|cream)\b",
        re.IGNORECASE,
    ),
    "age": re.compile(
        r"\baged?\b|\byears? old\b|\bborn\b|\bbirthday\b|\b(?:19|20)\d\d\b|\blaunched\b|\bbuilt\b", re.IGNORECASE
    ),
}

_THINGS_COUNTED = (
    "percentage|share|number|temperature|humidity|level|pitch|pressure|speed|size|height|length|width|depth|weight"
)
_PEOPLE_AND_FIRMS = (
    "person|people|man|woman|company|firm|builder|surveyor|lawyer|doctor|engineer|inspector|party|bank|hotel|hospital|"
    "school|university|newspaper|insurer|insurance|supplier|shop|brand|author|city|town|country|street|church|yard|captain"
)
# The first rule that fits decides.
_RULES: list[tuple[Kind, re.Pattern[str]]] = [
    ("telephone number", re.compile(r"\b(?:tele)?phone number\b|\bwhich number (?:can|do) .*\b(?:call|ring)\b", re.IGNORECASE)),
    ("e-mail address", re.compile(r"\be-?mail address\b", re.IGNORECASE)),
    ("colour", re.compile(r"\b(?:what|which) colou?r\b", re.IGNORECASE)),
    ("age", re.compile(r"\bhow old\b|\bwhat age\b", re.IGNORECASE)),
    ("date", re.compile(r"^\W*(?:and )?(?:since |until |by )?when\b|\b(?:what|which) (?:date|day|year|month|time)\b", re.IGNORECASE)),
    ("name", re.compile(rf"^\W*(?:and )?who(?:m|se)?\b|\b(?:which|what) (?:{_PEOPLE_AND_FIRMS})\b", re.IGNORECASE)),
    (
        "sum",
        re.compile(
            r"\bhow much (?!time|longer)(?:is|are|was|were|did|does|do|has|had|would|will|should|money|the)\b|"
            r"\bwhat (?:sum|price|fee|amount|wage|salary|rent|premium)\b|\bwhat (?:does|did|do|will|would) .*\bcost\b|"
            r"\bwhat (?:is|was|are|were) the (?:\w+ ){0,3}(?:sum|price|fee|amount|cost|total|deposit|salary|wage|premium|fare|grant)\b|"
            r"['’]s (?:salary|wage|fee|rent)\b|\bwhat (?:salary|wage)\b",
            re.IGNORECASE,
        ),
    ),
    (
        "number",
        re.compile(
            r"\bhow (?:many|long|far|high|wet|humid|warm|cold|often|big|large|deep|wide|heavy|tall|fast|soon|much)\b|"
            rf"\bwhat (?:is |was |were |are )?(?:the )?(?:\w+ ){{0,2}}(?:{_THINGS_COUNTED})\b",
            re.IGNORECASE,
        ),
    ),
    ("reason", re.compile(r"^\W*(?:and )?why\b", re.IGNORECASE)),
    ("yes or no", re.compile(r"^\W*(?:is|are|was|were|do|does|did|may|must|can|could|will|would|shall|should|has|have|had)\b", re.I)),
]  # fmt: skip


# "How many hours": the answer is a number of hours, not any number.
_COUNTED = re.compile(r"\bhow many (?:of the )?(\w+)", re.IGNORECASE)


def kind_wanted(question: str) -> Kind:
    """Say what kind of answer a question wants, by its form."""
    return next((kind for kind, rule in _RULES if rule.search(question)), "anything")


def holds(kind: Kind, line: str, question: str) -> bool:
    """Whether a line holds an answer of a kind, other than what the question says itself.

    True for kinds that have no form.
    """
    form = _FORMS.get(kind)
    if form is None:
        return True
    asked = question.casefold()
    counted = _COUNTED.search(question) if kind == "number" else None
    if counted:
        noun = re.escape(counted.group(1)[:-1] if len(counted.group(1)) > 3 else counted.group(1))
        form = re.compile(
            rf"\b(?:\d[\d.,]*|{_NUMBER_WORDS}|[a-z]+ty-[a-z]+)\b(?:\s+[\w-]+)?\s+{noun}|\b{noun}\w*\s+\d[\d.,]*",
            re.IGNORECASE,
        )
    return any(match.group().casefold().strip() not in asked for match in form.finditer(line))
