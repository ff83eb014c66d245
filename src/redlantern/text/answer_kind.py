# SPDX-License-Identifier: GPL-3.0-or-later
"""What kind of answer a question wants, and whether a line holds one that the question does not hold already."""

import re
from typing import Literal

from redlantern.text.languages import ASKED_IN, ENGLISH, Language

Kind = Literal[
    "date", "sum", "number", "name", "telephone number", "e-mail address", "colour", "age", "reason", "yes or no", "definition",
    "procedure", "place", "list", "comparison", "anything",
]  # fmt: skip

_MONTHS = rf"{ENGLISH.months}|jan|feb|mar|apr|jun|jul|aug|sept?|oct|nov|dec"
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
_ARTICLE = r"(?:an? |the (?![^?]*\bof\b))?"
# "What is a hot standby?", "what does APR mean?" ask what a word means; "what is the port of the server?" asks for a port.
_DEFINED = (
    rf"^\W*(?:and )?(?:what|who) (?:is|are|was|were) {_ARTICLE}(?P<is>(?!the\b)[\w./:&'’-]+"
    r"(?: (?!(?:of|in|for|to|on|at|with|by|from)\b)[\w./:&'’-]+){0,3})(?: (?:in|for|to|on|at|with|by|from)\b[^?]*)?\W*$",
    r"\bwhat (?:does|do|did) (?:an? |the )?(?P<does>.+?) (?:mean|stand for|refer to|denote)\b",
    r"\bwhat is (?:meant by|(?:the|a) (?:meaning|definition) of) (?:an? |the )?(?P<meant>[^?]+?)\W*$",
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
    (
        "comparison",
        re.compile(
            r"\bdiffer(?:s|ent|ence|ences)?\b|\bcompared?\b|\bversus\b|\bvs\b|\bas opposed to\b|\b(?:better|more|less|\w+er) than\b",
            re.IGNORECASE,
        ),
    ),
    ("definition", re.compile("|".join(_DEFINED), re.IGNORECASE)),
    ("procedure", re.compile(r"^\W*(?:and )?how (?:do|can|to|does|should|could|may|must|is|are)\b", re.IGNORECASE)),
    ("place", re.compile(r"^\W*(?:and )?where\b", re.IGNORECASE)),
    (
        "list",
        re.compile(
            r"\b(?:which|what) (?:\w+ ){0,2}\w+s (?:are|were|do|did|can|may|must|have|exist|help)\b|\bwhat are the\b|\blist\b|"
            r"\bname (?:the|all)\b",
            re.IGNORECASE,
        ),
    ),
    ("yes or no", re.compile(r"^\W*(?:is|are|was|were|do|does|did|may|must|can|could|will|would|shall|should|has|have|had)\b", re.I)),
]  # fmt: skip


# "How many hours": the answer is a number of hours, not any number.
_COUNTED = re.compile(r"\bhow many (?:of the )?(\w+)", re.IGNORECASE)
_SHORT_UNITS = {
    "second": "secs?|s", "minute": "mins?", "hour": "hrs?|h", "metre": "m", "meter": "m", "millimetre": "mm", "centimetre": "cm",
    "kilometre": "km", "gram": "g", "kilogram": "kg", "kilo": "kg", "litre": "l", "liter": "l", "degree": "°", "percent": "%|per cent",
}  # fmt: skip
# "How much were the pins worn?" may be answered in millimetres; "how much was paid?" may not.
_HOW_MUCH = re.compile(r"\bhow much\b", re.IGNORECASE)
_OF_MONEY = re.compile(
    rf"\b(?:cost|price|fee|pay|paid|spen[dt]|earn|owe|charge|charged|money|deposit|rent|salary|wages?|fares?|grant|{_MONEY})",
    re.IGNORECASE,
)
_WITH_UNIT = r"|\b\d[\d.,]*\s?(?:%|°|per cent|[a-z]{1,12}\b)"
# "When should it be renewed?" asks for an occasion, which may be no date: "once the first part is done".
_ASKS_FOR_OCCASION = re.compile(
    r"^\W*(?:and )?when (?:should|may|must|can|could|do|does|is|are|will|would|need)\b", re.IGNORECASE
)
_OCCASION = r"|\b(?:if|when|once|after|before|until|unless|as soon as|whenever|within|as long as|by the time)\b"

_RULES_ELSEWHERE: dict[str, list[tuple[Kind, re.Pattern[str]]]] = {
    language.code: [
        (kind, re.compile(rf"^\W*(?:{language.linking_word} )?(?:{opening})\b", re.IGNORECASE))  # type: ignore[misc]
        for kind, opening in language.openings
    ]
    for language in ASKED_IN
    if language.openings
}
"""For questions in other languages, where only the first words are looked at."""


