# SPDX-License-Identifier: GPL-3.0-or-later
"""The brief room: the entries of a brief beside the page of the chosen one; words of one's own; saving and checking."""

from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QPushButton,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from redlantern.application import briefs
from redlantern.application.briefs import QuoteNow
from redlantern.brief.rendering import STYLES, Style
from redlantern.brief.values import Brief, BriefEntry, Quote
from redlantern.desktop.brief.entries_list import EntriesList
from redlantern.desktop.brief.saving import Saving
from redlantern.desktop.page_viewer import PageViewer
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.dialogs import asked_words, is_sure
from redlantern.desktop.widgets.facsimile import Facsimile
from redlantern.desktop.widgets.labels import name_choice, quiet_button, words_label
from redlantern.desktop.widgets.room import Room
from redlantern.desktop.workspace import Workspace
from redlantern.safety.names import visible
from redlantern.translation import tr

_EMPTY = tr(
    "Nothing is gathered yet. On the desk, in a read-through, side by side or in a trial choose a row "
    "and press Ctrl+G: its words, page and document come here, to be ordered, with your own words "
    "between."
)
_STYLE_WORDS: dict[Style, str] = {
    "marks": tr("Citations as call-marks"),
    "titles": tr("Citations with title, page and clause"),
    "numbers": tr("Citations as numbers"),
    "footnotes": tr("Citations as footnotes"),
}
_KEYS = tr("Alt ↑ ↓ moves an entry    F2 changes words    Del takes it out    Ctrl+Z brings it back")


