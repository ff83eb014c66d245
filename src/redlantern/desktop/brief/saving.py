# SPDX-License-Identifier: GPL-3.0-or-later
"""Saves a brief in the format that is chosen, with its citations beside it."""

from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QWidget

from redlantern.application import briefs
from redlantern.brief.rendering import Style
from redlantern.brief.values import Brief
from redlantern.desktop.workspace import Workspace
from redlantern.safety.names import visible
from redlantern.translation import tr

_FORMS = tr("Word (*.docx);;OpenDocument (*.odt);;PDF (*.pdf);;Web page (*.html);;Markdown (*.md)")


class Saving(QObject):
    """Asks where, and saves; `told` says how it went."""

    told = pyqtSignal(str)

    def __init__(self, workspace: Workspace, room: QWidget) -> None:
        super().__init__(room)
        self._workspace, self._room = workspace, room

    def choose(self, brief: Brief, style: Style, *, with_pages: bool) -> None:
        """Ask where to save a brief, and save it there."""
        path, chosen = QFileDialog.getSaveFileName(
            self._room, tr("Where to save the brief"), f"{brief.name}.docx", _FORMS
        )
        if path:
            ending = chosen.rpartition("(*")[2].rstrip(")")
            target = Path(path if path.casefold().endswith(ending) else path + ending)
            self.save(brief, target, style, with_pages=with_pages)

    def save(self, brief: Brief, target: Path, style: Style, *, with_pages: bool) -> None:
        """Save a brief in the format of an ending, with its citations beside it."""

        def done(beside: Path) -> None:
            self.told.emit(
                tr("Saved as {target}. {name} lets a colleague check every citation.").format(
                    target=visible(str(target)), name=visible(beside.name)
                )
            )

        self._workspace.with_engine(
            lambda engine: briefs.export(engine, brief, target, style, with_pages=with_pages), done, self.told.emit
        )
