# SPDX-License-Identifier: GPL-3.0-or-later
"""Dresses the application as its user or the desktop wants it: lamplight or daylight, with more contrast where that is asked for."""

from PyQt6.QtCore import QObject, Qt
from PyQt6.QtGui import QStyleHints
from PyQt6.QtWidgets import QApplication

from redlantern.desktop.preferences import DAYLIGHT, SYSTEM, Preferences, load
from redlantern.desktop.widgets import theme


class ThemeSwitcher(QObject):
    """Follows the desktop's colour scheme while it is to."""

    def __init__(self, application: QApplication, preferences: Preferences) -> None:
        super().__init__(application)
        self._application, self._preferences = application, preferences
        hints = application.styleHints()
        if hints is not None:
            hints.colorSchemeChanged.connect(lambda _: self._dress())
        self._dress()

    def follow(self, preferences: Preferences) -> None:
        """Dress by these from now on."""
        self._preferences = preferences
        self._dress()

    def _dress(self) -> None:
        hints = self._application.styleHints()
        colours = colours_for(self._preferences, hints)
        if self._application.styleSheet() == "" or theme.colours() != colours:
            theme.apply(self._application, colours)


def theme_switcher(application: QApplication) -> ThemeSwitcher:
    """What dresses the application; made with the kept preferences when it is first asked for."""
    found = application.findChild(ThemeSwitcher)
    return found if found is not None else ThemeSwitcher(application, load())


def colours_for(preferences: Preferences, hints: QStyleHints | None) -> theme.Colours:
    """The colours that fit what was chosen and what the desktop says of itself; lamplight where it says nothing."""
    is_light = preferences.theme == DAYLIGHT
    if preferences.theme == SYSTEM and hints is not None:
        is_light = hints.colorScheme() == Qt.ColorScheme.Light
    if preferences.is_stark or _wants_contrast(hints):
        return theme.STARK_LIGHT if is_light else theme.STARK_DARK
    return theme.DAYLIGHT if is_light else theme.LAMPLIGHT


def _wants_contrast(hints: QStyleHints | None) -> bool:
    accessibility = hints.accessibility() if hints is not None else None
    return accessibility is not None and accessibility.contrastPreference() == Qt.ContrastPreference.HighContrast
