# SPDX-License-Identifier: GPL-3.0-or-later
"""The rows of a sheet: found lines, claims and evidence, each with the way to its page."""

import html
import re

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QContextMenuEvent, QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import (
    QApplication,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from redlantern.answering.sheet import Claim, Evidence, FoundLine
from redlantern.collection.values import Citation
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.context import ROWS, Offer, show_menu
from redlantern.desktop.widgets.drawing import SUPPORT_WORDS, SupportShape
from redlantern.desktop.widgets.labels import (
    words_label,
)
from redlantern.splitting.headings import Headings
from redlantern.translation import tr

_SHOWN_CHARS = 150


class _ClaimLabel(theme.ThemeAware, QLabel):
    """The words of a claim; those that the cited line does not bear out are underlined."""

    def __init__(self, claim: Claim) -> None:
        super().__init__()
        self._claim = claim
        self.setFont(theme.voice(theme.SANS))
        self.setWordWrap(True)
        self.setTextFormat(Qt.TextFormat.RichText)
        self._restyle()

    def _restyle(self) -> None:
        wanted = "|".join(re.escape(html.escape(word)) for word in sorted(self._claim.absent, key=len, reverse=True))
        style = f"color:{theme.colours().amber}; text-decoration:underline"
        self.setText(
            re.sub(
                rf"(?<![\w&])(?:{wanted})(?!\w)",
                lambda match: f'<span style="{style}">{match.group()}</span>',
                html.escape(self._claim.text),
                flags=re.IGNORECASE,
            )
        )


def claim_label(claim: Claim) -> QLabel:
    """The words of a claim; those that the cited line does not bear out are underlined."""
    return _ClaimLabel(claim) if claim.absent else words_label(claim.text, family=theme.SANS)


def first_words(headings: Headings, text: str, most: int) -> str:
    """A passage's first words after the headings that it begins with: at most so many characters."""
    rest = text
    for part in headings.parts:
        rest = rest.removeprefix(part).lstrip("\n")
    words = " ".join(rest.split()) or text
    return words[:most] + ("..." if len(words) > most else "")


def mark_button(citation: Citation) -> QPushButton:
    """A call-mark that opens its page."""
    button = QPushButton(citation.mark)
    button.setObjectName("mark")
    button.setFont(theme.voice(theme.SANS, scale=0.88, weight=theme.BOLD))
    button.setToolTip(citation.title)
    button.setAccessibleName(
        tr("Open {title}, page {page_number}").format(title=citation.title, page_number=citation.page_number)
    )
    button.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
    button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    button.setCursor(Qt.CursorShape.PointingHandCursor)
    return button


class CitedRow(QFrame):
    """A row that stands on words of a document. Chosen by click, Enter or the arrow keys; then the facsimile shows them."""

    chosen = pyqtSignal(object)
    step_wanted = pyqtSignal(int)

    def __init__(self, citation: Citation) -> None:
        super().__init__()
        self.citation = citation
        self.place = ""
        self._is_chosen = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def choose(self) -> None:
        """Choose this row, as a click does."""
        self.chosen.emit(self)

    def set_chosen(self, is_chosen: bool) -> None:
        """Show whether this is the row that the facsimile shows."""
        self._is_chosen = is_chosen
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        """Choose this row."""
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        self.choose()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Up and Down go to the row before and after; Enter and Space choose this one.

        Handled here, for the scroll area around the rows would take the arrows to scroll.
        """
        assert event is not None
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            self.step_wanted.emit(1 if event.key() == Qt.Key.Key_Down else -1)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.choose()
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        """Offer what can be done with this row."""
        if event is not None:
            self.choose()
            is_by_key = event.reason() == QContextMenuEvent.Reason.Keyboard
            at = self.mapToGlobal(self.rect().center()) if is_by_key else event.globalPos()
            show_menu(self, at, self.offers(), ROWS)

    def offers(self) -> list[Offer]:
        """What can be done with its words."""
        return [(tr("Show its page"), self.choose, True), (tr("Copy the words, with their mark"), self.copy, True)]

    def copy(self) -> None:
        """Put its words on the clipboard, with document and page."""
        clipboard = QApplication.clipboard()
        if clipboard is not None:
            words = " ".join(self.citation.text.split())
            clipboard.setText(f"“{words}” [{self.citation.call_mark} p.{self.citation.page_number}]")

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        """Show the focus."""
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        """Show that the focus has gone."""
        super().focusOutEvent(event)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the ground, and a bar at the left of the chosen row."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self._ground()))
        painter.drawRoundedRect(QRectF(self.rect()), 4, 4)
        if self._is_chosen:
            painter.setBrush(QColor(theme.colours().ember))
            painter.drawRect(QRectF(0, 4, 4, self.height() - 8))
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(theme.colours().amber), 1.5))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.75, 0.75, -0.75, -0.75), 4, 4)

    def _ground(self) -> str:
        return theme.colours().raised if self._is_chosen else theme.colours().panel


class LineRow(CitedRow):
    """A found line: the document's words, so in serif on paper."""

    def __init__(self, line: FoundLine) -> None:
        super().__init__(line.citation)
        self.place = tr("a found line")
        words = words_label(line.citation.text, family=theme.SERIF, scale=1.05, name="ink")
        mark = QLabel(line.citation.mark)
        mark.setFont(theme.voice(theme.SANS, scale=0.88, weight=theme.BOLD))
        mark.setObjectName("fadedInk")
        mark.setToolTip(line.citation.title)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 8, 12, 9)
        layout.setSpacing(14)
        layout.addWidget(words, 1)
        layout.addWidget(mark, 0, Qt.AlignmentFlag.AlignBottom)
        self.setAccessibleName(
            tr("Found line, {mark}: {text}").format(mark=line.citation.mark, text=line.citation.text)
        )

    def _ground(self) -> str:
        return theme.colours().paper_chosen if self._is_chosen else theme.colours().paper


