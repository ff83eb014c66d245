# SPDX-License-Identifier: GPL-3.0-or-later
"""What each step of finding does with a question: its passages ranked side by side, without an answer."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from redlantern.application.side_by_side import Tried, TriedPassage, try_ranking
from redlantern.collection.values import Citation
from redlantern.desktop.bridge import Task
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import column_area, section_label, words_label
from redlantern.desktop.widgets.rows import CitedRow, first_words
from redlantern.desktop.workspace import Workspace
from redlantern.text.listing import counted
from redlantern.translation import tr

_SHOWN_CHARS = 90
_INTRODUCTION = tr(
    "Put a question here to see what each step of finding does with it: which passages the words alone "
    "would bring, which the meaning alone, both together, and what looking at the best again changed. "
    "Nothing is answered or kept."
)
_WAYS = {
    tr("By words"): tr("how much of the question's words stand in it"),
    tr("By meaning"): tr("how near the passage is to the question in meaning"),
    tr("Both together"): tr("meaning of the passage and of its best line, and the words"),
    tr("Looked at again"): tr("the best compared word by word; this is the order of the evidence"),
}


class RankedRow(CitedRow):
    """A passage in one ranking: its place, the call-mark, how it moved, and its first words."""

    def __init__(self, rank: int, tried: TriedPassage, moved: str) -> None:
        super().__init__(
            Citation(
                tried.document_id,
                "",
                "",
                "",
                tried.page_number,
                tried.span[0],
                tried.span[1],
                tried.words,
                (),
            )
        )
        self.passage = tried
        top = QHBoxLayout()
        top.setSpacing(6)
        number = QLabel(str(rank))
        number.setObjectName("quiet")
        number.setFixedWidth(20)
        mark = QLabel(tried.mark)
        mark.setFont(theme.voice(theme.SANS, scale=0.88, weight=theme.BOLD))
        change = QLabel(moved)
        change.setObjectName("quiet")
        change.setFont(theme.voice(theme.SANS, scale=0.82))
        top.addWidget(number)
        top.addWidget(mark)
        top.addStretch(1)
        top.addWidget(change)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 5, 8, 6)
        layout.setSpacing(2)
        layout.addLayout(top)
        words = words_label(first_words(tried.headings, tried.words, _SHOWN_CHARS), family=theme.SERIF, scale=0.86)
        words.setContentsMargins(26, 0, 0, 0)
        layout.addWidget(words)
        self.setAccessibleName(
            f"{rank}, {tried.mark}, {moved or tr('not moved')}: {first_words(tried.headings, tried.words, _SHOWN_CHARS)}"
        )
        self.setToolTip(tr("score {score:.3f}").format(score=tried.score))


class StepsView(QWidget):
    """The view. A chosen passage is lit in every column that has it; chosen again, its page is opened on the desk."""

    page_wanted = pyqtSignal(object)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.tried: Tried | None = None
        self.rows: list[list[RankedRow]] = []
        self._task: Task | None = None
        self.notice = words_label("", family=theme.SANS, scale=0.95, name="quiet")
        self.notice.setContentsMargins(24, 0, 24, 4)
        self._scroll = column_area()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.notice)
        layout.addWidget(self._scroll, 1)
        self._show_introduction()

    def try_question(self, text: str) -> None:
        """Rank for a question."""
        session = self.workspace.session
        if session is None:
            return
        self.notice.setText(tr("Ranking ..."))
        engine, scope = session.engine, self.workspace.scope
        self._task = self.workspace.run(
            lambda _: try_ranking(engine, text, scope), finished=self._on_tried, failed=self._on_failed
        )

    def _on_tried(self, tried: Tried) -> None:
        self.tried = tried
        scope = self.workspace.scope
        said = [
            tr("“{typed}” searched as “{form}”").format(typed=typed, form=form) for typed, form in tried.mended.items()
        ]
        said.append(
            tr("All documents in scope")
            if scope is None
            else tr("{document} in scope").format(document=counted(len(scope), "document"))
        )
        said.append(tr("Click or Enter lights a passage in every column; once more opens its page on the desk"))
        self.notice.setText(". ".join(said) + ".")
        body = QWidget()
        columns = QHBoxLayout(body)
        columns.setContentsMargins(14, 6, 14, 16)
        columns.setSpacing(10)
        self.rows = []
        before: dict[int, int] = {}
        for number, (title, passages) in enumerate(tried.columns):
            # The last two are compared with the column at their left: that is the step that they take.
            columns.addLayout(self._column(title, passages, before if number >= 3 else None), 1)
            before = {passage.passage_id: rank for rank, passage in enumerate(passages, start=1)}
        self._scroll.setWidget(body)
        if not any(self.rows):
            self.notice.setText(tr("No passage in scope has anything to do with this question."))

    def _column(self, title: str, passages: tuple[TriedPassage, ...], before: dict[int, int] | None) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(4)
        column.addWidget(section_label(title.upper()))
        explained = words_label(_WAYS[title], family=theme.SANS, scale=0.85, name="quiet")
        explained.setFixedHeight(explained.fontMetrics().lineSpacing() * 2 + 2)
        explained.setAlignment(Qt.AlignmentFlag.AlignTop)
        column.addWidget(explained)
        rows = []
        for rank, passage in enumerate(passages, start=1):
            row = RankedRow(rank, passage, _moved(before, passage.passage_id, rank))
            row.chosen.connect(self._on_chosen)
            row.step_wanted.connect(self._on_step)
            column.addWidget(row)
            rows.append(row)
        if not rows:
            column.addWidget(words_label(tr("none"), family=theme.SANS, name="quiet"))
        column.addStretch(1)
        self.rows.append(rows)
        return column

    def _on_chosen(self, row: RankedRow) -> None:
        if row._is_chosen:
            self.page_wanted.emit(row.citation)
        for ranked_row in (row for rows in self.rows for row in rows):
            ranked_row.set_chosen(ranked_row.passage.passage_id == row.passage.passage_id)

    def _on_step(self, by: int) -> None:
        focused = self.focusWidget()
        for rows in self.rows:
            if focused in rows:
                at = rows.index(focused) + by  # type: ignore[arg-type]
                if 0 <= at < len(rows):
                    rows[at].setFocus()
                    self._scroll.ensureWidgetVisible(rows[at], 0, 40)

    def _on_failed(self, reason: str) -> None:
        self.notice.setText(reason)

    def _show_introduction(self) -> None:
        body = QWidget()
        box = QVBoxLayout(body)
        box.setContentsMargins(24, 20, 24, 20)
        words = words_label(_INTRODUCTION, family=theme.SANS, scale=1.05)
        words.setMaximumWidth(720)
        box.addWidget(words)
        box.addStretch(1)
        self._scroll.setWidget(body)


def _moved(before: dict[int, int] | None, passage_id: int, rank: int) -> str:
    if before is None:
        return ""
    was = before.get(passage_id)
    if was is None:
        return tr("new")
    return (
        ""
        if was == rank
        else tr("up from {was}").format(was=was)
        if was > rank
        else tr("down from {was}").format(was=was)
    )
