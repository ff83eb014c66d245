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
from redlantern.text.listing import listed
from redlantern.translation import tr, trn

_WHAT: dict[str, Callable[[int], str]] = {
    "changed": lambda n: trn("{{names}} was changed since", "{{names}} were changed since", n),
    "gone": lambda n: trn("{{names}} is no longer in the collection", "{{names}} are no longer in the collection", n),
    "erased": lambda n: trn(
        "a document was erased, and its words with it", "documents were erased, and their words with them", n
    ),
}


def changed_notice(asked_at: str, changes: Sequence[SourceChange], on_again: Callable[[], None]) -> QWidget:
    """Say which documents changed or went, that the words shown are those of then, and offer to ask again."""
    said = []
    for what, words in _WHAT.items():
        names = [f"{change.mark} ({change.title})" for change in changes if change.what == what]
        if names:
            said.append(words(len(names)).format(names=listed(names)))
    sentence = "; ".join(said)
    notice, box = _notice(
        tr("{sentence}. The words below are as they stood {day}.").format(
            sentence=sentence[:1].upper() + sentence[1:], day=_day(asked_at)
        )
    )
    button = QPushButton(tr("Ask again and compare"))
    button.setObjectName("other")
    button.setToolTip(
        tr("Ask the same question of the documents as they are now, and show what differs (Ctrl+Shift+R)")
    )
    button.clicked.connect(lambda: on_again())
    row = QHBoxLayout()
    row.addWidget(button)
    row.addStretch(1)
    box.addLayout(row)
    return notice


def comparison_part(comparison: Comparison) -> QWidget:
    """Show what differs from the earlier sheet: lines that changed, that are no longer found, that are new."""
    since = tr("COMPARED WITH THE SHEET OF {day}").format(day=_day(comparison.asked_at).removeprefix("on ").upper())
    if comparison.is_same:
        return _notice(
            tr("Compared with the sheet of {day}: the same lines are found.").format(
                day=_day(comparison.asked_at).removeprefix("on ")
            )
        )[0]
    part = QWidget()
    box = QVBoxLayout(part)
    box.setContentsMargins(0, 4, 0, 4)
    box.setSpacing(6)
    box.addWidget(section_label(since))
    if comparison.was_refused != comparison.is_refused:
        box.addWidget(
            words_label(
                tr("The question was not answered then, and is answered now.")
                if comparison.was_refused
                else tr("The question was answered then, and is not answered now."),
                family=theme.SANS,
            )
        )
    for before, after in comparison.changed:
        box.addWidget(_line(tr("then"), before))
        box.addWidget(_line(tr("now"), after))
    for citation in comparison.gone:
        box.addWidget(_line(tr("only then"), citation))
    for citation in comparison.new:
        box.addWidget(_line(tr("only now"), citation))
    if comparison.n_same:
        same = trn("One line is the same.", "{n} lines are the same.", comparison.n_same)
        box.addWidget(words_label(same, family=theme.SANS, name="quiet"))
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
        return tr("on {moment:%-d %B %Y at %H:%M}").format(moment=datetime.fromisoformat(asked_at).astimezone())
    except ValueError:
        return tr("when it was asked")
