# SPDX-License-Identifier: GPL-3.0-or-later
"""What a row of a table is: an item, or a subtotal, tax, total, carried-forward row, group heading or note, which never count."""

import re
from collections.abc import Sequence
from functools import lru_cache
from typing import Literal

from redlantern.reckoning.values import NUMERIC, Value, ValueKind
from redlantern.translation import marked

Role = Literal["item", "net", "subtotal", "tax", "discount", "total", "carried", "group", "note", "header", "aside"]

ROLE_WORDS: dict[Role, str] = {
    "net": marked("net sum"),
    "subtotal": marked("subtotal"),
    "tax": marked("tax"),
    "discount": marked("discount or charge on the whole"),
    "total": marked("total"),
    "carried": marked("carried forward"),
    "group": marked("heading of a group"),
    "note": marked("note"),
    "header": marked("column names again"),
    "aside": marked("put aside by hand"),
}
"""What each is called where rows that were left out are named."""

# In the order they are tried: "Net total" is a net sum, "Total VAT" a tax, "Total incl. VAT" a total.
_LABELS: tuple[tuple[Role, str], ...] = (
    (
        "carried",
        (
            r"carried (?:forward|over|down)|brought (?:forward|down)|b/f|c/f|übertrag|report(?: à nouveau)?|a reportar|"
            r"suma y sigue|riporto|transport(?=:|$)"
        ),
    ),
    (
        "total",
        (
            r"(?:grand |overall |final )?total (?:\w+ )?incl\b.*|total ttc|gesamt\w* (?:inkl|brutto).*|.*\binkl\. (?:mwst|"
            r"ust)\b.*|.*\bincl\.? (?:vat|tax)\b.*"
        ),
    ),
    (
        "net",
        (
            r"net(?:to)?(?: (?:sum|total|amount|value))?|(?:sub)?total (?:net|ht|hors taxes|excl\b.*|before tax)|"
            r"(?:zwischen)?summe netto|nettobetrag|gesamt netto|base imponible|imponibile|total sin iva|.*\bexcl\.? (?:vat|"
            r"tax)\b.*"
        ),
    ),
    (
        "subtotal",
        r"sub-?\s?totals?\b.*|zwischensumme\b.*|sous-total\b.*|subtotale?\b.*|subtotaal\b.*|total (?:for|of) .+|summe .+",
    ),
    (
        "tax",
        (
            r"(?:plus |zzgl\. |\+ ?)?(?:value[- ]added tax|vat|sales tax|tax(?:es)?|gst|mwst|mehrwertsteuer|ust|umsatzsteuer|"
            r"tva|iva|btw)\b.*|total (?:vat|tax)|\d{1,2}(?:[.,]\d)? ?% (?:vat|mwst|ust|tva|iva|btw|tax)\b.*"
        ),
    ),
    (
        "discount",
        (
            r"(?:less |minus |trade |early payment )?(?:discount|rebate)\b.*|rabatt\b.*|skonto\b.*|remise\b.*|descuento\b.*|"
            r"sconto\b.*|korting\b.*"
        ),
    ),
    (
        "total",
        (
            r"(?:grand |overall |final |invoice )?totals?(?: (?:due|payable|amount|sum|to pay|gross|ttc|eur|gbp|usd|chf|"
            r"[€£$]))*|sum(?: total)?|gross(?: (?:sum|total|amount))?|payable|amount (?:due|payable)|balance due|to pay|"
            r"(?:gesamt|end|rechnungs)?(?:summe|betrag)(?: brutto)?|brutto(?:betrag)?|insgesamt|gesamt|"
            r"zu zahlen(?:der betrag)?|montant (?:total|dû)|net à payer|somme|à payer|importe total|totale(?: da pagare)?|"
            r"a pagar|totaal|te betalen"
        ),
    ),
)
_PATTERNS = [(role, re.compile(rf"^(?:{pattern})\s*[:.]?$", re.IGNORECASE)) for role, pattern in _LABELS]
_NOTE = re.compile(r"^(?:\*|†|note|nb|n\.b\.|anmerkung|hinweis|remarque|nota)(?!\w)", re.IGNORECASE)
_LEAST_NOTE_CHARS = 25


@lru_cache(maxsize=20_000)
def label_role(label: str) -> Role | None:
    """What a row with this label is; None for an item. "Total station, hire" is an item: the whole label has to fit."""
    stripped = label.strip()
    return next((role for role, pattern in _PATTERNS if pattern.match(stripped)), None)


def role_of(texts: Sequence[str], values: Sequence[Value], kinds: Sequence[ValueKind], typical: int) -> Role:
    """Say what a row is.

    Parameters
    ----------
    texts : sequence of str
        Its cells, stripped.
    values : sequence of Value
        What they hold.
    kinds : sequence of ValueKind
        The kinds of its columns.
    typical : int
        How many cells of a row of its table are mostly filled.
    """
    filled = [index for index, text in enumerate(texts) if text]
    if not filled:
        return "note"
    labels = [texts[index] for index in filled if values[index].kind in ("text", "identifier")]
    n_figures = sum(values[index].kind in NUMERIC for index in filled)
    # A total has fewer cells than an item, or no number of its own in the first column.
    for label in labels[:2]:
        role = label_role(label)
        if role is not None and (len(filled) < typical or len(labels) == 1 or len(filled) <= 2):
            return role
    # Of two columns one may be empty; of more, a cell alone is a heading or a note.
    if len(filled) == 1 and typical > 2:
        if n_figures:
            return "subtotal" if kinds[filled[0]] in NUMERIC else "note"
        is_note = len(texts[filled[0]]) >= _LEAST_NOTE_CHARS or bool(_NOTE.match(texts[filled[0]]))
        return "note" if is_note else "group"
    return "item"
