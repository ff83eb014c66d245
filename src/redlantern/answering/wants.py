"""What kind of answer a question wants, and whether a line holds one."""

import re
from typing import Literal

Kind = Literal["date", "sum", "number", "person", "place", "reason", "yes or no", "anything"]

_MONTHS = (
    "january|february|march|april|may|june|july|august|september|october|november|december|"
    "jan|feb|mar|apr|jun|jul|aug|sept?|oct|nov|dec"
)
DATE = re.compile(
    rf"\b(?:\d{{1,2}}(?:st|nd|rd|th)?\s+(?:{_MONTHS})\b|(?:{_MONTHS})\s+\d{{1,4}}\b|\d{{4}}-\d{{2}}-\d{{2}}|"
    rf"\d{{1,2}}[./]\d{{1,2}}[./]\d{{2,4}}|(?:mon|tues|wednes|thurs|fri|satur|sun)day\b|(?:19|20)\d\d\b|\d{{1,2}}[:.]\d{{2}}\b)",
    re.IGNORECASE,
)
SUM = re.compile(
    r"(?:[€£$]\s?\d|\d[\d.,\u00a0 ]*\s?(?:€|£|\$|eur\b|euros?\b|pounds?\b|dollars?\b|gbp\b|usd\b|chf\b))|\d,\d\d\b|\d\.\d\d\b",
    re.IGNORECASE,
)
_NUMBER_WORDS = (
    "one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|fifteen|twenty|thirty|forty|fifty|hundred|thousand"
)
NUMBER = re.compile(rf"\d|\b(?:{_NUMBER_WORDS}|once|twice|half|none|no)\b", re.IGNORECASE)
NAME = re.compile(
    r"(?<![.!?]\s)(?<!^)\b[A-Z][a-zà-ÿ]+(?:\s+[A-Z][a-zà-ÿ]+)*|\b(?:Mr|Mrs|Ms|Dr|Messrs)\b|\b[A-Z][a-z]+\s+[A-Z][a-z]+"
)
REASON = re.compile(
    r"\b(?:because|since|due to|owing to|so that|in order to|therefore|caused|reason|as a result|for fear|to avoid|to protect|led to)\b",
    re.IGNORECASE,
)

_RULES: list[tuple[Kind, re.Pattern[str]]] = [
    ("sum", re.compile(r"\bhow much (?:money|did|does|do|was|is|were|will|has|had|would)\b|\b(?:price|cost|costs|fee|sum|amount|invoice total|total|paid|charge|deposit|budget|rate)\b", re.I)),
    ("date", re.compile(r"^\W*(?:and )?(?:when|since when|until when|by when)\b|\b(?:what|which|on what|by what) (?:date|day|year|month|time)\b|\bdeadline\b|\bhow long ago\b", re.I)),
    ("number", re.compile(r"\bhow (?:many|long|far|high|wet|humid|warm|cold|old|often|big|large|deep|wide|heavy|tall|fast|soon|much)\b|\bwhat (?:percentage|share|number|temperature|humidity|level|pitch|pressure)\b", re.I)),
    ("person", re.compile(r"^\W*(?:and )?(?:who|whom|whose|by whom)\b|\b(?:which|what) (?:person|company|firm|builder|surveyor|party)\b", re.I)),
    ("place", re.compile(r"^\W*(?:and )?where\b", re.I)),
    ("reason", re.compile(r"^\W*(?:and )?why\b|\bwhat (?:caused|reason)\b|\breason for\b", re.I)),
    ("yes or no", re.compile(r"^\W*(?:is|are|was|were|do|does|did|may|must|can|could|will|would|shall|should|has|have|had)\b", re.I)),
]  # fmt: skip


def kind_wanted(question: str) -> Kind:
    """Say what kind of answer a question wants, by its form."""
    asked_when = _RULES[1]
    if asked_when[1].search(question) and re.match(r"^\W*(?:and )?when\b", question, re.IGNORECASE):
        return "date"
    if re.match(r"^\W*(?:and )?(?:who|whom|whose)\b", question, re.IGNORECASE):
        return "person"
    for kind, rule in _RULES:
        if rule.search(question):
            return kind
    return "anything"


def holds(kind: Kind, line: str) -> bool:
    """Whether a line holds an answer of a kind, by its form. True for kinds that have no form."""
    pattern = {"date": DATE, "sum": SUM, "number": NUMBER, "person": NAME, "place": NAME, "reason": REASON}.get(kind)
    return pattern is None or bool(pattern.search(line))
