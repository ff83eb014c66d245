# SPDX-License-Identifier: GPL-3.0-or-later
"""A sheet to its published JSON form, and back."""

from collections.abc import Callable, Mapping
from dataclasses import asdict, replace
from typing import Any

import msgspec

from redlantern.answering import wording
from redlantern.answering.sheet import (
    AnsweredSheet,
    Claim,
    Disagreement,
    Draft,
    Evidence,
    FoundLine,
    GivenPrompt,
    PlacesSheet,
    Reckoning,
    RefusedSheet,
    Seconds,
    Sheet,
    Side,
    SummarySection,
    SummarySheet,
    WorkingRow,
    made_into,
)
from redlantern.answering.sheet_schema import (
    CitationForm,
    ClaimForm,
    DisagreementForm,
    LineForm,
    PassageForm,
    PlanForm,
    ReckoningForm,
    SectionForm,
    SheetForm,
    WorkingRowForm,
)
from redlantern.collection.values import Citation
from redlantern.reading.values import Box
from redlantern.reckoning.plan import Condition, Plan
from redlantern.retrieval.explain import Why
from redlantern.splitting.headings import Headings


def sheet_as_json(sheet: Sheet) -> dict[str, Any]:
    """Give the form documented in docs/sheet-json.md."""
    form = {
        "question": sheet.question,
        "standalone_question": sheet.standalone_question,
        "mended": sheet.mended,
        "searched_also": list(sheet.searched_also),
        "refused": sheet.refused,
        "refusal_reason": sheet.refusal_reason,
        "answer": wording.answer(sheet),
        "no_prose_reason": sheet.no_prose_reason,
        "outcome": sheet.outcome,
        "missing_words": list(sheet.missing_words),
        "unanswered": list(sheet.unanswered),
        "left_out": sheet.left_out,
        "claims": [_claim_json(claim) for claim in sheet.claims],
        "found_lines": [_line_json(line) for line in sheet.found_lines],
        "parts": [
            {
                "title": section.title,
                "lines": [_line_json(line) for line in section.lines],
                "claims": [_claim_json(claim) for claim in section.claims],
                "rows": section.rows,
            }
            for section in sheet.sections
        ],
        "draft": asdict(sheet.draft) if sheet.draft else None,
        "passages": [_passage_json(passage) for passage in sheet.passages],
        "disagreement": _disagreement_json(sheet.disagreement),
        "places": sheet.places,
        "reckoning": _reckoning_json(sheet.reckoning) if sheet.reckoning is not None else None,
        "evidence_score": round(sheet.evidence_score, 4),
        "weak": sheet.is_weak,
        "seconds": {name: _rounded(spent) for name, spent in asdict(sheet.seconds).items()},
        "tokens": {"read": sheet.n_prompt_tokens, "written": sheet.n_written_tokens},
        "method": sheet.method,
        "models": sheet.models,
        "given": [asdict(prompt) for prompt in sheet.given],
    }
    # Through the form that is published: what does not fit it is a bug of ours, and found at once.
    checked: dict[str, Any] = msgspec.to_builtins(msgspec.convert(form, SheetForm))
    return checked


def sheet_from_json(form: Mapping[str, Any], document_ids: Mapping[str, int]) -> Sheet:
    """Read a kept sheet back.

    Parameters
    ----------
    form : mapping
        What `sheet_as_json` gave.
    document_ids : mapping
        From a document's key and from its path to its present id; the key counts first. A citation of one that is gone
        gets 0.

    Raises
    ------
    msgspec.ValidationError
        If it is no sheet.
    """
    read = msgspec.convert(form, SheetForm)
    reader = _SheetReader(document_ids)
    common = Sheet(
        read.question,
        read.standalone_question,
        tuple(map(reader.evidence, read.passages)),
        read.mended,
        read.no_prose_reason,
        Seconds(read.seconds.search, read.seconds.first_line, read.seconds.first_word, read.seconds.total),
        read.method,
        read.models,
        read.tokens.read,
        read.tokens.written,
        read.evidence_score,
        draft=Draft(read.draft.kind, read.draft.to, read.draft.about) if read.draft else None,
        reckoning=reader.reckoning(read.reckoning),
        searched_also=tuple(read.searched_also),
        given=tuple(GivenPrompt(form.purpose, form.system, form.user, form.came) for form in read.given),
    )
    lines, claims = reader.lines(read.found_lines), reader.claims(read.claims)
    if read.refused:
        return made_into(RefusedSheet, common, refusal_reason=read.refusal_reason, found_lines=lines)
    if read.places:
        return made_into(PlacesSheet, common, found_lines=lines, places=read.places)
    if read.parts:
        sections = tuple(map(reader.section, read.parts))
        return made_into(SummarySheet, common, found_lines=lines, claims=claims, sections=sections)
    return made_into(
        AnsweredSheet, common, found_lines=lines, claims=claims, disagreement=reader.disagreement(read.disagreement),
        missing_words=tuple(read.missing_words), unanswered=tuple(read.unanswered), left_out=read.left_out,
    )  # fmt: skip


