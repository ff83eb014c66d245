# SPDX-License-Identifier: GPL-3.0-or-later
"""The mark in all sizes that a desktop asks for, and without a size: drawn by the very code that draws it in the window."""

import os
from pathlib import Path

SIZES = (16, 22, 24, 32, 48, 64, 128, 256, 512)
NAME = "org.redlantern.RedLantern"


def icon_files(theme: Path) -> list[Path]:
    """Where the icons stand in a folder of the form of an icon theme (hicolor): one a size, and the one without."""
    sized = [theme / f"{size}x{size}" / "apps" / f"{NAME}.png" for size in SIZES]
    return [*sized, theme / "scalable" / "apps" / f"{NAME}.svg"]


def write_icons(theme: Path) -> None:
    """Write them."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PyQt6.QtCore import QRect, QRectF, QSize, Qt
    from PyQt6.QtGui import QImage, QPainter
    from PyQt6.QtSvg import QSvgGenerator
    from PyQt6.QtWidgets import QApplication

    from redlantern.desktop.widgets.drawing import paint_lamp

    application = QApplication.instance() or QApplication([NAME])
    *sized, scalable = icon_files(theme)
    for size, target in zip(SIZES, sized, strict=True):
        image = QImage(QSize(size, size), QImage.Format.Format_ARGB32)
        image.fill(Qt.GlobalColor.transparent)
        painter = QPainter(image)
        paint_lamp(painter, QRectF(0, 0, size, size))
        painter.end()
        target.parent.mkdir(parents=True, exist_ok=True)
        image.save(str(target))
    scalable.parent.mkdir(parents=True, exist_ok=True)
    drawing = QSvgGenerator()
    drawing.setFileName(str(scalable))
    drawing.setSize(QSize(256, 256))
    drawing.setViewBox(QRect(0, 0, 256, 256))
    drawing.setTitle("Red Lantern")
    painter = QPainter(drawing)
    paint_lamp(painter, QRectF(0, 0, 256, 256))
    painter.end()
    del application
