# SPDX-License-Identifier: GPL-3.0-or-later
"""The bar of the rooms."""

from collections.abc import Sequence

from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QWidget

from redlantern.translation import tr


def room_bar(names: Sequence[str], group: QButtonGroup) -> QWidget:
    """A button for each room, by its number in the group; the first is chosen."""
    rooms = QWidget()
    bar = QHBoxLayout(rooms)
    bar.setContentsMargins(16, 0, 16, 4)
    bar.setSpacing(18)
    for number, name in enumerate(names):
        button = QPushButton(name)
        button.setObjectName("room")
        button.setCheckable(True)
        # Told as one of several, of which one is chosen, not as something ticked for itself.
        button.setAutoExclusive(True)
        button.setChecked(number == 0)
        button.setAccessibleName(tr("Room: {name}").format(name=name))
        group.addButton(button, number)
        bar.addWidget(button)
    bar.addStretch(1)
    return rooms
