# SPDX-License-Identifier: GPL-3.0-or-later
"""How people say that something is to be counted, added up or compared, in the languages that questions are asked in."""

import re
from dataclasses import dataclass

from redlantern.reckoning.plan import Operation
from redlantern.reckoning.values import ValueKind

_Kinds = frozenset[ValueKind]
MONEY: _Kinds = frozenset({"money"})
QUANTITIES: _Kinds = frozenset({"quantity"})
PERCENTAGES: _Kinds = frozenset({"percentage"})
TIMES: _Kinds = frozenset({"date", "time"})
DURATIONS: _Kinds = frozenset({"duration", "date", "quantity"})
OFTEN = "often"
"""The hint of a wish for the value that most rows have, or fewest."""


@dataclass(frozen=True)
class Superlative:
    """Words for what is most or least, with the kinds of column that they are said of and words that such a one is named by."""

    operation: Operation
    pattern: re.Pattern[str]
    kinds: _Kinds = frozenset()
    hints: tuple[str, ...] = ()


@dataclass(frozen=True)
class OperationWords:
    """Words for an operation; `is_total` says that a total printed in the document would answer, too."""

    operation: Operation
    pattern: re.Pattern[str]
    is_total: bool = False


def _whole_words(*alternatives: str) -> re.Pattern[str]:
    return re.compile(rf"\b(?:{'|'.join(alternatives)})(?!\w)", re.IGNORECASE)


def _anywhere(*alternatives: str) -> re.Pattern[str]:
    return re.compile("|".join(alternatives), re.IGNORECASE)


SUPERLATIVES = (
    Superlative(
        "largest", _whole_words("most (?:often|frequent(?:ly)?)", "am häufigsten", "le plus souvent"), hints=(OFTEN,)
    ),
    Superlative("smallest", _whole_words("least (?:often|frequent(?:ly)?)", "am seltensten"), hints=(OFTEN,)),
    Superlative(
        "largest",
        _whole_words(
            "dearest", "most expensive", "costliest", "priciest", "teuerste[nrs]?", "l[ea] plus ch(?:er|ère)", "más car[oa]"
        ),
        MONEY,
    ),
    Superlative(
        "smallest",
        _whole_words(
            "cheapest", "least expensive", "billigste[nrs]?", "günstigste[nrs]?", "l[ea] moins ch(?:er|ère)", "más barat[oa]"
        ),
        MONEY,
    ),
    Superlative(
        "largest",
        _whole_words("heaviest", "weightiest", "schwerste[nrs]?", "l[ea] plus lourde?", "más pesad[oa]"), QUANTITIES, ("weight", "kg"),
    ),
    Superlative("smallest", _whole_words("lightest", "leichteste[nrs]?"), QUANTITIES, ("weight", "kg")),
    Superlative(
        "largest", _whole_words("longest", "längste[nrs]?"), DURATIONS, ("duration", "days", "hours", "length")
    ),
    Superlative(
        "smallest", _whole_words("shortest", "kürzeste[nrs]?"), DURATIONS, ("duration", "days", "hours", "length")
    ),
    Superlative("largest", _whole_words("hottest", "warmest", "wärmste[nrs]?"), QUANTITIES, ("temperature", "°C")),
    Superlative("smallest", _whole_words("coldest", "coolest", "kälteste[nrs]?"), QUANTITIES, ("temperature", "°C")),
    Superlative(
        "largest", _whole_words("wettest", "dampest", "most humid", "feuchteste[nrs]?"), PERCENTAGES, ("humidity", "rain")
    ),
    Superlative(
        "smallest", _whole_words("driest", "least humid", "trockenste[nrs]?"), PERCENTAGES, ("humidity", "rain")
    ),
    Superlative("smallest", _whole_words("earliest", "oldest", "früheste[nrs]?", "älteste[nrs]?"), TIMES),
    Superlative("largest", _whole_words("latest", "most recent", "newest", "späteste[nrs]?", "neueste[nrs]?"), TIMES),
    Superlative(
        "largest",
        _whole_words(
            "highest", "largest", "biggest", "greatest", "maximum", "peak", "most", "strongest", "fastest", "loudest", "deepest",
            "steepest", "widest", "thickest", "höchste[nrs]?", "größte[nrs]?", "meisten?", "l[ea] plus (?:élevée?|grande?|haute?)",
            "maximale?", "más alt[oa]", "mayor", "máxim[oa]",
        ),
    ),
    Superlative(
        "smallest",
        _whole_words(
            "lowest", "smallest", "minimum", "fewest", "least", "weakest", "slowest", "quietest", "thinnest", "narrowest",
            "niedrigste[nrs]?", "kleinste[nrs]?", "wenigsten?", "geringste[nrs]?", "l[ea] plus (?:bas(?:se)?|petite?)", "minimale?",
            "más baj[oa]", "menor", "mínim[oa]",
        ),
    ),
)  # fmt: skip
"""The first that fits at a place counts."""

