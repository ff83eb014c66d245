"""The real window, offscreen, with the stand-in models."""

import pytest
from PyQt6.QtWidgets import QApplication

from redlantern.collection.store import Collection
from redlantern.desktop import bridge, start
from redlantern.desktop.window import Window
from redlantern.desktop.workbench import Models
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
    window = Window(Models(SmallEmbedder, lambda: language_model))
    qtbot.addWidget(window)
    window.show()
    yield window
    window.close()
    assert language_model.is_closed or window.desk.opened is None
    assert not window.desk.is_busy
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


def open_in(window, qtbot, path, **words):
    window.open_collection(path, **words)
    qtbot.waitUntil(lambda: window.desk.opened is not None and not window.desk.is_busy, timeout=WAIT_MS)


def ask(window, qtbot, question, *, waits=True):
    window.question.setText(question)
    window.ask()
    if waits:
        settle(window, qtbot)


def settle(window, qtbot):
    qtbot.waitUntil(
        lambda: not (window.desk.is_asking or window.desk.is_busy or window.desk.view.is_building), timeout=WAIT_MS
    )


def collection_at(path):
    return Collection.open(path)
