# SPDX-License-Identifier: GPL-3.0-or-later
"""Saves a brief in the format that is chosen, with its citations beside it."""

from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QWidget

from redlantern.answering.engine import Engine
from redlantern.application import briefs
from redlantern.application.exporting import put_exported
from redlantern.brief.rendering import Rendered, Style
from redlantern.brief.values import Brief
from redlantern.brief.writing import as_html
from redlantern.desktop.widgets.printing import html_as_pdf
from redlantern.desktop.workspace import Workspace
from redlantern.safety.names import visible

_FORMS = "Word (*.docx);;OpenDocument (*.odt);;PDF (*.pdf);;Web page (*.html);;Markdown (*.md)"


class Saving(QObject):
    """Asks where, and saves; `told` says how it went."""

    told = pyqtSignal(str)

    def __init__(self, workspace: Workspace, room: QWidget) -> None:
        super().__init__(room)
        self._workspace, self._room = workspace, room

    def choose(self, brief: Brief, style: Style, *, with_pages: bool) -> None:
        """Ask where to save a brief, and save it there."""
        path, chosen = QFileDialog.getSaveFileName(self._room, "Where to save the brief", f"{brief.name}.docx", _FORMS)
        if path:
            ending = chosen.rpartition("(*")[2].rstrip(")")
            target = Path(path if path.casefold().endswith(ending) else path + ending)
            self.save(brief, target, style, with_pages=with_pages)

    def save(self, brief: Brief, target: Path, style: Style, *, with_pages: bool) -> None:
        """Save a brief in the format of an ending, with its citations beside it."""

        def done(beside: Path) -> None:
            self.told.emit(
                f"Saved as {visible(str(target))}. {visible(beside.name)} lets a colleague check every citation."
            )

        def printed(whole: Rendered) -> None:
            # Laid out by Qt, which is the interface's.
            content = html_as_pdf(whole.name, as_html(whole))

            def put(engine: Engine) -> Path:
                put_exported(target, content)
                return briefs.put_citations(engine, brief, target)

            self._workspace.with_engine(put, done, self.told.emit)

        if target.suffix.casefold() == ".pdf":
            self._workspace.with_engine(
                lambda engine: briefs.rendered(engine, brief, style, with_pages=with_pages), printed, self.told.emit
            )
        else:
            self._workspace.with_engine(
                lambda engine: briefs.export(engine, brief, target, style, with_pages=with_pages), done, self.told.emit
            )
