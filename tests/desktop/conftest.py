# SPDX-License-Identifier: GPL-3.0-or-later
"""The real window, offscreen, with the stand-in models."""

import pytest
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication, QMessageBox

from redlantern.application.opening import Models
from redlantern.collection.store import Collection
from redlantern.desktop import bridge, start
from redlantern.desktop.portrait import SIZE
from redlantern.desktop.widgets.key_dialog import KeyDialog
from redlantern.desktop.window import Window
from redlantern.progress import Cancel, silent
from tests.conftest import SmallEmbedder, SmallLanguageModel, write_pdf

WAIT_MS = 20_000


@pytest.fixture(scope="session")
def qapp_cls():
    return QApplication


@pytest.fixture(scope="session")
def dressed(qapp):
    return start.application()


@pytest.fixture
def language_model():
    return SmallLanguageModel()


@pytest.fixture
def window(dressed, qtbot, language_model):
    """A window with nothing open; no thread of its own may outlive it."""
    window = Window(Models(SmallEmbedder, lambda path=None: language_model))
    # The screen of the platform without one is smaller.
    window.resize(*SIZE)
    window.show()
    yield window
    close(window, qtbot)
    assert window.workspace.session is None
    assert not window.workspace.is_busy
    assert bridge._pool().waitForDone(WAIT_MS)


@pytest.fixture
def documents(folder):
    """The two documents, and a PDF of two pages."""
    write_pdf(
        folder / "survey.pdf",
        [
            [
                (72, 120, "The roof was covered in Welsh slate in 1954."),
                (72, 150, "Forty slates have slipped on the south slope."),
            ],
            [(72, 120, "The hatch is closed by a single hook."), (72, 150, "A new hatch would cost 2.150,00 EUR.")],
        ],
    )
    return folder


@pytest.fixture
def filled(window, qtbot, documents, make_engine, tmp_path):
    """The window on a collection that holds the documents."""
    engine = make_engine("shown.redlantern")
    engine.collection.claim_writing()
    engine.update([documents], report=silent, cancel=Cancel())
    engine.collection.close()
    open_in(window, qtbot, tmp_path / "shown.redlantern")
    return window


def close(window, qtbot):
    """Close a window and wait for that. Not left to qtbot, which would delete it while it is still closing."""
    window.close()
    qtbot.waitUntil(lambda: window.is_closed, timeout=WAIT_MS)
    window.deleteLater()


def open_in(window, qtbot, path, **words):
    window.door.open_collection(path, **words)
    qtbot.waitUntil(lambda: window.workspace.session is not None and not window.workspace.is_busy, timeout=WAIT_MS)


def ask(window, qtbot, question, *, waits=True):
    window.bar.question.setText(question)
    window.ask()
    if waits:
        settle(window, qtbot)


def settle(window, qtbot):
    qtbot.waitUntil(
        lambda: not (window.workspace.is_asking or window.workspace.is_busy or window.desk.view.is_building),
        timeout=WAIT_MS,
    )


def collection_at(path):
    return Collection.open(path)


def when_shown(qtbot, kind, act):
    """Do something with the next dialog of a kind, as soon as it is shown; a dialog runs a loop of its own."""

    def look():
        dialog = QApplication.activeModalWidget()
        if isinstance(dialog, kind):
            act(dialog)
        else:
            QTimer.singleShot(20, look)

    QTimer.singleShot(20, look)


def answer_key_dialog(qtbot, choose):
    """Choose in the dialog about what opens a collection, and agree."""

    def act(dialog):
        choose(dialog)
        dialog.agree_button.click()

    when_shown(qtbot, KeyDialog, act)


def click_in_box(qtbot, words):
    """Press a button of the next message box."""

    def act(box):
        next((one for one in box.buttons() if one.text() == words), box.buttons()[0]).click()

    when_shown(qtbot, QMessageBox, act)
