# SPDX-License-Identifier: GPL-3.0-or-later
"""What we draw ourselves: the lamp, and the shapes that tell how far a claim is supported."""

import math

from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt
from PyQt6.QtGui import QColor, QIcon, QPainter, QPainterPath, QPaintEvent, QPen, QPixmap, QPolygonF, QRadialGradient
from PyQt6.QtWidgets import QWidget

from redlantern.answering import wording
from redlantern.desktop.widgets.theme import colours
from redlantern.translation import tr

SUPPORT_WORDS: dict[str, str] = {**wording.SUPPORT_WORDS, "": tr("being written")}


def paint_lamp(painter: QPainter, area: QRectF) -> None:
    """Draw the mark: a red lamp with a hood, hanging, with the light it throws."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    side = min(area.width(), area.height())
    centre = QPointF(area.center().x(), area.top() + side * 0.56)
    glow = QRadialGradient(centre, side * 0.5)
    glow.setColorAt(0.0, QColor(232, 90, 50, 150))
    glow.setColorAt(1.0, QColor(232, 90, 50, 0))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(glow)
    painter.drawEllipse(centre, side * 0.5, side * 0.44)
    painter.setPen(QPen(QColor(colours().quiet), max(1.0, side * 0.05)))
    painter.drawLine(QPointF(centre.x(), area.top()), QPointF(centre.x(), area.top() + side * 0.2))
    hood = QPainterPath(QPointF(centre.x() - side * 0.12, area.top() + side * 0.2))
    hood.lineTo(centre.x() + side * 0.12, area.top() + side * 0.2)
    hood.lineTo(centre.x() + side * 0.3, area.top() + side * 0.48)
    hood.lineTo(centre.x() - side * 0.3, area.top() + side * 0.48)
    hood.closeSubpath()
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(colours().hood))
    painter.drawPath(hood)
    painter.setBrush(QColor(colours().lamp))
    painter.drawPie(
        QRectF(centre.x() - side * 0.22, area.top() + side * 0.26, side * 0.44, side * 0.44), 180 * 16, 180 * 16
    )


def lamp_icon() -> QIcon:
    """The mark as the window's icon."""
    pixmap = QPixmap(QSize(64, 64))
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    paint_lamp(painter, QRectF(0, 0, 64, 64))
    painter.end()
    return QIcon(pixmap)


def paint_tick(painter: QPainter, box: QRect, *, is_ticked: bool, is_possible: bool) -> None:
    """Draw the box that takes a document into scope."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(QColor(colours().quiet if is_possible else colours().line), 1.2))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRoundedRect(QRectF(box), 2, 2)
    if is_ticked:
        painter.setPen(QPen(QColor(colours().amber), 2))
        left, top = box.left(), box.top()
        painter.drawPolyline(
            QPolygonF([QPointF(left + 3, top + 7), QPointF(left + 6, top + 11), QPointF(left + 12, top + 3)])
        )


class Lamp(QWidget):
    """The mark, beside the collection's name."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFixedSize(34, 34)
        self.setAccessibleName("Red Lantern")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw it."""
        painter = QPainter(self)
        paint_lamp(painter, QRectF(self.rect()))


class SupportShape(QWidget):
    """How far a claim is supported: a lamp lit, half lit, out; turning while it is being written.

    The word stands beside it, so that nothing is told by shape alone.
    """

    def __init__(self, support: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._support = support
        self.setFixedSize(16, 16)
        self.setAccessibleName(SUPPORT_WORDS[support])
        self.setToolTip(SUPPORT_WORDS[support])

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw it."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(2, 2, 12, 12)
        colour = QColor(colours().amber if self._support != "unsupported" else colours().ember)
        painter.setPen(QPen(colour, 1.5))
        if self._support == "supported":
            painter.setBrush(colour)
            painter.drawEllipse(area)
        elif self._support == "partly supported":
            painter.drawEllipse(area)
            painter.setBrush(colour)
            painter.drawPie(area, 90 * 16, 180 * 16)
        elif self._support == "unsupported":
            painter.drawEllipse(area)
            reach = 6 * math.sqrt(0.5)
            painter.drawLine(QPointF(8 - reach, 8 + reach), QPointF(8 + reach, 8 - reach))
        else:
            painter.setPen(QPen(QColor(colours().quiet), 1.5, Qt.PenStyle.DotLine))
            painter.drawEllipse(area)
