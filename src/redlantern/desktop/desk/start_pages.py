# SPDX-License-Identifier: GPL-3.0-or-later
"""What the desk shows while there is no sheet: the first page, the first steps, reading under way, and what went wrong."""

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QStackedWidget, QWidget

from redlantern.application.demo import find_demo
from redlantern.application.example_questions import example_questions
from redlantern.desktop.desk.sheet_view import SheetView
from redlantern.desktop.widgets import welcome
from redlantern.desktop.widgets.first_page import FirstPage
from redlantern.desktop.workspace import Workspace


class StartPages(QStackedWidget):
    """The desk's columns, or the first page in their place. Columns that have nothing to show yet are hidden."""

    add_wanted = pyqtSignal()
    asked = pyqtSignal(str)

    def __init__(
        self, workspace: Workspace, view: SheetView, columns: QWidget, at_the_sides: Sequence[QWidget]
    ) -> None:
        """`columns` holds the sheet and, `at_the_sides`, the shelf and the page."""
        super().__init__()
        self._workspace, self._view = workspace, view
        self._columns, self._at_the_sides = columns, at_the_sides
        self.first_page = FirstPage(has_demo=find_demo() is not None)
        self._ready: welcome.Ready | None = None
        self._n_exampled = 0
        for page in (columns, self.first_page):
            self.addWidget(page)
        workspace.documents_changed.connect(self._on_documents)

    def show_first(self) -> None:
        """Show what fits the state of things."""
        n_readable = len(self._workspace.documents_in_scope.readable)
        is_reading = self._workspace.is_updating
        self._ready = None
        self._show_sides(self._workspace.session is not None and bool(n_readable or is_reading))
        if self._workspace.session is None:
            self.setCurrentWidget(self.first_page)
            return
        self.setCurrentWidget(self._columns)
        if n_readable or is_reading:
            self._ready = welcome.Ready(n_readable, is_reading=is_reading)
            self._ready.asked.connect(self.asked)
            self._n_exampled = 0
            self._view.show_widget(self._ready)
            self._on_documents()
        else:
            self._view.show_widget(welcome.without_documents(self.add_wanted.emit))

    def show_problem(self, title: str, reason: str) -> None:
        """Say that something did not work, and why."""
        self._ready = None
        self.setCurrentWidget(self._columns)
        self._view.show_widget(welcome.problem(title, reason))

    def end(self) -> None:
        """A sheet is shown from now on."""
        self._ready = None
        self._show_sides(True)
        self.setCurrentWidget(self._columns)

    def _show_sides(self, is_shown: bool) -> None:
        for column in self._at_the_sides:
            column.setVisible(is_shown)

    def _on_documents(self) -> None:
        """Offer questions made of the documents' headings: of the first document, and again whenever there are twice as many."""
        n_readable, page = len(self._workspace.documents_in_scope.readable), self._ready
        if page is None:
            return
        page.show_count(n_readable)
        if n_readable and n_readable >= 2 * self._n_exampled:
            self._n_exampled = n_readable

            def show(questions: tuple[str, ...]) -> None:
                if page is self._ready:
                    page.show_examples(questions)

            self._workspace.with_engine(example_questions, show, lambda _: None)
