# SPDX-License-Identifier: GPL-3.0-or-later
"""What a person says to pages: shown at once, kept one after another, and learned from."""

from dataclasses import replace

from PyQt6.QtCore import QObject, pyqtSignal

from redlantern.application import read_through as throughs
from redlantern.desktop.readthrough.through_view import ThroughView
from redlantern.desktop.workspace import Workspace
from redlantern.readthrough.values import Judged, Place


class Judging(QObject):
    """Keeps judgements in the order in which they came; `failed` says why one could not be kept."""

    failed = pyqtSignal(str)

    def __init__(self, workspace: Workspace, view: ThroughView) -> None:
        super().__init__(view)
        self._workspace, self._view = workspace, view
        self._waiting: list[tuple[Place, Judged, str]] = []
        self._is_keeping = False
        view.judged.connect(self._on_judged)

    @property
    def is_keeping(self) -> bool:
        """Whether something that was said is not kept yet."""
        return bool(self._waiting)

    def learn(self) -> None:
        """Order what is open by what was judged."""
        session, through = self._workspace.session, self._view.through
        if session is not None and through is not None and not self._view.is_running:
            engine = session.engine
            self._workspace.run(
                lambda task: throughs.learned(engine, through, task.cancel), finished=self._view.show_learned
            )

    def _on_judged(self, judged: Judged, note: str) -> None:
        current = self._view.hits.current
        if current is not None:
            page = replace(current[1], judged=judged, note=note)
            self._view.show_judged(page)
            self._waiting.append((page.place, judged, note))
            self._keep_next()

    def _keep_next(self) -> None:
        session, through = self._workspace.session, self._view.through
        if self._is_keeping or not self._waiting or session is None or through is None:
            return
        self._is_keeping = True
        engine, key = session.engine, through.key
        place, judged, note = self._waiting[0]
        self._workspace.run(
            lambda _: throughs.judge(engine, key, place, judged, note),
            finished=lambda _: self._on_kept(), failed=self._on_not_kept,
        )  # fmt: skip

    def _on_kept(self) -> None:
        self._is_keeping = False
        self._waiting = self._waiting[1:]
        if self._waiting:
            self._keep_next()
        else:
            self.learn()

    def _on_not_kept(self, reason: str) -> None:
        """What could not be kept must not be shown as if it were."""
        self._is_keeping, self._waiting = False, []
        self.failed.emit(reason)
