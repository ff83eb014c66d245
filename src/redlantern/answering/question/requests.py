# SPDX-License-Identifier: GPL-3.0-or-later
"""What is asked for in other words than a question's: the summary of documents, or a draft from them."""

import re
from collections.abc import Collection as Ids
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from redlantern.answering.sheet import Draft, DraftKind
from redlantern.collection.values import Document
from redlantern.text.question import content_words
from redlantern.text.stems import stem
from redlantern.text.tokens import tokens

Length = Literal["short", "medium", "long"]


@dataclass(frozen=True)
class SummaryWish:
    """Say what these documents are about."""

    documents: frozenset[int]
    length: Length = "medium"


_SUMMARISE = re.compile(
    r"^\W*(?:please\s+)?(?:(?:can|could|would)\s+you\s+)?(?:please\s+)?(?:give\s+(?:me\s+|us\s+)?|write\s+(?:me\s+)?)?"
    r"(?:(?:a|the)\s+)?(?:(?P<length>\w+)\s+)?(?:summar(?:y|ies)\s+of|summari[sz]e|sum\s+up)\s+(?P<what>.+?)"
    r"(?P<how>,?\s+(?:in\s+(?:short|brief|detail|full)|briefly|shortly))?\W*$",
    re.IGNORECASE,
)
_ABOUT = re.compile(r"^\W*what(?:\s+(?:is|are)|['’]s)\s+(?P<what>.+?)\s+(?:all\s+)?about\W*$", re.IGNORECASE)
_THIS = frozenset(
    [
        "this",
        "it",
        "this document",
        "the document",
        "this file",
        "this paper",
        "this text",
        "this letter",
        "this report",
    ]
)
_ALL = frozenset(
    ["these", "these documents", "the documents", "all documents", "all the documents", "everything", "all of them",
     "this collection", "the collection", "them", "the file", "the files", "these files", "all of this", "all"]
)  # fmt: skip
_SHORT, _LONG = (
    frozenset("short brief briefly shortly quick concise".split()),
    frozenset("long detailed detail full thorough".split()),
)
_DRAFT = re.compile(
    r"^\W*(?:please\s+)?(?:(?:can|could|would)\s+you\s+)?(?:please\s+)?(?:draft|write|compose|prepare|make|draw\s+up)\s+(?:me\s+|us\s+)?"
    r"(?:an?\s+|the\s+)?(?:\w+\s+){0,2}?(?P<kind>letter|reply|e-?mail|note|memo|memorandum|list|checklist)\b(?P<rest>.*)$",
    re.IGNORECASE | re.DOTALL,
)
_KINDS: dict[str, DraftKind] = {
    "letter": "letter", "reply": "letter", "email": "letter", "note": "note", "memo": "note", "memorandum": "note",
    "list": "list", "checklist": "list",
}  # fmt: skip
_TO = re.compile(
    r"^(?:to|for)\s+(?P<to>.+?)(?=\s+(?:about|on|concerning|regarding|saying|explaining|that|which|with)\b|[,;:]|$)",
    re.IGNORECASE,
)
_SUBJECT = re.compile(
    r"\b(?:about|on|concerning|regarding|of|saying|explaining|that\s+says|with|which)\b\s+(?P<subject>.+)$",
    re.IGNORECASE | re.DOTALL,
)


_CHECKED = "sums?|totals?|figures|arithmetic|calculations?|multiplications?"
_CHECK_SUMS = [
    re.compile(pattern, re.IGNORECASE)
    for pattern in (
        rf"^\W*(?:please\s+)?(?:check|verify|go\s+over)\s+(?:the\s+|all\s+)?(?:{_CHECKED})\s+(?:of|in|on)\s+(?P<what>.+?)\W*$",
        rf"^\W*do(?:es)?\s+the\s+(?:{_CHECKED})\s+(?:of|in|on)\s+(?P<what>.+?)\s+(?:agree|add\s+up|match|tally)\W*$",
        r"^\W*(?:which|what)\s+(?:rows?|figures?|sums?|lines?)\s+(?:of|in|on)\s+(?P<what>.+?)\s+(?:do(?:es)?\s+not|don['’]t)\s+"
        r"(?:multiply\s+out|add\s+up|agree|tally)\W*$",
    )
]


def sums_wish(
    text: str, documents: Iterable[Document], scope: Ids[int] | None, shown: int | None
) -> frozenset[int] | None:
    """The documents whose sums a text asks to be checked; None where it asks something else, or names nothing here."""
    match = next((found for pattern in _CHECK_SUMS if (found := pattern.match(text))), None)
    if match is None:
        return None
    return _meant(match["what"], documents, scope, shown) or None


def summary_wish(
    text: str, documents: Iterable[Document], scope: Ids[int] | None, shown: int | None
) -> SummaryWish | None:
    """Whether a text asks what documents are about, and which: those it names, the one that is shown, or all in scope.

    Parameters
    ----------
    text : str
        What was typed.
    documents : iterable of Document
        All that can be asked.
    scope : collection of document ids
        None for all.
    shown : int
        The document that "this document" means, if any.

    Returns
    -------
    SummaryWish or None
        None for a question, also one that names nothing here: "What is clause 7 about?".
    """
    match = _SUMMARISE.match(text) or _ABOUT.match(text)
    if match is None:
        return None
    said = set(tokens(text))
    length: Length = "short" if said & _SHORT else "long" if said & _LONG else "medium"
    meant = _meant(match["what"], documents, scope, shown)
    return SummaryWish(meant, length) if meant else None


def _meant(said: str, documents: Iterable[Document], scope: Ids[int] | None, shown: int | None) -> frozenset[int]:
    """The documents in scope that are meant: the one that is shown, all, or those that are named."""
    what = " ".join(said.casefold().split())
    present = {document.document_id: document for document in documents if not document.is_refused}
    within = frozenset(present) if scope is None else frozenset(scope) & frozenset(present)
    if what in _THIS:
        return frozenset({shown}) if shown in present else within if len(within) == 1 else frozenset()
    if what in _ALL:
        return within
    return _named(what, [present[document_id] for document_id in within])


def _named(what: str, documents: Iterable[Document]) -> frozenset[int]:
    """The documents whose call-mark this is, or whose title has all its words ("the invoices", "the condition survey")."""
    wanted = {stem(word) for word in content_words(what)}
    by_mark = frozenset(
        document.document_id for document in documents if document.call_mark.casefold() == what.removeprefix("the ")
    )
    if by_mark or not wanted:
        return by_mark
    return frozenset(
        document.document_id for document in documents if wanted <= {stem(word) for word in tokens(document.title)}
    )


def draft_wish(text: str) -> Draft | None:
    """Whether a text asks for a draft of a letter, a note or a list, and about what."""
    match = _DRAFT.match(text)
    if match is None:
        return None
    rest = " ".join(match["rest"].split()).strip(" .?!:")
    to = _TO.match(rest)
    subject = _SUBJECT.search(rest)
    about = (subject["subject"] if subject else rest[to.end() :] if to else rest).strip(" :,;")
    kind = _KINDS[match["kind"].casefold().replace("-", "")]
    return Draft(kind, to["to"] if to else "", about) if content_words(about) else None
