"""A sheet: one question with its found lines, written answer, evidence and timings."""

from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, field, replace
from typing import Any, Literal

from redlantern.collection.values import Citation
from redlantern.reading.values import Box
from redlantern.retrieval.explanation import Why

Support = Literal["supported", "partly supported", "unsupported"]
Outcome = Literal["answered", "partly answered", "not answered"]


def listed(words: Sequence[str]) -> str:
    """Words in quotation marks, as they are listed in a sentence."""
    quoted = [f"“{word}”" for word in words]
    return quoted[0] if len(quoted) == 1 else f"{', '.join(quoted[:-1])} and {quoted[-1]}"


@dataclass(frozen=True)
class Claim:
    """One sentence of a written answer. `doubt` says in plain words what the cited words do not bear out, `absent` are those
    words of the claim; `is_outside` says that next to nothing of it is from the documents.
    """

    text: str
    support: Support
    citations: tuple[Citation, ...]
    doubt: str = ""
    absent: tuple[str, ...] = ()
    is_outside: bool = False

    @property
    def marked_text(self) -> str:
        """The sentence with its call-marks."""
        marks = " ".join(f"[{one.mark}]" for one in self.citations)
        return f"{self.text} {marks}".strip()


@dataclass(frozen=True)
class Side:
    """One of several values that documents give: as it stands, the line, and the date of its document in words."""

    value: str
    citation: Citation
    dated: str = ""


@dataclass(frozen=True)
class Disagreement:
    """Different values for what was asked, from different documents; `kind` is date, sum or number."""

    kind: str
    sides: tuple[Side, ...]


@dataclass(frozen=True)
class FoundLine:
    """A verbatim line that answers, best first; the score has no unit."""

    citation: Citation
    score: float


@dataclass(frozen=True)
class Evidence:
    """A passage that was found: its whole text as a citation, and its scores."""

    rank: int
    citation: Citation
    heading: str
    words: float
    meaning: float
    fused: float
    why: Why | None = None
    """What brought it here; None in sheets kept before it was recorded."""
    is_pinned: bool = False


@dataclass(frozen=True)
class Seconds:
    """How long each step took, from the moment the question came; None for a step that was not taken."""

    search: float = 0.0
    first_line: float | None = None
    first_word: float | None = None
    total: float = 0.0


@dataclass(frozen=True)
class Sheet:
    """One question and everything that was found for it.

    `mended` maps misspelt words to the ones searched by. `no_prose_reason` says
    why there is no written answer when there are found lines but no claims.
    `page_strengths` maps (document id, page number) to 0..1, for the ribbons; it
    is not kept with the sheet. `asked_at` is when it was asked, for a kept one.
    """

    question: str
    standalone_question: str
    refused: bool
    refusal_reason: str
    found_lines: tuple[FoundLine, ...]
    passages: tuple[Evidence, ...]
    claims: tuple[Claim, ...] = ()
    mended: dict[str, str] = field(default_factory=dict)
    no_prose_reason: str = ""
    seconds: Seconds = Seconds()
    method: str = ""
    models: dict[str, str] = field(default_factory=dict)
    n_prompt_tokens: int = 0
    n_written_tokens: int = 0
    evidence_score: float = 0.0
    page_strengths: dict[tuple[int, int], float] = field(default_factory=dict, repr=False)
    asked_at: str = ""
    disagreement: Disagreement | None = None
    missing_words: tuple[str, ...] = ()
    """The question's words that no document has, of a question that was answered all the same, by meaning."""
    left_out: str = ""
    """Which found lines the language model was not given, in words; empty if it had them all."""
    places: str = ""
    """How many places were found, in words, where phrases were looked for instead of a question asked."""

    @property
    def outcome(self) -> Outcome:
        """Whether the documents answer; partly, where some of the question's words stand in none of them."""
        if self.refused:
            return "not answered"
        return "partly answered" if self.missing_words else "answered"

    @property
    def missing_in_words(self) -> str:
        """Say which of the question's words no document has; empty if they have all."""
        if not self.missing_words:
            return ""
        return f"No document has {listed(self.missing_words)}: what follows was found by its meaning, and may be about something else."

    @property
    def answer(self) -> str:
        """The written answer with its call-marks; the reason where it was refused; empty without prose."""
        if self.refused:
            return self.refusal_reason
        return " ".join(claim.marked_text for claim in self.claims)

    def as_json(self) -> dict[str, Any]:
        """Give the form documented in docs/sheet-json.md."""
        return {
            "question": self.question,
            "standalone_question": self.standalone_question,
            "mended": self.mended,
            "refused": self.refused,
            "refusal_reason": self.refusal_reason,
            "answer": self.answer,
            "no_prose_reason": self.no_prose_reason,
            "outcome": self.outcome,
            "missing_words": list(self.missing_words),
            "left_out": self.left_out,
            "claims": [
                {
                    "text": claim.text,
                    "support": claim.support,
                    "doubt": claim.doubt,
                    "absent": list(claim.absent),
                    "outside": claim.is_outside,
                    "citations": [one.as_json() for one in claim.citations],
                }
                for claim in self.claims
            ],
            "found_lines": [
                {"text": one.citation.text, "citation": one.citation.as_json(), "score": round(one.score, 4)}
                for one in self.found_lines
            ],
            "passages": [_evidence_json(one) for one in self.passages],
            "disagreement": _disagreement_json(self.disagreement),
            "places": self.places,
            "evidence_score": round(self.evidence_score, 4),
            "seconds": {
                "search": round(self.seconds.search, 4),
                "first_line": _rounded(self.seconds.first_line),
                "first_word": _rounded(self.seconds.first_word),
                "total": round(self.seconds.total, 4),
            },
            "tokens": {"read": self.n_prompt_tokens, "written": self.n_written_tokens},
            "method": self.method,
            "models": self.models,
        }


