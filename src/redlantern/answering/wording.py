# SPDX-License-Identifier: GPL-3.0-or-later
"""Every sentence of ours on a sheet: why it was refused, what to be careful about, what was left out; and a sheet as plain text."""

from collections.abc import Sequence

from redlantern.answering.sheet import Claim, Sheet
from redlantern.text.listing import counted, quoted

NOTHING_IN_SCOPE = "No document is in scope, so there is nothing to search. Tick at least one on the shelf."
NO_MODEL = "No language model is set up, so there is no written answer."
NO_MODEL_FOR_SUMMARY = "No language model is set up, so the lines stand as they are in the documents."
ONLY_ORDERS = "What was found gives orders to a machine that reads it. It is shown as it stands, and the language model was not given it."
NOTHING_HELD = (
    "What the language model wrote did not hold against the pages it names, so it is not shown. Read the found lines."
)
_DIFFERS = "The documents differ, as stands below the found lines; this answer may be from one of them alone."
_WEAK = (
    "The evidence is weak: of questions that score like this, two in five are not answered by what is found. Read the lines before "
    "you rely on them."
)


def not_answered(missing_words: Sequence[str]) -> str:
    """Say that the documents do not answer, and which of the question's words none of them has."""
    reason = "The documents in scope do not answer this."
    if not missing_words:
        return f"{reason} The nearest passages are listed below."
    verb = "does not appear" if len(missing_words) == 1 else "do not appear"
    return f"{reason} {quoted(missing_words)} {verb} in any of them. The nearest passages are listed below."


def too_many_to_summarise(n_documents: int, n_most: int) -> str:
    """Say that these are too many documents for one summary."""
    fewer = "Tick fewer on the shelf, or ask for one of them by its name."
    return f"That is {n_documents:,} documents; a summary takes at most {n_most} at once. {fewer}"


def places(n_places: int, n_pages: int, n_documents: int, n_shown: int) -> str:
    """Say how many places of a phrase there are."""
    words = f"{counted(n_places, 'place')} on {counted(n_pages, 'page')} of {counted(n_documents, 'document')}"
    return words if n_shown == n_places else f"{words}, the first {n_shown} shown"


def no_place(phrases: Sequence[str]) -> str:
    """Say that a phrase stands nowhere."""
    named = " and ".join(f"“{phrase}”" for phrase in phrases)
    together = " on one page" if len(phrases) > 1 else ""
    hint = "Ask in a sentence without quotation marks to find what is near it."
    return f"No document in scope has {named}{together}, in any capitals. {hint}"


def left_out(n_orders: int, n_too_many: int, n_dropped: int = 0) -> str:
    """Say which found lines the language model was not given, and how many of its sentences did not hold; empty if neither."""
    parts = []
    if n_orders:
        parts.append(f"{n_orders} found {'line' if n_orders == 1 else 'lines'} beside orders to a machine")
    if n_too_many:
        lines = "line" if n_too_many == 1 else "lines"
        parts.append(f"{n_too_many} found {lines} for which there was no room in the prompt")
    sentences = [f"Not given to the language model: {' and '.join(parts)}."] if parts else []
    if n_dropped:
        said = "One sentence" if n_dropped == 1 else f"{n_dropped} sentences"
        sentences.append(
            f"{said} of the model did not hold against the page and {'was' if n_dropped == 1 else 'were'} left out."
        )
    return " ".join(sentences)


def table_rows(n_rows: int, *, has_text: bool) -> str:
    """Say how many rows of tables a section has beside its lines; empty if none."""
    if not n_rows:
        return ""
    return f"{n_rows} row{'s' * (n_rows > 1)} of tables" + ("" if has_text else ", and no text")


def cautions(sheet: Sheet) -> tuple[str, ...]:
    """What is to be known before the lines of an answered question are read: words that no document has, weak evidence."""
    sentences = []
    if sheet.missing_words:
        sentences.append(
            f"No document has {quoted(sheet.missing_words)}: what follows was found by its meaning, and may be about something else."
        )
    if sheet.disagreement is not None and sheet.claims:
        sentences.append(_DIFFERS)
    if sheet.unanswered:
        sentences.append(f"The documents do not say: {quoted(sheet.unanswered)}")
    if sheet.is_weak:
        sentences.append(_WEAK)
    return tuple(sentences)


def answer(sheet: Sheet) -> str:
    """What was reckoned, if it is sure, and the written answer with its call-marks; the reason where it was refused; empty
    without any of them.
    """
    if sheet.refusal_reason:
        return sheet.refusal_reason
    reckoned = [reckoned_text(sheet)] if sheet.is_reckoned else []
    return " ".join([*reckoned, *(claim.marked_text for claim in sheet.claims)])


def reckoned_text(sheet: Sheet) -> str:
    """What was reckoned, with the call-marks of its cells; empty where nothing was."""
    if sheet.reckoning is None:
        return ""
    marks = " ".join(f"[{mark}]" for mark in dict.fromkeys(cell.mark for cell in sheet.reckoning.cells))
    return f"{sheet.reckoning.answer} {marks}".strip()


def as_text(sheet: Sheet) -> str:
    """What was written, one sentence a line with its call-marks; what is not borne out says so, and what is the model's own."""
    head = [sheet.draft.head, ""] if sheet.draft is not None and sheet.draft.head else []
    whole = [_claim_text(claim) for claim in sheet.claims]
    sections = [line for section in sheet.sections for line in ("", section.title, *map(_claim_text, section.claims))]
    reckoned = [reckoned_text(sheet)] if sheet.reckoning is not None else []
    return "\n".join([*head, *reckoned, *whole, *sections])


def _claim_text(claim: Claim) -> str:
    if claim.is_outside:
        return f"{claim.text} [not from the documents]"
    if claim.support == "supported":
        return claim.marked_text
    return f"{claim.marked_text} [{claim.support}: {claim.doubt}]"
