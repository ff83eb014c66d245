# SPDX-License-Identifier: GPL-3.0-or-later
"""Lamplight and daylight: their colours, its two voices (serif for the documents' words, sans for ours) and its style sheet."""

from dataclasses import dataclass, replace
from functools import cache
from importlib import resources
from typing import Any

from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication, QPalette
from PyQt6.QtWidgets import QApplication, QLabel, QProxyStyle, QWidget

SERIF, SANS = "Source Serif Pro", "Source Sans Pro"
_WORN = "colours"
"""The application's property that holds them: it may be dressed anew while it runs."""
_USUAL_POINTS, _USUAL_DOTS = 10.0, 96.0
REGULAR, BOLD = QFont.Weight.Normal, QFont.Weight.DemiBold


@dataclass(frozen=True)
class Colours:
    """Colours by what they are for.

    Every text colour has a contrast of at least 4.5:1 on its ground, every edge by which a control is told 3:1 (a test
    measures both). Words of documents stand in `ink` on `paper` in every theme. `line` only divides; `edge` is what a field
    or a box is seen by. `lamp` and `hood` are those of our mark.
    """

    ground: str
    panel: str
    raised: str
    line: str
    edge: str
    text: str
    quiet: str
    ember: str
    amber: str
    select: str
    paper: str
    paper_chosen: str
    paper_left_out: str
    ink: str = "#2a2017"
    faded_ink: str = "#6a5844"
    marked: str = "#ffd27a"
    ask: str = "#b5481c"
    on_ask: str = "#fff4e6"
    hood: str = "#7a6654"
    lamp: str = "#e2492b"


LAMPLIGHT = Colours(
    ground="#1a1512", panel="#211b17", raised="#2d2520", line="#4a3d33", edge="#8c7b6b", text="#f1e7da", quiet="#b9a998",
    ember="#e8804a", amber="#f2b861", select="#f2b861", paper="#f3e9d4", paper_chosen="#fff6df", paper_left_out="#d9ccb4",
)  # fmt: skip
DAYLIGHT = Colours(
    ground="#f1ebe0", panel="#e8e0d2", raised="#faf6ee", line="#c9bda9", edge="#86775f", text="#241b13", quiet="#5c4f41",
    ember="#a13c14", amber="#7f4508", select="#f2b861", paper="#fffdf6", paper_chosen="#fff0c4", paper_left_out="#ded5c3",
    hood="#8d7a66",
)  # fmt: skip
STARK_DARK = replace(
    LAMPLIGHT, ground="#000000", panel="#000000", raised="#161616", line="#9a9a9a", edge="#ffffff", text="#ffffff",
    quiet="#e6e6e6", ember="#ff9a66", amber="#ffd27a", paper="#ffffff", paper_chosen="#fff0b0", ink="#000000",
    faded_ink="#333333",
)  # fmt: skip
STARK_LIGHT = replace(
    DAYLIGHT, ground="#ffffff", panel="#ffffff", raised="#ffffff", line="#555555", edge="#000000", text="#000000",
    quiet="#2b2b2b", ember="#8a2500", amber="#5c2f00", paper="#ffffff", paper_chosen="#fff0b0", ink="#000000",
    faded_ink="#333333",
)  # fmt: skip
"""For those who asked their desktop for high contrast."""


def colours() -> Colours:
    """Those that the application is dressed in now."""
    application = QApplication.instance()
    worn = application.property(_WORN) if application is not None else None
    return worn if isinstance(worn, Colours) else LAMPLIGHT


def load_fonts() -> None:
    """Load the two shipped families.

    Raises
    ------
    RuntimeError
        If a font file is missing or broken: the two voices could not be told apart.
    """
    folder = resources.files("redlantern") / "fonts"
    for entry in folder.iterdir():
        if entry.name.endswith(".ttf") and QFontDatabase.addApplicationFontFromData(entry.read_bytes()) < 0:
            raise RuntimeError(f"the font {entry.name} cannot be loaded")


def voice(
    family: str, *, scale: float = 1.0, weight: QFont.Weight = QFont.Weight.Normal, italic: bool = False
) -> QFont:
    """A font of one of the two families, `scale` times the size the desktop is set to."""
    font = QFont(family)
    font.setPointSizeF(base_points() * scale)
    font.setWeight(weight)
    font.setItalic(italic)
    return font


@cache
def base_points() -> float:
    """The size, in points, that the desktop's settings ask for, a little larger for long reading.

    Asked once, before our own font is set as the application's.
    """
    asked = QApplication.font().pointSizeF()
    return max(asked, 7.0) + 1.0 if asked > 0 else 11.0


