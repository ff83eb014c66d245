"""The models room: which models read and write here, what they are, how fast they are, and another one in their place."""

import weakref
from pathlib import Path

from PyQt6.QtCore import QLocale, Qt
from PyQt6.QtWidgets import (
    QFileDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from redlantern.desktop import theme
from redlantern.desktop.bridge import Task
from redlantern.desktop.desk import Desk
from redlantern.desktop.models_work import (
    Registered,
    TriedWords,
    describe,
    measure,
    registered,
    try_prompt,
    use,
    use_settings,
)
from redlantern.desktop.monitor import Monitor
from redlantern.desktop.rows import column_area, section_label, words_label
from redlantern.desktop.workbench import MakeLanguageModel, Opened
from redlantern.desktop.writing_settings import WritingSettings
from redlantern.models.card import ModelCard, Speeds, in_mib
from redlantern.settings import Method

_NO_SPEEDS = "not measured yet on this machine"


class ModelPart(QFrame):
    """One model: what its file says of it, and what was measured."""

    def __init__(self, title: str, purpose: str) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.card: ModelCard | None = None
        self.name = words_label("", family=theme.SANS, scale=1.2)
        self.name.setFont(theme.voice(theme.SANS, scale=1.2, weight=theme.BOLD))
        self.measured = words_label(_NO_SPEEDS, family=theme.SANS, name="quiet")
        self.measure_button = QPushButton("Measure")
        self.measure_button.setToolTip("Load the model and let it work for a few seconds")
        self._facts = QGridLayout()
        self._facts.setHorizontalSpacing(16)
        self._facts.setVerticalSpacing(3)
        self._facts.setColumnStretch(1, 1)
        self.buttons = QHBoxLayout()
        self.buttons.addWidget(self.measure_button)
        self.buttons.addStretch(1)
        box = QVBoxLayout(self)
        box.setContentsMargins(18, 14, 18, 14)
        box.setSpacing(8)
        box.addWidget(section_label(title))
        box.addWidget(words_label(purpose, family=theme.SANS, scale=0.92, name="quiet"))
        box.addWidget(self.name)
        box.addLayout(self._facts)
        box.addSpacing(4)
        box.addWidget(section_label("ON THIS MACHINE"))
        box.addWidget(self.measured)
        box.addLayout(self.buttons)
        box.addStretch(1)

    def show_card(self, card: ModelCard) -> None:
        """Show what is known of a model."""
        if self.card is None or self.card.sha256 != card.sha256:
            self.measured.setText(_NO_SPEEDS)
        self.card = card
        self.name.setText(card.name)
        while (item := self._facts.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        for row, (label, value, tip) in enumerate(_facts(card)):
            name = QLabel(label)
            name.setObjectName("quiet")
            said = words_label(value, family=theme.SANS)
            said.setToolTip(tip.replace("<", "‹"))
            said.setAccessibleName(f"{label}: {tip or value}")
            self._facts.addWidget(name, row, 0, Qt.AlignmentFlag.AlignTop)
            self._facts.addWidget(said, row, 1)

    def show_speeds(self, speeds: Speeds) -> None:
        """Show what was measured."""
        said = [f"loaded in {speeds.load_s:.1f} s"]
        said += [f"reads {speeds.read_per_s:,.0f} tokens a second"] if speeds.read_per_s else []
        said += [f"writes {speeds.written_per_s:.0f} tokens a second"] if speeds.written_per_s else []
        said += [f"embeds {speeds.passages_per_s:.0f} passages a second"] if speeds.passages_per_s else []
        said += [f"holds {in_mib(speeds.memory_bytes)} of memory"] if speeds.memory_bytes else []
        self.measured.setText(", ".join(said))


class ModelsRoom(QWidget):
    """The room. Everything that takes time is a task of the desk; one at a time, and Esc or Stop ends it."""

    def __init__(self, desk: Desk, make: MakeLanguageModel) -> None:
        super().__init__()
        self.desk, self._make = desk, make
        self.shown: Registered | None = None
        # Of which collection; no room may keep one alive that was closed.
        self._of: weakref.ref[Opened] | None = None
        self._task: Task | None = None
        self.language = ModelPart(
            "LANGUAGE MODEL", "Writes the answers, from the lines that were found and from nothing else."
        )
        self.embedding = ModelPart(
            "EMBEDDING MODEL", "Finds passages by their meaning. Every collection here is embedded with it."
        )
        self.bring_button = QPushButton("Bring in a model ...")
        self.bring_button.setToolTip(
            "Choose a GGUF file with a model that follows instructions; it is checked before it is used"
        )
        self.back_button = QPushButton("Back to the packaged one")
        self.stop_button = QPushButton("Stop")
        self.stop_button.setObjectName("quiet")
        self.notice = words_label("", family=theme.SANS, name="problem")
        self.prompt = QLineEdit()
        self.prompt.setObjectName("question")
        self.prompt.setPlaceholderText("A prompt for the language model, without documents ...")
        self.prompt.setAccessibleName("Prompt to try")
        self.try_button = QPushButton("Try")
        self.tried = words_label("", family=theme.SANS)
        self.settings = WritingSettings()
        self.monitor = Monitor(lambda: desk.opened.engine.language_model if desk.opened is not None else None)
        self._build()
        self._connect()
        self._settle()

    def enter(self) -> None:
        """Look at the models when the room is first entered."""
        opened = self.desk.opened
        if opened is None:
            self.notice.setText("Open a collection first; its models are shown here.")
        elif (self._of is None or self._of() is not opened) and self._task is None:
            self._of = weakref.ref(opened)
            self._start("Looking at the models ...", registered(opened.engine), self._on_registered)
        self._settle()

    def bring_in(self, path: Path) -> None:
        """Check a model file and use it if it can be."""
        self._start(f"Checking {path.name} ...", describe(path), lambda card: self._use(Path(card.path)))

    def stop(self) -> None:
        """End what is being done."""
        if self._task is not None:
            task, self._task = self._task, None
            task.cancel.now()
            self.notice.setText("Stopped.")
            self._settle()

    def _use(self, path: Path | None) -> None:
        opened = self.desk.opened
        if opened is not None:
            self._start("Changing the model ...", use(opened.engine, self._make, path), self._on_registered)

    def _measure(self, part: ModelPart, *, is_language: bool) -> None:
        path = Path(part.card.path) if part.card is not None and self.shown is not None and self.shown.is_own else None
        self._start("Measuring ...", measure(path, is_language), part.show_speeds)

    def _use_settings(self, method: Method) -> None:
        opened = self.desk.opened
        if opened is not None:
            self._start("Changing how it writes ...", use_settings(opened.engine, method), self._on_settings)

    def _on_settings(self, method: Method) -> None:
        self.settings.show_method(method, may_change=self._may_change)
        self.notice.setText("The next answer is written with these settings.")
        self._settle()

    @property
    def _may_change(self) -> bool:
        return self.desk.opened is not None and not self.desk.opened.only_reading

    def _try(self) -> None:
        opened, prompt = self.desk.opened, self.prompt.text().strip()
        if opened is None or not prompt:
            self.notice.setText("Type a prompt first.")
            self._settle()
            return
        self._start("Writing ...", try_prompt(opened.engine, prompt), self._on_tried)

    def _start(self, said: str, work: object, finished: object) -> None:
        self.stop()
        self.notice.setText(said)

        def done(result: object) -> None:
            if self._task is task:
                self._task = None
                self.notice.setText("")
                self._settle()
                finished(result)  # type: ignore[operator]

        def failed(reason: str) -> None:
            if self._task is task:
                self._task = None
                self.notice.setText(reason)
                self._settle()

        task = self.desk.run(work, stepped=self._on_step, finished=done, failed=failed)  # type: ignore[arg-type]
        self._task = task
        self._settle()

    def _on_step(self, step: object) -> None:
        if isinstance(step, TriedWords):
            self._on_tried(step)
        elif isinstance(step, str):
            self.notice.setText(f"Measuring: {step}")
            self.notice.show()

    def _on_tried(self, tried: TriedWords) -> None:
        if tried.seconds:
            pace = tried.n_written / tried.seconds
            speed = f"\n\n{tried.n_written} tokens in {tried.seconds:.1f} s, {pace:.0f} a second"
        else:
            speed = ""
        self.tried.setText(tried.words + speed)

    def _on_registered(self, found: Registered) -> None:
        self.shown = found
        self.language.show_card(found.language)
        self.embedding.show_card(found.embedding)
        if self.desk.opened is not None:
            self.settings.show_method(self.desk.opened.engine.method, may_change=self._may_change)
        if found.missing:
            self.notice.setText(
                f"The model file {found.missing} is gone, so the packaged model writes until it is back."
            )
        self._settle()

    def _settle(self) -> None:
        """Offer what can be done just now."""
        is_open, is_free = self.desk.opened is not None, self._task is None
        may_change = self._may_change
        for button in (self.language.measure_button, self.embedding.measure_button, self.try_button, self.prompt):
            button.setEnabled(is_open and is_free and self.shown is not None)
        self.bring_button.setEnabled(may_change and is_free and self.shown is not None)
        self.back_button.setVisible(self.shown is not None and self.shown.is_own)
        self.back_button.setEnabled(may_change and is_free)
        self.stop_button.setVisible(not is_free)
        self.notice.setVisible(bool(self.notice.text()))

    def _choose_file(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self, "Bring in a language model", str(Path.home()), "Models (*.gguf)")
        if chosen:
            self.bring_in(Path(chosen))

    def _connect(self) -> None:
        self.language.measure_button.clicked.connect(lambda: self._measure(self.language, is_language=True))
        self.embedding.measure_button.clicked.connect(lambda: self._measure(self.embedding, is_language=False))
        self.bring_button.clicked.connect(self._choose_file)
        self.back_button.clicked.connect(lambda: self._use(None))
        self.stop_button.clicked.connect(self.stop)
        self.try_button.clicked.connect(self._try)
        self.prompt.returnPressed.connect(self._try)
        self.settings.wanted.connect(self._use_settings)

    def _build(self) -> None:
        for at, button in enumerate((self.bring_button, self.back_button)):
            self.language.buttons.insertWidget(at + 1, button)
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
        box.addWidget(self.monitor)
        box.addWidget(section_label("TRY THE LANGUAGE MODEL, WITHOUT DOCUMENTS"))
        box.addLayout(bar)
        box.addWidget(self.tried)
        box.addWidget(self.settings)
        box.addStretch(1)
        area = column_area()
        area.setWidget(body)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(area)


def _facts(card: ModelCard) -> list[tuple[str, str, str]]:
    """Label, value and the whole of it where it is shortened."""
    named = [
        ("File", Path(card.path).name, card.path),
        ("Size on disk", in_mib(card.size_bytes), ""),
        ("Parameters", f"{card.n_parameters / 1e6:,.0f} million" if card.n_parameters else "", ""),
        ("Quantisation", card.quantisation, ""),
        ("Context window", f"{card.n_context:,} tokens" if card.n_context else "", ""),
        ("Languages", ", ".join(map(_language, card.languages)), ""),
        ("Licence", card.licence, ""),
        ("Memory in use", f"about {in_mib(card.memory_bytes)}" if card.memory_bytes else "", ""),
        ("SHA-256", f"{card.sha256[:20]} ...", card.sha256),
    ]
    return [
        (label, value or "not stated", tip) for label, value, tip in named if value or label in ("Licence", "Languages")
    ]


def _language(code: str) -> str:
    """A language's name for its code (ISO 639-1)."""
    named = QLocale(code).language()
    return QLocale.languageToString(named) if named != QLocale.Language.C else code