def sheet_from_json(form: dict[str, Any], document_ids: dict[str, int]) -> Sheet:
    """Read a kept sheet back.

    Parameters
    ----------
    form : dict
        What `Sheet.as_json` gave.
    document_ids : dict
        From a document's key and from its path to its present id; the key counts first. A citation of one that is gone
        gets 0.
    """

    def citation(one: dict[str, Any]) -> Citation:
        boxes = tuple(Box(*sides) for sides in one["boxes"])
        place = (one["page"], one["start"], one["end"], one["text"])
        return Citation(
            document_ids.get(one.get("document_key", ""), document_ids.get(one["path"], 0)),
            one["call_mark"],
            one["document"],
            one["path"],
            *place,
            boxes,
            one.get("document_key", ""),
        )

    claims = [
        Claim(
            one["text"],
            one["support"],
            tuple(map(citation, one["citations"])),
            one["doubt"],
            tuple(one.get("absent", ())),
            one.get("outside", False),
        )
        for one in form["claims"]
    ]
    passages = [
        Evidence(
            one["rank"],
            citation(one["citation"]),
            one["heading"],
            one["scores"]["words"],
            one["scores"]["meaning"],
            one["scores"]["fused"],
            _why(one.get("why")),
            one.get("pinned", False),
        )
        for one in form["passages"]
    ]
    return Sheet(
        form["question"],
        form["standalone_question"],
        form["refused"],
        form["refusal_reason"],
        tuple(FoundLine(citation(one["citation"]), one["score"]) for one in form["found_lines"]),
        tuple(passages),
        tuple(claims),
        form["mended"],
        form["no_prose_reason"],
        Seconds(**form["seconds"]),
        form["method"],
        form["models"],
        form["tokens"]["read"],
        form["tokens"]["written"],
        form["evidence_score"],
        disagreement=_disagreement(form.get("disagreement"), citation),
        missing_words=tuple(form.get("missing_words", ())),
        left_out=form.get("left_out", ""),
        places=form.get("places", ""),
    )


def relinked(sheet: Sheet, document_ids: dict[str, int]) -> Sheet:
    """Lead a sheet's citations to the documents that have their content now, or else lie at their place; see sheet_from_json."""

    def led(one: Citation) -> Citation:
        found = document_ids.get(one.document_key, document_ids.get(one.path, 0))
        return one if found == one.document_id else replace(one, document_id=found)

    return replace(
        sheet,
        found_lines=tuple(replace(one, citation=led(one.citation)) for one in sheet.found_lines),
        claims=tuple(replace(one, citations=tuple(map(led, one.citations))) for one in sheet.claims),
        passages=tuple(replace(one, citation=led(one.citation)) for one in sheet.passages),
        disagreement=sheet.disagreement
        and replace(
            sheet.disagreement,
            sides=tuple(replace(one, citation=led(one.citation)) for one in sheet.disagreement.sides),
        ),
    )


def _disagreement_json(one: Disagreement | None) -> dict[str, Any] | None:
    if one is None:
        return None
    sides = [{"value": side.value, "dated": side.dated, "citation": side.citation.as_json()} for side in one.sides]
    return {"kind": one.kind, "sides": sides}


def _disagreement(form: dict[str, Any] | None, citation: Callable[[dict[str, Any]], Citation]) -> Disagreement | None:
    if form is None:
        return None
    sides = tuple(Side(one["value"], citation(one["citation"]), one["dated"]) for one in form["sides"])
    return Disagreement(form["kind"], sides)


_SCORES = ("words", "meaning", "fused")


def _evidence_json(one: Evidence) -> dict[str, Any]:
    return {
        "rank": one.rank,
        "document": one.citation.title,
        "path": one.citation.path,
        "page": one.citation.page_number,
        "heading": one.heading,
        "text": one.citation.text,
        "scores": {key: round(getattr(one, key), 5) for key in _SCORES},
        "why": asdict(one.why) if one.why is not None else None,
        "pinned": one.is_pinned,
        "citation": one.citation.as_json(),
    }


def _why(form: dict[str, Any] | None) -> Why | None:
    if form is None:
        return None
    found = tuple((word, tuple(forms)) for word, forms in form["found"])
    return Why(**(form | {"found": found, "missing": tuple(form["missing"])}))


def _rounded(seconds: float | None) -> float | None:
    return None if seconds is None else round(seconds, 4)
