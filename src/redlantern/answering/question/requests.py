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
    what = " ".join(match["what"].casefold().split())
    said = set(tokens(text))
    length: Length = "short" if said & _SHORT else "long" if said & _LONG else "medium"
    present = {document.document_id: document for document in documents if not document.is_refused}
    within = frozenset(present) if scope is None else frozenset(scope) & frozenset(present)
    if what in _THIS:
        meant = frozenset({shown}) if shown in present else within if len(within) == 1 else frozenset()
    elif what in _ALL:
        meant = within
    else:
        meant = _named(what, [present[document_id] for document_id in within])
    return SummaryWish(meant, length) if meant else None


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
