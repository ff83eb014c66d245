"""The top of the window: the question bar, and the rooms under it."""

from collections.abc import Sequence

from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QLineEdit, QPushButton, QWidget

from redlantern.desktop.widgets import drawing, theme

QUESTION_HINT = "Ask this collection ..."


def question_row(collection: QPushButton, question: QLineEdit, scope: QPushButton, ask: QPushButton) -> QWidget:
    """Dress and lay out what stands in the question bar."""
    header = QWidget()
    header.setObjectName("header")
    collection.setObjectName("collection")
    collection.setFont(theme.voice(theme.SANS, scale=1.05, weight=theme.BOLD))
    collection.setAccessibleName("Collection and menu")
    question.setObjectName("question")
    question.setFont(theme.voice(theme.SANS, scale=1.15))
    question.setPlaceholderText(QUESTION_HINT)
    question.setAccessibleName("Question")
    ask.setObjectName("ask")
    scope.setObjectName("quiet")
    scope.setToolTip("The documents that a question draws on; also ticked and unticked on the shelf")
    scope.setAccessibleName("Scope of the question")
    row = QHBoxLayout(header)
    row.setContentsMargins(14, 9, 14, 9)
    row.setSpacing(10)
    row.addWidget(drawing.Lamp())
    row.addWidget(collection)
    row.addWidget(question, 1)
    row.addWidget(scope)
    row.addWidget(ask)
    return header


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
        button.setChecked(number == 0)
        button.setAccessibleName(f"Room: {name}")
        group.addButton(button, number)
        bar.addWidget(button)
    bar.addStretch(1)
    return rooms
