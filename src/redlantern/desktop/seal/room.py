# SPDX-License-Identifier: GPL-3.0-or-later
"""The seal room: proof that nothing can leave, how the collection is protected, its journal, and how to erase it."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QScrollArea,
    QSpinBox,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from redlantern.application import upkeep
from redlantern.application.upkeep import CollectionState
from redlantern.collection.process_lock import LOCK_ENDING
from redlantern.desktop.seal.proof_pane import ProofPane
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.amounts import size_words
from redlantern.desktop.widgets.labels import section_label, words_label
from redlantern.desktop.widgets.room import Room
from redlantern.desktop.workspace import Workspace
from redlantern.safety import loopback
from redlantern.safety.keys import Holding
from redlantern.safety.seal import SealState
from redlantern.translation import tr

_NEWEST = 300
"""So many of the journal's newest entries are shown."""

_EVENTS = {
    "made": tr("made"), "opened": tr("opened"), "unlocked": tr("unlocked"), "locked": tr("locked"), "added": tr("added"),
    "read again": tr("read again"), "refused": tr("refused"), "removed": tr("removed"), "taken out": tr("taken out"),
    "asked": tr("asked"), "exported": tr("exported"), "erased": tr("erased"), "key changed": tr("key changed"),
    "backed up": tr("backed up"), "moved": tr("moved"), "mended": tr("mended"), "settings": tr("settings"),
}  # fmt: skip
"""What the journal notes, as it is shown."""


