# SPDX-License-Identifier: GPL-3.0-or-later
"""A set of questions being written: the list at the left, and what is expected of the chosen one at the right."""

from collections.abc import Sequence
from dataclasses import replace

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QSplitter,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from redlantern.application.side_by_side import TriedPassage
from redlantern.desktop.trials.words import MANY, expected_words, page_from, page_words, pages_words, parts_of
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.labels import clear, column_area, quiet_button, section_label, words_label
from redlantern.desktop.widgets.rows import first_words
from redlantern.safety.names import visible
from redlantern.text.listing import counted
from redlantern.translation import tr
from redlantern.trials.values import QuestionSet, RightPage, TrialQuestion

_SHOWN_CHARS = 110


class SetEditor(QWidget):
    """The editor. Every change is announced by `changed`; `pages_wanted` asks for the pages found for a question."""

    changed = pyqtSignal(object)
    back_wanted = pyqtSignal()
    run_wanted = pyqtSignal()
    file_wanted = pyqtSignal()
    propose_wanted = pyqtSignal()
    pages_wanted = pyqtSignal(str)
    saving_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.set = QuestionSet("", ())
        self._found: list[tuple[RightPage, QCheckBox]] = []
        self._is_showing = False
        self.name = _field(tr("Name of the set"))
        self.list = QTreeWidget()
        self.question, self.expected = (
            _field(tr("The question")),
            _field(tr("Expected words; several are parted by semicolons")),
        )
        self.pages, self.tags = (
            _field(tr("Right pages, as path:number, parted by semicolons")),
            _field(tr("Tags, parted by semicolons")),
        )
        self.absent = QCheckBox(tr("The documents do not answer this"))
        self.find_button = quiet_button(
            tr("Find its pages"), tr("Show the pages that are found for this question, to be ticked")
        )
        self.notice = words_label("", family=theme.SANS, name="quiet")
        self._found_box = QVBoxLayout()
        self.run_button = QPushButton(tr("Ask them ..."))
        self.add_button, self.remove_button = (
            QPushButton(tr("Add a question")),
            quiet_button(tr("Remove"), tr("Take the chosen question out")),
        )
        self._build()
        self._connect()

    def show_set(self, questions: QuestionSet, at: int = 0) -> None:
        """Show a set, with one of its questions chosen."""
        self.set = questions
        self.name.setText(questions.name)
        self._fill(at)

    def show_pages(self, passages: Sequence[TriedPassage], paths: dict[int, tuple[str, str]]) -> None:
        """Show pages that were found for the chosen question, to be ticked; `paths` has path and key by document."""
        self._clear_found()
        question = self._chosen()
        if question is None:
            return
        seen: set[tuple[str, int]] = set()
        for passage in passages:
            path, key = paths.get(passage.document_id, ("", ""))
            if not path or (path, passage.page_number) in seen:
                continue
            seen.add((path, passage.page_number))
            page = RightPage(path, passage.page_number, key)
            box = QCheckBox(passage.mark)
            box.setAccessibleName(tr("{mark} is right").format(mark=passage.mark))
            box.setChecked(any((each.path, each.page_number) == (path, passage.page_number) for each in question.right))
            box.toggled.connect(self._on_ticked)
            theme.outline(box)
            words = words_label(
                first_words(passage.headings, passage.words, _SHOWN_CHARS), family=theme.SERIF, scale=0.9
            )
            words.setContentsMargins(24, 0, 0, 6)
            self._found_box.addWidget(box)
            self._found_box.addWidget(words)
            self._found.append((page, box))
        self.notice.setText(
            tr("Tick the pages that answer.") if self._found else tr("No page in scope has anything to do with it.")
        )

    def add(self, questions: Sequence[TrialQuestion]) -> None:
        """Take questions in, under ids that are free; the last one is chosen then."""
        taken = {question.question_id for question in self.set.questions}
        added = []
        for question in questions:
            free = question.question_id
            number = len(taken) + 1
            while free in taken:
                free, number = f"q{number}", number + 1
            taken.add(free)
            added.append(replace(question, question_id=free))
        self.set = replace(self.set, questions=(*self.set.questions, *added))
        self._fill(len(self.set.questions) - 1)
        self.changed.emit(self.set)

    def _chosen(self) -> TrialQuestion | None:
        at = self.list.indexOfTopLevelItem(self.list.currentItem()) if self.list.currentItem() is not None else -1
        return self.set.questions[at] if 0 <= at < len(self.set.questions) else None

    def _fill(self, at: int) -> None:
        self._is_showing = True
        self.list.clear()
        for question in self.set.questions:
            self.list.addTopLevelItem(_item(question))
        self._is_showing = False
        if self.set.questions:
            self.list.setCurrentItem(self.list.topLevelItem(max(0, min(at, len(self.set.questions) - 1))))
        self._show_question()

    def _show_question(self) -> None:
        if self._is_showing:
            return
        question = self._chosen()
        self._is_showing = True
        for widget in (
            self.question,
            self.expected,
            self.pages,
            self.tags,
            self.absent,
            self.find_button,
            self.remove_button,
        ):
            widget.setEnabled(question is not None)
        shown = question or TrialQuestion("", "")
        self.question.setText(shown.question)
        self.expected.setText(f"{MANY} ".join(shown.expected))
        self.pages.setText(f"{MANY} ".join(map(page_words, shown.right)))
        self.tags.setText(f"{MANY} ".join(shown.tags))
        self.absent.setChecked(shown.is_absent)
        self._show_absent(shown.is_absent)
        self._is_showing = False
        self._clear_found()
        n_bare = sum(each.expects_nothing for each in self.set.questions)
        bare = tr("{question} of {n_questions} expect nothing yet: asked, but not marked.").format(
            question=counted(n_bare, "question"), n_questions=len(self.set.questions)
        )
        self.notice.setText(bare if n_bare else "")
        self.run_button.setEnabled(bool(self.set.questions))

    def _show_absent(self, is_absent: bool) -> None:
        for field in (self.expected, self.pages, self.find_button):
            field.setEnabled(not is_absent and self._chosen() is not None)

    def _on_edited(self) -> None:
        """Take over what stands in the fields."""
        question = self._chosen()
        if self._is_showing or question is None:
            return
        try:
            right = tuple(page_from(words, question.right) for words in parts_of(self.pages.text()))
        except ValueError:
            self.notice.setText(tr("A page is given as its path, a colon and its number, such as letters/key.txt:1."))
            return
        self._take(
            replace(
                question, question=self.question.text().strip() or question.question, expected=tuple(parts_of(self.expected.text())),
                right=right, is_absent=self.absent.isChecked(), tags=tuple(parts_of(self.tags.text())),
            )
        )  # fmt: skip

    def _take(self, question: TrialQuestion) -> None:
        at = [each.question_id for each in self.set.questions].index(question.question_id)
        if self.set.questions[at] == question:
            return
        questions = (*self.set.questions[:at], question, *self.set.questions[at + 1 :])
        self.set = replace(self.set, questions=questions)
        item = self.list.topLevelItem(at)
        if item is not None:
            _write(item, question)
        self._show_absent(question.is_absent)
        self.changed.emit(self.set)

    def _on_ticked(self) -> None:
        question = self._chosen()
        if question is None:
            return
        offered = {(page.path, page.page_number) for page, _ in self._found}
        kept = [page for page in question.right if (page.path, page.page_number) not in offered]
        right = (*kept, *(page for page, box in self._found if box.isChecked()))
        self._is_showing = True
        self.pages.setText(f"{MANY} ".join(map(page_words, right)))
        self._is_showing = False
        self._take(replace(question, right=right))

    def _on_renamed(self) -> None:
        name = self.name.text().strip()
        if name and name != self.set.name:
            self.set = replace(self.set, name=name)
            self.changed.emit(self.set)

    def _on_removed(self) -> None:
        question = self._chosen()
        if question is None:
            return
        at = self.set.questions.index(question)
        self.set = replace(self.set, questions=tuple(each for each in self.set.questions if each is not question))
        self._fill(at)
        self.changed.emit(self.set)

    def _on_added(self) -> None:
        self.add([TrialQuestion("q1", tr("New question"))])
        self.question.setFocus()
        self.question.selectAll()

    def _clear_found(self) -> None:
        self._found = []
        clear(self._found_box)

    def _connect(self) -> None:
        self.list.currentItemChanged.connect(lambda *_: self._show_question())
        for field in (self.question, self.expected, self.pages, self.tags):
            field.editingFinished.connect(self._on_edited)
        self.absent.toggled.connect(lambda _: self._on_edited())
        self.name.editingFinished.connect(self._on_renamed)
        self.find_button.clicked.connect(lambda: self.pages_wanted.emit(self.question.text().strip()))
        self.add_button.clicked.connect(self._on_added)
        self.remove_button.clicked.connect(self._on_removed)
        self.run_button.clicked.connect(self.run_wanted)

    def _build(self) -> None:
        back = quiet_button(tr("‹ All trials"), tr("Back to the sets and runs"))
        back.clicked.connect(self.back_wanted)
        top = QHBoxLayout()
        top.setSpacing(10)
        top.addWidget(back)
        top.addWidget(self.name, 1)
        self.run_button.setObjectName("first")
        top.addWidget(self.run_button)
        self.list.setHeaderLabels([tr("Question"), tr("Expected"), tr("Right page")])
        self.list.setRootIsDecorated(False)
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.list.setAccessibleName(tr("Questions of the set"))
        self.list.setColumnWidth(0, 330)
        self.list.setColumnWidth(1, 150)
        left = QWidget()
        column = QVBoxLayout(left)
        column.setContentsMargins(0, 0, 10, 0)
        column.addWidget(self.list, 1)
        buttons = QHBoxLayout()
        from_file, propose = (
            quiet_button(tr("From a file ..."), tr("Take questions over from a file")),
            quiet_button(
                tr("Let the model think of some ..."),
                tr("The language model asks something of passages; you accept, mend or remove each"),
            ),
        )
        from_file.clicked.connect(self.file_wanted)
        propose.clicked.connect(self.propose_wanted)
        save = quiet_button(tr("Save as a file ..."), tr("As JSONL, which can be taken over again, here or elsewhere"))
        save.clicked.connect(self.saving_wanted)
        for button in (self.add_button, from_file, propose, save):
            buttons.addWidget(button)
        buttons.addStretch(1)
        buttons.addWidget(self.remove_button)
        column.addLayout(buttons)
        splitter = QSplitter(Qt.Orientation.Horizontal)
        splitter.addWidget(left)
        splitter.addWidget(self._form())
        splitter.setSizes([720, 500])
        splitter.setHandleWidth(1)
        splitter.setChildrenCollapsible(False)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(22, 12, 22, 10)
        layout.setSpacing(10)
        layout.addLayout(top)
        layout.addWidget(splitter, 1)

    def _form(self) -> QWidget:
        body = QWidget()
        form = QVBoxLayout(body)
        form.setContentsMargins(14, 0, 6, 10)
        form.setSpacing(5)
        theme.outline(self.absent)
        for title, field, hint in (
            (tr("QUESTION"), self.question, ""),
            (tr("THE ANSWER SAYS"), self.expected, tr("words that must be in it; several are parted by ;")),
            (tr("RIGHT PAGE"), self.pages, tr("path:number, or find it below")),
            (tr("TAGS"), self.tags, tr("optional: kinds that are counted by themselves")),
        ):
            label: QLabel = section_label(title)
            label.setBuddy(field)
            form.addWidget(label)
            field.setPlaceholderText(hint)
            form.addWidget(field)
            form.addSpacing(4)
        form.insertWidget(2, self.absent)
        row = QHBoxLayout()
        row.addWidget(self.find_button)
        row.addWidget(self.notice, 1)
        form.addLayout(row)
        form.addLayout(self._found_box)
        form.addStretch(1)
        area = column_area()
        area.setWidget(body)
        return area


def _field(name: str) -> QLineEdit:
    field = QLineEdit()
    field.setObjectName("question")
    field.setAccessibleName(name)
    return field


def _item(question: TrialQuestion) -> QTreeWidgetItem:
    item = QTreeWidgetItem()
    _write(item, question)
    return item


def _write(item: QTreeWidgetItem, question: TrialQuestion) -> None:
    said = (
        tr("{question}  (thought of by a model)").format(question=question.question)
        if question.is_proposed
        else question.question
    )
    for at, words in enumerate((said, expected_words(question), pages_words(question))):
        item.setText(at, visible(words))
        item.setToolTip(at, visible(words))
