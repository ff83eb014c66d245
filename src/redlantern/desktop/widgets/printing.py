# SPDX-License-Identifier: GPL-3.0-or-later
"""HTML of ours on paper."""

from PyQt6.QtCore import QMarginsF
from PyQt6.QtGui import QPageLayout, QTextDocument
from PyQt6.QtPrintSupport import QPrintDialog, QPrinter
from PyQt6.QtWidgets import QWidget

from redlantern.desktop.widgets import theme

_MARGIN_MM = 18
_MOST_TITLE_CHARS = 80
_STYLE = "h1 { font-size: 17pt; } h2 { font-size: 12pt; } p { font-size: 9.5pt; }"


def print_html(parent: QWidget, title: str, html: str) -> bool:
    """Ask on which printer or into which PDF file, and print a page of HTML; whether it was printed."""
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setDocName(title[:_MOST_TITLE_CHARS])
    printer.setPageMargins(QMarginsF(_MARGIN_MM, _MARGIN_MM, _MARGIN_MM, _MARGIN_MM), QPageLayout.Unit.Millimeter)
    dialog = QPrintDialog(printer, parent)
    if dialog.exec() != QPrintDialog.DialogCode.Accepted:
        return False
    _laid_out(html).print(printer)
    return True


def _laid_out(html: str) -> QTextDocument:
    document = QTextDocument()
    document.setDefaultStyleSheet(_STYLE)
    document.setDefaultFont(theme.voice(theme.SANS))
    document.setHtml(html)
    return document
