# SPDX-License-Identifier: GPL-3.0-or-later
"""Menus of rows, pages and documents: by the right button, or by the keyboard's own key for them."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QPoint
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMenu, QWidget

MEANT_FOR = "meant for"
"""The property of a window's action that says what it is offered on."""
ROWS, PAGES = "rows", "pages"
Offer = tuple[str, Callable[[], object], bool]
"""The words of an action, what it does, and whether it can be done now."""


def menu_of(widget: QWidget, offers: Sequence[Offer], kind: str = "") -> QMenu:
    """A menu with what can be done here, and below it the window's actions that are meant for things of this kind."""
    menu = QMenu(widget)
    for words, act, is_possible in offers:
        action = QAction(words, menu)
        action.setEnabled(is_possible)
        action.triggered.connect(lambda _, act=act: act())
        menu.addAction(action)
    window = widget.window()
    meant = [action for action in window.actions() if action.property(MEANT_FOR) == kind] if window and kind else []
    if meant and offers:
        menu.addSeparator()
    menu.addActions(meant)
    return menu


def show_menu(widget: QWidget, at: QPoint, offers: Sequence[Offer], kind: str = "") -> None:
    """Show it at a place of the screen; it goes when it is closed."""
    menu = menu_of(widget, offers, kind)
    menu.exec(at)
    menu.deleteLater()
