# SPDX-License-Identifier: GPL-3.0-or-later
"""Figures of several ways as dots with their intervals, one row a figure."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import clear
from redlantern.translation import tr
from redlantern.trials.comparing import LaneFigure

_SHAPES = (("o", "●", "amber"), ("s", "■", "ember"), ("t", "▼", "text"), ("d", "◆", "quiet"))
"""How each way is drawn: the plot's symbol, the sign that stands for it in words, and its colour."""
_NAMES = {"amber": "sealed", "ember": "ember", "text": "", "quiet": "quiet"}
"""By which names of the style sheet labels have these colours."""
_ROW_PX, _AXIS_PX, _NAMES_PX = 27, 34, 236
_SPREAD = 0.17
"""How far apart the dots of one row stand, in rows."""


@dataclass(frozen=True)
class Plotted:
    """A way with its figures, in the order of the plot's rows."""

    name: str
    figures: Sequence[LaneFigure]


@cache
def _pyqtgraph() -> Any:
    # Takes a third of a second: loaded when the first plot is shown.
    import pyqtgraph

    pyqtgraph.setConfigOptions(antialias=True)
    return pyqtgraph


class DotPlot(theme.ThemeAware, QWidget):
    """The plot, with a legend of shapes above it. Shapes differ, not colours alone; the same stands in its accessible text."""

    def __init__(self) -> None:
        super().__init__()
        self._ways: Sequence[Plotted] = ()
        self._legend = QHBoxLayout()
        self._legend.setSpacing(18)
        graph = _pyqtgraph()
        self.plot = graph.PlotWidget()
        self.plot.setMenuEnabled(False)
        self.plot.hideButtons()
        self.plot.setMouseEnabled(x=False, y=False)
        self.plot.setFrameShape(self.plot.Shape.NoFrame)
        self.plot.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        item = self.plot.getPlotItem()
        item.setXRange(0, 1, padding=0.02)
        item.showGrid(x=True, y=False, alpha=0.18)
        item.getAxis("left").setWidth(theme.px(_NAMES_PX))
        item.getAxis("left").setTickFont(theme.voice(theme.SANS, scale=0.92))
        item.getAxis("left").setPen(None)
        item.getAxis("bottom").setTickFont(theme.voice(theme.SANS, scale=0.88))
        item.getAxis("bottom").setTicks([[(share / 5, f"{share * 20} %") for share in range(6)]])
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addLayout(self._legend)
        layout.addWidget(self.plot)
        self._restyle()

    def _restyle(self) -> None:
        colours, item = theme.colours(), self.plot.getPlotItem()
        self.plot.setBackground(colours.panel)
        item.getAxis("left").setTextPen(colours.text)
        item.getAxis("bottom").setTextPen(colours.quiet)
        item.getAxis("bottom").setPen(colours.quiet)
        self.show_ways(self._ways)

    def show_ways(self, ways: Sequence[Plotted]) -> None:
        """Draw the figures that say something of at least one way."""
        self._ways = ways
        item = self.plot.getPlotItem()
        item.clear()
        self._show_legend(ways)
        names = [
            figure.figure.name
            for at, figure in enumerate(ways[0].figures if ways else ())
            if any(way.figures[at].interval is not None for way in ways)
        ]
        rows = {name: len(names) - 1 - at for at, name in enumerate(names)}
        item.getAxis("left").setTicks([[(row, tr(name)) for name, row in rows.items()]])
        item.setYRange(-0.5, max(0.5, len(names) - 0.5), padding=0)
        self.plot.setFixedHeight(theme.px(_ROW_PX) * max(1, len(names)) + theme.px(_AXIS_PX))
        for number, way in enumerate(ways):
            self._draw(number, len(ways), way, rows)
        self.setAccessibleName(tr("Figures of each way"))
        self.setAccessibleDescription("; ".join(_in_words(way) for way in ways))

    def _draw(self, number: int, n_ways: int, way: Plotted, rows: dict[str, int]) -> None:
        graph = _pyqtgraph()
        symbol, _, colour = _SHAPES[number % len(_SHAPES)]
        shown = [(figure, figure.interval) for figure in way.figures if figure.interval is not None]
        if not shown:
            return
        shift = ((n_ways - 1) / 2 - number) * _SPREAD * 2
        import numpy as np

        x = np.array([interval.mean for _, interval in shown])
        y = np.array([rows[figure.figure.name] + shift for figure, _ in shown])
        left = x - np.array([interval.low for _, interval in shown])
        right = np.array([interval.high for _, interval in shown]) - x
        ink = getattr(theme.colours(), colour)
        pen = graph.mkPen(ink, width=1.6)
        self.plot.addItem(graph.ErrorBarItem(x=x, y=y, left=left, right=right, pen=pen))
        self.plot.addItem(graph.ScatterPlotItem(x=x, y=y, symbol=symbol, size=9, brush=ink, pen=pen))

    def _show_legend(self, ways: Sequence[Plotted]) -> None:
        clear(self._legend)
        for number, way in enumerate(ways):
            _, sign, colour = _SHAPES[number % len(_SHAPES)]
            label = QLabel(f"{sign}  {way.name}")
            label.setTextFormat(Qt.TextFormat.PlainText)
            label.setObjectName(_NAMES[colour])
            self._legend.addWidget(label)
        self._legend.addStretch(1)


def _in_words(way: Plotted) -> str:
    said = [
        tr("{name} {mean:.0%}, between {low:.0%} and {high:.0%} over {n} questions").format(
            name=tr(figure.figure.name),
            mean=figure.interval.mean,
            low=figure.interval.low,
            high=figure.interval.high,
            n=figure.n,
        )
        for figure in way.figures
        if figure.interval is not None
    ]
    return f"{way.name}: {', '.join(said)}"
