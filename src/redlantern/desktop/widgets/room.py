# SPDX-License-Identifier: GPL-3.0-or-later
"""What every room of the window is."""

from PyQt6.QtWidgets import QWidget


class Room(QWidget):
    """One of the window's main views."""

    def enter(self) -> None:
        """The room is shown: look how things stand. As it is, it stays as it was."""
