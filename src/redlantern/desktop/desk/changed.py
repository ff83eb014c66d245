# SPDX-License-Identifier: GPL-3.0-or-later
"""What a sheet says when the documents behind it are not as they were, and how a new sheet differs from it."""

from collections.abc import Callable, Sequence
from datetime import datetime

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from redlantern.answering.changes import Comparison, SourceChange
from redlantern.collection.values import Citation
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import section_label, words_label

_WHAT = {
    "changed": "{names} {was} changed since",
    "gone": "{names} {is_} no longer in the collection",
    "erased": "a document was erased, and its words with it",
}


def changed_notice(asked_at: str, changes: Sequence[SourceChange], on_again: Callable[[], None]) -> QWidget:
    """Say which documents changed or went, that the words shown are those of then, and offer to ask again."""
    said = []
    for what, words in _WHAT.items():
        names = [f"{change.mark} ({change.title})" for change in changes if change.what == what]
        if names:
            many = len(names) > 1
            said.append(
                words.format(names=" and ".join(names), was="were" if many else "was", is_="are" if many else "is")
            )
    sentence = "; ".join(said)
    notice, box = _notice(f"{sentence[:1].upper()}{sentence[1:]}. The words below are as they stood {_day(asked_at)}.")
    button = QPushButton("Ask again and compare")
    button.setObjectName("other")
    button.setToolTip("Ask the same question of the documents as they are now, and show what differs (Ctrl+Shift+R)")
    button.clicked.connect(lambda: on_again())
    row = QHBoxLayout()
    row.addWidget(button)
    row.addStretch(1)
    box.addLayout(row)
    return notice


def comparison_part(comparison: Comparison) -> QWidget:
    """Show what differs from the earlier sheet: lines that changed, that are no longer found, that are new."""
    since = f"COMPARED WITH THE SHEET OF {_day(comparison.asked_at).removeprefix('on ').upper()}"
    if comparison.is_same:
        return _notice(
            f"Compared with the sheet of {_day(comparison.asked_at).removeprefix('on ')}: the same lines are found."
        )[0]
    part = QWidget()
    box = QVBoxLayout(part)
    box.setContentsMargins(0, 4, 0, 4)
    box.setSpacing(6)
    box.addWidget(section_label(since))
    if comparison.was_refused != comparison.is_refused:
        then = "was not answered then" if comparison.was_refused else "was answered then"
        now = "is not answered now" if comparison.is_refused else "is answered now"
        box.addWidget(words_label(f"The question {then}, and {now}.", family=theme.SANS))
    for before, after in comparison.changed:
        box.addWidget(_line("then", before))
        box.addWidget(_line("now", after))
    for citation in comparison.gone:
        box.addWidget(_line("only then", citation))
    for citation in comparison.new:
        box.addWidget(_line("only now", citation))
    if comparison.n_same:
        counted = "One line is" if comparison.n_same == 1 else f"{comparison.n_same} lines are"
        box.addWidget(words_label(f"{counted} the same.", family=theme.SANS, name="quiet"))
    return part


def _line(when: str, citation: Citation) -> QWidget:
    paper = QWidget()
    paper.setObjectName("paper")
    paper.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    row = QHBoxLayout(paper)
    row.setContentsMargins(10, 5, 10, 5)
    label = words_label(when, family=theme.SANS, scale=0.9, name="fadedInk")
    label.setFixedWidth(theme.px(64))
    row.addWidget(label, 0, Qt.AlignmentFlag.AlignTop)
    row.addWidget(words_label(citation.text, family=theme.SERIF, name="ink"), 1)
    mark = words_label(citation.mark, family=theme.SANS, scale=0.88, name="fadedInk")
    mark.setWordWrap(False)
    row.addWidget(mark, 0, Qt.AlignmentFlag.AlignTop)
    return paper


def _notice(words: str) -> tuple[QWidget, QVBoxLayout]:
    notice = QWidget()
    notice.setObjectName("notice")
    notice.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    notice.setAccessibleName(words)
    box = QVBoxLayout(notice)
    box.setContentsMargins(16, 10, 16, 10)
    box.setSpacing(8)
    box.addWidget(words_label(words, family=theme.SANS))
    return notice, box


def _day(asked_at: str) -> str:
    try:
        return f"on {datetime.fromisoformat(asked_at).astimezone():%-d %B %Y at %H:%M}"
    except ValueError:
        return "when it was asked"
