# SPDX-License-Identifier: GPL-3.0-or-later
"""The room Read-through: begins them, lets them run, keeps what is judged, and shows statement and lists."""

import time

from PyQt6.QtWidgets import QStackedWidget, QVBoxLayout

from redlantern.application import read_through as throughs
from redlantern.application.read_through import Listed, Outlook, ReadThrough
from redlantern.collection.values import Document
from redlantern.desktop.bridge import Task
from redlantern.desktop.page_viewer import PageViewer
from redlantern.desktop.readthrough.judging import Judging
from redlantern.desktop.readthrough.outcomes import Outcomes
from redlantern.desktop.readthrough.through_view import ThroughView
from redlantern.desktop.readthrough.wish_form import WishForm
from redlantern.desktop.readthrough.words import WAYS
from redlantern.desktop.widgets.dialogs import is_sure
from redlantern.desktop.widgets.room import Room
from redlantern.desktop.workspace import Workspace
from redlantern.progress import Progress
from redlantern.readthrough.values import WAYS as WAY_NAMES
from redlantern.readthrough.values import Example, PageRead, PageWish, Way
from redlantern.translation import tr

_RELOAD_PAUSE_S = 0.7
_MORE: dict[Way, Way] = {"lines": "read", "read": "all"}


class ReadThroughRoom(Room):
    """The room."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.form, self.view = WishForm(), ThroughView()
        self.pages = PageViewer(workspace, self.view.facsimile)
        self._running: Task | None = None
        self._began = self._loaded_at = 0.0
        self._began_done = 0
        self._loading = False
        self.judging, self.outcomes = Judging(workspace, self.view), Outcomes(workspace, self)
        self._stack = QStackedWidget()
        for page in (self.form, self.view):
            self._stack.addWidget(page)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self._stack)
        self._connect()

    # What can be done

    def enter(self) -> None:
        """Look what is in scope and what is kept."""
        if self._stack.currentWidget() is self.form:
            self._show_form()

    def put(self, question: str) -> None:
        """Fill in what is looked for, as it was asked on the desk."""
        self._stack.setCurrentWidget(self.form)
        self.form.question.setText(question)
        self._show_form()

    def begin(self, question: str, counts: str, way: Way) -> None:
        """Begin a read-through."""
        if self.workspace.session is None or self._running is not None:
            return
        engine = self.workspace.session.engine
        wish = PageWish(question, counts, (), self._paths(), way)
        self.form.notice.setText("")
        self.workspace.run(lambda _: throughs.begin(engine, wish), finished=self.open, failed=self.form.notice.setText)

    def open(self, key: int) -> None:
        """Show a read-through, and read what is missing of it."""
        if self.workspace.session is None or self._running is not None:
            return
        engine = self.workspace.session.engine
        self.workspace.run(lambda _: throughs.load(engine, key), finished=self._on_opened, failed=self._tell)

    def go_on(self) -> None:
        """Read what is missing of the one that is shown."""
        session, through = self.workspace.session, self.view.through
        if session is None or through is None or self._running is not None:
            return
        engine = session.engine
        self._began, self._began_done = time.monotonic(), through.covered.n_pages - through.covered.n_unread
        self._running = self.workspace.run(
            lambda task: throughs.go_on(
                engine, through.key, report=task.report, cancel=task.cancel, on_pages=task.stepped.emit
            ),
            progressed=self._on_progress,
            stepped=lambda _: self._reload_soon(),
            finished=lambda _: self._on_ended(""),
            cancelled=lambda: self._on_ended(""),
            failed=self._on_ended,
        )
        self.view.show_running(True)
        self.workspace.set_reading_through(True)

    def stop(self) -> None:
        """Stop reading; what was read is kept."""
        if self._running is not None:
            self._running.cancel.now()

    # What happens

    def _on_opened(self, through: ReadThrough) -> None:
        self.view.show_through(through)
        self._stack.setCurrentWidget(self.view)
        self.view.show_running(False)
        self.view.hits.setFocus()
        self.judging.learn()
        if through.covered.n_unread:
            self.go_on()

    def _on_progress(self, progress: Progress) -> None:
        n_now = progress.done - self._began_done
        spent = time.monotonic() - self._began
        left = spent / n_now * (progress.total - progress.done) if n_now > 2 and progress.total else None
        if self._running is not None and not self._running.cancel.is_held:
            self.view.show_progress(progress, left)

    def _on_ended(self, problem: str) -> None:
        self._running = None
        self.workspace.set_reading_through(False)
        self.view.show_running(False, problem)
        self._reload()

    def _reload_soon(self) -> None:
        """Pages came in: show them, but not more often than eyes can follow."""
        if not self._loading and time.monotonic() - self._loaded_at > _RELOAD_PAUSE_S:
            self._reload()

    def _reload(self) -> None:
        session, through = self.workspace.session, self.view.through
        if session is None or through is None:
            return
        self._loading = True
        engine, key = session.engine, through.key
        self.workspace.run(lambda _: throughs.load(engine, key), finished=self._on_loaded, failed=self._on_not_loaded)

    def _on_loaded(self, through: ReadThrough) -> None:
        self._loading, self._loaded_at = False, time.monotonic()
        if self.view.through is not None and self.view.through.key == through.key and not self.judging.is_keeping:
            self.view.show_through(through)

    def _on_not_loaded(self, reason: str) -> None:
        self._loading = False
        self._tell(reason)

    def _show_listed(self, row: Listed) -> None:
        """The page of a value, on the facsimile beside the map of the last read-through."""
        self._stack.setCurrentWidget(self.view)
        self.pages.show_page(row.document.document_id, row.page_number, (row.item.start, row.item.end))

    def _on_example(self, page: PageRead, is_hit: bool) -> None:
        """Take a page's words as an example, and compare every page anew that was not judged."""
        session, through = self.workspace.session, self.view.through
        if session is None or through is None:
            return
        engine = session.engine
        example = Example(page.words[0].text, is_hit, page.place[0])
        self.workspace.run(
            lambda _: throughs.add_example(engine, through.key, example),
            finished=lambda _: self.open(through.key), failed=self._tell,
        )  # fmt: skip

    def _on_more(self) -> None:
        """Ask, then read again with the language model what was not judged."""
        session, through = self.workspace.session, self.view.through
        if session is None or through is None or through.wish.way not in _MORE:
            return
        way, engine = _MORE[through.wish.way], session.engine
        title, explained = WAYS[way]
        question = tr("Read all pages that you have not judged once more: {title}?").format(title=title.casefold())
        if is_sure(
            self,
            tr("Read more carefully"),
            question,
            tr("{explained} What you judged stays as it is.").format(explained=explained),
            tr("Read them"),
        ):
            self.workspace.run(
                lambda _: throughs.read_more(engine, through.key, way),
                finished=lambda _: self.open(through.key), failed=self._tell,
            )  # fmt: skip

    def _on_delete(self, key: int) -> None:
        session = self.workspace.session
        is_wanted = session is not None and is_sure(
            self, tr("Delete a read-through"), tr("Delete this read-through with everything that was judged in it?"),
            tr("The documents are not touched. It cannot be brought back."),
        )  # fmt: skip
        if session is not None and is_wanted:
            engine = session.engine
            self.workspace.run(
                lambda _: throughs.delete(engine, key), finished=lambda _: self._show_form(), failed=self._tell
            )

    def _on_page(self, document: Document, page: PageRead) -> None:
        words = page.words[0] if page.words else None
        span, text = ((words.start, words.end), words.text) if words is not None else (None, "")
        self.pages.show_page(document.document_id, page.place[1], span, text)

    # How it looks

    def _show_form(self) -> None:
        self._stack.setCurrentWidget(self.form)
        session = self.workspace.session
        for widget in (self.form.question, self.form.counts, self.form.begin_button, *self.form.lists.values()):
            widget.setEnabled(session is not None)
        if session is None:
            return
        self.form.question.setFocus()
        engine, paths = session.engine, self._paths()
        model = engine.language_model
        can_read = model is not None and model.can_judge

        def look(_: Task) -> tuple[dict[Way, Outlook], list[ReadThrough]]:
            wishes = {way: PageWish("", paths=paths, way=way) for way in WAY_NAMES}
            return {way: throughs.outlook(engine, wish) for way, wish in wishes.items()}, throughs.read_throughs(engine)

        def show(found: tuple[dict[Way, Outlook], list[ReadThrough]]) -> None:
            self.form.show_outlooks(found[0], can_read=can_read)
            self.form.show_earlier(found[1])

        self.workspace.run(look, finished=show, failed=self.form.notice.setText)

    def _go_back(self) -> None:
        """Back to the form; what is being read is stopped, and can be gone on with from there."""
        self.stop()
        self.pages.clear()
        self._show_form()

    def _pause(self, is_paused: bool) -> None:
        if self._running is not None:
            if is_paused:
                self._running.cancel.hold()
                self.view.state.setText(tr("Paused. What was read is kept."))
            else:
                self._running.cancel.go_on()

    def _tell(self, reason: str) -> None:
        if self._stack.currentWidget() is self.form:
            self.form.notice.setText(reason)
        else:
            self.view.show_running(self._running is not None, reason)

    def _paths(self) -> tuple[str, ...] | None:
        scope = self.workspace.scope
        if scope is None:
            return None
        return tuple(each.full_path for each in self.workspace.documents if each.document_id in scope)

    def _connect(self) -> None:
        self.form.begun.connect(self.begin)
        self.form.list_wanted.connect(lambda kind: self.outcomes.make_list(kind, self._paths()))
        self.form.opened.connect(self.open)
        self.form.deleted.connect(self._on_delete)
        view = self.view
        view.back_wanted.connect(self._go_back)
        view.pause_wanted.connect(self._pause)
        view.stop_wanted.connect(self.stop)
        view.go_on_wanted.connect(self.go_on)
        view.more_wanted.connect(self._on_more)
        view.example_wanted.connect(self._on_example)
        view.statement_wanted.connect(
            lambda: self.outcomes.state(view.through.key) if view.through is not None else None
        )
        for slot in (self._tell, lambda _: self._reload()):
            self.judging.failed.connect(slot)
        self.outcomes.told.connect(self._tell)
        self.outcomes.page_wanted.connect(self._show_listed)
        view.page_chosen.connect(self._on_page)
