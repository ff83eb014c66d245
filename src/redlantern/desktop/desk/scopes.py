# SPDX-License-Identifier: GPL-3.0-or-later
"""The choice of documents that a question draws on: by name, kind, folder or one by one, and kept scopes."""

from collections.abc import Callable
from functools import partial
from pathlib import PurePosixPath

from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QInputDialog, QMenu, QPushButton

from redlantern.collection.values import Document
from redlantern.desktop.workspace import Workspace
from redlantern.translation import tr

_MOST_FOLDERS = 12


class Scopes(QMenu):
    """The menu of the button that says how many documents are in scope. Filled anew each time it is opened."""

    def __init__(self, workspace: Workspace, button: QPushButton) -> None:
        super().__init__(button)
        self.workspace, self.button = workspace, button
        self.aboutToShow.connect(self.fill)
        button.setMenu(self)

    @property
    def kept(self) -> dict[str, list[str]]:
        """The kept scopes: from each name to the keys of its documents."""
        session = self.workspace.session
        return dict(session.scopes) if session is not None else {}

    def fill(self) -> None:
        """Fill the menu for the collection as it is now."""
        self.clear()
        model, documents = self.workspace.documents_in_scope, self.workspace.documents_in_scope.readable
        self._add(self, tr("All documents"), lambda: model.set_all_in_scope(True))
        current = self.workspace.shown_document
        if current is not None:
            name = current.call_mark.replace("&", "&&")
            self._add(self, tr("Only {name}, whose page is open").format(name=name), lambda: self._only([current]))
            self._add(self, tr("All but {name}").format(name=name), lambda: model.set_in_scope([current], False))
        self._add_groups(tr("Only one kind"), documents, lambda document: document.kind)
        self._add_groups(
            tr("Only one folder"), documents, lambda document: str(PurePosixPath(document.shown_path).parent)
        )
        self.addSeparator()
        for name, keys in sorted(self.kept.items()):
            self._add_choice(self, name, [document for document in documents if document.key in keys])
        keep = self._add(self, tr("Keep this scope as ..."), self.ask_for_name)
        keep.setEnabled(model.scope() is not None and self._may_keep())
        if self.kept:
            drop = self.addMenu(tr("Forget a kept scope"))
            assert drop is not None
            for name in sorted(self.kept):
                self._add(drop, name.replace("&", "&&"), partial(self.forget, name))

    def ask_for_name(self) -> None:
        """Ask for a name and keep the present scope under it."""
        name, is_given = QInputDialog.getText(self.button.window(), tr("Keep this scope"), tr("Name of the scope:"))
        if is_given and name.strip():
            self.keep(name.strip())

    def keep(self, name: str) -> None:
        """Keep the present scope under a name; one that was kept under it is replaced."""
        model = self.workspace.documents_in_scope
        self._put(self.kept | {name: [document.key for document in model.readable if model.is_in_scope(document)]})

    def forget(self, name: str) -> None:
        """Keep a scope no longer; its documents stay as they are."""
        self._put({other: keys for other, keys in self.kept.items() if other != name})

    def _only(self, documents: list[Document]) -> None:
        self.workspace.documents_in_scope.set_only(documents)

    def _add_groups(self, title: str, documents: list[Document], group_of: Callable[[Document], str]) -> None:
        groups: dict[str, list[Document]] = {}
        for document in documents:
            groups.setdefault(group_of(document), []).append(document)
        if len(groups) < 2:
            return
        inner = self.addMenu(title)
        assert inner is not None
        largest = sorted(groups.items(), key=lambda group: (-len(group[1]), group[0]))[:_MOST_FOLDERS]
        for name, members in sorted(largest):
            self._add_choice(inner, tr("outside of any folder") if name == "." else name, members)

    def _add_choice(self, menu: QMenu, name: str, documents: list[Document]) -> None:
        shown = name.replace("&", "&&")
        self._add(menu, f"{shown}   {len(documents)}", lambda: self._only(documents)).setEnabled(bool(documents))

    def _may_keep(self) -> bool:
        return self.workspace.can_change

    def _put(self, kept: dict[str, list[str]]) -> None:
        session = self.workspace.session
        if session is not None:
            session.scopes = kept
            self.workspace.run(lambda _: session.engine.collection.facts.keep_scopes(kept))

    def _add(self, menu: QMenu, name: str, slot: Callable[[], object]) -> QAction:
        action = QAction(name, menu)
        action.triggered.connect(lambda _: slot())
        menu.addAction(action)
        return action
