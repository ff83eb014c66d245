# SPDX-License-Identifier: GPL-3.0-or-later
"""One model in the models room: what its file says of it, what was measured, and what can be done with it."""

from pathlib import Path

from PyQt6.QtCore import QLocale, Qt
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import section_label, words_label
from redlantern.models.card import ModelCard, Speeds, in_mib
from redlantern.translation import tr

_NO_SPEEDS = tr("not measured yet on this machine")


class ModelPart(QFrame):
    """One model: what its file says of it, and what was measured."""

    def __init__(self, title: str, purpose: str) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.card: ModelCard | None = None
        self.name = words_label("", family=theme.SANS, scale=1.2)
        self.name.setFont(theme.voice(theme.SANS, scale=1.2, weight=theme.BOLD))
        self.measured = words_label(_NO_SPEEDS, family=theme.SANS, name="quiet")
        self.measure_button = QPushButton(tr("Measure"))
        self.measure_button.setToolTip(tr("Load the model and let it work for a few seconds"))
        self.bring_button = QPushButton(tr("Bring in a model ..."))
        self._facts = QGridLayout()
        self._facts.setHorizontalSpacing(16)
        self._facts.setVerticalSpacing(3)
        self._facts.setColumnStretch(1, 1)
        buttons = QHBoxLayout()
        for button in (self.measure_button, self.bring_button):
            buttons.addWidget(button)
        buttons.addStretch(1)
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 14, 18, 14)
        box.setSpacing(8)
        box.addWidget(section_label(title))
        box.addWidget(words_label(purpose, family=theme.SANS, scale=0.92, name="quiet"))
        box.addWidget(self.name)
        box.addLayout(self._facts)
        box.addSpacing(4)
        box.addWidget(section_label(tr("ON THIS MACHINE")))
        box.addWidget(self.measured)
        box.addLayout(buttons)
        box.addStretch(1)
        self._box = box

    def add_choice(self, choice: QWidget) -> None:
        """Put a choice between models under what this one is for."""
        self._box.insertWidget(2, choice)

    def show_card(self, card: ModelCard, *more: tuple[str, str, str]) -> None:
        """Show what is known of a model; `more` are further facts, each its label, value, and the whole of it."""
        if self.card is None or self.card.sha256 != card.sha256:
            self.measured.setText(_NO_SPEEDS)
        self.card = card
        self.name.setText(card.name)
        while (item := self._facts.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        for row, (label, value, tip) in enumerate([*_facts(card), *more]):
            name = QLabel(label)
            name.setObjectName("quiet")
            said = words_label(value, family=theme.SANS)
            said.setToolTip(tip)
            said.setAccessibleName(f"{label}: {tip or value}")
            self._facts.addWidget(name, row, 0, Qt.AlignmentFlag.AlignTop)
            self._facts.addWidget(said, row, 1)

    def show_speeds(self, speeds: Speeds) -> None:
        """Show what was measured."""
        said = [tr("loaded in {load_s:.1f} s").format(load_s=speeds.load_s)]
        said += (
            [tr("reads {read_per_s:,.0f} tokens a second").format(read_per_s=speeds.read_per_s)]
            if speeds.read_per_s
            else []
        )
        said += (
            [tr("writes {written_per_s:.0f} tokens a second").format(written_per_s=speeds.written_per_s)]
            if speeds.written_per_s
            else []
        )
        said += (
            [tr("embeds {passages_per_s:.0f} passages a second").format(passages_per_s=speeds.passages_per_s)]
            if speeds.passages_per_s
            else []
        )
        said += (
            [tr("holds {in_mib} of memory").format(in_mib=in_mib(speeds.memory_bytes))] if speeds.memory_bytes else []
        )
        self.measured.setText(", ".join(said))


def _facts(card: ModelCard) -> list[tuple[str, str, str]]:
    """Label, value and the whole of it where it is shortened."""
    named = [
        (tr("File"), Path(card.path).name, card.path),
        (tr("Size on disk"), in_mib(card.size_bytes), ""),
        (
            tr("Parameters"),
            tr("{n_parameters:,.0f} million").format(n_parameters=card.n_parameters / 1e6) if card.n_parameters else "",
            "",
        ),
        (tr("Quantisation"), card.quantisation, ""),
        (tr("Vectors"), tr("{dimensions} numbers").format(dimensions=card.dimensions) if card.dimensions else "", ""),
        (
            tr("Context window"),
            tr("{n_context:,} tokens").format(n_context=card.n_context) if card.n_context else "",
            "",
        ),
        (tr("Languages"), ", ".join(map(_language, card.languages)), ""),
        (tr("Licence"), card.licence, ""),
        (
            tr("Memory in use"),
            tr("about {in_mib}").format(in_mib=in_mib(card.memory_bytes)) if card.memory_bytes else "",
            "",
        ),
        (tr("SHA-256"), f"{card.sha256[:20]} ...", card.sha256),
    ]
    return [
        (label, value or tr("not stated"), tip)
        for label, value, tip in named
        if value or label in (tr("Licence"), tr("Languages"))
    ]


def _language(code: str) -> str:
    """A language's name for its code (ISO 639-1)."""
    named = QLocale(code).language()
    return tr(QLocale.languageToString(named) if named != QLocale.Language.C else code)
