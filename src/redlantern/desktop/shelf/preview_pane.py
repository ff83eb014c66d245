# SPDX-License-Identifier: GPL-3.0-or-later
"""A look before anything is kept: how files would be read and split, now and under other settings."""

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import (
    QCheckBox,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import column_area, section_label, words_label
from redlantern.indexing.preview import Preview, Sample, Split
from redlantern.progress import Progress
from redlantern.safety.names import path_text, visible
from redlantern.settings import Method, declared_settings
from redlantern.text.languages import name_of_language
from redlantern.text.listing import counted
from redlantern.translation import tr

_BIN_TOKENS = 16
_BINS = 16


class Histogram(QWidget):
    """How many passages are how long: bars for the present settings, an outline for the changed ones."""

    def __init__(self) -> None:
        super().__init__()
        self._now: list[int] = []
        self._changed: list[int] = []
        self.setMinimumHeight(170)
        self.setAccessibleName(tr("Lengths of passages in tokens"))

    def show_splits(self, now: Split, changed: Split) -> None:
        """Show both."""
        self._now, self._changed = _binned(now), _binned(changed)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw it."""
        if not self._now:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours = theme.colours()
        area = QRectF(4, 8, self.width() - 8, self.height() - 34)
        most = max(*self._now, *self._changed, 1)
        step = area.width() / _BINS
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(colours.line))
        for number, count in enumerate(self._now):
            height = area.height() * count / most
            painter.drawRect(QRectF(area.left() + number * step + 2, area.bottom() - height, step - 4, height))
        painter.setPen(QPen(QColor(colours.amber), 2))
        points = []
        for number, count in enumerate(self._changed):
            y = area.bottom() - area.height() * count / most
            points += [QPointF(area.left() + number * step, y), QPointF(area.left() + (number + 1) * step, y)]
        painter.drawPolyline(QPolygonF(points))
        painter.setPen(QColor(colours.quiet))
        painter.setFont(theme.voice(theme.SANS, scale=0.82))
        for tokens in (0, 64, 128, 192, 256):
            x = area.left() + area.width() * tokens / (_BINS * _BIN_TOKENS)
            side = Qt.AlignmentFlag.AlignRight if tokens == 256 else Qt.AlignmentFlag.AlignLeft
            left = x - 80 if tokens == 256 else x
            painter.drawText(
                QRectF(left, area.bottom() + 4, 80, 20),
                side,
                tr("{tokens} tokens").format(tokens=tokens) if tokens == 256 else str(tokens),
            )


def _binned(split: Split) -> list[int]:
    counts = [0] * _BINS
    for n_tokens in split.n_tokens:
        counts[min(_BINS - 1, n_tokens // _BIN_TOKENS)] += 1
    return counts


class PreviewPane(QWidget):
    """What was read for a look, and the settings to try on it."""

    split_wanted = pyqtSignal(object)
    add_wanted = pyqtSignal(object, object)
    closed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.paths: list[Path] = []
        self.preview: Preview | None = None
        self._standard = Method()
        words = {setting.name: setting.metadata["words"] for setting in declared_settings()}
        bounds = {
            setting.name: (setting.metadata["minimum"], setting.metadata["maximum"]) for setting in declared_settings()
        }
        self.tokens, self.overlap = QSpinBox(), QSpinBox()
        for box, name in ((self.tokens, "passage_tokens"), (self.overlap, "overlap_tokens")):
            box.setRange(*bounds[name])
            box.setSuffix(tr(" tokens"))
            box.setSingleStep(8)
            box.setButtonSymbols(QSpinBox.ButtonSymbols.PlusMinus)
            box.setMinimumWidth(150)
            box.setAccessibleName(words[name])
            box.valueChanged.connect(self._on_changed)
        self.by_heading, self.by_record = QCheckBox(words["by_heading"]), QCheckBox(words["by_record"])
        for tick in (self.by_heading, self.by_record):
            tick.toggled.connect(self._on_changed)
        for control in (self.tokens, self.overlap, self.by_heading, self.by_record):
            theme.outline(control)
        self._title = words_label("", family=theme.SANS, scale=1.3)
        self._counts = words_label("", family=theme.SANS)
        self.histogram = Histogram()
        self._files = QWidget()
        self._file_box = QVBoxLayout(self._files)
        self._file_box.setContentsMargins(0, 0, 0, 0)
        self.add_button, self.close_button = QPushButton(tr("Add these files")), QPushButton(tr("Do not add"))
        self.add_button.setObjectName("first")
        self.add_button.clicked.connect(self._on_add)
        self.close_button.clicked.connect(self.closed)
        self._build(words)

    @property
    def method(self) -> Method:
        """The settings as they are changed here."""
        overlap = min(self.overlap.value(), self.tokens.value() - 1)
        return replace(
            self._standard,
            passage_tokens=self.tokens.value(),
            overlap_tokens=overlap,
            by_heading=self.by_heading.isChecked(),
            by_record=self.by_record.isChecked(),
        )

    def show_waiting(self, paths: list[Path], method: Method, words: str) -> None:
        """Files are being read for a look."""
        self.paths, self.preview, self._standard = paths, None, method
        for widget, value in ((self.tokens, method.passage_tokens), (self.overlap, method.overlap_tokens)):
            widget.blockSignals(True)
            widget.setValue(value)
            widget.blockSignals(False)
        for tick, is_on in ((self.by_heading, method.by_heading), (self.by_record, method.by_record)):
            tick.blockSignals(True)
            tick.setChecked(is_on)
            tick.blockSignals(False)
        self._title.setText(words)
        self._counts.setText("")
        self.add_button.setEnabled(False)
        self._clear_files()

    def show_progress(self, progress: Progress) -> None:
        """How far the reading is."""
        self._title.setText(
            tr("Reading for a look: {done} of {total} files ...").format(done=progress.done, total=progress.total)
        )

    def show_preview(self, preview: Preview) -> None:
        """They were read."""
        self.preview = preview
        n_read = sum(sample.read is not None for sample in preview.samples)
        looked = counted(preview.n_files, "file")
        if preview.n_files > len(preview.samples):
            looked = tr("{n_samples} of {looked}").format(n_samples=len(preview.samples), looked=looked)
        refused = len(preview.samples) - n_read
        self._title.setText(
            tr("Read for a look: {looked}").format(looked=looked)
            + (tr(", {refused} refused").format(refused=refused) if refused else "")
            + tr(". Nothing is kept yet.")
        )
        self.add_button.setEnabled(n_read > 0)
        self._clear_files()
        for sample in preview.samples:
            self._file_box.addWidget(_file_row(sample))
        self._file_box.addStretch(1)
        self._on_changed()

    def show_splits(self, splits: list[Split]) -> None:
        """How they would be split: under the present settings and the changed ones."""
        now, changed = splits
        self.histogram.show_splits(now, changed)
        same = tr("The changed settings are shown as a line; they are still the present ones.")
        changed_words = (
            tr("Changed: {in_words}").format(in_words=_in_words(changed)) if self.method != self._standard else same
        )
        self._counts.setText(
            tr("Present settings: {in_words}\n{changed_words}").format(
                in_words=_in_words(now), changed_words=changed_words
            )
        )
        self.add_button.setText(
            tr("Add with the changed settings") if self.method != self._standard else tr("Add these files")
        )

    def _build(self, words: dict[str, str]) -> None:
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(self._files)
        settings, settings_area = QWidget(), column_area()
        left, right = QVBoxLayout(), QVBoxLayout(settings)
        right.setContentsMargins(0, 0, 10, 0)
        settings_area.setWidget(settings)
        left.setSpacing(8)
        left.addWidget(section_label(tr("FILES")))
        left.addWidget(scroll, 1)
        form = QFormLayout()
        form.setHorizontalSpacing(16)
        form.setVerticalSpacing(8)
        form.setContentsMargins(0, 0, 0, 0)
        form.setLabelAlignment(Qt.AlignmentFlag.AlignVCenter)
        form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.FieldsStayAtSizeHint)
        form.addRow(words["passage_tokens"], self.tokens)
        form.addRow(words["overlap_tokens"], self.overlap)
        form.addRow("", self.by_heading)
        form.addRow("", self.by_record)
        right.addWidget(section_label(tr("HOW THEY WOULD BE SPLIT")))
        right.addLayout(form)
        right.addSpacing(8)
        right.addWidget(self._counts)
        right.addWidget(self.histogram, 1)
        legend = QLabel(tr("bars: present settings    line: changed settings"))
        legend.setObjectName("quiet")
        right.addWidget(legend)
        columns = QHBoxLayout()
        columns.setSpacing(34)
        columns.addLayout(left, 5)
        columns.addWidget(settings_area, 6)
        buttons = QHBoxLayout()
        buttons.addWidget(self.add_button)
        buttons.addWidget(self.close_button)
        buttons.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(34, 22, 34, 20)
        layout.setSpacing(12)
        layout.addWidget(self._title)
        layout.addLayout(columns, 1)
        layout.addLayout(buttons)

    def _clear_files(self) -> None:
        while (item := self._file_box.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.deleteLater()

    def _on_changed(self) -> None:
        if self.preview is not None:
            self.split_wanted.emit([self._standard, self.method])

    def _on_add(self) -> None:
        self.add_wanted.emit(self.paths, self.method if self.method != self._standard else None)


def _file_row(sample: Sample) -> QWidget:
    row = QWidget()
    box = QVBoxLayout(row)
    box.setContentsMargins(0, 2, 10, 4)
    box.setSpacing(0)
    if sample.read is None:
        box.addWidget(words_label(visible(path_text(sample.path.name)), family=theme.SERIF))
        box.addWidget(
            words_label(
                tr("refused: {refusal}").format(refusal=sample.refusal), family=theme.SANS, scale=0.88, name="problem"
            )
        )
        return row
    read = sample.read
    facts = [
        read.kind,
        counted(len(read.pages), "page"),
        tr(name_of_language(read.language)),
    ]
    n_recognised = sum(page.origin == "recognised" for page in read.pages)
    if n_recognised:
        facts.append(tr("{n_recognised} recognised").format(n_recognised=n_recognised))
    if read.parts:
        facts.append(tr("{document} within").format(document=counted(len(read.parts), "document")))
    n_warned = sum(bool(page.warnings) for page in read.pages)
    if n_warned:
        facts.append(tr("{page} with warnings").format(page=counted(n_warned, "page")))
    box.addWidget(words_label(f"{read.title}", family=theme.SERIF))
    quiet = f"{visible(path_text(sample.path.name))} · {' · '.join(fact for fact in facts if fact)}"
    box.addWidget(words_label(quiet, family=theme.SANS, scale=0.88, name="quiet"))
    return row


def _in_words(split: Split) -> str:
    if not split.n_tokens:
        return tr("no passages")
    mean = sum(split.n_tokens) / len(split.n_tokens)
    return tr("{n_tokens} passages of {mean:.0f} tokens on average, the longest {n_tokens2}").format(
        n_tokens=len(split.n_tokens), mean=mean, n_tokens2=max(split.n_tokens)
    )