class _SheetReader:
    """Makes the values of a sheet from their forms."""

    def __init__(self, document_ids: Mapping[str, int]) -> None:
        self._ids = document_ids

    def citation(self, form: CitationForm) -> Citation:
        return Citation(
            self._ids.get(form.document_key, self._ids.get(form.path, 0)), form.call_mark, form.document, form.path,
            form.page, form.start, form.end, form.text, tuple(Box(*sides) for sides in form.boxes), form.document_key,
        )  # fmt: skip

    def lines(self, forms: list[LineForm]) -> tuple[FoundLine, ...]:
        return tuple(FoundLine(self.citation(form.citation), form.score) for form in forms)

    def claims(self, forms: list[ClaimForm]) -> tuple[Claim, ...]:
        return tuple(
            Claim(
                form.text, form.support, tuple(map(self.citation, form.citations)), form.doubt, tuple(form.absent),
                form.outside,
            )
            for form in forms
        )  # fmt: skip

    def section(self, form: SectionForm) -> SummarySection:
        return SummarySection(form.title, self.lines(form.lines), self.claims(form.claims), form.rows)

    def evidence(self, form: PassageForm) -> Evidence:
        scores, why = form.scores, form.why
        reasons = (
            None
            if why is None
            else Why(
                **{
                    **{name: getattr(why, name) for name in why.__struct_fields__},
                    "found": tuple((word, tuple(forms)) for word, forms in why.found),
                    "missing": tuple(why.missing),
                }
            )
        )
        return Evidence(
            form.rank, self.citation(form.citation), Headings.parse(form.heading), scores.words, scores.meaning, scores.fused, reasons,
            form.pinned,
        )  # fmt: skip

    def disagreement(self, form: DisagreementForm | None) -> Disagreement | None:
        if form is None:
            return None
        sides = tuple(Side(side.value, self.citation(side.citation), side.dated) for side in form.sides)
        return Disagreement(form.kind, sides)

    def working(self, forms: list[WorkingRowForm]) -> tuple[WorkingRow, ...]:
        return tuple(
            WorkingRow(
                tuple(self.citation(cell) if cell is not None else None for cell in form.cells),
                tuple(form.figures),
                form.reason,
                form.note,
            )
            for form in forms
        )

    def reckoning(self, form: ReckoningForm | None) -> Reckoning | None:
        if form is None:
            return None
        return Reckoning(
            form.answer, form.value, form.unit, form.plan_words, tuple(form.columns), self.working(form.rows), form.n_rows,
            self.working(form.left_out), form.n_unfit, tuple(form.doubts), form.check, self.plan(form.plan), form.label,
            form.is_borne_out,
        )  # fmt: skip

    def plan(self, form: PlanForm | None) -> Plan | None:
        if form is None:
            return None
        ids = [self._ids.get(table.document_key, self._ids.get(table.path, 0)) for table in form.tables]
        tables = tuple((document_id, table.table) for document_id, table in zip(ids, form.tables, strict=True))
        conditions = tuple(Condition(each.column, each.relation, tuple(each.values)) for each in form.conditions)
        return Plan(tables, form.operation, form.column, conditions, form.by, form.n, form.of, form.pick)


def relinked(sheet: Sheet, document_ids: Mapping[str, int]) -> Sheet:
    """Lead a sheet's citations to the documents that have their content now, or else lie at their place; see sheet_from_json."""

    def led(citation: Citation) -> Citation:
        document_id = document_ids.get(citation.document_key, document_ids.get(citation.path, 0))
        return citation if document_id == citation.document_id else replace(citation, document_id=document_id)

    def led_lines(lines: tuple[FoundLine, ...]) -> tuple[FoundLine, ...]:
        return tuple(replace(line, citation=led(line.citation)) for line in lines)

    def led_claims(claims: tuple[Claim, ...]) -> tuple[Claim, ...]:
        return tuple(replace(claim, citations=tuple(map(led, claim.citations))) for claim in claims)

    sheet = replace(
        sheet,
        passages=tuple(replace(passage, citation=led(passage.citation)) for passage in sheet.passages),
        reckoning=sheet.reckoning and _led_reckoning(sheet.reckoning, led),
    )
    match sheet:
        case AnsweredSheet():
            differing = sheet.disagreement and replace(
                sheet.disagreement,
                sides=tuple(replace(side, citation=led(side.citation)) for side in sheet.disagreement.sides),
            )
            lines, claims = led_lines(sheet.found_lines), led_claims(sheet.claims)
            return replace(sheet, found_lines=lines, claims=claims, disagreement=differing)
        case SummarySheet():
            sections = tuple(
                replace(section, lines=led_lines(section.lines), claims=led_claims(section.claims))
                for section in sheet.sections
            )
            lines, claims = led_lines(sheet.found_lines), led_claims(sheet.claims)
            return replace(sheet, found_lines=lines, claims=claims, sections=sections)
        case PlacesSheet():
            return replace(sheet, found_lines=led_lines(sheet.found_lines))
        case _:
            return sheet


