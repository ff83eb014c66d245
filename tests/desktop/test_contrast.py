# SPDX-License-Identifier: GPL-3.0-or-later
"""Contrast, measured on what is drawn: every kind of control in every state, and everything in the rooms, in every theme."""

import numpy as np
import pytest
from PyQt6.QtCore import QRect, Qt
from PyQt6.QtGui import QColor, QImage
from PyQt6.QtWidgets import (
    QAbstractButton,
    QCheckBox,
    QComboBox,
    QLabel,
    QLineEdit,
    QListWidget,
    QPushButton,
    QRadioButton,
    QSpinBox,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from redlantern.desktop.widgets import theme
from tests.desktop.conftest import ask, settle

THEMES = {
    "lamplight": theme.LAMPLIGHT,
    "daylight": theme.DAYLIGHT,
    "stark dark": theme.STARK_DARK,
    "stark light": theme.STARK_LIGHT,
}
TEXT, EDGE = 4.5, 3.0
BUTTONS = ["", "first", "ask", "room", "quiet", "mark", "collection", "known"]
STATES = ["as it is", "pointed at", "with the keys", "off", "on"]


def luminance(colour):
    parts = [value / 255 for value in QColor(colour).getRgb()[:3]]
    red, green, blue = (part / 12.92 if part <= 0.03928 else ((part + 0.055) / 1.055) ** 2.4 for part in parts)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def contrast(one, other):
    lighter, darker = sorted((luminance(one), luminance(other)), reverse=True)
    return (lighter + 0.05) / (darker + 0.05)


def colours_in(image):
    """Every colour of a picture with the number of its pixels, that of most pixels first."""
    image = image.convertToFormat(QImage.Format.Format_RGB32)
    bits = image.constBits()
    bits.setsize(image.sizeInBytes())
    values, counts = np.unique(np.frombuffer(bits, np.uint32), return_counts=True)
    order = np.argsort(-counts)
    return [(int(values[at]) | 0xFF000000, int(counts[at])) for at in order]


def pixels(widget):
    return colours_in(widget.grab().toImage())


def text_contrast(page, area):
    """That of the strongest of the colours that are there in some number against the one there is most of."""
    counted = colours_in(page.grab(area).toImage())
    ground = counted[0][0]
    return max(contrast(colour, ground) for colour, n in counted if n >= 12)


@pytest.fixture
def dressed_in(dressed):
    yield lambda name: theme.apply(dressed, THEMES[name])
    theme.apply(dressed, theme.LAMPLIGHT)


@pytest.fixture
def stage(dressed, qtbot):
    """A page of the sheet's ground to put controls on."""
    page = QWidget()
    page.setObjectName("sheet")
    page.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    QVBoxLayout(page)
    page.resize(700, 200)
    qtbot.addWidget(page)
    page.show()
    return page


def put(stage, widget, state):
    font = widget.font()
    font.setPointSizeF(30)
    font.setBold(True)
    widget.setFont(font)
    stage.layout().addWidget(widget)
    widget.setEnabled(state != "off")
    if state == "on" and isinstance(widget, QAbstractButton):
        widget.setCheckable(True)
        widget.setChecked(True)
    widget.setAttribute(Qt.WidgetAttribute.WA_UnderMouse, state == "pointed at")
    if state == "with the keys":
        stage.activateWindow()
        widget.setFocus()
    widget.show()
    stage.layout().activate()
    return widget


def made(kind, name, words="Hinweis MMM"):
    widget = kind(words) if kind is not QComboBox else QComboBox()
    if isinstance(widget, QComboBox):
        widget.addItem(words)
    widget.setObjectName(name)
    return widget


CONTROLS = [
    *((QPushButton, name) for name in BUTTONS),
    (QLabel, ""), (QLabel, "quiet"), (QLabel, "section"), (QLabel, "problem"), (QLabel, "warned"), (QLabel, "failed"),
    (QLabel, "mark"), (QLineEdit, "question"), (QLineEdit, "filter"), (QCheckBox, ""), (QRadioButton, ""), (QComboBox, ""),
]  # fmt: skip


@pytest.mark.parametrize("state", STATES)
@pytest.mark.parametrize("name", THEMES)
def test_the_words_of_every_control_can_be_read_in_every_state(dressed_in, stage, name, state):
    dressed_in(name)
    weak = {}
    for kind, object_name in CONTROLS:
        widget = put(stage, made(kind, object_name), state)
        measured = text_contrast(stage, widget.geometry())
        if measured < TEXT:
            weak[f"{kind.__name__}#{object_name}"] = round(measured, 2)
        stage.layout().removeWidget(widget)
        widget.deleteLater()
        widget.hide()
    assert weak == {}


@pytest.mark.parametrize("name", THEMES)
def test_fields_and_boxes_have_an_edge_that_can_be_seen(dressed_in, stage, name):
    dressed_in(name)
    colours = THEMES[name]
    for kind, object_name in ((QLineEdit, "question"), (QLineEdit, "filter"), (QComboBox, ""), (QSpinBox, "")):
        widget = kind()
        widget.setObjectName(object_name)
        stage.layout().addWidget(widget)
        stage.layout().activate()
        image = widget.grab().toImage()
        edge = QColor(image.pixel(image.width() // 2, 0))
        assert contrast(edge, colours.ground) >= EDGE, (kind, object_name, edge.name())
        widget.hide()
        widget.deleteLater()


@pytest.mark.parametrize("name", THEMES)
def test_chosen_rows_can_be_read(dressed_in, stage, qtbot, name):
    dressed_in(name)
    tree, plain = QTreeWidget(), QListWidget()
    tree.setHeaderHidden(True)
    tree.addTopLevelItem(QTreeWidgetItem(["Hinweis MMM"]))
    plain.addItem("Hinweis MMM")
    for widget in (tree, plain):
        put(stage, widget, "with the keys")
        if isinstance(widget, QTreeWidget):
            widget.setCurrentItem(widget.topLevelItem(0))
            row = widget.visualItemRect(widget.topLevelItem(0))
        else:
            widget.setCurrentRow(0)
            row = widget.visualItemRect(widget.item(0))
        assert text_contrast(widget.viewport(), row) >= TEXT
        widget.hide()


def words_shown(window):
    """Every label and button that shows words, with the colour that it writes them in and the one they stand on."""
    picture = window.grab().toImage()
    for widget in window.findChildren(QWidget):
        is_shown = (
            isinstance(widget, QLabel | QPushButton | QCheckBox | QRadioButton) and widget.isVisible() and widget.text()
        )
        if not is_shown or "<" in widget.text():
            continue
        area = widget.visibleRegion().boundingRect()
        if area.width() < 8 or area.height() < 8:
            continue
        inner = QRect(widget.mapTo(window, area.topLeft()), area.size()).adjusted(2, 2, -2, -2)
        ground = colours_in(picture.copy(inner))[0][0]
        yield widget, widget.palette().color(widget.foregroundRole()), QColor(ground)


@pytest.mark.parametrize("name", ["lamplight", "daylight"])
def test_everything_in_the_rooms_can_be_read(filled, qtbot, dressed_in, name):
    dressed_in(name)
    ask(filled, qtbot, "At what relative humidity in the loft shall work cease?")
    weak = {}
    for number in range(8):
        filled.go_to(number)
        settle(filled, qtbot)
        for widget, colour, ground in words_shown(filled):
            measured = contrast(colour, ground)
            if measured < TEXT:
                weak[(number, type(widget).__name__, widget.objectName(), widget.text()[:40])] = round(measured, 2)
    assert weak == {}


def test_dressing_anew_changes_what_is_on_screen_at_once(filled, qtbot, dressed_in):
    ask(filled, qtbot, "At what relative humidity in the loft shall work cease?")
    dressed_in("daylight")
    qtbot.waitUntil(lambda: QColor(pixels(filled.desk.shelf)[0][0]).name() == theme.DAYLIGHT.panel, timeout=5000)
