# SPDX-License-Identifier: GPL-3.0-or-later
"""Files of questions: JSONL, CSV or plain lines, and the rows of a workbook, to questions of a set."""

import csv
import io
import json
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from redlantern.errors import RedlanternError
from redlantern.safety.names import storable
from redlantern.translation import tr
from redlantern.trials.values import RightPage, TrialQuestion

ABSENT_KINDS = ("off subject", "near")
"""Kinds of question that say by themselves that the documents do not answer."""
_MANY = ";"
MOST_BYTES = 20_000_000


class QuestionFileError(RedlanternError):
    """A file of questions cannot be understood."""

    def __init__(self, name: str, reason: str) -> None:
        super().__init__(name, reason)
        self.name, self.reason = name, reason

    def __str__(self) -> str:
        return tr("The questions in “{name}” cannot be taken over: {reason}. Nothing was changed.").format(
            name=self.name, reason=self.reason
        )


def read_questions(name: str, content: bytes) -> list[TrialQuestion]:
    """The questions of a file, by the ending of its name: .jsonl, .csv, and one a line for everything else.

    Columns and members: `question`; and where there are any `id`, `history`, `expected` (words of which any is to be said),
    `page` (as `path:number`; in JSONL `right`, a list of `{"file", "page"}`), `absent`, `kind` or `tags`. Several in one cell are
    parted by semicolons.

    Raises
    ------
    QuestionFileError
    """
    if len(content) > MOST_BYTES:
        raise QuestionFileError(name, f"it is larger than {MOST_BYTES // 1_000_000} MB")
    ending = Path(name).suffix.casefold()
    readers: dict[str, Callable[[str, bytes], list[dict[str, Any]]]] = {
        ".jsonl": _from_jsonl, ".csv": _from_csv,
    }  # fmt: skip
    return _questions(name, readers.get(ending, _from_lines)(name, content))


def questions_of_table(name: str, rows: list[list[str]]) -> list[TrialQuestion]:
    """The questions of a table, such as a workbook's first sheet; see read_questions.

    Raises
    ------
    QuestionFileError
    """
    return _questions(name, _from_table(rows))


def _questions(name: str, rows: list[dict[str, Any]]) -> list[TrialQuestion]:
    questions = [question_of(row, number, name) for number, row in enumerate(rows, start=1)]
    if not questions:
        raise QuestionFileError(name, "there is no question in it")
    seen: set[str] = set()
    for question in questions:
        if question.question_id in seen:
            raise QuestionFileError(name, f"two questions have the id {question.question_id}")
        seen.add(question.question_id)
    return questions


def question_of(row: dict[str, Any], number: int, name: str = "") -> TrialQuestion:
    """One question from plain values; `number` is its place in the file, and its id where it has none.

    Raises
    ------
    QuestionFileError
    """
    text = row.get("question")
    if not isinstance(text, str) or not text.strip():
        raise QuestionFileError(name, f"row {number} has no question")
    kind = str(row.get("kind") or "").strip()
    right = _right_pages(row, number, name)
    expected = _several(row.get("expected"))
    says_absent = str(row.get("absent") or "").strip().casefold() in ("1", "true", "yes", "x")
    is_absent = says_absent or (kind in ABSENT_KINDS and not right)
    tags = [*([kind] if kind else []), *_several(row.get("tags"))]
    return TrialQuestion(
        question_id=storable(str(row.get("id") or number)),
        question=storable(text.strip()),
        history=tuple(_several(row.get("history"))),
        expected=tuple(expected),
        right=tuple(right),
        is_absent=is_absent,
        wants_all=kind == "several",
        tags=tuple(dict.fromkeys(tags)),
        is_proposed=bool(row.get("proposed")),
    )


def as_rows(questions: Iterable[TrialQuestion]) -> list[dict[str, Any]]:
    """Questions as the rows of a JSONL file, which `question_of` reads back."""
    return [
        {
            "id": question.question_id,
            "question": question.question,
            "history": list(question.history),
            "expected": list(question.expected),
            "right": [
                {"file": page.path, "page": page.page_number}
                | ({"key": page.key} if page.key else {})
                | ({"pooled": True} if page.is_pooled else {})
                for page in question.right
            ],
            "absent": question.is_absent,
            "tags": list(question.tags),
        }
        | ({"proposed": True} if question.is_proposed else {})
        for question in questions
    ]


def _right_pages(row: dict[str, Any], number: int, name: str) -> list[RightPage]:
    places = row.get("right") or []
    if not isinstance(places, list):
        raise QuestionFileError(name, f"“right” of row {number} is no list of pages")
    try:
        found = [
            RightPage(
                str(place["file"]), int(place["page"]), str(place.get("key", "")), bool(place.get("pooled", False))
            )
            for place in places
        ]
        for cell in _several(row.get("page")) if not places else []:
            path, _, page = cell.rpartition(":")
            found.append(RightPage(path.strip(), int(page)))
    except (KeyError, TypeError, ValueError, AttributeError) as failure:
        raise QuestionFileError(name, f"a page of row {number} is not given as a path and a number") from failure
    return found


def _several(value: object) -> list[str]:
    parts = value if isinstance(value, list) else str(value).split(_MANY) if value is not None else []
    return [storable(str(part).strip()) for part in parts if str(part).strip()]


def _decoded(name: str, content: bytes) -> str:
    try:
        return content.decode("utf-8-sig")
    except UnicodeDecodeError as failure:
        raise QuestionFileError(name, "it is not UTF-8") from failure


def _from_lines(name: str, content: bytes) -> list[dict[str, Any]]:
    return [{"question": line} for line in _decoded(name, content).splitlines() if line.strip()]


def _from_jsonl(name: str, content: bytes) -> list[dict[str, Any]]:
    rows = []
    for number, line in enumerate(_decoded(name, content).splitlines(), start=1):
        if not line.strip():
            continue
        try:
            row = json.loads(line)
        except (ValueError, RecursionError) as failure:
            raise QuestionFileError(name, f"line {number} is not JSON") from failure
        if not isinstance(row, dict):
            raise QuestionFileError(name, f"line {number} is no object")
        rows.append(row)
    return rows


def _from_csv(name: str, content: bytes) -> list[dict[str, Any]]:
    text = _decoded(name, content)
    try:
        dialect = csv.Sniffer().sniff(text[:4096], delimiters=",;\t")
    except csv.Error:
        dialect = csv.excel  # type: ignore[assignment]
    try:
        return _from_table(list(csv.reader(io.StringIO(text, newline=""), dialect)))
    except csv.Error as failure:
        raise QuestionFileError(name, "it is no table") from failure


def _from_table(rows: list[list[str]]) -> list[dict[str, Any]]:
    """Rows under names; without a column that is named `question` the first one is."""
    rows = [row for row in rows if any(cell.strip() for cell in row)]
    if not rows:
        return []
    names = [cell.strip().casefold() for cell in rows[0]]
    if "question" in names:
        return [dict(zip(names, row, strict=False)) for row in rows[1:]]
    return [{"question": row[0]} for row in rows if row[0].strip()]
