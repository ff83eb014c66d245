# SPDX-License-Identifier: GPL-3.0-or-later
"""Where a read-through is begun: what is looked for, how carefully, what that costs; lists; and the earlier ones."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QButtonGroup,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from redlantern.application.read_through import Outlook, ReadThrough
from redlantern.desktop.readthrough.words import WAYS, how_far
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.dialogs import show_in_the_middle
from redlantern.desktop.widgets.labels import quiet_button, section_label, words_label
from redlantern.readthrough.extraction import EXTRACTS, TITLES, Extract
from redlantern.readthrough.values import WAYS as WAY_NAMES
from redlantern.readthrough.values import Way
from redlantern.text.listing import counted, seconds_words
from redlantern.translation import tr

_INTRODUCTION = tr(
    "Asking finds the best passages. Here one question is put to every page, none passed over: every "
    "clause that touches liability, every page that names a person. You see each page's answer, judge "
    "the hits, and print a statement of what was covered."
)
_WIDTH = 860


class WishForm(QWidget):
    """The form. `begun` carries question, what counts, and the way."""

    begun = pyqtSignal(str, str, str)
    list_wanted = pyqtSignal(str)
    opened = pyqtSignal(int)
    deleted = pyqtSignal(int)
    way_changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.question, self.counts = QLineEdit(), QLineEdit()
        for field, hint, name in (
            (self.question, tr("every page that ..."), tr("What every page is read for")),
            (
                self.counts,
                tr("optional: what counts as a hit, and what does not, in your own words"),
                tr("What counts as a hit"),
            ),
        ):
            field.setObjectName("question")
            field.setPlaceholderText(hint)
            field.setAccessibleName(name)
            field.returnPressed.connect(self._on_begin)
        self.begin_button = QPushButton(tr("Read every page"))
        self.begin_button.setObjectName("first")
        self.begin_button.clicked.connect(self._on_begin)
        self.notice = words_label("", family=theme.SANS, name="problem")
        self.scope = words_label("", family=theme.SANS, name="quiet")
        self.ways = QButtonGroup(self)
        self._costs = {way: words_label("", family=theme.SANS, name="quiet") for way in WAY_NAMES}
        self.lists: dict[Extract, QPushButton] = {}
        self._earlier = QVBoxLayout()
        self._earlier.setSpacing(4)
        self._build()
        self.ways.buttonToggled.connect(lambda _, is_on: self.way_changed.emit() if is_on else None)

    @property
    def way(self) -> Way:
        """How carefully is chosen."""
        return WAY_NAMES[max(0, self.ways.checkedId())]

    def show_outlooks(self, outlooks: dict[Way, Outlook], *, can_read: bool) -> None:
        """Say what each way would cost, and what is in scope."""
        for number, way in enumerate(WAY_NAMES):
            button = self.ways.button(number)
            assert button is not None
            is_possible = way == "lines" or can_read
            button.setEnabled(is_possible)
            seconds = outlooks[way].seconds if way in outlooks else 0.0
            self._costs[way].setText(seconds_words(seconds) if is_possible else tr("needs a language model that reads"))
        first = outlooks.get("lines")
        if first is not None:
            refused = (
                tr("; {document} of it could not be read").format(document=counted(first.n_refused, "document"))
                if first.n_refused
                else ""
            )
            self.scope.setText(
                tr("{page} in {document} in scope{refused}. The scope is chosen on the desk's shelf.").format(
                    page=counted(first.n_pages, "page"),
                    document=counted(first.n_documents, "document"),
                    refused=refused,
                )
            )
            self.begin_button.setEnabled(first.n_pages > 0)

    def show_earlier(self, throughs: list[ReadThrough]) -> None:
        """List the read-throughs that are kept."""
        while (item := self._earlier.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        for through in throughs:
            self._earlier.addWidget(self._earlier_row(through))
        if not throughs:
            self._earlier.addWidget(words_label(tr("None yet."), family=theme.SANS, name="quiet"))

    def _earlier_row(self, through: ReadThrough) -> QWidget:
        row = QWidget()
        row.setObjectName("panel")
        row.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        inner = QHBoxLayout(row)
        inner.setContentsMargins(14, 7, 8, 7)
        words = QVBoxLayout()
        words.setSpacing(1)
        words.addWidget(words_label(through.wish.question, family=theme.SANS))
        said = f"{through.began_at[:10]}, {WAYS[through.wish.way][0].casefold()}. {how_far(through)}"
        words.addWidget(words_label(said, family=theme.SANS, scale=0.88, name="quiet"))
        inner.addLayout(words, 1)
        unread = through.covered.n_unread
        opening = quiet_button(
            tr("Go on") if unread else tr("Open"), tr("Show its map and its hits; read what is missing")
        )
        opening.setAccessibleName(f"{opening.text()}: {through.wish.question}")
        opening.clicked.connect(lambda: self.opened.emit(through.key))
        deleting = quiet_button(tr("Delete ..."), tr("Forget it with all that was judged in it"))
        deleting.setAccessibleName(tr("Delete: {question}").format(question=through.wish.question))
        deleting.clicked.connect(lambda: self.deleted.emit(through.key))
        for button in (opening, deleting):
            inner.addWidget(button, 0, Qt.AlignmentFlag.AlignVCenter)
        return row

    def _build(self) -> None:
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(28, 20, 28, 20)
        column.setSpacing(8)
        column.addWidget(words_label(_INTRODUCTION, family=theme.SANS, scale=1.02))
        column.addSpacing(8)
        column.addWidget(section_label(tr("LOOK FOR")))
        column.addWidget(self.question)
        column.addWidget(self.counts)
        column.addWidget(self.scope)
        column.addSpacing(6)
        column.addWidget(section_label(tr("HOW CAREFULLY")))
        column.addLayout(self._ways())
        row = QHBoxLayout()
        row.addWidget(self.begin_button)
        row.addWidget(self.notice, 1)
        column.addSpacing(4)
        column.addLayout(row)
        column.addSpacing(12)
        column.addWidget(section_label(tr("OR LIST WHAT STANDS ON ALL PAGES")))
        column.addLayout(self._list_buttons())
        column.addSpacing(12)
        column.addWidget(section_label(tr("EARLIER READ-THROUGHS")))
        column.addLayout(self._earlier)
        column.addStretch(1)
        show_in_the_middle(self, body, _WIDTH)
        self.show_earlier([])

    def _ways(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(18)
        grid.setVerticalSpacing(6)
        grid.setColumnStretch(1, 1)
        for number, way in enumerate(WAY_NAMES):
            title, explained = WAYS[way]
            button = QRadioButton(title)
            button.setAccessibleDescription(explained)
            button.setChecked(number == 0)
            self.ways.addButton(button, number)
            grid.addWidget(button, number, 0)
            grid.addWidget(words_label(explained, family=theme.SANS, name="quiet"), number, 1)
            self._costs[way].setMinimumWidth(150)
            self._costs[way].setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            grid.addWidget(self._costs[way], number, 2)
        return grid

    def _list_buttons(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(8)
        for kind in EXTRACTS:
            button = QPushButton(tr(TITLES[kind]))
            button.clicked.connect(lambda _, kind=kind: self.list_wanted.emit(kind))
            self.lists[kind] = button
            row.addWidget(button)
        row.addStretch(1)
        return row

    def _on_begin(self) -> None:
        self.begun.emit(self.question.text().strip(), self.counts.text().strip(), self.way)
