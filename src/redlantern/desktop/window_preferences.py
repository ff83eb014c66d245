# SPDX-License-Identifier: GPL-3.0-or-later
"""How this window looks and where it stands: chosen by its user, kept, and taken up by the next one."""

from collections.abc import Sequence

from PyQt6.QtCore import QByteArray, QObject, QSize
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QApplication, QMainWindow

from redlantern.desktop.preferences import Preferences, load
from redlantern.desktop.preferences_dialog import PreferencesDialog
from redlantern.desktop.theming import theme_switcher

_WANTED, _LEAST, _FRAME = QSize(1280, 800), QSize(900, 560), QSize(0, 40)
"""A window's frame takes about so much of the screen that Qt says is free."""


class WindowPreferences(QObject):
    """The preferences of one window."""

    def __init__(self, window: QMainWindow) -> None:
        """Puts the window where it was last, if that is still on a screen; else as large as the screen has room for."""
        super().__init__(window)
        self._window, self.preferences = window, load()
        place = QByteArray.fromHex(self.preferences.place.encode("ascii"))
        if not self.preferences.place or not window.restoreGeometry(place):
            screen = window.screen()
            free = screen.availableSize() - _FRAME if screen is not None else _WANTED
            window.resize(_WANTED.boundedTo(free.expandedTo(_LEAST)))

    def keep_place(self) -> None:
        """Remember where the window is now."""
        place = self._window.saveGeometry().toHex().data().decode("ascii")
        self.preferences = load().kept(place=place)

    def choose(self, actions: Sequence[tuple[str, QAction]]) -> None:
        """Let look and keys be chosen; each choice takes effect at once."""
        dialog = PreferencesDialog(self.preferences, actions, self._window)
        dialog.changed.connect(self._on_changed)
        dialog.exec()
        dialog.deleteLater()

    def _on_changed(self, chosen: Preferences) -> None:
        self.preferences = chosen
        application = QApplication.instance()
        if isinstance(application, QApplication):
            theme_switcher(application).follow(chosen)
