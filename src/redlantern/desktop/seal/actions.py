# SPDX-License-Identifier: GPL-3.0-or-later
"""Carries out what the seal room offers: keys, backups, moving, checking, erasing, exporting; asks first where it must."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QMessageBox, QWidget

from redlantern.application import upkeep
from redlantern.application.opening import NewKey
from redlantern.application.scratch import is_scratch
from redlantern.collection.opening import files_of
from redlantern.collection.upkeep import ErasedCollection
from redlantern.collection.upkeep.erasing_everything import CANNOT_PROMISE, Everything, erase_everything, everything
from redlantern.collection.upkeep.mending import Mended
from redlantern.desktop.seal.room import SealRoom
from redlantern.desktop.widgets.file_names import COLLECTION_ENDING, COLLECTIONS
from redlantern.desktop.widgets.key_dialog import HOLDING_NAMES, ask_for_key
from redlantern.desktop.workspace import Workspace
from redlantern.progress import Progress
from redlantern.safety import secretstore
from redlantern.safety.keys import Holding
from redlantern.text.listing import counted
from redlantern.translation import tr

_NOT_REACHED = tr("It cannot reach:\n") + "\n".join(f"- {limit}" for limit in CANNOT_PROMISE)


class SealActions(QObject):
    """Asks, has the work done off the interface thread, and tells the seal room how it ended."""

    moved = pyqtSignal()
    closing_wanted = pyqtSignal(object)
    end_wanted = pyqtSignal()

    def __init__(self, parent: QWidget, workspace: Workspace, room: SealRoom) -> None:
        super().__init__(parent)
        self._parent, self._workspace, self._room = parent, workspace, room
        wishes: tuple[tuple[Any, Callable[[], None]], ...] = (
            (room.key_wanted, self.change_key), (room.backup_wanted, self.back_up), (room.move_wanted, self.move),
            (room.check_wanted, self.check), (room.erase_wanted, self.erase_collection),
            (room.erase_all_wanted, self.erase_everything), (room.export_wanted, self.export_journal),
            (room.server_wanted, self.choose_server),
        )  # fmt: skip
        for signal, slot in wishes:
            signal.connect(slot)

    def change_key(self) -> None:
        """Ask what is to open the collection, and encrypt it anew."""
        if self._is_free():
            self._run(lambda _: secretstore.is_there(), self._ask_for_key, tr("Looking for a secret store ..."))

    def back_up(self) -> None:
        """Ask where to, and write a copy."""
        session = self._workspace.session
        if session is None:
            return
        collection = session.engine.collection
        path = collection.path
        proposed = str(path.with_name(f"{path.stem} backup{COLLECTION_ENDING}"))
        target = self._ask_for_file(tr("Where to write the backup"), proposed)
        if target is None:
            return
        present = collection.holding
        chosen = ask_for_key(
            self._parent, tr("What opens the backup?"), tr("Write the backup"), has_secret_store=present is Holding.LOGIN,
            present=present, ways=(Holding.PASSPHRASE,) if present is Holding.PASSPHRASE else tuple(Holding),
        )  # fmt: skip
        if chosen is not None:
            self._run(
                lambda task: upkeep.back_up(collection, target, chosen, report=task.report, cancel=task.cancel),
                lambda _: self._tell(
                    tr("{target} holds everything as it was at this moment, under a key of its own.").format(
                        target=target
                    )
                ),
                tr("Writing the backup ..."),
            )

    def move(self) -> None:
        """Ask for another name or place."""
        session = self._workspace.session
        if session is None or not self._is_free():
            return
        target = self._ask_for_file(tr("The new name or place of this collection"), str(session.engine.collection.path))
        if target is not None and target != session.engine.collection.path:

            def done(_: object) -> None:
                self.moved.emit()
                self._tell(tr("The collection is now {target}.").format(target=target))

            collection = session.engine.collection
            self._run_alone(
                lambda task: upkeep.move(collection, target, report=task.report, cancel=task.cancel),
                done,
                tr("The collection is being moved."),
            )

    def check(self) -> None:
        """Verify the collection, and offer to mend it."""
        session = self._workspace.session
        if session is not None and self._is_free():
            engine = session.engine
            self._run(
                lambda task: upkeep.check(engine, report=task.report, cancel=task.cancel),
                self._on_checked,
                tr("Checking every page, passage and vector ..."),
            )

    def erase_collection(self) -> None:
        """Erase the open collection, after a yes."""
        session = self._workspace.session
        if session is None or not self._is_free():
            return
        path = session.engine.collection.path
        files = "\n".join(str(file) for file in files_of(path))
        if not self._is_sure(
            tr("Erase this collection?"),
            tr("Its key goes first, then these files:\n{files}\n\n{not_reached}").format(
                files=files, not_reached=_NOT_REACHED
            ),
            tr("Erase"),
        ):
            return
        self.closing_wanted.emit(lambda: self._erase_closed(path))

    def erase_everything(self) -> None:
        """Show what is there, and erase all of it after the word was typed."""
        self._run(lambda _: everything(), self._confirm_everything, tr("Looking what there is ..."))

    def export_journal(self) -> None:
        """Ask where to, and write the journal."""
        session = self._workspace.session
        if session is None:
            return
        proposed = str(session.engine.collection.path.with_suffix(".journal.jsonl"))
        chosen, _ = QFileDialog.getSaveFileName(self._parent, tr("Where to write the journal"), proposed)
        if chosen:
            collection = session.engine.collection
            self._run(
                lambda _: upkeep.export_journal(collection, Path(chosen)),
                lambda n: self._tell(
                    tr("{n} entries written to {chosen}. It is in plain text there.").format(n=n, chosen=chosen)
                ),
                tr("Exporting ..."),
            )

    def choose_server(self) -> None:
        """Ask for the address of a model server on this machine; none turns it off."""
        address, is_given = QInputDialog.getText(
            self._parent, tr("Your own model server"),
            tr(
    "Address on this machine, such as 127.0.0.1:8080; leave it empty for none.\nFrom the next start on, "
    "one process may speak to it. Everything else stays sealed."
),
        )  # fmt: skip
        if is_given:

            def done(_: object) -> None:
                self._room.server_changed()
                self._tell(tr("Close and start Red Lantern again for this to take effect."))

            self._run(lambda _: upkeep.choose_server(address.strip()), done, "")

    def _ask_for_key(self, has_secret_store: bool) -> None:
        session = self._workspace.session
        if session is None:
            return
        self._tell("")
        present = session.engine.collection.holding
        chosen = ask_for_key(
            self._parent, tr("What opens this collection?"), tr("Encrypt anew"), has_secret_store=has_secret_store, present=present
        )  # fmt: skip
        if chosen is not None and self._is_free():
            collection = session.engine.collection
            self._run_alone(
                lambda task: upkeep.change_key(collection, chosen, report=task.report, cancel=task.cancel),
                lambda others: self._on_key_changed(chosen, others),
                tr("Everything is being encrypted anew."),
            )

    def _on_key_changed(self, chosen: NewKey, others: list[Path]) -> None:
        old = (
            tr("The old one still opens {files}, and so was kept.").format(files=", ".join(map(str, others)))
            if others
            else tr("The old key opens nothing any more; backups have keys of their own.")
        )
        self._tell(
            tr("Encrypted anew. It is opened by: {holding_names}. {old}").format(
                holding_names=HOLDING_NAMES[chosen.holding].lower(), old=old
            )
        )

    def _on_checked(self, faults: list[str]) -> None:
        if not faults:
            self._tell(tr("The collection is whole: every page, passage and vector is there and fits."))
            return
        said = "\n".join(faults[:12]) + (
            tr("\nand {n_faults} more").format(n_faults=len(faults) - 12) if len(faults) > 12 else ""
        )
        session = self._workspace.session
        words = tr(
            "{said}\n\nMending keeps everything that can still be read and puts the damaged file aside; the next "
            "update reads the rest again."
        ).format(said=said)
        if session is not None and self._is_sure(tr("This collection is damaged"), words, tr("Mend")):
            engine = session.engine
            self._run_alone(
                lambda task: upkeep.mend(engine, report=task.report, cancel=task.cancel),
                self._on_mended,
                tr("The collection is being mended."),
            )

    def _on_mended(self, mended: Mended) -> None:
        lost = (
            tr(" To be read again: {lost}. Update the shelf for that.").format(lost=", ".join(mended.lost))
            if mended.lost
            else ""
        )
        self._tell(
            tr("Kept: {document}.{lost} The damaged file is {damaged_path}.").format(
                document=counted(mended.n_kept, "document"), lost=lost, damaged_path=mended.damaged_path
            )
        )
        self.moved.emit()

    def _erase_closed(self, path: Path) -> None:
        def done(erased: ErasedCollection) -> None:
            kept = (
                tr(" Its key was kept, for {key_kept_for} needs it.").format(
                    key_kept_for=", ".join(erased.key_kept_for)
                )
                if erased.key_kept_for
                else ""
            )
            self._tell(
                tr("Erased: {removed}.{kept} Copies elsewhere, if there are any, are not reached.").format(
                    removed=", ".join(erased.removed), kept=kept
                )
            )
            self.moved.emit()

        if is_scratch(path) and not path.exists():
            # Closing it was its end.
            self._tell(tr("The scratch collection is erased."))
            self.moved.emit()
            return
        self._run(lambda _: upkeep.erase_collection(path), done, tr("Erasing ..."))

    def _confirm_everything(self, found: Everything) -> None:
        lines = "\n".join(found.lines)
        typed, is_given = QInputDialog.getText(
            self._parent,
            tr("Erase everything?"),
            tr("This goes for good:\n{lines}\n\n{not_reached}\n\nType erase to go on:").format(
                lines=lines, not_reached=_NOT_REACHED
            ),
        )
        if is_given and typed.strip() == "erase":
            self.closing_wanted.emit(
                lambda: self._run(lambda _: erase_everything(found), self._on_all_erased, tr("Erasing ..."))
            )
        else:
            self._tell(tr("Nothing was erased."))

    def _on_all_erased(self, problems: list[str]) -> None:
        self._tell(" ".join(problems) or tr("Everything is erased."))
        self.moved.emit()

    def _is_free(self) -> bool:
        if not self._workspace.is_free:
            self._tell(tr("Wait until the answer or the reading is finished, or stop it; then try again."))
            return False
        return True

    def _is_sure(self, title: str, words: str, agree: str) -> bool:
        box = QMessageBox(self._parent)
        box.setWindowTitle(title)
        box.setText(title)
        box.setInformativeText(words)
        yes = box.addButton(agree, QMessageBox.ButtonRole.DestructiveRole)
        box.setDefaultButton(box.addButton(tr("Leave it"), QMessageBox.ButtonRole.RejectRole))
        box.exec()
        return box.clickedButton() is yes

    def _ask_for_file(self, title: str, proposed: str) -> Path | None:
        chosen, _ = QFileDialog.getSaveFileName(
            self._parent, title, proposed, COLLECTIONS, options=QFileDialog.Option.DontConfirmOverwrite
        )
        if not chosen:
            return None
        return Path(chosen if chosen.endswith(COLLECTION_ENDING) else chosen + COLLECTION_ENDING)

    def _run(self, work: Callable[[Any], Any], done: Callable[[Any], None], words: str) -> None:
        self._tell(words)

        def failed(reason: str) -> None:
            self._tell(reason)

        def progressed(progress: Progress) -> None:
            self._room.say(
                tr("{stage}: {done} of {total} {unit}").format(
                    stage=progress.stage, done=progress.done, total=progress.total, unit=progress.unit
                )
            )

        self._workspace.run(work, finished=done, failed=failed, progressed=progressed)

    def _run_alone(self, work: Callable[[Any], Any], done: Callable[[Any], None], words: str) -> None:
        """Have work done that has the collection's file alone: questions wait, and the status line can stop it."""
        self._tell(tr("{words} Questions wait until that is done.").format(words=words))
        self._workspace.upkeep.begin(work, words, finished=done, failed=self._tell)

    def _tell(self, words: str) -> None:
        self._room.say(words)
        self._room.enter()