class PlainStyle(QProxyStyle):
    """Shows the text of every label as it is, that of dialogs and of tips too, unless the label was told otherwise.

    Left to itself Qt guesses whether a text is HTML, and file names come from anywhere.
    """

    def __init__(self) -> None:
        super().__init__("Fusion")

    def polish(self, dressed: Any) -> Any:
        """Called once for every widget, before it is first shown."""
        if isinstance(dressed, QLabel) and dressed.textFormat() == Qt.TextFormat.AutoText:
            dressed.setTextFormat(Qt.TextFormat.PlainText)
        return super().polish(dressed)


class ThemeAware:
    """Notices for a widget that the application was dressed in other colours: for those that keep colours of their own.

    Mixed in before a widget's class, which calls `_restyle` then.
    """

    _worn: Colours | None = None

    def changeEvent(self, event: Any) -> None:
        """Look whether the colours are others."""
        super().changeEvent(event)  # type: ignore[misc]
        if event is not None and event.type() == QEvent.Type.StyleChange:
            before, self._worn = self._worn, colours()
            if before != self._worn:
                self._restyle()

    def _restyle(self) -> None:
        """Take up the new colours."""
        raise NotImplementedError


def set_style_name(widget: QWidget, name: str) -> None:
    """Let a widget be dressed by another name from now on."""
    style = widget.style()
    if widget.objectName() != name and style is not None:
        widget.setObjectName(name)
        style.unpolish(widget)
        style.polish(widget)


def px(lengths: float) -> int:
    """Pixels of something that holds text, at the size that text has: `lengths` are those of 10 points at 96 dots an inch."""
    screen = QGuiApplication.primaryScreen()
    dots = screen.logicalDotsPerInch() if screen is not None else _USUAL_DOTS
    return round(lengths * base_points() / _USUAL_POINTS * dots / _USUAL_DOTS)


def apply(application: QApplication, colours: Colours = LAMPLIGHT) -> None:
    """Dress an application: palette for what Qt draws, style sheet for what we do. May be done again while it runs."""
    application.setProperty(_WORN, colours)
    palette = QPalette()
    roles = {
        QPalette.ColorRole.Window: colours.ground,
        QPalette.ColorRole.Base: colours.panel,
        QPalette.ColorRole.AlternateBase: colours.raised,
        QPalette.ColorRole.Text: colours.text,
        QPalette.ColorRole.WindowText: colours.text,
        QPalette.ColorRole.Button: colours.raised,
        QPalette.ColorRole.ButtonText: colours.text,
        QPalette.ColorRole.Highlight: colours.select,
        QPalette.ColorRole.HighlightedText: colours.ink,
        QPalette.ColorRole.PlaceholderText: colours.quiet,
        QPalette.ColorRole.ToolTipBase: colours.raised,
        QPalette.ColorRole.ToolTipText: colours.text,
    }
    for role, colour in roles.items():
        palette.setColor(role, QColor(colour))
    if not isinstance(application.style(), PlainStyle):
        application.setStyle(PlainStyle())
    # As the application's font and not in the style sheet, which would overrule the serif of the documents' words.
    plain = QFont(SANS)
    plain.setPointSizeF(base_points())
    application.setFont(plain)
    application.setPalette(palette)
    application.setStyleSheet(_style_sheet(colours))


def outline(control: QWidget) -> None:
    """Give a control that Qt draws an edge that can be seen: it takes a darker shade of this colour for it."""
    palette = control.palette()
    palette.setColor(QPalette.ColorRole.Window, QColor(colours().quiet))
    control.setPalette(palette)


