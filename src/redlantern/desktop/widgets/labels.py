# SPDX-License-Identifier: GPL-3.0-or-later
"""Small parts of any page: labels, notices, quiet buttons, columns that scroll."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from redlantern.desktop.widgets import theme
from redlantern.reading.values import CELL_SEPARATOR


def words_label(text: str, *, family: str, scale: float = 1.0, name: str = "") -> QLabel:
    """A label for text that may come from a document: shown as it is, never as markup."""
    label = QLabel()
    label.setTextFormat(Qt.TextFormat.PlainText)
    label.setText(text.replace(CELL_SEPARATOR, "     "))
    label.setFont(theme.voice(family, scale=scale))
    label.setWordWrap(True)
    label.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
    if name:
        label.setObjectName(name)
    return label


def section_label(text: str) -> QLabel:
    """A small heading within a sheet."""
    label = QLabel(text)
    label.setObjectName("section")
    label.setFont(theme.voice(theme.SANS, scale=0.85, weight=theme.BOLD))
    return label


def notice(words: str) -> QWidget:
    """Words that must not be overlooked: why something is not as it was wished."""
    frame = QWidget()
    frame.setObjectName("notice")
    frame.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    inner = QVBoxLayout(frame)
    inner.setContentsMargins(16, 12, 16, 12)
    inner.addWidget(words_label(words, family=theme.SANS, scale=1.05))
    frame.setAccessibleName(words)
    return frame


def quiet_button(text: str, tip: str) -> QPushButton:
    """A button that is only its words, until it is pointed at."""
    button = QPushButton(text)
    button.setObjectName("quiet")
    button.setToolTip(tip)
    button.setAccessibleName(text)
    return button


def name_choice(choice: QComboBox, words: str) -> None:
    """Name a list to choose from. A screen reader is told what is chosen as its name, so what it is for is its description too."""
    choice.setAccessibleName(words)
    choice.setAccessibleDescription(words)


def titled(title: str | QLabel, aside: str, *more: QWidget) -> QHBoxLayout:
    """A small heading within a sheet, with a few words and controls at the right."""
    row = QHBoxLayout()
    row.addWidget(section_label(title) if isinstance(title, str) else title)
    row.addStretch(1)
    if aside:
        label = QLabel(aside)
        label.setObjectName("section")
        label.setFont(theme.voice(theme.SANS, scale=0.85))
        row.addWidget(label)
    for widget in more:
        row.addWidget(widget)
    return row


def column_area() -> QScrollArea:
    """A scroll area for a column of rows: up and down only, and never focused itself."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    return area


def clear(box: QVBoxLayout | QHBoxLayout) -> None:
    """Take everything out of a layout."""
    while (item := box.takeAt(0)) is not None:
        inner, widget = item.layout(), item.widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()
        elif isinstance(inner, QVBoxLayout | QHBoxLayout):
            clear(inner)