_COUNTED = r"\s+(?:of (?:the|these|all|our|its) )?(?P<noun>[^\W\d_][\w'-]*(?: (?:line )?(?:items?|lines?|rows?|entries|days?|times?))?)"
OPERATIONS = (
    OperationWords(
        "distinct",
        re.compile(
            r"\b(?:how many|wie viele|(?:number|count) of)\s+(?:different|distinct|various|verschiedene)" + _COUNTED,
            re.IGNORECASE,
        ),
    ),
    OperationWords("sum", _anywhere(r"\bhow much (?=(?:value[- ]added tax|vat|tax)\b)"), is_total=True),
    OperationWords(
        "difference",
        _anywhere(
            r"\bhow many days (?:lie|lay|passed|are there|were there|are|were)?\s*(?:between|from)\b",
            r"\bhow long (?:was it |is it |did it take )?(?:between|from)\b", r"\b(?:time|days) between\b",
            r"\bwie viele tage (?:liegen )?zwischen\b",
        ),
    ),
    OperationWords(
        "difference", _anywhere(r"\b(?:the )?(?:difference|range|spread) (?:between|of|in)\b", r"\bdifferenz\b", r"\bspanne\b")
    ),
    OperationWords(
        "count", _anywhere(r"\bhow (?:many times|often)\b", r"\bwie oft\b", r"\bcombien de fois\b", r"\bcuántas veces\b")
    ),
    OperationWords(
        "mean",
        _whole_words(
            "on average", "average", "(?:the|a) mean", "mean (?:of|value)",
            "durchschnitt(?:lich\\w*)?", "im schnitt", "mittelwert", "en moyenne", "moyenne?",
            "promedio", "media",
        ),
    ),
    OperationWords("median", _whole_words("median(?:wert)?", "médiane", "mediana")),
    OperationWords(
        "share",
        _anywhere(
            r"\b(?:what|which) (?:share|percentage|proportion|part|fraction) of\b", r"\bwelcher anteil\b", r"\bquelle part\b",
            r"\bqué (?:parte|porcentaje)\b",
        ),
    ),
    OperationWords(
        "sum",
        _whole_words(
            "(?:grand |overall |net |gross |whole )?totals?",
            "(?<!which )(?<!what )(?<!no )(?:net |gross )?sums?", "add(?:ed)? up", "comes? to", "altogether",
            "in all", "combined", "in total", "total(?:led|ing)", "gesamt\\w*", "summe", "insgesamt", "zusammen", "au total",
            "somme", "montant total", "en tout", "en total", "suma", "importe total",
        ),
        is_total=True,
    ),
    OperationWords(
        "count",
        re.compile(r"\b(?:how many|wie viele|combien d(?:e|['’])|cuánt[oa]s|(?:number|count) of)" + _COUNTED, re.IGNORECASE),
    ),
    OperationWords(
        "common",
        _anywhere(
            r"^\W*(?:who|which|what|whose|wer|welche\w*|qui|quel\w*|quién\w*|qué)\b.*\b(?:every|each|all(?! in all)|"
            r"(?:bei|in|an|auf|zu) (?:jede[nrms]?|alle[nr]?)|(?:à|en|dans) (?:chaque|tou(?:te)?s les)|en (?:cada|tod[ao]s l[ao]s))\b"
        ),
    ),
    OperationWords(
        "rows",
        _anywhere(
            r"\b(?:which|what) (?:\w+ ){0,2}(?:rows|entries|lines|items|invoices|bills|days|dates|offers|meetings|payments|parts|stops)\b",
            r"\b(?:which|what) (?P<noun>(?:\w+ ){0,2}[a-z]+s) (?:of|in|on|are|were|do|does|did|has|have|had|include|contain|mention|"
            r"start|end|begin|lie|was|with)\b",
            r"^\W*(?:list|show|name|give)(?: me)?\b", r"\ball (?:dates|days|rows|entries|items|invoices)\b",
            r"^\W*(?:welche|quels|quelles|qué|cuáles)\b",
        ),
    ),
)  # fmt: skip
"""All that fit count, the first of each operation; what stands first is the likelier."""