_STYLE = """
    QWidget {{ color: {c.text}; }}
    QMainWindow, QDialog {{ background: {c.ground}; }}
    #header {{ background: {c.ground}; border-bottom: 1px solid {c.line}; }}
    #question {{ background: {c.panel}; border: 1px solid {c.edge}; border-radius: 4px; padding: 7px 10px;
                 selection-background-color: {c.select}; selection-color: {c.ink}; }}
    #filter {{ background: {c.ground}; border: 1px solid {c.edge}; border-radius: 3px; padding: 2px 7px; }}
    #filter:disabled {{ color: {c.quiet}; border-style: dashed; }}
    #filter:focus {{ border: 1px solid {c.amber}; }}
    #question:focus {{ border: 1px solid {c.amber}; }}
    QPushButton {{ background: {c.raised}; border: 1px solid {c.line}; border-radius: 4px; padding: 6px 14px; }}
    QPushButton:hover {{ border-color: {c.amber}; }}
    QPushButton:focus {{ border: 1px solid {c.amber}; }}
    QPushButton:disabled {{ color: {c.quiet}; }}
    QPushButton#ask, QPushButton#first {{ background: {c.ask}; color: {c.on_ask}; border-color: {c.ask}; }}
    QPushButton#ask:disabled, QPushButton#first:disabled {{ background: {c.raised}; color: {c.quiet}; border-color: {c.line}; }}
    QRadioButton {{ spacing: 9px; }}
    QRadioButton::indicator {{ width: 13px; height: 13px; border-radius: 8px; border: 1.5px solid {c.quiet}; background: {c.panel}; }}
    QRadioButton::indicator:checked {{ border-color: {c.amber}; background: {c.ember}; }}
    QRadioButton::indicator:disabled {{ border-color: {c.line}; }}
    QRadioButton:focus {{ color: {c.amber}; }}
    QRadioButton:disabled {{ color: {c.quiet}; }}
    QComboBox, QSpinBox, QDoubleSpinBox {{ background: {c.raised}; color: {c.text}; border: 1px solid {c.edge}; border-radius: 4px;
                           padding: 4px 8px; }}
    QComboBox:focus, QSpinBox:focus, QDoubleSpinBox:focus {{ border-color: {c.amber}; }}
    QComboBox {{ padding-right: 26px; }}
    QComboBox::drop-down {{ subcontrol-origin: border; subcontrol-position: center right; width: 26px; border: none; }}
    QComboBox::down-arrow {{ image: url("{down}"); width: 12px; height: 8px; }}
    QSpinBox, QDoubleSpinBox {{ min-height: 22px; padding-right: 30px; }}
    QSpinBox::up-button, QDoubleSpinBox::up-button {{ subcontrol-origin: border; subcontrol-position: top right; width: 28px; height: 15px;
                           border-left: 1px solid {c.edge}; }}
    QSpinBox::down-button, QDoubleSpinBox::down-button {{ subcontrol-origin: border; subcontrol-position: bottom right; width: 28px;
                           height: 15px; border-left: 1px solid {c.edge}; border-top: 1px solid {c.line}; }}
    QSpinBox::up-arrow, QDoubleSpinBox::up-arrow {{ image: url("{up}"); width: 12px; height: 8px; }}
    QSpinBox::down-arrow, QDoubleSpinBox::down-arrow {{ image: url("{down}"); width: 12px; height: 8px; }}
    QSpinBox::up-button:hover, QSpinBox::down-button:hover, QDoubleSpinBox::up-button:hover, QDoubleSpinBox::down-button:hover {{
                           background: {c.panel}; }}
    QComboBox QAbstractItemView {{ background: {c.raised}; selection-background-color: {c.ask}; selection-color: {c.on_ask}; }}
    QTreeWidget {{ background: {c.panel}; border: none; outline: none; }}
    QTreeWidget::item {{ padding: 4px 2px; }}
    QTreeWidget::item:selected {{ background: {c.raised}; color: {c.text}; }}
    QPushButton#ask:focus, QPushButton#first:focus {{ border-color: {c.amber}; }}
    QPushButton#ask:disabled {{ background: {c.raised}; color: {c.quiet}; border-color: {c.line}; }}
    QPushButton#room {{ background: transparent; border: none; border-bottom: 2px solid transparent; border-radius: 0;
                        padding: 5px 4px; color: {c.quiet}; }}
    QPushButton#room:checked {{ color: {c.text}; border-bottom-color: {c.ember}; }}
    QPushButton#room:focus {{ color: {c.amber}; }}
    QPushButton#quiet {{ background: transparent; border: 1px solid transparent; padding: 2px 6px; color: {c.amber}; }}
    QPushButton#quiet:hover, QPushButton#quiet:focus {{ border-color: {c.amber}; }}
    QPushButton#quiet:disabled {{ color: {c.quiet}; }}
    QPushButton#onPaper {{ background: transparent; border: 1px solid transparent; padding: 2px 0px; color: {c.ask}; }}
    QPushButton#onPaper:hover, QPushButton#onPaper:focus {{ border-color: {c.ask}; }}
    QPushButton#mark {{ background: {c.raised}; border: 1px solid {c.line}; border-radius: 3px; padding: 1px 7px;
                        color: {c.amber}; }}
    QPushButton#mark:hover, QPushButton#mark:focus {{ border-color: {c.amber}; }}
    QPushButton#collection {{ background: transparent; border: 1px solid transparent; text-align: left; padding: 4px 22px 4px 8px; }}
    QPushButton#collection:hover, QPushButton#collection:focus {{ border-color: {c.line}; }}
    QPushButton#known {{ background: transparent; border: 1px solid transparent; text-align: left; padding: 3px 8px; color: {c.amber}; }}
    QPushButton#known:hover, QPushButton#known:focus {{ border-color: {c.amber}; }}
    QPushButton#collection::menu-indicator {{ width: 12px; }}
    QMenu {{ background: {c.raised}; border: 1px solid {c.line}; padding: 4px; }}
    QMenu::item {{ padding: 6px 26px; }}
    QMenu::item:selected {{ background: {c.ask}; color: {c.on_ask}; }}
    QMenu::item:disabled {{ color: {c.quiet}; }}
    QMenu::separator {{ height: 1px; background: {c.line}; margin: 4px 8px; }}
    #panel {{ background: {c.panel}; }}
    #sheet {{ background: {c.ground}; }}
    QScrollArea {{ border: none; background: transparent; }}
    QListView {{ background: {c.panel}; border: none; outline: none; }}
    QListWidget::item {{ padding: 5px 6px; }}
    QListWidget::item:selected {{ background: {c.select}; color: {c.ink}; }}
    QTableView {{ background: {c.panel}; border: none; outline: none; selection-background-color: {c.raised};
                  selection-color: {c.text}; }}
    QTableView::item {{ padding: 2px 6px; border: none; }}
    QTableView::item:selected {{ background: {c.raised}; border-top: 1px solid {c.line}; border-bottom: 1px solid {c.line}; }}
    QTableWidget::indicator {{ width: 13px; height: 13px; border-radius: 3px; border: 1.5px solid {c.quiet}; background: {c.panel}; }}
    QTableWidget::indicator:checked {{ border-color: {c.amber}; background: {c.amber}; }}
    QHeaderView::section {{ background: {c.ground}; color: {c.quiet}; border: none; border-bottom: 1px solid {c.line};
                            padding: 4px 6px; }}
    QTableCornerButton::section {{ background: {c.ground}; border: none; border-bottom: 1px solid {c.line}; }}
    #paper {{ background: {c.paper}; }}
    QCheckBox:focus {{ color: {c.amber}; }}
    QSplitter::handle {{ background: {c.line}; }}
    QLabel#section {{ color: {c.quiet}; }}
    QLabel#ink {{ color: {c.ink}; }}
    QLabel#fadedInk {{ color: {c.faded_ink}; }}
    QLabel#quiet {{ color: {c.quiet}; }}
    QLabel#mark, QLabel#problem, QLabel#warned, QLabel#sealed, #status QLabel#sealed, #status QLabel#warned {{ color: {c.amber}; }}
    QLabel#ember {{ color: {c.ember}; }}
    QLabel#failed, #status QLabel#failed {{ color: {c.ember}; font-weight: 600; }}
    #status {{ background: {c.panel}; border-top: 1px solid {c.line}; }}
    #status QLabel {{ color: {c.quiet}; }}
    #modelAlone {{ background: {c.ground}; border: 1px dashed {c.quiet}; border-radius: 4px; }}
    #notice {{ background: {c.raised}; border-left: 3px solid {c.amber}; }}
    QProgressBar {{ background: {c.raised}; border: none; border-radius: 2px; max-height: 6px; min-height: 6px; }}
    QProgressBar::chunk {{ background: {c.ember}; border-radius: 2px; }}
    QTextEdit#setPage {{ background: {c.paper}; color: {c.ink}; border: none; selection-background-color: {c.marked};
                         selection-color: {c.ink}; }}
    QToolTip {{ background: {c.raised}; color: {c.text}; border: 1px solid {c.line}; padding: 4px; }}
    QScrollBar:vertical {{ background: transparent; width: 11px; }}
    QScrollBar::handle:vertical {{ background: {c.line}; border-radius: 4px; min-height: 30px; margin: 1px 2px; }}
    QScrollBar:horizontal {{ background: transparent; height: 11px; }}
    QScrollBar::handle:horizontal {{ background: {c.line}; border-radius: 4px; min-width: 30px; margin: 2px 1px; }}
    QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{ width: 0; height: 0;
        background: none; }}
"""
"""The style sheet, with a name of Colours in each pair of braces, or a picture: one grey that is seen on all grounds."""


def _style_sheet(c: Colours) -> str:
    up, down = (resources.files("redlantern.desktop") / "icons" / f"{name}.svg" for name in ("up", "down"))
    return _STYLE.format(c=c, up=up, down=down)