class ClaimRow(CitedRow):
    """A claim: our words, so in sans; its support as shape and word in the margin, its doubt under it."""

    def __init__(self, claim: Claim) -> None:
        super().__init__(claim.citations[0])
        self.claim = claim
        self.place = tr("the line that a claim cites")
        top = QHBoxLayout()
        top.setSpacing(10)
        top.addWidget(SupportShape(claim.support), 0, Qt.AlignmentFlag.AlignTop)
        top.addWidget(claim_label(claim), 1)
        for citation in claim.citations:
            button = mark_button(citation)
            button.clicked.connect(self.choose)
            top.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 8, 12, 8)
        layout.setSpacing(3)
        layout.addLayout(top)
        if claim.support != "supported":
            # What is only the model's says so in its doubt.
            said = claim.doubt if claim.is_outside else f"{SUPPORT_WORDS[claim.support]}: {claim.doubt}"
            note = words_label(said, family=theme.SANS, scale=0.9, name="problem")
            note.setContentsMargins(26, 0, 0, 0)
            layout.addWidget(note)
        self.setAccessibleName(
            tr("Claim, {support_words}, {mark}: {text}").format(
                support_words=SUPPORT_WORDS[claim.support], mark=claim.citations[0].mark, text=claim.text
            )
        )


class DraftRow(QWidget):
    """A claim that is being written and not yet checked; its words change as they come."""

    def __init__(self) -> None:
        super().__init__()
        self._words = words_label("", family=theme.SANS)
        self._mark = QLabel("")
        self._mark.setObjectName("quiet")
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 8, 12, 8)
        layout.setSpacing(10)
        layout.addWidget(SupportShape(""), 0, Qt.AlignmentFlag.AlignTop)
        layout.addWidget(self._words, 1)
        layout.addWidget(self._mark, 0, Qt.AlignmentFlag.AlignTop)

    def set_words(self, text: str, mark: str) -> None:
        """Show what was written so far."""
        self._words.setText(text)
        self._mark.setText(mark)