class BriefRoom(Room):
    """The room."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.brief: Brief | None = None
        self._before: list[Brief] = []
        self._kept: list[Brief] = []
        self.choice = QComboBox()
        name_choice(self.choice, tr("Which brief is shown"))
        self.list, self.facsimile = EntriesList(), Facsimile()
        self.pages = PageViewer(workspace, self.facsimile)
        self.style_choice, self.with_pages = QComboBox(), QCheckBox(tr("with the cited pages"))
        self.style_choice.addItems([_STYLE_WORDS[style] for style in STYLES])
        name_choice(self.style_choice, tr("How citations stand in the text"))
        theme.outline(self.with_pages)
        self.notice = words_label(_EMPTY, family=theme.SANS, name="quiet")
        self.renew_button = quiet_button(
            tr("Take the new places"), tr("Lead the quotes of changed documents to where their words stand now")
        )
        self.save_button = QPushButton(tr("Save as ..."))
        self.save_button.setObjectName("first")
        self.saving = Saving(workspace, self)
        self.saving.told.connect(self.notice.setText)
        self._actions: dict[str, QPushButton] = {}
        self._build()
        self._connect()

    # What can be done

    def enter(self) -> None:
        """Look what is kept."""
        self.workspace.with_engine(briefs.briefs, self._on_kept, self.notice.setText)
        self.list.setFocus()

    def show_brief(self, brief: Brief, chosen: int = 0) -> None:
        """Show a brief, and look whether its documents have changed."""
        self.brief = brief

        def show(now: dict[Quote, QuoteNow]) -> None:
            if self.brief is brief:
                self.list.show_brief(brief, now, chosen)
                self._show_state(now)

        self.workspace.with_engine(lambda engine: briefs.quotes_now(engine, brief), show, self.notice.setText)

    def add(self, entry: BriefEntry) -> None:
        """Put a heading or own words after the chosen entry."""
        if self.brief is None:
            self.brief = Brief(tr("Brief"))
        chosen = self.list.entry
        brief = self.brief.with_entries(entry)
        number = brief.entries[-1].entry_id
        if chosen is not None:
            at = [each.entry_id for each in brief.entries].index(chosen.entry_id)
            brief = brief.moved(number, at + 1 - (len(brief.entries) - 1))
        self._change(brief, number)

    def undo(self) -> None:
        """Take the last change back."""
        if self._before:
            before = self._before.pop()
            self._keep(before, 0)

    # What happens

    def _on_kept(self, kept: list[Brief]) -> None:
        self._kept = kept
        shown = self.brief.brief_id if self.brief is not None else 0
        self.choice.blockSignals(True)
        self.choice.clear()
        self.choice.addItems([visible(brief.name) for brief in kept])
        numbers = [brief.brief_id for brief in kept]
        at = numbers.index(shown) if shown in numbers else len(kept) - 1
        self.choice.setCurrentIndex(at)
        self.choice.blockSignals(False)
        if kept:
            self.show_brief(kept[at])
        else:
            self.brief = None
            self.list.clear()
            self._show_state({})

    def _on_choice(self, at: int) -> None:
        if 0 <= at < len(self._kept):
            self._before = []
            self.show_brief(self._kept[at])

    def _on_current(self) -> None:
        entry = self.list.entry
        if entry is None or not entry.quotes:
            return
        quote = entry.quotes[0]
        documents = self.workspace.documents
        document = next((each for each in documents if each.key == quote.document_key), None)
        document = document or next((each for each in documents if each.path == quote.path), None)
        if document is not None:
            self.pages.show_page(document.document_id, quote.page_number, (quote.start, quote.end), quote.text)

    def _change(self, brief: Brief, chosen: int = 0) -> None:
        """Keep a brief as it is now; what it was can be brought back."""
        if self.brief is not None and self.brief.brief_id:
            self._before.append(self.brief)
        self._keep(brief, chosen)

    def _keep(self, brief: Brief, chosen: int) -> None:
        def show(kept: Brief) -> None:
            self.show_brief(kept, chosen)
            if kept.brief_id not in [each.brief_id for each in self._kept]:
                self.brief = kept
                self.enter()

        self.brief = brief
        self.workspace.with_engine(lambda engine: briefs.keep_brief(engine, brief), show, self.notice.setText)

    def _on_moved(self, by: int) -> None:
        entry = self.list.entry
        if self.brief is not None and entry is not None:
            self._change(self.brief.moved(entry.entry_id, by), entry.entry_id)

    def _on_ordered(self, numbers: list[int]) -> None:
        entry = self.list.entry
        if self.brief is not None:
            self._change(self.brief.ordered(numbers), entry.entry_id if entry is not None else 0)

    def _on_removed(self) -> None:
        entry = self.list.entry
        if self.brief is not None and entry is not None:
            self._change(self.brief.without(entry.entry_id))

    def _on_edit(self) -> None:
        """Change a heading or own words; the words of documents and what was written of them stay as they are."""
        entry = self.list.entry
        if self.brief is None or entry is None:
            return
        if entry.kind not in ("heading", "own"):
            self.notice.setText(
                tr(
                    "Words of documents, and what was checked against them, stay as they are. Write your own beside them."
                )
            )
            return
        words = asked_words(self, tr("Change the words"), entry.text, is_long=entry.kind == "own")
        if words and words != entry.text:
            self._change(self.brief.changed(replace(entry, text=words)), entry.entry_id)

    def _on_heading(self) -> None:
        words = asked_words(self, tr("A heading"), "", is_long=False)
        if words:
            self.add(BriefEntry(0, "heading", words))

    def _on_own(self) -> None:
        words = asked_words(self, tr("Words of your own"), "", is_long=True)
        if words:
            self.add(BriefEntry(0, "own", words))

    def _on_new(self) -> None:
        words = asked_words(self, tr("Name of the new brief"), "", is_long=False)
        if words:
            self._before = []
            self._keep(Brief(words), 0)

    def _on_renamed(self) -> None:
        if self.brief is None:
            return
        words = asked_words(self, tr("Name of the brief"), self.brief.name, is_long=False)
        if words and words != self.brief.name:
            self._change(replace(self.brief, name=words))
            self.enter()

    def _on_delete(self) -> None:
        brief = self.brief
        if brief is None:
            return
        if is_sure(
            self,
            tr("Delete a brief"),
            tr("Delete this brief with its headings and own words?"),
            tr("Documents and sheets stay. It cannot be brought back."),
        ):
            self.brief, self._before = None, []
            self.workspace.with_engine(
                lambda engine: briefs.delete_brief(engine, brief.brief_id), lambda _: self.enter(), self.notice.setText
            )

    def _on_renew(self) -> None:
        brief = self.brief
        if brief is not None:
            self._before.append(brief)
            self.workspace.with_engine(
                lambda engine: briefs.take_offered(engine, brief), self.show_brief, self.notice.setText
            )

    def _on_save(self) -> None:
        if self.brief is not None:
            self.saving.choose(
                self.brief, STYLES[self.style_choice.currentIndex()], with_pages=self.with_pages.isChecked()
            )

    # How it looks

    def _show_state(self, now: dict[Quote, QuoteNow]) -> None:
        brief = self.brief
        for button in (*self._actions.values(), self.save_button):
            button.setEnabled(self.workspace.session is not None)
        has_entries = brief is not None and bool(brief.entries)
        self.save_button.setEnabled(has_entries)
        n_changed = sum(each.is_changed for each in now.values())
        n_offered = sum(each.offered is not None for each in now.values())
        self.renew_button.setVisible(bool(n_offered))
        if not has_entries:
            self.notice.setText(_EMPTY)
        elif n_changed:
            self.notice.setText(
                tr(
                    "{n_changed} of {n_now} quotes are of documents that changed or are gone since; {n_offered} stand "
                    "there still."
                ).format(n_changed=n_changed, n_now=len(now), n_offered=n_offered)
            )
        else:
            self.notice.setText(_KEYS)

    def _build(self) -> None:
        top = QHBoxLayout()
        top.setSpacing(8)
        self.choice.setMinimumWidth(240)
        top.addWidget(self.choice)
        for name, tip, act in (
            (tr("New brief ..."), tr("Begin another one"), self._on_new), (tr("Rename ..."), tr("Give it another name"), self._on_renamed),
            (tr("Delete ..."), tr("Forget it"), self._on_delete),
        ):  # fmt: skip
            self._add_action(top, name, tip, act)
        top.addStretch(1)
        saving = QHBoxLayout()
        saving.addStretch(1)
        for widget in (self.style_choice, self.with_pages, self.save_button):
            saving.addWidget(widget)
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 8, 0)
        column.addWidget(self.list, 1)
        row = QHBoxLayout()
        for name, tip, act in (
            (tr("Heading ..."), tr("A heading after the chosen entry"), self._on_heading),
            (tr("Own words ..."), tr("Words of your own after the chosen entry"), self._on_own),
            (tr("Undo"), tr("Take the last change back (Ctrl+Z)"), self.undo),
        ):
            self._add_action(row, name, tip, act)
        self._actions[tr("Undo")].setShortcut("Ctrl+Z")
        row.addWidget(self.renew_button)
        row.addStretch(1)
        column.addLayout(row)
        splitter = QSplitter(Qt.Orientation.Horizontal)
        splitter.addWidget(left)
        splitter.addWidget(self.facsimile)
        splitter.setSizes([740, 500])
        splitter.setHandleWidth(1)
        splitter.setChildrenCollapsible(False)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(18, 10, 18, 8)
        layout.setSpacing(8)
        layout.addLayout(top)
        layout.addWidget(self.notice)
        layout.addWidget(splitter, 1)
        layout.addLayout(saving)
        self.renew_button.hide()

    def _add_action(self, row: QHBoxLayout, name: str, tip: str, act: object) -> None:
        button = quiet_button(name, tip)
        button.clicked.connect(act)  # type: ignore[arg-type]
        self._actions[name] = button
        row.addWidget(button)

    def _connect(self) -> None:
        self.choice.currentIndexChanged.connect(self._on_choice)
        self.list.currentItemChanged.connect(lambda *_: self._on_current())
        self.list.moved.connect(self._on_moved)
        self.list.ordered.connect(self._on_ordered)
        self.list.edit_wanted.connect(self._on_edit)
        self.list.remove_wanted.connect(self._on_removed)
        self.renew_button.clicked.connect(self._on_renew)
        self.save_button.clicked.connect(self._on_save)
