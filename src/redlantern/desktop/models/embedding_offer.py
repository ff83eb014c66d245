# SPDX-License-Identifier: GPL-3.0-or-later
"""What a change of the embedding model takes, and whether it is wanted."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from redlantern.application.models import Offer
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.amounts import duration_words
from redlantern.desktop.widgets.labels import words_label
from redlantern.translation import tr


class EmbeddingOffer(QWidget):
    """Hidden until a model was checked; `agreed` carries the offer."""

    agreed = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("notice")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.offer: Offer | None = None
        self.words = words_label("", family=theme.SANS)
        self.agree_button = QPushButton(tr("Embed everything anew"))
        self.agree_button.setObjectName("first")
        self.leave_button = QPushButton(tr("Leave it as it is"))
        self.agree_button.clicked.connect(self._on_agreed)
        self.leave_button.clicked.connect(self.hide)
        buttons = QHBoxLayout()
        buttons.addWidget(self.agree_button)
        buttons.addWidget(self.leave_button)
        buttons.addStretch(1)
        box = QVBoxLayout(self)
        box.setContentsMargins(16, 12, 16, 12)
        box.setSpacing(8)
        box.addWidget(self.words)
        box.addLayout(buttons)
        self.hide()

    def show_offer(self, offer: Offer) -> None:
        """Say what the change takes."""
        self.offer = offer
        card = offer.card
        self.words.setText(
            tr(
                "“{name}” can be used: vectors of {dimensions} numbers, texts of up to {n_context} tokens. The "
                "{n_passages:,} passages of this collection are embedded anew with it, which takes about "
                "{duration_words} and, meanwhile, as much disk again as the collection. Until everything is "
                "embedded, questions are answered with the present model; if you stop, all stays as it is."
            ).format(
                name=card.name,
                dimensions=card.dimensions,
                n_context=card.n_context,
                n_passages=offer.n_passages,
                duration_words=duration_words(offer.seconds),
            )
        )
        self.show()

    def _on_agreed(self) -> None:
        self.hide()
        self.agreed.emit(self.offer)