class _Bars(QWidget):
    """Two small bars: how strongly the words found a passage, and how strongly its meaning did."""

    def __init__(self, words: float, meaning: float) -> None:
        super().__init__()
        self._values = (words, meaning)
        self.setFixedSize(46, 18)
        said = tr("words {words:.0%} of the best passage, meaning {meaning:.0%}").format(words=words, meaning=meaning)
        self.setToolTip(said)
        self.setAccessibleName(said)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw them."""
        painter = QPainter(self)
        painter.setPen(Qt.PenStyle.NoPen)
        colours = (theme.colours().amber, theme.colours().ember)
        for row, (value, colour) in enumerate(zip(self._values, colours, strict=True)):
            top = 3 + row * 8
            painter.setBrush(QColor(theme.colours().line))
            painter.drawRect(QRectF(0, top, 46, 4))
            painter.setBrush(QColor(colour))
            painter.drawRect(QRectF(0, top, 46 * max(0.0, min(1.0, value)), 4))


class EvidenceRow(CitedRow):
    """A passage that was found: its rank, its place, its first words and its two bars.

    Chosen, it says why it is there, and can be pinned or put aside for the thread.
    """

    pin_wanted = pyqtSignal(object)
    put_aside_wanted = pyqtSignal(object)

    def __init__(self, evidence: Evidence, best_words: float) -> None:
        super().__init__(evidence.citation)
        self.evidence = evidence
        self.place = tr("passage {rank} of the evidence").format(rank=evidence.rank)
        rank = QLabel(str(evidence.rank))
        rank.setObjectName("quiet")
        rank.setFixedWidth(18)
        heading = evidence.headings.innermost
        first = first_words(evidence.headings, evidence.citation.text, _SHOWN_CHARS)
        text = QVBoxLayout()
        text.setSpacing(1)
        if heading:
            text.addWidget(words_label(heading, family=theme.SERIF, scale=0.86, name="quiet"))
        text.addWidget(words_label(first, family=theme.SERIF, scale=0.92))
        mark = QLabel(evidence.citation.mark)
        mark.setObjectName("quiet")
        mark.setFont(theme.voice(theme.SANS, scale=0.88, weight=theme.BOLD))
        layout = QHBoxLayout()
        layout.setSpacing(10)
        layout.addWidget(rank, 0, Qt.AlignmentFlag.AlignTop)
        mark.setMinimumWidth(64)
        mark.setAlignment(Qt.AlignmentFlag.AlignRight)
        layout.addLayout(text, 1)
        meaning = max(evidence.meaning, evidence.why.best_line) if evidence.why is not None else evidence.meaning
        layout.addWidget(_Bars(evidence.words / max(best_words, 1e-9), meaning), 0, Qt.AlignmentFlag.AlignTop)
        layout.addWidget(mark, 0, Qt.AlignmentFlag.AlignTop)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(12, 6, 12, 6)
        whole.setSpacing(4)
        whole.addLayout(layout)
        self.more = self._build_more(evidence)
        whole.addWidget(self.more)
        self.more.hide()
        pinned = tr("pinned, ") if evidence.is_pinned else ""
        self.setAccessibleName(
            tr("Evidence {rank}, {pinned}{mark}: {first}. {why_words}").format(
                rank=evidence.rank, pinned=pinned, mark=evidence.citation.mark, first=first, why_words=self.why_words
            )
        )

    @property
    def why_words(self) -> str:
        """Why the passage is here, in plain words; empty for a sheet kept before that was recorded."""
        return self.evidence.why.sentences() if self.evidence.why is not None else ""

    def set_chosen(self, is_chosen: bool) -> None:
        """Show whether this is the row that the facsimile shows, and if so why it is there."""
        super().set_chosen(is_chosen)
        self.more.setVisible(is_chosen)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """P pins the passage or lets go of it, Delete puts it aside."""
        assert event is not None
        if event.key() == Qt.Key.Key_P:
            self.pin_wanted.emit(self.evidence)
        elif event.key() == Qt.Key.Key_Delete:
            self.put_aside_wanted.emit(self.evidence)
        else:
            super().keyPressEvent(event)

    def _build_more(self, evidence: Evidence) -> QWidget:
        more = QWidget()
        pin = QPushButton(tr("Let go of it") if evidence.is_pinned else tr("Pin"))
        pin.setToolTip(tr("Keep this passage first among the evidence of this thread (P)"))
        pin.setAccessibleName(tr("Pin passage {rank}").format(rank=evidence.rank))
        pin.clicked.connect(lambda: self.pin_wanted.emit(evidence))
        aside = QPushButton(tr("Put aside"))
        aside.setToolTip(tr("Not relevant: leave this passage out for the rest of this thread (Delete)"))
        aside.setAccessibleName(tr("Put passage {rank} aside").format(rank=evidence.rank))
        aside.clicked.connect(lambda: self.put_aside_wanted.emit(evidence))
        row = QHBoxLayout(more)
        row.setContentsMargins(28, 0, 0, 0)
        row.setSpacing(4)
        row.addWidget(words_label(self.why_words, family=theme.SANS, scale=0.88, name="quiet"), 1)
        for button in (pin, aside):
            button.setObjectName("quiet")
            button.setFont(theme.voice(theme.SANS, scale=0.88))
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            row.addWidget(button, 0, Qt.AlignmentFlag.AlignTop)
        return more
