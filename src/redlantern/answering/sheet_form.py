"""The JSON form of a sheet, which docs/sheet-json.md describes, and the way back; and what was written, as plain text."""

from collections.abc import Callable
from dataclasses import asdict, replace
from typing import Any

from redlantern.answering.sheet import Claim, Disagreement, Draft, Evidence, FoundLine, Part, Seconds, Sheet, Side
from redlantern.collection.values import Citation
from redlantern.reading.values import Box
from redlantern.retrieval.explain import Why

_Cite = Callable[[dict[str, Any]], Citation]


def sheet_as_json(sheet: Sheet) -> dict[str, Any]:
    """Give the form documented in docs/sheet-json.md."""
    return {
        "question": sheet.question,
        "standalone_question": sheet.standalone_question,
        "mended": sheet.mended,
        "refused": sheet.refused,
        "refusal_reason": sheet.refusal_reason,
        "answer": sheet.answer,
        "no_prose_reason": sheet.no_prose_reason,
        "outcome": sheet.outcome,
        "missing_words": list(sheet.missing_words),
        "left_out": sheet.left_out,
        "claims": [_claim_json(one) for one in sheet.claims],
        "found_lines": [_line_json(one) for one in sheet.found_lines],
        "parts": [
            {
                "title": one.title,
                "lines": [_line_json(line) for line in one.lines],
                "claims": [_claim_json(claim) for claim in one.claims],
                "rows": one.rows,
            }
            for one in sheet.parts
        ],
        "draft": asdict(sheet.draft) if sheet.draft else None,
        "passages": [_evidence_json(one) for one in sheet.passages],
        "disagreement": _disagreement_json(sheet.disagreement),
        "places": sheet.places,
        "evidence_score": round(sheet.evidence_score, 4),
        "weak": sheet.is_weak,
        "seconds": {
            "search": round(sheet.seconds.search, 4),
            "first_line": _rounded(sheet.seconds.first_line),
            "first_word": _rounded(sheet.seconds.first_word),
            "total": round(sheet.seconds.total, 4),
        },
        "tokens": {"read": sheet.n_prompt_tokens, "written": sheet.n_written_tokens},
        "method": sheet.method,
        "models": sheet.models,
    }


def sheet_from_json(form: dict[str, Any], document_ids: dict[str, int]) -> Sheet:
    """Read a kept sheet back.

    Parameters
    ----------
    form : dict
        What `sheet_as_json` gave.
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

    parts = tuple(
        Part(one["title"], _lines(one["lines"], citation), _claims(one["claims"], citation), one["rows"])
        for one in form.get("parts", ())
    )
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
        _lines(form["found_lines"], citation),
        tuple(passages),
        _claims(form["claims"], citation),
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
        parts=parts,
        draft=Draft(**form["draft"]) if form.get("draft") else None,
        places=form.get("places", ""),
    )


def sheet_as_text(sheet: Sheet) -> str:
    """What was written, one sentence a line with its call-marks; what is not borne out says so, and what is the model's own."""
    head = [sheet.draft.head, ""] if sheet.draft is not None and sheet.draft.head else []
    whole = [_claim_text(one) for one in sheet.claims]
    sections = [line for part in sheet.parts for line in ("", part.title, *map(_claim_text, part.claims))]
    return "\n".join([*head, *whole, *sections])


def _claim_text(claim: Claim) -> str:
    if claim.is_outside:
        return f"{claim.text} [not from the documents]"
    return (
        claim.marked_text if claim.support == "supported" else f"{claim.marked_text} [{claim.support}: {claim.doubt}]"
    )


def relinked(sheet: Sheet, document_ids: dict[str, int]) -> Sheet:
    """Lead a sheet's citations to the documents that have their content now, or else lie at their place; see sheet_from_json."""

    def led(one: Citation) -> Citation:
        found = document_ids.get(one.document_key, document_ids.get(one.path, 0))
        return one if found == one.document_id else replace(one, document_id=found)

    def led_lines(lines: tuple[FoundLine, ...]) -> tuple[FoundLine, ...]:
        return tuple(replace(one, citation=led(one.citation)) for one in lines)

    def led_claims(claims: tuple[Claim, ...]) -> tuple[Claim, ...]:
        return tuple(replace(one, citations=tuple(map(led, one.citations))) for one in claims)

    return replace(
        sheet,
        found_lines=led_lines(sheet.found_lines),
        claims=led_claims(sheet.claims),
        parts=tuple(replace(one, lines=led_lines(one.lines), claims=led_claims(one.claims)) for one in sheet.parts),
        passages=tuple(replace(one, citation=led(one.citation)) for one in sheet.passages),
        disagreement=sheet.disagreement
        and replace(
            sheet.disagreement,
            sides=tuple(replace(one, citation=led(one.citation)) for one in sheet.disagreement.sides),
        ),
    )


def _claim_json(claim: Claim) -> dict[str, Any]:
    return {
        "text": claim.text,
        "support": claim.support,
        "doubt": claim.doubt,
        "absent": list(claim.absent),
        "outside": claim.is_outside,
        "citations": [one.as_json() for one in claim.citations],
    }


def _line_json(line: FoundLine) -> dict[str, Any]:
    return {"text": line.citation.text, "citation": line.citation.as_json(), "score": round(line.score, 4)}


def _lines(forms: list[dict[str, Any]], citation: _Cite) -> tuple[FoundLine, ...]:
    return tuple(FoundLine(citation(one["citation"]), one["score"]) for one in forms)


def _claims(forms: list[dict[str, Any]], citation: _Cite) -> tuple[Claim, ...]:
    return tuple(
        Claim(
            one["text"], one["support"], tuple(map(citation, one["citations"])), one["doubt"],
            tuple(one.get("absent", ())), one.get("outside", False),
        )
        for one in forms
    )  # fmt: skip


def _disagreement_json(one: Disagreement | None) -> dict[str, Any] | None:
    if one is None:
        return None
    sides = [{"value": side.value, "dated": side.dated, "citation": side.citation.as_json()} for side in one.sides]
    return {"kind": one.kind, "sides": sides}


def _disagreement(form: dict[str, Any] | None, citation: _Cite) -> Disagreement | None:
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
