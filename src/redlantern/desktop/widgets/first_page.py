# SPDX-License-Identifier: GPL-3.0-or-later
"""The first page, while no collection is open: what this is, in three steps, and the ways to begin."""

from collections.abc import Sequence
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import clear, section_label, words_label
from redlantern.desktop.widgets.welcome import BigLamp
from redlantern.safety.names import path_text, visible
from redlantern.translation import tr

_STEPS = (
    (
        tr("Choose a folder"),
        tr(
            "PDF, scans, Office files, mail, tables and pictures of pages, in it and below it. You see what it "
            "holds, and how long it will take, before anything is read."
        ),
    ),
    (
        tr("It is read on this machine"),
        tr(
            "Into one encrypted file, which you can ask from the first document on. Your files stay where they "
            "are. Nothing leaves: the kernel refuses this program every network."
        ),
    ),
    (
        tr("Ask, and check"),
        tr(
            "The lines that answer best come first, word for word, with their page. An answer follows, every "
            "sentence led back to its line. Where the documents are silent, it says so."
        ),
    ),
)
_MOST_KNOWN = 5


class FirstPage(QWidget):
    """Three steps, three ways to begin, and the collections that were open before."""

    new_wanted = pyqtSignal()
    open_wanted = pyqtSignal()
    demo_wanted = pyqtSignal()
    known_wanted = pyqtSignal(object)

    def __init__(self, *, has_demo: bool) -> None:
        super().__init__()
        self.setAccessibleName(tr("Ask your own files"))
        self.demo_button = _button(tr("Look at the demo"), tr("An invented file of 34 documents, ready to be asked"))
        self._known_title, self._known_list = section_label(tr("OPEN AGAIN")), QWidget()
        self._known_title.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self._known_list.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self._known = QVBoxLayout(self._known_list)
        self._known.setContentsMargins(0, 0, 0, 0)
        self._known.setSpacing(2)
        box = QVBoxLayout(self)
        box.setContentsMargins(70, 44, 70, 24)
        box.setSpacing(0)
        top = QHBoxLayout()
        top.setSpacing(60)
        top.addLayout(self._beginning(), 3)
        top.addLayout(self._again(), 2)
        box.addStretch(1)
        box.addLayout(top)
        box.addSpacing(56)
        box.addLayout(_steps())
        box.addStretch(3)
        self.show_known(())
        # Not before it has its place: a widget without one is shown as a window of its own.
        self.demo_button.setVisible(has_demo)

    def show_known(self, paths: Sequence[Path]) -> None:
        """List the collections that were opened before, the latest first."""
        clear(self._known)
        for path in paths[:_MOST_KNOWN]:
            button = QPushButton(f"{visible(path_text(path.stem))}".replace("&", "&&"))
            button.setObjectName("known")
            button.setToolTip(visible(path_text(path)))
            button.setAccessibleName(tr("Open {stem} again").format(stem=visible(path_text(path.stem))))
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            button.clicked.connect(lambda _, path=path: self.known_wanted.emit(path))
            self._known.addWidget(button)
            self._known.addWidget(_elsewhere(path))
            self._known.addSpacing(6)
        self._known_title.setVisible(bool(paths))

    def _beginning(self) -> QVBoxLayout:
        box = QVBoxLayout()
        box.setSpacing(12)
        box.addWidget(BigLamp())
        title = words_label(tr("Ask your own files, and check every answer"), family=theme.SANS, scale=1.7)
        title.setFont(theme.voice(theme.SANS, scale=1.7, weight=theme.BOLD))
        box.addWidget(title)
        box.addWidget(
            words_label(
                tr(
    "Red Lantern reads a folder of documents on this machine and answers questions from them, each "
    "sentence with the page it stands on."
), family=theme.SANS, scale=1.1,
            )
        )  # fmt: skip
        row = QHBoxLayout()
        new = _button(tr("Choose a folder ..."), tr("Make a new collection from a folder (Ctrl+N)"))
        new.setObjectName("first")
        open_button = _button(tr("Open a collection ..."), tr("Open a collection file (Ctrl+O)"))
        for button, signal in (
            (new, self.new_wanted),
            (open_button, self.open_wanted),
            (self.demo_button, self.demo_wanted),
        ):
            button.clicked.connect(lambda _, signal=signal: signal.emit())
            row.addWidget(button)
        row.addStretch(1)
        box.addSpacing(4)
        box.addLayout(row)
        box.addWidget(
            words_label(
                tr("Or drop files and folders anywhere on this window, or paste them."), family=theme.SANS, name="quiet"
            )
        )
        box.addStretch(1)
        return box

    def _again(self) -> QVBoxLayout:
        box = QVBoxLayout()
        box.addSpacing(104)
        box.addWidget(self._known_title)
        box.addSpacing(4)
        box.addWidget(self._known_list)
        box.addStretch(1)
        return box


def _elsewhere(path: Path) -> QWidget:
    """The folder that a collection lies in."""
    home, folder = path_text(Path.home()), path_text(path.parent)
    shown = "~" + folder[len(home) :] if folder == home or folder.startswith(home + "/") else folder
    label = QLabel(visible(shown))
    label.setObjectName("quiet")
    label.setFont(theme.voice(theme.SANS, scale=0.85))
    label.setIndent(9)
    label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
    return label


def _steps() -> QGridLayout:
    """The three steps side by side."""
    grid = QGridLayout()
    grid.setHorizontalSpacing(36)
    grid.setVerticalSpacing(5)
    for at, (name, words) in enumerate(_STEPS):
        title = words_label(f"{at + 1}   {name}", family=theme.SANS, scale=1.1)
        title.setFont(theme.voice(theme.SANS, scale=1.1, weight=theme.BOLD))
        grid.addWidget(title, 0, at)
        said = words_label(words, family=theme.SANS, name="quiet")
        grid.addWidget(said, 1, at, Qt.AlignmentFlag.AlignTop)
        grid.setColumnStretch(at, 1)
    return grid


def _button(text: str, tip: str) -> QPushButton:
    button = QPushButton(text)
    button.setToolTip(tip)
    button.setAccessibleDescription(tip)
    return button
