# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages printed to pictures off the interface thread, for whoever shows a facsimile."""

from collections.abc import Callable

from PyQt6.QtGui import QImage

from redlantern.answering.engine import Engine
from redlantern.application import documents
from redlantern.collection.values import Document
from redlantern.desktop.bridge import Task
from redlantern.desktop.workspace import Workspace


class PagePictures:
    """Prints one page at a time for one facsimile: a later wish ends an earlier one."""

    def __init__(self, workspace: Workspace) -> None:
        self._workspace = workspace
        self._task: Task | None = None

    def wish(
        self, document: Document, page_number: int, scale: float, *,
        show: Callable[[QImage], None], tell: Callable[[str], None],
    ) -> None:  # fmt: skip
        """Print a page at so many pixels a point, and show the picture or tell why there is none."""
        session = self._workspace.session
        if session is None:
            return
        if self._task is not None:
            self._task.cancel.now()
        engine = session.engine
        self._task = self._workspace.run(
            lambda task: _printed(engine, document, page_number, scale, task), finished=show, failed=tell
        )


def _printed(engine: Engine, document: Document, page_number: int, scale: float, task: Task) -> QImage:
    printed = documents.picture(engine, document, page_number, scale, task.cancel)
    image = QImage(
        printed.pixels, printed.width_px, printed.height_px, printed.width_px * 4, QImage.Format.Format_RGB32
    )
    return image.copy()