def _led_reckoning(reckoning: Reckoning, led: Callable[[Citation], Citation]) -> Reckoning:
    """A reckoning with its cells and its plan's tables led to where they are now."""

    def led_rows(rows: tuple[WorkingRow, ...]) -> tuple[WorkingRow, ...]:
        return tuple(replace(row, cells=tuple(cell and led(cell) for cell in row.cells)) for row in rows)

    cells = [cell for row in reckoning.rows for cell in row.cells if cell is not None]
    moved = {cell.document_id: led(cell).document_id for cell in cells}
    plan = reckoning.plan
    if plan is not None:
        plan = replace(plan, tables=tuple((moved.get(key, key), number) for key, number in plan.tables))
    return replace(reckoning, rows=led_rows(reckoning.rows), left_out=led_rows(reckoning.left_out), plan=plan)


def _claim_json(claim: Claim) -> dict[str, Any]:
    return {
        "text": claim.text,
        "support": claim.support,
        "doubt": claim.doubt,
        "absent": list(claim.absent),
        "outside": claim.is_outside,
        "citations": [citation.as_json() for citation in claim.citations],
    }


def _line_json(line: FoundLine) -> dict[str, Any]:
    return {"text": line.citation.text, "citation": line.citation.as_json(), "score": round(line.score, 4)}


def _passage_json(passage: Evidence) -> dict[str, Any]:
    scores = {"words": passage.words, "meaning": passage.meaning, "fused": passage.fused}
    return {
        "rank": passage.rank,
        "document": passage.citation.title,
        "path": passage.citation.path,
        "page": passage.citation.page_number,
        "heading": passage.headings.printed,
        "text": passage.citation.text,
        "scores": {name: round(score, 5) for name, score in scores.items()},
        "why": _why_json(passage.why) if passage.why is not None else None,
        "pinned": passage.is_pinned,
        "citation": passage.citation.as_json(),
    }


def _why_json(why: Why) -> dict[str, Any]:
    # Two fields were called otherwise when sheets were first kept.
    names = {"max_sim": "echo", "proximity": "closeness"}
    return {names.get(name, name): value for name, value in asdict(why).items()}


def _disagreement_json(disagreement: Disagreement | None) -> dict[str, Any] | None:
    if disagreement is None:
        return None
    return {
        "kind": disagreement.kind,
        "sides": [
            {"value": side.value, "dated": side.dated, "citation": side.citation.as_json()}
            for side in disagreement.sides
        ],
    }


def _reckoning_json(reckoning: Reckoning) -> dict[str, Any]:
    return {
        "answer": reckoning.answer,
        "value": reckoning.value,
        "unit": reckoning.unit,
        "plan": _plan_json(reckoning) if reckoning.plan is not None else None,
        "plan_words": reckoning.plan_words,
        "label": reckoning.label,
        "columns": list(reckoning.columns),
        "cells": [cell.as_json() for cell in reckoning.cells],
        "rows": list(map(_working_json, reckoning.rows)),
        "n_rows": reckoning.n_rows,
        "left_out": list(map(_working_json, reckoning.left_out)),
        "n_unfit": reckoning.n_unfit,
        "doubts": list(reckoning.doubts),
        "check": reckoning.check,
        "is_borne_out": reckoning.is_borne_out,
    }


def _plan_json(reckoning: Reckoning) -> dict[str, Any] | None:
    """The plan as data; None where nothing was cited of one of its tables, by which its document could be found again."""
    plan = reckoning.plan
    assert plan is not None
    cited = {cell.document_id: cell for row in reckoning.rows for cell in row.cells if cell is not None}
    if not all(document_id in cited for document_id, _ in plan.tables):
        return None
    return {
        "tables": [
            {"document_key": cited[document_id].document_key, "path": cited[document_id].path, "table": number}
            for document_id, number in plan.tables
        ],
        "operation": plan.operation,
        "column": plan.column,
        "conditions": [
            {"column": condition.column, "relation": condition.relation, "values": list(condition.values)}
            for condition in plan.conditions
        ],
        "by": plan.by,
        "pick": plan.pick,
        "n": plan.n,
        "of": plan.of,
    }


def _working_json(row: WorkingRow) -> dict[str, Any]:
    cells = [cell.as_json() if cell is not None else None for cell in row.cells]
    return {"cells": cells, "figures": list(row.figures), "reason": row.reason, "note": row.note}


def _rounded(seconds: float | None) -> float | None:
    return None if seconds is None else round(seconds, 4)
