# SPDX-License-Identifier: GPL-3.0-or-later
"""The models room: which models read and write here, what they are, how fast they are, and another one in their place."""

import weakref
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from redlantern.application import models as work
from redlantern.application.models import Offer, Registered, TriedWords
from redlantern.application.opening import Models
from redlantern.application.session import Session
from redlantern.desktop.bridge import Task
from redlantern.desktop.models.embedding_offer import EmbeddingOffer
from redlantern.desktop.models.model_part import ModelPart
from redlantern.desktop.models.monitor import Monitor
from redlantern.desktop.models.picker import EMBEDDING_CHOICES, ModelPicker, described_readers
from redlantern.desktop.models.writing_settings import WritingSettings
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import column_area, section_label, words_label
from redlantern.desktop.widgets.room import Room
from redlantern.desktop.workspace import Workspace
from redlantern.models.abilities import Ability
from redlantern.models.kernels import usable_kernels
from redlantern.models.protocols import LanguageModel
from redlantern.settings import Method
from redlantern.translation import tr


class ModelsRoom(Room):
    """The room. Everything that takes time is a task of the workspace; one at a time, and Esc or Stop ends it."""

    def __init__(self, workspace: Workspace, models: Models) -> None:
        super().__init__()
        self.workspace, self._make, self._make_embedder = workspace, models.language, models.embedder
        self.shown: Registered | None = None
        # Of which collection; no room may keep one alive that was closed.
        self._of: weakref.ref[Session] | None = None
        self._task: Task | None = None
        self.language = ModelPart(
            tr("LANGUAGE MODEL"),
            tr(
                "Reads the best passages, says whether they answer, and writes the answer from them and from nothing "
                "else."
            ),
        )
        self.embedding = ModelPart(
            tr("EMBEDDING MODEL"),
            tr("Finds passages by their meaning. All passages of this collection are embedded with it."),
        )
        self.language.bring_button.setToolTip(
            tr("Choose a GGUF file with a model that follows instructions; it is checked before it is used")
        )
        self.embedding.bring_button.setToolTip(
            tr(
                "Choose a folder with model.onnx and tokenizer.json; it is checked, and you are told what the change "
                "takes"
            )
        )
        self.embedding.bring_button.setAccessibleName(tr("Bring in an embedding model"))
        self.readers = ModelPicker(tr("WHICH ONE ANSWERS"))
        self.language.add_choice(self.readers)
        self.embeddings = ModelPicker(tr("WHICH ONE FINDS"))
        self.embedding.add_choice(self.embeddings)
        self.offer = EmbeddingOffer()
        self.stop_button = QPushButton(tr("Stop"))
        self.stop_button.setObjectName("quiet")
        self.notice = words_label("", family=theme.SANS, name="problem")
        self.prompt = QLineEdit()
        self.prompt.setObjectName("question")
        self.prompt.setPlaceholderText(tr("A prompt for the language model, without documents ..."))
        self.prompt.setAccessibleName(tr("Prompt to try"))
        self.try_button = QPushButton(tr("Try"))
        self.tried = words_label("", family=theme.SANS)
        self.settings = WritingSettings()
        self.monitor = Monitor(self._language_model)
        self._build()
        self._connect()
        self._settle()

    def enter(self) -> None:
        """Look at the models when the room is first entered."""
        session = self.workspace.session
        if session is None:
            self.notice.setText(tr("Open a collection first; its models are shown here."))
        elif (self._of is None or self._of() is not session) and self._task is None:
            self._of = weakref.ref(session)
            engine = session.engine
            self._start(tr("Looking at the models ..."), lambda _: work.registered(engine), self._on_registered)
        self._settle()

    def bring_in(self, path: Path) -> None:
        """Check a model file and use it if it can be."""
        self._start(
            tr("Checking {name} ...").format(name=path.name),
            lambda task: work.describe(path, task.cancel, task.stepped.emit),
            lambda card: self._use(Path(card.path)),
        )

    def bring_in_embedding(self, model: Path | str) -> None:
        """Check an embedding model, a packaged one by its word, and say what a change to it takes."""
        # The one before is used until the change was agreed to and made.
        self.embeddings.show_chosen(self.embeddings.chosen)
        session = self.workspace.session
        if session is not None and model != self.embeddings.chosen:
            engine, make = session.engine, self._make_embedder
            self._start(
                tr("Seeing what the change takes ..."),
                lambda task: work.describe_embedding(engine, make, model, task.cancel),
                self._on_offer,
            )

    def _on_offer(self, offer: Offer) -> None:
        self.offer.show_offer(offer)
        self._settle()

    def _embed_anew(self, offer: Offer) -> None:
        """Begin to embed everything with the offered model, as an update: it is shown and cancelled at the bottom line."""
        if self.workspace.session is not None:
            self.workspace.updates.embed_anew(self._make_embedder, offer.model)

    def _on_update_ended(self) -> None:
        self._of = None
        if self.isVisible():
            self.enter()

    def stop(self) -> None:
        """End what is being done."""
        if self._task is not None:
            task, self._task = self._task, None
            task.cancel.now()
            self.notice.setText(tr("Stopped."))
            self._settle()

    def _use(self, path: Path | str) -> None:
        session = self.workspace.session
        if session is not None:
            engine, make = session.engine, self._make
            self._start(
                tr("Changing the model ..."),
                lambda task: work.use_language_model(engine, make, path, task.cancel),
                self._on_registered,
            )

    def _measure(self, part: ModelPart, *, is_language: bool) -> None:
        shown = self.shown
        assert shown is not None, tr("the button is off until the models were looked at")
        self._start(
            tr("Measuring ..."),
            lambda task: work.measure(shown, is_language=is_language, cancel=task.cancel, on_step=task.stepped.emit),
            part.show_speeds,
        )

    def _use_settings(self, method: Method) -> None:
        session = self.workspace.session
        if session is not None:
            engine = session.engine
            self._start(
                tr("Changing how it writes ..."),
                lambda task: work.use_settings(engine, method, task.cancel),
                self._on_settings,
            )

    def _on_settings(self, method: Method) -> None:
        self.settings.show_method(method, may_change=self._may_change)
        self.notice.setText(tr("The next answer is written with these settings."))
        self._settle()

    @property
    def _may_change(self) -> bool:
        return self.workspace.can_change

    def _language_model(self) -> LanguageModel | None:
        session = self.workspace.session
        return session.engine.language_model if session is not None else None

    def _try(self) -> None:
        session, prompt = self.workspace.session, self.prompt.text().strip()
        if session is None or not prompt:
            self.notice.setText(tr("Type a prompt first."))
            self._settle()
            return
        engine = session.engine
        self._start(
            tr("Writing ..."),
            lambda task: work.try_prompt(engine, prompt, cancel=task.cancel, on_step=task.stepped.emit),
            self._on_tried,
        )

    def _start(self, words: str, function: Callable[[Task], Any], finished: Callable[[Any], object]) -> None:
        self.stop()
        self.notice.setText(words)

        def done(result: object) -> None:
            if self._task is task:
                self._task = None
                self.notice.setText("")
                self._settle()
                finished(result)

        def failed(reason: str) -> None:
            if self._task is task:
                self._task = None
                self.notice.setText(reason)
                self._settle()

        task = self.workspace.run(function, stepped=self._on_step, finished=done, failed=failed)
        self._task = task
        self._settle()

    def _on_step(self, step: object) -> None:
        if isinstance(step, TriedWords):
            self._on_tried(step)
        elif isinstance(step, str):
            self.notice.setText(step[:1].upper() + step[1:])
            self.notice.show()

    def _on_tried(self, tried: TriedWords) -> None:
        if tried.seconds:
            pace = tried.n_written / tried.seconds
            speed = tr("\n\n{n_written} tokens in {seconds:.1f} s, {pace:.0f} a second").format(
                n_written=tried.n_written, seconds=tried.seconds, pace=pace
            )
        else:
            speed = ""
        self.tried.setText(tried.words + speed)

    def _on_registered(self, found: Registered) -> None:
        self.shown = found
        self.language.show_card(
            found.language,
            (tr("Reading test"), _reading_words(found.ability), ""),
            (tr("Compute kernels"), *_kernel_words()),
        )
        self.readers.show_choices(described_readers(found.readers), found.reader)
        self.embedding.show_card(found.embedding)
        self.embeddings.show_choices(EMBEDDING_CHOICES, found.packaged_embedding)
        if self.workspace.session is not None:
            self.settings.show_method(self.workspace.session.engine.method, may_change=self._may_change)
        if found.missing:
            self.notice.setText(
                tr("The model file {missing} is gone, so the packaged model writes until it is back.").format(
                    missing=found.missing
                )
            )
        elif found.missing_embedding:
            self.notice.setText(
                tr(
                    "The embedding model in {missing_embedding} is gone. Documents are found by their words alone until "
                    "it is back, or until you update, which embeds them anew with the packaged model."
                ).format(missing_embedding=found.missing_embedding)
            )
        self._settle()

    def _settle(self) -> None:
        """Offer what can be done just now."""
        is_open, is_free = self.workspace.session is not None, self._task is None
        may_change = self._may_change
        for button in (self.language.measure_button, self.embedding.measure_button, self.try_button, self.prompt):
            button.setEnabled(is_open and is_free and self.shown is not None)
        may_change = may_change and is_free and self.shown is not None
        self.language.bring_button.setEnabled(may_change)
        self.readers.allow(may_change)
        may_exchange = may_change and not self.workspace.is_updating
        self.embedding.bring_button.setEnabled(may_exchange)
        self.embeddings.allow(may_exchange)
        self.offer.agree_button.setEnabled(may_exchange)
        self.stop_button.setVisible(not is_free)
        self.notice.setVisible(bool(self.notice.text()))

    def _choose_file(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(
            self, tr("Bring in a language model"), str(Path.home()), tr("Models (*.gguf)")
        )
        if chosen:
            self.bring_in(Path(chosen))

    def _choose_folder(self) -> None:
        chosen = QFileDialog.getExistingDirectory(self, tr("Bring in an embedding model"), str(Path.home()))
        if chosen:
            self.bring_in_embedding(Path(chosen))

    def _connect(self) -> None:
        self.embedding.bring_button.clicked.connect(self._choose_folder)
        self.embeddings.wanted.connect(self.bring_in_embedding)
        self.offer.agreed.connect(self._embed_anew)
        self.workspace.updates.began.connect(self._settle)
        self.workspace.updates.ended.connect(self._on_update_ended)
        self.language.measure_button.clicked.connect(lambda: self._measure(self.language, is_language=True))
        self.embedding.measure_button.clicked.connect(lambda: self._measure(self.embedding, is_language=False))
        self.language.bring_button.clicked.connect(self._choose_file)
        self.readers.wanted.connect(self._use)
        self.stop_button.clicked.connect(self.stop)
        self.try_button.clicked.connect(self._try)
        self.prompt.returnPressed.connect(self._try)
        self.settings.wanted.connect(self._use_settings)

    def _build(self) -> None:
        beside = QHBoxLayout()
        beside.setSpacing(12)
        beside.addWidget(self.language, 1)
        beside.addWidget(self.embedding, 1)
        said = QHBoxLayout()
        said.addWidget(self.notice, 1)
        said.addWidget(self.stop_button)
        bar = QHBoxLayout()
        bar.setSpacing(10)
        bar.addWidget(self.prompt, 1)
        bar.addWidget(self.try_button)
        body = QWidget()
        box = QVBoxLayout(body)
        box.setContentsMargins(22, 14, 22, 20)
        box.setSpacing(12)
        box.addLayout(said)
        box.addLayout(beside)
        box.addWidget(self.offer)
        box.addWidget(self.monitor)
        box.addWidget(section_label(tr("TRY THE LANGUAGE MODEL, WITHOUT DOCUMENTS")))
        box.addLayout(bar)
        box.addWidget(self.tried)
        box.addWidget(self.settings)
        box.addStretch(1)
        area = column_area()
        area.setWidget(body)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(area)


def _kernel_words() -> tuple[str, str]:
    """What the language model computes with on this machine, and what that means."""
    kernels = usable_kernels()
    if kernels is None:
        return tr("for any processor"), tr(
            "Compute kernels are the loops that a model computes with. Where the processor has the newer instructions for it, ./run setup "
            "builds kernels that read up to three times as fast; none were built, or none fit."
        )
    return tr("for this processor ({word})").format(word=kernels.word), tr(
        "Compute kernels are the loops that a model computes with. These were built at set-up for the newer instructions of this processor."
    )


def _reading_words(ability: Ability) -> str:
    if not ability.reads:
        return tr("not passed: held to the documents' own lines")
    if not ability.judges:
        return tr("passed; whether the documents answer is told by the found lines alone")
    return tr("passed")
