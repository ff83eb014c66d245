# SPDX-License-Identifier: GPL-3.0-or-later
"""The trials that a collection keeps: sets of questions, runs, and the answers of each run."""

import json
from collections.abc import Callable, Collection
from dataclasses import dataclass
from typing import Any

from redlantern.collection.file import CollectionFile
from redlantern.collection.kept_sheets import strip_sheet
from redlantern.collection.numbered_facts import NumberedFacts
from redlantern.safety.names import storable

_COLUMNS = "lane, question_id, answered_at, figures, words"


@dataclass(frozen=True)
class KeptCell:
    """An answer of a run as it is kept: its figures as plain values, and what a person put in its place."""

    lane_id: str
    question_id: str
    answered_at: str
    figures: dict[str, Any]
    words: str = ""


class KeptTrials:
    """The question sets and runs of one collection. Every answer is there whole or not at all, whenever the process ends."""

    def __init__(self, file: CollectionFile) -> None:
        self._file = file
        self._sets, self._runs = NumberedFacts(file, "question set "), NumberedFacts(file, "asked run ")

    def keep_set(self, values: dict[str, Any], set_id: int = 0) -> int:
        """Keep a set of questions, a new one or in place of the one of this id; gives its id."""
        return self._sets.keep(values, set_id)

    def sets(self) -> dict[int, dict[str, Any]]:
        """Give all sets by id, oldest first."""
        return self._sets.all()

    def delete_set(self, set_id: int) -> None:
        """Forget a set; its runs stay."""
        self._sets.drop(set_id)

    def keep_run(self, values: dict[str, Any], run_id: int = 0) -> int:
        """Keep what a run is, a new one or in place of the one of this id; gives its id."""
        return self._runs.keep(values, run_id)

    def runs(self) -> dict[int, dict[str, Any]]:
        """Give all runs by id, oldest first."""
        return self._runs.all()

    def has_run(self, run_id: int) -> bool:
        """Whether a run is still kept."""
        return self._runs.has(run_id)

    def delete_run(self, run_id: int) -> None:
        """Forget a run with all its answers."""
        with self._file.writing() as connection:
            connection.execute("DELETE FROM cells WHERE run_id = ?", (run_id,))
            self._runs.drop(run_id)

    def keep_cell(self, run_id: int, cell: KeptCell, sheet: dict[str, Any]) -> None:
        """Keep an answer with its sheet; nothing for a run that was deleted meanwhile."""
        values = (run_id, cell.lane_id, cell.question_id, cell.answered_at, json.dumps(cell.figures), cell.words)
        with self._file.writing() as connection:
            if self.has_run(run_id):
                connection.execute(
                    "INSERT OR REPLACE INTO cells VALUES (?, ?, ?, ?, ?, ?, ?)", (*values, json.dumps(sheet))
                )

    def cells(self, run_id: int) -> list[KeptCell]:
        """Give every answer of a run that there is, without its sheet."""
        rows = self._file.rows(f"SELECT {_COLUMNS} FROM cells WHERE run_id = ?", run_id)
        return [KeptCell(row[0], row[1], row[2], json.loads(row[3]), row[4]) for row in rows]

    def answered(self, run_id: int) -> set[tuple[str, str]]:
        """Which answers there are: lane and question."""
        rows = self._file.rows("SELECT lane, question_id FROM cells WHERE run_id = ?", run_id)
        return {(row[0], row[1]) for row in rows}

    def sheet(self, run_id: int, lane_id: str, question_id: str) -> dict[str, Any] | None:
        """The sheet of an answer; None where there is none."""
        row = self._file.row(
            "SELECT sheet FROM cells WHERE run_id = ? AND lane = ? AND question_id = ?", run_id, lane_id, question_id
        )
        return dict(json.loads(row[0])) if row else None

    def put_words(self, run_id: int, lane_id: str, question_id: str, words: str) -> None:
        """Keep what a person puts in an answer's place; empty to take it back."""
        with self._file.writing() as connection:
            connection.execute(
                "UPDATE cells SET words = ? WHERE run_id = ? AND lane = ? AND question_id = ?",
                (storable(words), run_id, lane_id, question_id),
            )

    def keep_figures(self, run_id: int, figures: dict[tuple[str, str], dict[str, Any]]) -> None:
        """Keep other figures for some answers, by lane and question: what is expected was changed."""
        with self._file.writing() as connection:
            connection.executemany(
                "UPDATE cells SET figures = ? WHERE run_id = ? AND lane = ? AND question_id = ?",
                [(json.dumps(values), run_id, *at) for at, values in figures.items()],
            )

    def forget(self, keys: Collection[str], paths: Collection[str], is_erased: Callable[[dict[str, Any]], bool]) -> int:
        """Take out every word of documents that are erased; gives how many answers and questions had some.

        A question of such a page keeps its own words, without what was expected of it; a grid's lane of such a document goes.
        """
        n_changed = 0
        with self._file.writing() as connection:
            for values, keep in self._everything():
                n = _strip_questions(values, keys, paths)
                lanes = values.get("lanes", [])
                kept_lanes = [
                    lane for lane in lanes if lane.get("document_key") not in keys or not lane["document_key"]
                ]
                if n or len(kept_lanes) < len(lanes):
                    keep(values | ({"lanes": kept_lanes} if lanes else {}))
                n_changed += n
            for key in keys:
                n_changed += connection.execute("DELETE FROM cells WHERE lane = ?", (key,)).rowcount
            for run_id, lane, question_id, figures, sheet_text in self._file.rows(
                "SELECT run_id, lane, question_id, figures, sheet FROM cells"
            ):
                sheet = json.loads(sheet_text)
                if strip_sheet(sheet, is_erased):
                    n_changed += 1
                    blank = json.dumps(json.loads(figures) | {"said": {}})
                    connection.execute(
                        "UPDATE cells SET figures = ?, words = '', sheet = ? WHERE run_id = ? AND lane = ? AND question_id = ?",
                        (blank, json.dumps(sheet), run_id, lane, question_id),
                    )
        return n_changed

    def hold_words_of(self, keys: Collection[str]) -> bool:
        """Whether any answer, or what is expected of a question, is of documents with these keys."""
        texts = [row[0] for row in self._file.rows("SELECT sheet FROM cells")]
        lanes = {row[0] for row in self._file.rows("SELECT DISTINCT lane FROM cells")}
        right = {
            page.get("key") for values, _ in self._everything() for question in values["questions"]
            for page in question.get("right", ())
        }  # fmt: skip
        cited = any(f'"document_key": "{key}"' in text for key in keys for text in texts)
        return cited or not (right | lanes).isdisjoint(keys)

    def _everything(self) -> list[tuple[dict[str, Any], Callable[[dict[str, Any]], object]]]:
        """Every set and every run with what keeps it changed."""
        sets = [(values, lambda new, at=at: self.keep_set(new, at)) for at, values in self.sets().items()]
        runs = [(values, lambda new, at=at: self.keep_run(new, at)) for at, values in self.runs().items()]
        return [*sets, *runs]


def _strip_questions(values: dict[str, Any], keys: Collection[str], paths: Collection[str]) -> int:
    """Take pages of erased documents out of questions, and the words that were expected from them; gives how many had some."""
    n_changed = 0
    for question in values["questions"]:
        right = question.get("right", [])
        left = [page for page in right if page.get("key") not in keys and page["path"] not in paths]
        if len(left) < len(right):
            # The words may stand on that page alone.
            question.update(right=left, expected=[])
            n_changed += 1
    return n_changed
