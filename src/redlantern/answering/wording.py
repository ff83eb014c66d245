# SPDX-License-Identifier: GPL-3.0-or-later
"""Every sentence of ours on a sheet: why it was refused, what to be careful about, what was left out; and a sheet as plain text."""

from collections.abc import Sequence

from redlantern.answering.sheet import Claim, Sheet
from redlantern.text.listing import counted, listed, quoted
from redlantern.translation import tr, trn

SUPPORT_WORDS = {
    "supported": tr("supported"),
    "partly supported": tr("partly supported"),
    "unsupported": tr("not supported"),
}
NOTHING_IN_SCOPE = tr("No document is in scope, so there is nothing to search. Tick at least one on the shelf.")
NO_MODEL = tr("No language model is set up, so there is no written answer.")
NO_MODEL_FOR_SUMMARY = tr("No language model is set up, so the lines stand as they are in the documents.")
ONLY_ORDERS = tr(
    "What was found gives orders to a machine that reads it. It is shown as it stands, and the language "
    "model was not given it."
)
NOTHING_HELD = tr(
    "What the language model wrote did not hold against the pages it names, so it is not shown. Read the found lines."
)
_DIFFERS = tr("The documents differ, as stands below the found lines; this answer may be from one of them alone.")
_WEAK = tr(
    "The evidence is weak: of questions that score like this, two in five are not answered by what is "
    "found. Read the lines before you rely on them."
)
# No share: of the tuning questions too few are answered with so little after a model has read.
_WEAK_AS_READ = tr("The model was not sure that the passages answer this. Read the lines before you rely on them.")


def not_answered(missing_words: Sequence[str]) -> str:
    """Say that the documents do not answer, and which of the question's words none of them has."""
    if not missing_words:
        return tr("The documents in scope do not answer this. The nearest passages are listed below.")
    missing = trn(
        "{{words}} does not appear in any of them.", "{{words}} do not appear in any of them.", len(missing_words)
    ).format(words=quoted(missing_words))
    return tr("The documents in scope do not answer this. {missing} The nearest passages are listed below.").format(
        missing=missing
    )


def too_many_to_summarise(n_documents: int, n_most: int) -> str:
    """Say that these are too many documents for one summary."""
    fewer = tr("Tick fewer on the shelf, or ask for one of them by its name.")
    return tr("That is {n_documents:,} documents; a summary takes at most {n_most} at once. {fewer}").format(
        n_documents=n_documents, n_most=n_most, fewer=fewer
    )


def places(n_places: int, n_pages: int, n_documents: int, n_shown: int) -> str:
    """Say how many places of a phrase there are."""
    words = tr("{place} on {page} of {document}").format(
        place=counted(n_places, "place"), page=counted(n_pages, "page"), document=counted(n_documents, "document")
    )
    return (
        words if n_shown == n_places else tr("{words}, the first {n_shown} shown").format(words=words, n_shown=n_shown)
    )


def no_place(phrases: Sequence[str]) -> str:
    """Say that a phrase stands nowhere."""
    named = quoted(phrases)
    together = tr(" on one page") if len(phrases) > 1 else ""
    hint = tr("Ask in a sentence without quotation marks to find what is near it.")
    return tr("No document in scope has {named}{together}, in any capitals. {hint}").format(
        named=named, together=together, hint=hint
    )


def left_out(n_orders: int, n_too_many: int, n_dropped: int = 0) -> str:
    """Say which found lines the language model was not given, and how many of its sentences did not hold; empty if neither."""
    parts = []
    if n_orders:
        parts.append(
            trn("{n} found line beside orders to a machine", "{n} found lines beside orders to a machine", n_orders)
        )
    if n_too_many:
        parts.append(
            trn(
                "{n} found line for which there was no room in the prompt",
                "{n} found lines for which there was no room in the prompt",
                n_too_many,
            )
        )
    sentences = [tr("Not given to the language model: {listed}.").format(listed=listed(parts))] if parts else []
    if n_dropped:
        sentences.append(
            trn(
                "One sentence of the model did not hold against the page and was left out.",
                "{n} sentences of the model did not hold against the page and were left out.",
                n_dropped,
            )
        )
    return " ".join(sentences)


def searched_also(sheet: Sheet) -> str:
    """Say what was searched with beside the question's own words, without quotation marks, for no document says it; or nothing."""
    if not sheet.searched_also:
        return ""
    return tr(
        "The question's own words found little, so these of the model's were searched with, too: {words}."
    ).format(words="; ".join(sheet.searched_also))


def table_rows(n_rows: int, *, has_text: bool) -> str:
    """Say how many rows of tables a section has beside its lines; empty if none."""
    if not n_rows:
        return ""
    return trn("{n} row of tables", "{n} rows of tables", n_rows) + ("" if has_text else tr(", and no text"))


def cautions(sheet: Sheet) -> tuple[str, ...]:
    """What is to be known before the lines of an answered question are read: words that no document has, weak evidence."""
    sentences = []
    if sheet.missing_words:
        sentences.append(
            tr(
                "No document has {quoted}: what follows was found by its meaning, and may be about something else."
            ).format(quoted=quoted(sheet.missing_words))
        )
    if sheet.disagreement is not None and sheet.claims:
        sentences.append(_DIFFERS)
    if sheet.unanswered:
        sentences.append(tr("The documents do not say: {quoted}").format(quoted=quoted(sheet.unanswered)))
    if sheet.is_weak:
        sentences.append(_WEAK_AS_READ if sheet.is_read else _WEAK)
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
    whole = [claim_text(claim) for claim in sheet.claims]
    sections = [line for section in sheet.sections for line in ("", section.title, *map(claim_text, section.claims))]
    reckoned = [reckoned_text(sheet)] if sheet.reckoning is not None else []
    return "\n".join([*head, *reckoned, *whole, *sections])


def claim_text(claim: Claim) -> str:
    """A claim in plain text: with its call-mark, or with what speaks against it."""
    if claim.is_outside:
        return tr("{text} [not from the documents]").format(text=claim.text)
    if claim.support == "supported":
        return claim.marked_text
    return f"{claim.marked_text} [{SUPPORT_WORDS[claim.support]}: {claim.doubt}]"