_SIGNS: dict[Kind, re.Pattern[str]] = {
    "reason": re.compile(
        r"\b(?:because|since|so that|in order|due to|owing to|as a result|therefore|thus|hence|reasons?|to avoid|to prevent|"
        r"to ensure|which is why|otherwise|lest|so as)\b",
        re.IGNORECASE,
    ),
    "comparison": re.compile(
        r"\b(?:whereas|while|unlike|differ\w*|instead|than|rather|contrast|on the other hand|however|but|both|only)\b",
        re.IGNORECASE,
    ),
    "procedure": re.compile(
        r"(?:^|[.;:] |, |\d\.\s|•\s)(?:then )?(?:use|click|select|choose|open|run|enter|type|press|set|add|create|go to|install|write|"
        r"call|send|fill|make|put|take|edit|start|turn|remove|apply|ask|give|sign|submit|contact|place|check)\b|"
        r"\b(?:you can|can be|must be|should be|has to be|is done|are done|by \w+ing|using|with the help of|the command|steps?)\b",
        re.IGNORECASE,
    ),
    # Capitals tell names of places.
    "place": re.compile(
        r"\b(?:in|at|near|behind|under|inside|outside|beside|below|above|opposite|between|from|into|on)\s+"
        r"(?:the\b|an?\b|its\b|his\b|her\b|their\b|[A-ZÀ-Þ/~]|\d)|(?<!\w)~?/[\w.-]+/"
    ),
    "list": re.compile(r"\w+, [\w ()-]+(?:,| and | or )|:\s*$|^(?:[•*-]|\(?[a-z\d][.)])\s"),
}


def _any_of(field: str) -> str:
    return "|".join(getattr(language, field) for language in ASKED_IN if language is not ENGLISH)


# Beside the English form: months, units of time and small numbers of those languages.
_FORMS_ELSEWHERE: dict[Kind, str] = {
    "date": rf"|\b(?:{_any_of('months')})\b|\b(?:{_any_of('time_units')})\b",
    "number": rf"|\b(?:{_any_of('number_words')})\b",
}


def kind_wanted(question: str, language: Language) -> Kind:
    """Say what kind of answer a question in a language wants, by its form."""
    rules = _RULES_ELSEWHERE.get(language.code, _RULES)
    return next((kind for kind, rule in rules if rule.search(question)), "anything")


def holds(kind: Kind, line: str, question: str, language: Language) -> bool:
    """Whether a line holds an answer of a kind, other than what the question says itself.

    True for kinds that have no form.
    """
    form = _FORMS.get(kind)
    if form is None:
        return True
    asked = question.casefold()
    if kind in _FORMS_ELSEWHERE and language is not ENGLISH:
        form = re.compile(form.pattern + _FORMS_ELSEWHERE[kind], re.IGNORECASE)
    counted = _COUNTED.search(question) if kind == "number" else None
    if counted:
        said = counted.group(1)[:-1] if len(counted.group(1)) > 3 else counted.group(1)
        noun, short = re.escape(said), _SHORT_UNITS.get(said.casefold())
        form = re.compile(
            rf"\b(?:\d[\d.,]*|{_NUMBER_WORDS}|[a-z]+ty-[a-z]+)\b(?:\s+[\w-]+)?\s+{noun}|\b{noun}\w*\s+\d[\d.,]*"
            + (rf"|\b\d[\d.,]*\s?(?:{short})(?!\w)" if short else ""),
            re.IGNORECASE,
        )
    elif kind == "sum" and _HOW_MUCH.search(question) and not _OF_MONEY.search(question):
        form = re.compile(form.pattern + _WITH_UNIT, re.IGNORECASE)
    elif kind == "date" and _ASKS_FOR_OCCASION.search(question):
        form = re.compile(form.pattern + _OCCASION, re.IGNORECASE)
    numbers = set(re.findall(r"\d[\d.,]*\d|\d", asked))
    return any(
        # "$50" is no answer to a question about 50 people.
        said not in asked and said.strip("€£$ ") not in numbers
        for said in (match.group().casefold().strip() for match in form.finditer(line))
    )


def signs_of(kind: Kind, question: str) -> re.Pattern[str] | None:
    """What a line that answers often says where the answer has no form of its own: "because", "is called", "click".

    Signs, and no more than that: a line without them may answer, too. None for a kind without any.
    """
    if kind != "definition":
        return _SIGNS.get(kind)
    found = next(match for match in (re.search(rule, question, re.IGNORECASE) for rule in _DEFINED) if match)
    words = next(group for group in found.groups() if group).strip()
    term = rf"{re.escape(words)}(?:e?s)?".replace(r"\ ", r"[\s-]+")
    return re.compile(
        rf"(?:^|[.;:(“\"]\s?|\b(?:an?|the)\s+){term}(?:\s\([^)]*\))?,?\s"
        r"(?:is|are|was|were|means?|refers?|stands?|denotes?|describes?|consists?|comprises?)\b|"
        r"\b(?:called|known\sas|termed|named|or|i\.e\.|abbreviated(?:\sas)?|short\sfor|meaning)\s+(?:an?\s|the\s)?[“\"'‘]?"
        rf"{term}\b|\({term}\)|{term}\s\((?!s\))[^)]+\)|^(?:[•*-]\s)?{term}\s*(?:\t|:|—|–|\s-\s)",
        re.IGNORECASE,
    )
