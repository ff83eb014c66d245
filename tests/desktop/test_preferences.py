# SPDX-License-Identifier: GPL-3.0-or-later
"""Theme, keys and place of the window: chosen, kept, and taken up again; sizes of screen and text."""

import json
import os
import subprocess
import sys

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import QApplication

from redlantern.application.opening import Models
from redlantern.desktop import preferences
from redlantern.desktop.preferences import DAYLIGHT, LAMPLIGHT, SYSTEM, Preferences
from redlantern.desktop.preferences_dialog import PreferencesDialog
from redlantern.desktop.theming import colours_for, theme_switcher
from redlantern.desktop.widgets import theme
from redlantern.desktop.window import Window
from redlantern.safety.places import data_directory
from tests.conftest import SmallEmbedder
from tests.desktop.conftest import close, when_shown


class Hints:
    """What a desktop says of itself."""

    def __init__(self, scheme, contrast=Qt.ContrastPreference.NoPreference):
        self._scheme, self._contrast = scheme, contrast

    def colorScheme(self):
        return self._scheme

    def accessibility(self):
        return self

    def contrastPreference(self):
        return self._contrast


@pytest.fixture(autouse=True)
def at_home(tmp_path, monkeypatch, dressed):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    yield
    theme.apply(dressed, theme.LAMPLIGHT)


@pytest.mark.parametrize(
    ("chosen", "scheme", "colours"),
    [
        (SYSTEM, Qt.ColorScheme.Unknown, theme.LAMPLIGHT), (SYSTEM, Qt.ColorScheme.Dark, theme.LAMPLIGHT),
        (SYSTEM, Qt.ColorScheme.Light, theme.DAYLIGHT), (DAYLIGHT, Qt.ColorScheme.Dark, theme.DAYLIGHT),
        (LAMPLIGHT, Qt.ColorScheme.Light, theme.LAMPLIGHT),
    ],
)  # fmt: skip
def test_the_desktops_scheme_is_followed_unless_one_was_chosen(chosen, scheme, colours):
    assert colours_for(Preferences(theme=chosen), Hints(scheme)) is colours


def test_more_contrast_is_given_where_desktop_or_user_ask_for_it():
    high = Qt.ContrastPreference.HighContrast
    assert colours_for(Preferences(), Hints(Qt.ColorScheme.Light, high)) is theme.STARK_LIGHT
    assert colours_for(Preferences(is_stark=True), Hints(Qt.ColorScheme.Unknown)) is theme.STARK_DARK


def with_dialog(window, qtbot, act):
    def shown(dialog):
        act(dialog)
        dialog.accept()

    when_shown(qtbot, PreferencesDialog, shown)
    window.choose_preferences()


def test_a_theme_is_taken_up_at_once_and_kept(window, qtbot):
    with_dialog(window, qtbot, lambda dialog: dialog.themes[DAYLIGHT].click())
    assert theme.colours() is theme.DAYLIGHT
    assert preferences.load().theme == DAYLIGHT
    with_dialog(window, qtbot, lambda dialog: dialog.stark.click())
    assert theme.colours() is theme.STARK_LIGHT
    theme_switcher(QApplication.instance()).follow(Preferences())


def keys_of(window, name):
    return next(action for _, action in window._menu.actions if action.text() == name).shortcut().toString()


def test_keys_can_be_changed_given_back_and_are_there_in_the_next_window(window, qtbot):
    name, said = "Go to the question", []

    def change(dialog):
        dialog.choose(name)
        dialog.keys.setKeySequence(QKeySequence("Ctrl+D"))
        dialog.put_button.click()
        said.append(dialog._said.text())
        dialog.keys.setKeySequence(QKeySequence("Ctrl+J"))
        dialog.put_button.click()

    with_dialog(window, qtbot, change)
    assert said == ["Ctrl+D is “Add a folder”. Give that one other keys first."]
    assert keys_of(window, name) == "Ctrl+J"
    other = Window(Models(SmallEmbedder, lambda path=None: None))
    assert keys_of(other, name) == "Ctrl+J"
    close(other, qtbot)

    def give_back(dialog):
        dialog.filter.setText("go to the question")
        dialog.choose(name)
        dialog.back_button.click()

    with_dialog(window, qtbot, give_back)
    assert keys_of(window, name) == "Ctrl+L" and preferences.load().keys == {}


def test_every_action_is_on_the_page_of_keys(window, qtbot):
    listed = []
    with_dialog(window, qtbot, lambda dialog: listed.append(dialog.list.topLevelItemCount()))
    assert listed == [len(window._menu.actions)]


def test_the_window_comes_back_where_it_was(window, qtbot):
    first = Window(Models(SmallEmbedder, lambda path=None: None))
    first.setGeometry(40, 30, 1_000, 620)
    first.show()
    close(first, qtbot)
    again = Window(Models(SmallEmbedder, lambda path=None: None))
    # Qt makes it as narrow as the screen is.
    assert again.height() == 620
    close(again, qtbot)


@pytest.mark.parametrize(
    "kept",
    [
        "",
        "no json",
        "[]",
        '{"theme": 7, "place": "zz", "keys": [], "tells": "no", "language": []}',
        '{"keys": {"a": 1}}',
        '{"place": "00ff"}',
    ],
)
def test_a_file_of_preferences_that_is_damaged_is_no_hindrance(kept, qtbot, dressed):
    (data_directory() / "window.json").write_text(kept)
    assert preferences.load().keys == {} and preferences.load().theme == SYSTEM
    window = Window(Models(SmallEmbedder, lambda path=None: None))
    assert window.width() > 600
    close(window, qtbot)


def test_no_word_of_a_document_is_kept(filled, qtbot):
    filled.window_preferences.preferences.kept(theme=DAYLIGHT)
    kept = json.loads((data_directory() / "window.json").read_text())
    assert set(kept) == {"theme", "is_stark", "place", "keys", "tells", "stays_awake", "language"}


_AT_A_SIZE = """
import os, sys
from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import QAbstractButton, QApplication
given = QApplication([])
font = QFont()
font.setPointSizeF(float(sys.argv[1]))
given.setFont(font)
from redlantern.safety import seal
seal.put_on()
from redlantern.desktop.start import application
from redlantern.desktop.widgets import theme
from redlantern.desktop.window import Window
app = application()
window = Window()
window.resize(int(sys.argv[2]), int(sys.argv[3]))
window.show()
app.processEvents()
cut = []
for number in range(8):
    window.go_to(number)
    app.processEvents()
    for button in window.findChildren(QAbstractButton):
        least = button.minimumSizeHint()
        if button.isVisible() and button.text() and (button.width() < least.width() or button.height() < least.height()):
            cut.append((number, button.text(), button.width(), least.width()))
print(window.width(), window.height(), cut, flush=True)
os._exit(0)
"""


@pytest.mark.parametrize(
    ("points", "width", "height"),
    [(7.2, 1024, 640), (9, 1024, 640), (13.5, 1280, 800), (18, 1920, 1080), (9, 3840, 2160)],
)
def test_the_window_has_room_on_small_and_large_screens_with_small_and_large_text(points, width, height, tmp_path):
    """Each size needs an application of its own: the text's is asked for once. `Nothing is cut` is asked of every button."""
    done = subprocess.run(
        [sys.executable, "-c", _AT_A_SIZE, str(points), str(width), str(height)],
        env=os.environ | {"XDG_DATA_HOME": str(tmp_path), "QT_QPA_PLATFORM": "offscreen"},
        capture_output=True, text=True, timeout=90, check=True,
    )  # fmt: skip
    assert done.stdout.strip() == f"{width} {height} []"