class SealRoom(Room):
    """One page to show to a client. What acts on the whole window is asked of it by signals."""

    lock_wanted = pyqtSignal()
    key_wanted = pyqtSignal()
    backup_wanted = pyqtSignal()
    move_wanted = pyqtSignal()
    check_wanted = pyqtSignal()
    erase_wanted = pyqtSignal()
    erase_all_wanted = pyqtSignal()
    export_wanted = pyqtSignal()
    server_wanted = pyqtSignal()
    idle_changed = pyqtSignal(int)

    def __init__(self, workspace: Workspace, seal: SealState) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self._workspace = workspace
        self.standing: CollectionState | None = None
        self.notice = words_label("", family=theme.SANS, name="problem")
        self.proof_pane = ProofPane(seal)
        self._server = _quiet("")
        self._holding, self._files, self._plain = _words(""), _quiet(""), _words("")
        self.lock_button = _button(tr("Lock now"), tr("Lock the collection (Ctrl+Shift+L)"))
        self.key_button = _button(
            tr("Change what opens it ..."), tr("Choose another passphrase or another way to hold the key")
        )
        self.idle = QSpinBox()
        self.plain_button = _button(
            tr("Search now"), tr("Look for the documents' words in every file that Red Lantern writes")
        )
        self.journal = QTableWidget(0, 3)
        self._chain = _quiet("")
        self.questions_box = QCheckBox(tr("Note the words of &questions"))
        theme.outline(self.questions_box)
        self._build(seal)
        self._connect()
        self.show_standing(None)

    # What can be done

    def enter(self) -> None:
        """The room is shown: look how things stand."""
        session = self._workspace.session
        if session is None:
            self.show_standing(None)
        else:
            collection = session.engine.collection
            self._workspace.run(
                lambda _: upkeep.state_of(collection, _NEWEST), finished=self.show_standing, failed=self.notice.setText
            )

    def close_room(self) -> None:
        """Wait for a test that runs."""
        self.proof_pane.wait()

    def say(self, words: str) -> None:
        """Tell how something ended."""
        self.notice.setText(words)
        self.notice.setVisible(bool(words))

    def show_standing(self, standing: CollectionState | None) -> None:
        """Show how the open collection stands; None when there is none."""
        self.standing = standing
        session = self._workspace.session
        can_change = self._workspace.can_change
        for button in self._needs_change:
            button.setEnabled(can_change)
        for button in self._needs_open:
            button.setEnabled(session is not None)
        if session is not None and session.is_scratch:
            # Moved away it would stay, and could never be opened again.
            for button in (self.key_button, self.move_button):
                button.setEnabled(False)
                button.setToolTip(tr("A scratch collection: keep it first (Ctrl+Shift+S)"))
        self.idle.setEnabled(can_change)
        if standing is None or session is None:
            self._holding.setText(tr("No collection is open."))
            self._files.setText("")
            self._plain.setText("")
            self._chain.setText("")
            self.journal.setRowCount(0)
            return
        self._holding.setText(_protection(standing))
        lines = [f"{path}   {size_words(n_bytes)}{_meaning(path)}" for path, n_bytes in standing.files]
        lines += (
            [tr("{key_place}   its key; this login alone may read it").format(key_place=standing.key_place)]
            if standing.key_place
            else []
        )
        self._files.setText("\n".join(lines))
        self._plain.setText(standing.plain_search or tr("Not searched yet."))
        self.idle.blockSignals(True)
        self.idle.setValue(session.idle_minutes)
        self.idle.blockSignals(False)
        self.questions_box.setChecked(standing.keeps_questions)
        self._show_journal(standing)

    # How it is built

    def _build(self, seal: SealState) -> None:
        body = QWidget()
        outer = QVBoxLayout(body)
        outer.setContentsMargins(30, 20, 26, 20)
        outer.setSpacing(12)
        title = words_label(
            tr("Nothing leaves this machine") if seal.is_on else tr("The seal is not on"), family=theme.SANS
        )
        title.setFont(theme.voice(theme.SANS, scale=1.7, weight=theme.BOLD))
        outer.addWidget(title)
        self.notice.hide()
        outer.addWidget(self.notice)
        columns = QHBoxLayout()
        columns.setSpacing(40)
        columns.addLayout(self._proof_column(), 10)
        columns.addLayout(self._keeping_column(), 9)
        outer.addLayout(columns)
        outer.addLayout(self._journal_part())
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidget(body)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scroll)

    def _proof_column(self) -> QVBoxLayout:
        box = QVBoxLayout()
        box.setSpacing(7)
        box.addWidget(self.proof_pane)
        box.addSpacing(4)
        box.addWidget(section_label(tr("YOUR OWN MODEL SERVER")))
        self._show_server()
        self.server_button = _button(tr("Change ..."), tr("Use a language model that you run yourself on this machine"))
        row = QHBoxLayout()
        row.addWidget(self._server, 1)
        row.addWidget(self.server_button, 0, Qt.AlignmentFlag.AlignTop)
        box.addLayout(row)
        box.addStretch(1)
        return box

    def _keeping_column(self) -> QVBoxLayout:
        box = QVBoxLayout()
        box.setSpacing(7)
        box.addWidget(section_label(tr("WHAT OPENS THIS COLLECTION")))
        box.addWidget(self._holding)
        box.addLayout(_row(self.key_button, self.lock_button))
        self.idle.setRange(0, 240)
        self.idle.setSpecialValueText(tr("never"))
        self.idle.setSuffix(tr(" min"))
        self.idle.setAccessibleName(tr("Lock after so many minutes without a person"))
        label = QLabel(tr("Lock a&fter"))
        label.setBuddy(self.idle)
        box.addLayout(_row(label, self.idle, QLabel(tr("without a key or mouse"))))
        box.addWidget(
            _quiet(tr("It is also locked when the machine goes to sleep. While documents are read, it waits."))
        )
        box.addSpacing(6)
        box.addWidget(section_label(tr("WHERE ITS FILES ARE")))
        box.addWidget(self._files)
        box.addWidget(_quiet(tr("Your documents stay where they are and are never written to.")))
        box.addSpacing(6)
        box.addWidget(section_label(tr("ITS WORDS IN PLAIN TEXT ANYWHERE ELSE")))
        row = QHBoxLayout()
        row.addWidget(self._plain, 1)
        row.addWidget(self.plain_button, 0, Qt.AlignmentFlag.AlignTop)
        box.addLayout(row)
        box.addSpacing(6)
        box.addWidget(section_label(tr("KEEP AND ERASE")))
        self.backup_button = _button(tr("Back up ..."), tr("Write a copy to another place, also while you work"))
        self.move_button = _button(tr("Rename or move ..."), tr("Give the collection another name or place"))
        self.check_button = _button(
            tr("Check ..."), tr("Verify every page, passage and vector, and mend what is damaged")
        )
        self.erase_button = _button(tr("Erase this collection ..."), tr("Destroy its key, then its file"))
        self.erase_all_button = _button(
            tr("Erase everything ..."), tr("All collections, keys and settings of this login")
        )
        box.addLayout(_row(self.backup_button, self.move_button, self.check_button))
        box.addLayout(_row(self.erase_button, self.erase_all_button))
        box.addStretch(1)
        self._needs_change = (self.key_button, self.move_button, self.check_button, self.erase_button)
        self._needs_open: tuple[QPushButton, ...] = (self.lock_button, self.plain_button, self.backup_button)
        return box

    def _journal_part(self) -> QVBoxLayout:
        self.export_button = _button(tr("Export ..."), tr("Write the whole journal to a file"))
        head = QHBoxLayout()
        head.addWidget(section_label(tr("JOURNAL")))
        head.addSpacing(12)
        head.addWidget(self._chain, 1)
        head.addWidget(self.questions_box)
        head.addSpacing(12)
        head.addWidget(self.export_button)
        self.journal.setHorizontalHeaderLabels([tr("When (UTC)"), tr("What"), tr("Which")])
        self.journal.setAccessibleName(tr("Journal, newest first"))
        self.journal.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.journal.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.journal.setShowGrid(False)
        self.journal.setTabKeyNavigation(False)
        self.journal.setWordWrap(False)
        self.journal.setMinimumHeight(190)
        side, top = self.journal.verticalHeader(), self.journal.horizontalHeader()
        assert side is not None and top is not None
        side.hide()
        side.setDefaultSectionSize(theme.px(25))
        top.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        top.setSectionResizeMode(2, QHeaderView.ResizeMode.Stretch)
        self.journal.setColumnWidth(0, 180)
        self.journal.setColumnWidth(1, 130)
        self._needs_open = (*self._needs_open, self.export_button)
        box = QVBoxLayout()
        box.setSpacing(6)
        box.addLayout(head)
        box.addWidget(self.journal)
        return box

    def _connect(self) -> None:
        pairs = (
            (self.lock_button, self.lock_wanted), (self.key_button, self.key_wanted),
            (self.backup_button, self.backup_wanted), (self.move_button, self.move_wanted),
            (self.check_button, self.check_wanted), (self.erase_button, self.erase_wanted),
            (self.erase_all_button, self.erase_all_wanted), (self.export_button, self.export_wanted),
            (self.server_button, self.server_wanted),
        )  # fmt: skip
        for button, signal in pairs:
            button.clicked.connect(lambda _, signal=signal: signal.emit())
        self.plain_button.clicked.connect(self.search_plain)
        self.idle.valueChanged.connect(self.idle_changed)
        self.questions_box.clicked.connect(self._on_questions)
        self._workspace.documents_changed.connect(self._on_documents)

    # What happens

    def search_plain(self) -> None:
        """Look for plain text now."""
        session = self._workspace.session
        if session is not None:
            self._plain.setText(tr("Searching ..."))
            self.plain_button.setEnabled(False)
            collection = session.engine.collection
            self._workspace.run(
                lambda task: upkeep.search_plain(collection, report=task.report, cancel=task.cancel),
                finished=lambda _: self.enter(),
                failed=self._plain.setText,
            )

    def _on_documents(self) -> None:
        if self._workspace.session is None:
            self.show_standing(None)

    def _on_questions(self, is_wanted: bool) -> None:
        session = self._workspace.session
        if session is not None:
            journal = session.engine.collection.journal
            self._workspace.run(
                lambda _: journal.keep_questions(is_wanted), finished=lambda _: self.enter(), failed=self.say
            )

    def _show_server(self) -> None:
        link, chosen = loopback.link(), loopback.chosen_server()
        if link is not None:
            words = tr(
                "In use: {address} on this machine. One process, the model link, may speak to it and to nothing else."
            ).format(address=link.server.address)
        elif chosen is not None:
            words = tr(
                "{address} will be used when Red Lantern is started again: the seal cannot be lowered while it runs."
            ).format(address=chosen.address)
        else:
            words = tr("None. The packaged model answers, in a process of its own without any network.")
        self._server.setText(words)

    def server_changed(self) -> None:
        """Another server was chosen, or none."""
        self._show_server()

    def _show_journal(self, standing: CollectionState) -> None:
        self._chain.setText(
            tr("Each entry is chained to the one before; the chain holds.")
            if not standing.n_faults
            else tr("The chain is BROKEN in {n_faults} places: the journal was changed.").format(
                n_faults=standing.n_faults
            )
        )
        self.journal.setRowCount(len(standing.entries))
        for row, entry in enumerate(reversed(standing.entries)):
            words = tr("(erased)") if entry.words is None else entry.words
            moment = entry.at.replace("T", "  ").removesuffix("+00:00") + (
                tr(" ↩ clock set back") if entry.clock_went_back else ""
            )
            for column, text in enumerate((moment, _EVENTS.get(entry.what, entry.what), words)):
                item = QTableWidgetItem(text)
                item.setToolTip(text)
                self.journal.setItem(row, column, item)


