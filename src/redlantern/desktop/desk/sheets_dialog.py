# SPDX-License-Identifier: GPL-3.0-or-later
"""All sheets of the collection: searched, by thread, with names and stars; opened, asked again, deleted."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QInputDialog,
    QLabel,
    QLineEdit,
    QMessageBox,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from redlantern.application.sheets import ListedSheet, often_asked
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import clear, quiet_button, words_label
from redlantern.safety.names import visible
from redlantern.text.listing import counted
from redlantern.translation import tr

_OPEN, _AGAIN = tr("Open"), tr("Ask again")
_STAR, _NO_STAR = "★", "☆"
_HINT = tr("Enter opens    F2 names    Space stars    Del deletes")
_WHEN_CHARS = 16


class SheetsDialog(QDialog):
    """The list, the latest first. What is wished is told by signals, by the numbers that the collection knows the sheets by."""

    open_wanted = pyqtSignal(int)
    name_wanted = pyqtSignal(int, str)
    star_wanted = pyqtSignal(int, bool)
    delete_wanted = pyqtSignal(object)
    ask_wanted = pyqtSignal(str)

    def __init__(self, listed: Sequence[ListedSheet], *, can_change: bool, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Sheets"))
        self.resize(920, 600)
        self._listed, self._can_change = list(listed), can_change
        self.filter, self.list, self._count = QLineEdit(), QTreeWidget(), QLabel("")
        self._often = QHBoxLayout()
        self.buttons: dict[str, QPushButton] = {}
        self._acts: dict[Qt.Key, Callable[[], None]] = {}
        self._build()
        self.show_sheets(listed)

    @property
    def chosen(self) -> ListedSheet | None:
        """The sheet that the keys are about."""
        item = self.list.currentItem()
        number = item.data(0, Qt.ItemDataRole.UserRole) if item is not None else None
        return next((each for each in self._listed if each.sheet_id == number), None)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """The list's keys, before it takes them for its own."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            act = self._acts.get(Qt.Key(event.key()))
            if act is not None:
                act()
                return True
        return super().eventFilter(watched, event)

    def show_sheets(self, listed: Sequence[ListedSheet]) -> None:
        """Show these, in place of those before; the chosen one stays chosen."""
        self._listed = list(listed)
        clear(self._often)
        asked = often_asked(listed)
        if asked:
            label = QLabel(tr("Asked often:"))
            label.setObjectName("quiet")
            self._often.addWidget(label)
        for question in asked:
            button = quiet_button(visible(question)[:60], tr("Ask this again"))
            button.clicked.connect(lambda _, question=question: self._ask(question))
            self._often.addWidget(button)
        self._often.addStretch(1)
        self._fill()

    def _fill(self) -> None:
        before = self.chosen
        wanted = self.filter.text().casefold().split()
        shown = [each for each in reversed(self._listed) if each.has(wanted)]
        sizes: dict[int, int] = {}
        for each in self._listed:
            sizes[each.thread] = sizes.get(each.thread, 0) + 1
        self.list.clear()
        for each in shown:
            begins = sizes[each.thread] > 1 and each.thread != each.sheet_id
            words = visible(each.name or each.question)
            item = QTreeWidgetItem(
                [
                    _STAR if each.is_starred else _NO_STAR, f"↳ {words}" if begins else words, each.outcome,
                    ", ".join(each.cited[:4]), each.asked_at[:_WHEN_CHARS].replace("T", " "),
                ]
            )  # fmt: skip
            item.setToolTip(1, visible(each.question))
            item.setToolTip(3, "\n".join(map(visible, each.titles)))
            item.setData(0, Qt.ItemDataRole.UserRole, each.sheet_id)
            item.setData(
                0, Qt.ItemDataRole.AccessibleTextRole, tr("with a star") if each.is_starred else tr("without a star")
            )
            if not each.cited:
                item.setData(3, Qt.ItemDataRole.AccessibleTextRole, tr("nothing cited"))
            self.list.addTopLevelItem(item)
            if before is not None and each.sheet_id == before.sheet_id:
                self.list.setCurrentItem(item)
        if self.list.currentItem() is None:
            self.list.setCurrentItem(self.list.topLevelItem(0))
        threads = len({each.thread for each in shown})
        self._count.setText(
            tr("{sheet} in {thread}").format(sheet=counted(len(shown), "sheet"), thread=counted(threads, "thread"))
        )
        self._show_state()

    def _show_state(self) -> None:
        is_any = self.chosen is not None
        for name, button in self.buttons.items():
            button.setEnabled(is_any and (self._can_change or name in (_OPEN, _AGAIN)))

    def _ask(self, question: str) -> None:
        self.accept()
        self.ask_wanted.emit(question)

    def _on_open(self) -> None:
        if self.chosen is not None:
            number = self.chosen.sheet_id
            self.accept()
            self.open_wanted.emit(number)

    def _on_again(self) -> None:
        if self.chosen is not None:
            self._ask(self.chosen.question)

    def _on_name(self) -> None:
        each = self.chosen
        if each is not None and self._can_change:
            name, is_given = QInputDialog.getText(
                self,
                tr("Name of this sheet"),
                tr("{question}\n\nA name of your own; none for the question itself:").format(
                    question=visible(each.question)
                ),
                text=each.name,
            )
            if is_given:
                self.name_wanted.emit(each.sheet_id, name)

    def _on_star(self) -> None:
        if self.chosen is not None and self._can_change:
            self.star_wanted.emit(self.chosen.sheet_id, not self.chosen.is_starred)

    def _on_delete(self) -> None:
        each = self.chosen
        if each is None or not self._can_change:
            return
        of_thread = [other.sheet_id for other in self._listed if other.thread == each.thread]
        box = QMessageBox(self)
        box.setWindowTitle(tr("Delete this sheet?"))
        box.setText(tr("Delete this sheet?"))
        box.setInformativeText(
            tr(
                "{question}\n\nIt goes for good, with its answer. What was gathered from it into a brief stays; the "
                "journal keeps that it was asked."
            ).format(question=visible(each.question))
        )
        only = box.addButton(tr("Delete it"), QMessageBox.ButtonRole.DestructiveRole)
        whole = box.addButton(
            tr("Delete its thread ({n_of_thread})").format(n_of_thread=len(of_thread)),
            QMessageBox.ButtonRole.DestructiveRole,
        )
        if whole is not None:
            whole.setVisible(len(of_thread) > 1)
        box.setDefaultButton(box.addButton(tr("Leave it"), QMessageBox.ButtonRole.RejectRole))
        box.exec()
        if box.clickedButton() is only:
            self.delete_wanted.emit([each.sheet_id])
        elif box.clickedButton() is whole:
            self.delete_wanted.emit(of_thread)

    def _build(self) -> None:
        self.filter.setObjectName("question")
        self.filter.setPlaceholderText(tr("Show only sheets with these words: of the question, a document, a date ..."))
        self.filter.setAccessibleName(tr("Words of sheets"))
        self.filter.setClearButtonEnabled(True)
        self.filter.textChanged.connect(lambda _: self._fill())
        self._count.setObjectName("quiet")
        self.list.setHeaderLabels(["", tr("Question"), tr("Outcome"), tr("Cites"), tr("Asked")])
        self.list.installEventFilter(self)
        self.list.setRootIsDecorated(False)
        self.list.setUniformRowHeights(True)
        self.list.setAccessibleName(tr("Sheets, the latest first"))
        self.list.itemActivated.connect(lambda *_: self._on_open())
        self.list.currentItemChanged.connect(lambda *_: self._show_state())
        header = self.list.header()
        assert header is not None
        header.setStretchLastSection(False)
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        for column, width in ((0, 30), (2, 130), (3, 150), (4, 130)):
            header.resizeSection(column, theme.px(width))
        row = QHBoxLayout()
        acts: tuple[tuple[str, Qt.Key | None, Callable[[], None]], ...] = (
            (_OPEN, None, self._on_open), (_AGAIN, None, self._on_again), (tr("Name ..."), Qt.Key.Key_F2, self._on_name),
            (tr("Star"), Qt.Key.Key_Space, self._on_star), (tr("Delete ..."), Qt.Key.Key_Delete, self._on_delete),
        )  # fmt: skip
        for name, key, act in acts:
            button = self.buttons[name] = QPushButton(name)
            button.setAutoDefault(False)
            button.clicked.connect(lambda _, act=act: act())
            row.addWidget(button)
            if key is not None:
                self._acts[key] = act
        row.addStretch(1)
        hint = words_label(_HINT, family=theme.SANS, scale=0.9, name="quiet")
        hint.setWordWrap(False)
        row.addWidget(hint)
        top = QHBoxLayout()
        top.addWidget(self.filter, 1)
        top.addWidget(self._count)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(18, 14, 18, 14)
        layout.addLayout(top)
        layout.addLayout(self._often)
        layout.addWidget(self.list, 1)
        layout.addLayout(row)
