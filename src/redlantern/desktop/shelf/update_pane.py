# SPDX-License-Identifier: GPL-3.0-or-later
"""What an update would do, shown before it is done."""

from pathlib import Path, PurePosixPath

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from redlantern.collection.values import Document
from redlantern.desktop.updates import NOT_WATCHED, TELLS, UPDATES
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.amounts import duration_words
from redlantern.desktop.widgets.labels import name_choice, words_label
from redlantern.indexing.plan import UpdatePlan
from redlantern.safety.names import visible
from redlantern.text.listing import counted
from redlantern.translation import tr, trn

_WATCHING = (
    (NOT_WATCHED, tr("Look only when I ask")),
    (TELLS, tr("Watch the folders and tell me")),
    (UPDATES, tr("Watch the folders and update by itself")),
)
_MOST_OPEN = 12
_FOLLOWED = tr("Followed: looked at by every update")


class UpdatePane(QWidget):
    """The plan in groups, each with its files; what is to be done first, what stays as it is last."""

    agreed = pyqtSignal(object)
    closed = pyqtSignal()
    watching_chosen = pyqtSignal(str)
    unfollow_wanted = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.plan: UpdatePlan | None = None
        self._title = words_label("", family=theme.SANS, scale=1.5)
        self._title.setFont(theme.voice(theme.SANS, scale=1.5, weight=theme.BOLD))
        self._words = words_label("", family=theme.SANS, scale=1.05, name="quiet")
        self.tree = _plan_tree()
        self.agree_button, self.close_button = QPushButton(tr("Update")), QPushButton(tr("Not now"))
        self.agree_button.setObjectName("first")
        self.close_button.setObjectName("other")
        self.watching = QComboBox()
        name_choice(self.watching, tr("How the folders are watched"))
        for value, words in _WATCHING:
            self.watching.addItem(words, value)
        label = QLabel(tr("From now &on:"))
        label.setBuddy(self.watching)
        row = QHBoxLayout()
        row.addWidget(label)
        row.addWidget(self.watching)
        self.unfollow_button = QPushButton(tr("Stop following"))
        self.unfollow_button.setObjectName("quiet")
        self.unfollow_button.setToolTip(
            tr("Look at the chosen folder no longer; its documents stay. Adding it again follows it again.")
        )
        row.addWidget(self.unfollow_button)
        row.addStretch(1)
        row.addWidget(self.close_button)
        row.addWidget(self.agree_button)
        box = QVBoxLayout(self)
        box.setContentsMargins(28, 20, 28, 18)
        box.setSpacing(9)
        box.addWidget(self._title)
        box.addWidget(self._words)
        box.addWidget(self.tree, 1)
        box.addLayout(row)
        self.agree_button.clicked.connect(self._on_agreed)
        self.close_button.clicked.connect(self.closed)
        self.unfollow_button.clicked.connect(self._on_unfollow)
        self.tree.currentItemChanged.connect(lambda *_: self._show_unfollow())
        self.watching.activated.connect(lambda _: self.watching_chosen.emit(self.watching.currentData()))

    def show_plan(self, plan: UpdatePlan, seconds: float, documents: list[Document], watching: str) -> None:
        """Show a plan; nothing has been done yet."""
        self.plan = plan
        self.tree.clear()
        reasons = {document.full_path: document.reason for document in documents if document.is_refused}
        titles = {document.document_id: document for document in documents}
        self._add_group(tr("New"), [(path, "") for path in plan.new])
        self._add_group(
            tr("Changed: read again, in place of what was read before"), [(path, "") for path in plan.changed]
        )
        self._add_group(
            tr("Moved: kept as read, under the new place"),
            [(source.full_path, tr("was {was}").format(was=_was(titles, known))) for source, known in plan.moved]
        )  # fmt: skip
        self._add_group(
            tr("Gone from the folders: taken out"), [(path, "") for path in sorted(set(plan.gone) - plan.moved_from)]
        )
        self._add_group(
            tr("Made anew: read by an earlier version of the reader"), [(path, "") for path in sorted(plan.read_anew)]
        )  # fmt: skip
        remade = [
            (titles[document_id].full_path, counted(n, "passage"))
            for document_id, n in plan.to_remake
            if document_id in titles
        ]
        self._add_group(tr("Made anew from the kept pages: other embedding model or splitting"), remade)
        self._add_group(
            tr("Folders that are not there: their documents are left as they are"),
            [(path, "") for path in plan.not_there],
        )
        self._add_group(
            tr("Refused before, and unchanged"), [(path, reasons.get(path, "")) for path in plan.refused_before]
        )
        self._add_group(_FOLLOWED, [(path, "") for path in plan.looked_at])
        self._show_words(plan, seconds)
        self._show_unfollow()
        self.watching.setCurrentIndex(max(0, self.watching.findData(watching)))
        self.agree_button.setVisible(plan.has_work)
        self.close_button.setText(tr("Not now") if plan.has_work else tr("Close"))
        (self.agree_button if plan.has_work else self.close_button).setFocus()

    def _show_words(self, plan: UpdatePlan, seconds: float) -> None:
        unchanged = trn("{n} file is as when it was read.", "{n} files are as when they were read.", plan.n_unchanged)
        if plan.has_work:
            self._title.setText(tr("What an update would do"))
            self._words.setText(
                tr(
                    "About {duration_words}, in the background; questions work on what is there until then. Nothing has "
                    "been changed yet. {unchanged}"
                ).format(duration_words=duration_words(seconds), unchanged=unchanged)
            )
        else:
            self._title.setText(tr("Everything is up to date"))
            self._words.setText(tr("An update would change nothing. {unchanged}").format(unchanged=unchanged))

    def _add_group(self, name: str, rows: list[tuple[str, str]]) -> None:
        if not rows:
            return
        top = QTreeWidgetItem([f"{name}   {len(rows)}", "", ""])
        top.setFont(0, theme.voice(theme.SANS, scale=0.98, weight=theme.BOLD))
        top.setFirstColumnSpanned(True)
        self.tree.addTopLevelItem(top)
        top.setFirstColumnSpanned(True)
        for path, why in rows:
            place = PurePosixPath(visible(path))
            item = QTreeWidgetItem([place.name, str(place.parent), visible(why)])
            item.setFont(0, theme.voice(theme.SERIF, scale=0.95))
            for column in range(3):
                item.setToolTip(column, visible(why if column == 2 else path))
            top.addChild(item)
        top.setExpanded(len(rows) <= _MOST_OPEN)

    def _followed(self) -> str:
        """The followed folder that is chosen in the tree, if one is."""
        item = self.tree.currentItem()
        top = item.parent() if item is not None else None
        if item is None or top is None or not top.text(0).startswith(_FOLLOWED):
            return ""
        return str(Path(item.text(1)) / item.text(0))

    def _show_unfollow(self) -> None:
        self.unfollow_button.setEnabled(bool(self._followed()))

    def _on_unfollow(self) -> None:
        if self._followed():
            self.unfollow_wanted.emit(self._followed())

    def _on_agreed(self) -> None:
        if self.plan is not None:
            self.agreed.emit(self.plan)


def _was(titles: dict[int, Document], document_id: int) -> str:
    return titles[document_id].full_path if document_id in titles else ""


def _plan_tree() -> QTreeWidget:
    tree = QTreeWidget()
    tree.setColumnCount(3)
    tree.setHeaderLabels([tr("What"), tr("Where"), tr("Why")])
    tree.setAccessibleName(tr("What the update would do"))
    tree.setUniformRowHeights(True)
    tree.setRootIsDecorated(True)
    head = tree.header()
    assert head is not None
    head.setStretchLastSection(False)
    head.setSectionResizeMode(0, QHeaderView.ResizeMode.Interactive)
    head.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
    head.resizeSection(0, 330)
    head.resizeSection(2, 300)
    return tree