_OPENS = {
    Holding.PASSPHRASE: tr(
        "A passphrase. The key is made from it (Argon2id, about half a second a try) and is kept nowhere."
    ),
    Holding.LOGIN: tr("The secret store of this login holds the key: it opens while you are logged in."),
    Holding.FILE: tr("A key file that this login alone may read. Whoever uses this login can open the collection."),
}


def _protection(standing: CollectionState) -> str:
    return tr(
        "{opens} The file is encrypted as a whole (SQLCipher: AES with 256 bits, and a seal on every page)."
    ).format(opens=_OPENS[standing.holding])


def _meaning(path: str) -> str:
    """What a file beside the collection is, in plain words."""
    if ".version-" in path:
        return tr("   as it was before a change of file version")
    if ".damaged-" in path:
        return tr("   put aside when it was mended")
    endings = {
        LOCK_ENDING: tr("   keeps other programs from replacing it meanwhile"),
        "-wal": tr("   latest changes, encrypted"),
        "-shm": tr("   where those are; holds no words"),
    }
    return next((words for end, words in endings.items() if path.endswith(end)), "")


def _button(text: str, hint: str) -> QPushButton:
    button = QPushButton(text)
    button.setObjectName("other")
    button.setToolTip(hint)
    return button


def _row(*widgets: QWidget) -> QHBoxLayout:
    row = QHBoxLayout()
    row.setSpacing(8)
    for widget in widgets:
        row.addWidget(widget)
    row.addStretch(1)
    return row


def _words(text: str) -> QLabel:
    return words_label(text, family=theme.SANS)


def _quiet(text: str) -> QLabel:
    return words_label(text, family=theme.SANS, scale=0.95, name="quiet")
