"""The seal room: proof that nothing can leave, run while you watch."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from redlantern.desktop import theme
from redlantern.desktop.bridge import Task
from redlantern.desktop.rows import section_label, words_label
from redlantern.safety.seal import SealState
from redlantern.safety.wayout import WayOut, try_all


class SealRoom(QWidget):
    """Says how the promise is kept, and tries to break it on demand."""

    def __init__(self, seal: SealState) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._task: Task | None = None
        self.ways: list[WayOut] = []
        box = QVBoxLayout(self)
        box.setContentsMargins(60, 34, 60, 30)
        box.setSpacing(10)
        title = words_label("Nothing leaves this machine" if seal.is_on else "The seal is not on", family=theme.SANS)
        title.setFont(theme.voice(theme.SANS, scale=1.7, weight=theme.BOLD))
        box.addWidget(title)
        box.addWidget(_words(_HOW if seal.is_on else f"The network is not closed off on this machine. {seal.reason}"))
        self.test_button = QPushButton("Try to get out")
        self.test_button.setObjectName("first")
        self.test_button.clicked.connect(self.run_test)
        self._verdict = QLabel("")
        self._verdict.setFont(theme.voice(theme.SANS, weight=theme.BOLD))
        row = QHBoxLayout()
        row.addWidget(self.test_button)
        row.addSpacing(12)
        row.addWidget(self._verdict, 1)
        box.addSpacing(4)
        box.addLayout(row)
        self._table = QGridLayout()
        self._table.setHorizontalSpacing(26)
        self._table.setVerticalSpacing(5)
        self._table.setColumnStretch(2, 1)
        box.addLayout(self._table)
        box.addSpacing(10)
        box.addWidget(section_label("WHERE THINGS ARE"))
        self._places = _words("No collection is open.")
        box.addWidget(self._places)
        box.addStretch(1)

    def set_places(self, collection: str, key: str) -> None:
        """Say where the open collection and its key are."""
        self._places.setText(
            f"The collection is {collection}, encrypted as a whole (SQLCipher, AES with 256 bits). Its key is in {key}, "
            "which only your login can read. Your documents stay where they are and are never written to."
        )

    def run_test(self) -> None:
        """Try every way out, off the interface thread."""
        if self._task is None:
            self.test_button.setEnabled(False)
            self._verdict.setText("Trying ...")
            self._task = Task(lambda task: try_all(), self)
            self._task.finished.connect(self._on_tried)
            self._task.failed.connect(self._on_failed)
            self._task.start()

    def close_room(self) -> None:
        """Wait for a test that runs."""
        if self._task is not None:
            self._task.wait()

    def _on_tried(self, ways: list[WayOut]) -> None:
        self._task, self.ways = None, ways
        self.test_button.setEnabled(True)
        self.test_button.setText("Try again")
        n_open = sum(not way.is_closed for way in ways)
        self._verdict.setText(
            f"All {len(ways)} ways out are closed." if not n_open else f"{n_open} of {len(ways)} ways out are OPEN."
        )
        for row, way in enumerate(ways):
            for column, words in enumerate(
                ("closed" if way.is_closed else "OPEN", way.name, f"the kernel said: {way.said}")
            ):
                label = QLabel(words)
                if column == 2:
                    label.setObjectName("quiet")
                if column == 0:
                    colour = theme.LAMPLIGHT.amber if way.is_closed else theme.LAMPLIGHT.ember
                    label.setStyleSheet(f"color: {colour}; font-weight: 600;")
                old = self._table.itemAtPosition(row, column)
                if old is not None and old.widget() is not None:
                    old.widget().deleteLater()  # type: ignore[union-attr]
                self._table.addWidget(label, row, column)

    def _on_failed(self, reason: str) -> None:
        self._task = None
        self.test_button.setEnabled(True)
        self._verdict.setText(reason)


_HOW = (
    "Before Red Lantern opens its first file it asks the Linux kernel to refuse it every network socket, and the kernel "
    "never takes that back. It holds for the window, for the processes that read your files, for the one that holds the "
    "language model, and for everything they start. Only local (Unix) sockets, which cannot leave the machine, stay open."
)


def _words(text: str) -> QLabel:
    label = words_label(text, family=theme.SANS, scale=1.05)
    label.setMaximumWidth(820)
    return label
