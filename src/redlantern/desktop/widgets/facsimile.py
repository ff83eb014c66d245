"""The right column: the page as printed, with the cited words marked; or set by us where the file has no pages."""

from collections.abc import Callable

from PyQt6.QtCore import QPoint, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from redlantern.collection.values import Document
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.set_page import SetPage
from redlantern.reading.values import Box, Page

