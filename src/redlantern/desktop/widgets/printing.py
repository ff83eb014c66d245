# SPDX-License-Identifier: GPL-3.0-or-later
"""HTML of ours as PDF."""

from PyQt6.QtCore import QBuffer, QMarginsF
from PyQt6.QtGui import QPageSize, QPdfWriter, QTextDocument

from redlantern.desktop.widgets import theme

_DPI = 150
_MARGIN_MM = 18
_STYLE = "h1 { font-size: 17pt; } h2 { font-size: 12pt; } p { font-size: 9.5pt; }"


def html_as_pdf(title: str, html: str) -> bytes:
    """A page of HTML as PDF, in our faces."""
    buffer = QBuffer()
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setResolution(_DPI)
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    writer.setPageMargins(QMarginsF(_MARGIN_MM, _MARGIN_MM, _MARGIN_MM, _MARGIN_MM))
    writer.setTitle(title)
    document = QTextDocument()
    document.setDefaultStyleSheet(_STYLE)
    document.setDefaultFont(theme.voice(theme.SANS))
    document.setHtml(html)
    document.print(writer)
    del writer
    return bytes(buffer.data().data())
