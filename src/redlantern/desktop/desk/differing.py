# SPDX-License-Identifier: GPL-3.0-or-later
"""Values that documents give differently, side by side: each with its words, its document and that one's date."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QSizePolicy, QVBoxLayout

from redlantern.answering.sheet import Disagreement, Side
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import words_label
from redlantern.desktop.widgets.rows import CitedRow
from redlantern.translation import tr

_MOST_CHARS = 150


class SideRow(CitedRow):
    """One of the values: large, over the line that it is from."""

    def __init__(self, side: Side) -> None:
        super().__init__(side.citation)
        self.place = tr("one of several values")
        value = words_label(side.value, family=theme.SERIF, scale=1.35, name="ink")
        words = words_label(_shortened(side), family=theme.SERIF, scale=0.95, name="ink")
        mark = QLabel(side.citation.mark)
        mark.setFont(theme.voice(theme.SANS, scale=0.88, weight=theme.BOLD))
        mark.setObjectName("fadedInk")
        mark.setToolTip(side.citation.title)
        dated = words_label(side.dated, family=theme.SANS, scale=0.88, name="fadedInk")
        below = QHBoxLayout()
        below.addWidget(mark)
        below.addWidget(dated, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 8, 12, 9)
        layout.setSpacing(3)
        layout.addWidget(value)
        layout.addWidget(words, 1, Qt.AlignmentFlag.AlignTop)
        layout.addLayout(below)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.setAccessibleName(
            tr("Value {value}, {mark}, {dated}: {text}").format(
                value=side.value, mark=side.citation.mark, dated=side.dated, text=side.citation.text
            )
        )

    def _ground(self) -> str:
        return theme.colours().paper_chosen if self._is_chosen else theme.colours().paper


def side_rows(disagreement: Disagreement) -> tuple[QHBoxLayout, list[SideRow]]:
    """The sides in a row, and that row."""
    rows = [SideRow(side) for side in disagreement.sides]
    box = QHBoxLayout()
    box.setSpacing(7)
    for row in rows:
        box.addWidget(row, 1)
    return box, rows


def _shortened(side: Side) -> str:
    """The line, or of a long one what stands around the value."""
    text = " ".join(side.citation.text.split())
    at = max(0, text.casefold().find(side.value.split()[0].casefold()))
    if len(text) <= _MOST_CHARS:
        return text
    begin = max(0, min(at - _MOST_CHARS // 2, len(text) - _MOST_CHARS))
    begin = text.rfind(" ", 0, begin) + 1
    end = text.find(" ", begin + _MOST_CHARS)
    shown = text[begin : end if end > 0 else len(text)]
    return ("... " if begin else "") + shown + (" ..." if end > 0 else "")
