# SPDX-License-Identifier: GPL-3.0-or-later
"""Starts the application: Qt, theme, window."""

import os
import signal
import sys
from collections.abc import Sequence
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QLibraryInfo, QSettings, Qt, QTimer, QTranslator
from PyQt6.QtWidgets import QApplication

from redlantern.application.opening import MakeEmbedder, Models
from redlantern.application.scratch import erase_left
from redlantern.desktop import bridge
from redlantern.desktop.single_instance import raise_running
from redlantern.desktop.theming import theme_switcher
from redlantern.desktop.widgets import theme
from redlantern.desktop.widgets.file_names import COLLECTION_ENDING
from redlantern.desktop.window import Window
from redlantern.safety.names import path_text, visible
from redlantern.translation import language, tr


def application() -> QApplication:
    """The application object, dressed; made once."""
    # Qt's own file dialog would keep the folders it was in, in a settings file; that of the desktop might, too.
    QSettings.setPath(QSettings.Format.NativeFormat, QSettings.Scope.UserScope, os.devnull)
    QApplication.setAttribute(Qt.ApplicationAttribute.AA_DontUseNativeDialogs)
    found = QApplication.instance()
    app = found if isinstance(found, QApplication) else QApplication(sys.argv[:1])
    app.setApplicationName("redlantern")
    app.setApplicationDisplayName("Red Lantern")
    # The name of the launcher, so that the desktop knows whose window it is.
    app.setDesktopFileName("org.redlantern.RedLantern")
    # The interface thread gets its turn after 1 ms, not 5, while threads that read and index compute in Python.
    sys.setswitchinterval(0.001)
    _speak(app)
    theme.load_fonts()
    theme_switcher(app)
    return app


def _speak(app: QApplication) -> None:
    """Let Qt's own words, those of its dialogs of files and of print, be in the language of ours."""
    words = QTranslator(app)
    if language() != "en" and words.load(
        f"qtbase_{language()}", QLibraryInfo.path(QLibraryInfo.LibraryPath.TranslationsPath)
    ):
        app.installTranslator(words)


def run_window(
    collection: Path | None,
    *,
    embedder: MakeEmbedder,
    paths: Sequence[Path] = (),
    folder: Path | None = None,
    questions: Path | None = None,
) -> int:
    """Open the window and run until it is closed.

    With `folder`, bring the collection up to date with it first; with `questions`, ask these then, in the background.
    `paths` are taken in as if they were dropped on it.
    """
    named = collection or next((path for path in paths if path.name.endswith(COLLECTION_ENDING)), None)
    if named is not None and named.exists() and raise_running(named):
        print(
            tr("{name} is open already; its window was brought forward.").format(name=visible(path_text(named.name))),
            file=sys.stderr,
        )
        return 0
    app = application()
    window = Window(Models(embedder))
    window.show()
    # What a crash left of scratch collections; whatever is open stays.
    window.door.run(lambda _: erase_left(), lambda _: None)
    if collection is not None:
        then = partial(window.file_import.read_then_ask, folder, questions) if folder is not None else None
        window.door.open_collection(collection, creates=folder is not None, then=then)
    if paths:
        QTimer.singleShot(0, lambda: window.file_import.take(list(paths)))
    for number in (signal.SIGINT, signal.SIGTERM):
        # Not at once: the handler runs between any two steps of whatever is being done.
        signal.signal(number, lambda *_: QTimer.singleShot(0, window.close_at_once))
    # Python looks at signals only when its own code runs.
    ticker = QTimer()
    ticker.timeout.connect(lambda: None)
    ticker.start(300)
    status = app.exec()
    bridge.wait_for_all()
    return status
