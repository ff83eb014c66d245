# SPDX-License-Identifier: GPL-3.0-or-later
"""Every dialog of the window with something in it. As a program: shows them one after another, a line on standard input each."""

import importlib
import pkgutil
import sys
from pathlib import Path

from tests.conftest import CONTRACT, SmallEmbedder  # first: it chooses the language and puts the seal on

from PyQt6.QtCore import QSocketNotifier  # isort: skip
from PyQt6.QtGui import QAction  # isort: skip
from PyQt6.QtWidgets import QDialog, QWidget  # isort: skip
import redlantern.desktop
from redlantern.answering.engine import Engine
from redlantern.answering.question.understanding import Question
from redlantern.application.read_through import Listed
from redlantern.application.sheets import ListedSheet
from redlantern.application.tried import CopyWish
from redlantern.application.ways import Way
from redlantern.collection.store import Collection
from redlantern.desktop.about import AboutDialog
from redlantern.desktop.action_finder import ActionFinder
from redlantern.desktop.brief.verify_dialog import VerifyDialog
from redlantern.desktop.desk.sheets_dialog import SheetsDialog
from redlantern.desktop.guide import GuideDialog
from redlantern.desktop.preferences import Preferences
from redlantern.desktop.preferences_dialog import PreferencesDialog
from redlantern.desktop.readthrough.dialogs import ListDialog, StatementDialog
from redlantern.desktop.shelf.table_put_right import TablePutRight
from redlantern.desktop.start import application
from redlantern.desktop.trials.ask_dialog import AskDialog, GridDialog
from redlantern.desktop.trials.copies import CopyDialog
from redlantern.desktop.trials.expect_dialog import ExpectDialog
from redlantern.desktop.widgets.given_dialog import GivenDialog
from redlantern.desktop.widgets.import_dialog import ImportDialog
from redlantern.desktop.widgets.key_dialog import KeyDialog
from redlantern.desktop.widgets.new_place import KeepDialog
from redlantern.desktop.widgets.way_settings import Chosen, SettingsDialog
from redlantern.progress import Cancel, silent
from redlantern.readthrough.extraction import Item
from redlantern.readthrough.statement import Statement, StatementSection
from redlantern.reckoning.source import tables_of
from redlantern.safety.keys import Holding
from redlantern.settings import Method
from redlantern.trials.values import Arrangement, TrialQuestion

TABLE = "# Bill\n\n| Item | Amount |\n|---|---|\n| Leather | 38 EUR |\n| Glue | 17 EUR |\n| Slate | 12 EUR |\n"


def read_in(place: Path) -> Engine:
    """An engine on a collection with a contract and a table."""
    folder = place / "documents of dialogs"
    folder.mkdir()
    (folder / "contract.md").write_text(CONTRACT, encoding="utf-8")
    (folder / "bill.md").write_text(TABLE, encoding="utf-8")
    (folder / "broken.pdf").write_bytes(b"%PDF-1.4\n")
    collection = Collection.create(place / "dialogs.redlantern")
    collection.claim_writing()
    engine = Engine(collection, SmallEmbedder(), None)
    engine.update([folder], report=silent, cancel=Cancel())
    return engine


def dialogs(engine: Engine, parent: QWidget) -> list[QDialog]:
    """Each once, not shown yet."""
    bill = next(document for document in engine.collection.documents() if document.path.endswith("bill.md"))
    [table] = tables_of(bill, engine.collection.pages(bill.document_id))
    *_, done = engine.ask(Question("At what relative humidity in the loft shall work cease?"), Cancel())
    ways = [Way(Arrangement("First"), "One way.", 1.0), Way(Arrangement("Second"), "Another way.", 2.0)]
    action = QAction("Somewhere", parent)
    return [
        AboutDialog(parent), ActionFinder([action], parent), VerifyDialog(parent), GuideDialog(0, parent),
        SheetsDialog([ListedSheet(1, "2026-03-01T10:00:00", "Who pays?", "answered", 1)], can_change=True, parent=parent),
        PreferencesDialog(Preferences(), [("Group", action)], parent),
        StatementDialog(Statement("Sample of one", (StatementSection("Part of it", ("A line.",)),)), parent),
        ListDialog("Sums", [Listed(Item("38 EUR", "38", 0, 4, "Leather 38 EUR"), bill, 1)], parent),
        TablePutRight(table, table, parent), AskDialog("Set", 3, ways, Method(), parent), GridDialog("Set", 3, 2, ways, parent),
        CopyDialog(CopyWish("english", 200), ("english", "both"), parent), ExpectDialog(TrialQuestion("1", "Who pays?"), parent),
        GivenDialog(done.sheet, parent), ImportDialog([engine.collection.path.parent], collection="", parent=parent),
        KeyDialog("Opened by", "Agree", has_secret_store=True, present=None, ways=tuple(Holding), parent=parent),
        KeepDialog(parent), SettingsDialog(Method(), Chosen(), parent),
    ]  # fmt: skip


def kinds() -> set[str]:
    """The names of all kinds of dialog that the window has."""
    for module in pkgutil.walk_packages(redlantern.desktop.__path__, "redlantern.desktop."):
        importlib.import_module(module.name)
    ours, left = set(), [QDialog]
    while left:
        for kind in left.pop().__subclasses__():
            left.append(kind)
            if kind.__module__.startswith("redlantern."):
                ours.add(kind.__name__)
    return ours


def main(place: Path) -> None:
    engine = read_in(place)
    app = application()
    parent = QWidget()
    parent.setWindowTitle("Parent")
    parent.show()
    waiting = dialogs(engine, parent)
    assert {type(dialog).__name__ for dialog in waiting} == kinds()
    shown: list[QDialog] = []
    told = QSocketNotifier(sys.stdin.fileno(), QSocketNotifier.Type.Read)

    def step() -> None:
        sys.stdin.readline()
        if shown:
            shown.pop().hide()
        if not waiting:
            app.quit()
            return
        shown.append(waiting.pop(0))
        shown[-1].show()
        print(type(shown[-1]).__name__, flush=True)

    told.activated.connect(step)
    print("ready", flush=True)
    app.exec()
    engine.close()


if __name__ == "__main__":
    main(Path(sys.argv[1]))
