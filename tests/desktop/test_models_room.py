# SPDX-License-Identifier: GPL-3.0-or-later
"""A person who looks at the models, tries one, brings another in and goes back."""

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QLabel

from redlantern.application import models as models_work
from redlantern.models import machine
from redlantern.models.abilities import Ability
from redlantern.models.card import ModelCard, Speeds, UnfitModelError
from redlantern.models.readers import reader_at
from redlantern.models.register import READERS
from redlantern.settings import WRITING, Method, declared_settings
from tests.conftest import SmallEmbedder, SmallLanguageModel
from tests.desktop.conftest import WAIT_MS, ask, open_in, settle


def words_of(widget):
    return " ".join(label.text() for label in widget.findChildren(QLabel) if label.isVisible())


@pytest.fixture
def made():
    """The files that a language model was made from; none for the packaged one."""
    return []


@pytest.fixture
def room(filled, qtbot, language_model, made, monkeypatch):
    def card(path=None):
        if path is not None and "broken" in path.name:
            raise UnfitModelError(str(path), "it is no GGUF file")
        name = "Packaged" if path is None or reader_at(path) is not None else path.stem
        return ModelCard(
            name, str(path or "packaged.gguf"), 90 * 2**20, name * 8, 135_000_000, "Q4_1", 8192, ("en",), "mit"
        )

    def make(path=None):
        made.append(path)
        return language_model if path is None else SmallLanguageModel()

    def writes(card, cancel):
        if "silent" in card.name:
            raise UnfitModelError(card.path, "it was loaded, but it wrote nothing")

    monkeypatch.setattr(models_work, "language_card", card)
    monkeypatch.setattr(models_work, "check_writes", writes)
    monkeypatch.setattr(models_work, "tested_ability", lambda *_: Ability(True, True))
    monkeypatch.setattr(models_work, "embedding_card", fit)
    monkeypatch.setattr(
        filled.models_room,
        "_make_embedder",
        lambda model=None: Other() if isinstance(model, Path) else SmallEmbedder(),
    )
    monkeypatch.setattr(models_work, "measure_language", lambda path, cancel, report: Speeds(1.5, 150, 30, 0, 2**28))
    monkeypatch.setattr(filled.models_room, "_make", make)
    filled.go_to(6)
    settled(filled, qtbot)
    return filled.models_room


class Other(SmallEmbedder):
    name, identity, dimensions = "other", "other 2", 32


def fit(folder):
    if "broken" in folder.name:
        raise UnfitModelError(str(folder), "there is no tokenizer.json in the folder")
    return ModelCard(folder.name, str(folder / "model.onnx"), 2**20, "c" * 64, n_context=256, dimensions=32)


def settled(window, qtbot):
    qtbot.waitUntil(lambda: window.models_room._task is None and not window.workspace.is_busy, timeout=WAIT_MS)


def test_both_models_say_what_they_are(room):
    said = words_of(room)
    for words in ("Packaged", "135 million", "Q4_1", "8,192 tokens", "mit", "all-MiniLM-L6-v2 int8", "LANGUAGE MODEL"):
        assert words in said


def test_the_other_packaged_reader_is_chosen_and_kept(room, filled, qtbot, made, monkeypatch, tmp_path):
    monkeypatch.setattr(type(READERS[0]), "place", property(lambda reader: tmp_path / reader.file_name))
    for reader in READERS:
        reader.place.write_bytes(b"GGUF")
    filled.models_room._of = None
    filled.models_room.enter()
    settled(filled, qtbot)
    buttons = room.readers.buttons
    assert list(buttons) == ["close", "light"] and buttons["light"].isChecked()
    assert "Needs about 2,500 MiB of free memory." in words_of(room)
    qtbot.mouseClick(buttons["close"], Qt.MouseButton.LeftButton)
    settled(filled, qtbot)
    assert made == [READERS[1].place] and buttons["close"].isChecked()
    assert filled.workspace.session.engine.collection.facts.get("language model") == "close"
    # One that is not there is told how to be had.
    READERS[0].place.unlink()
    filled.models_room._of = None
    filled.models_room.enter()
    settled(filled, qtbot)
    assert not buttons["light"].isEnabled()
    assert "run ./run setup again, with the network on, to fetch it" in words_of(room)


def test_a_model_is_measured(room, filled, qtbot):
    qtbot.mouseClick(room.language.measure_button, Qt.MouseButton.LeftButton)
    settled(filled, qtbot)
    assert room.language.measured.text() == (
        "loaded in 1.5 s, reads 150 tokens a second, writes 30 tokens a second, holds 256 MiB of memory"
    )


def test_a_prompt_is_tried_and_can_be_stopped(room, filled, qtbot, language_model):
    room.prompt.setText("The loft is damp")
    qtbot.keyClick(room.prompt, Qt.Key.Key_Return)
    settled(filled, qtbot)
    assert room.tried.text().startswith("The loft is damp [1]")
    assert "a second" in room.tried.text()
    language_model.waits_after = 1
    qtbot.keyClick(room.prompt, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: room.tried.text().startswith("The"), timeout=WAIT_MS)
    qtbot.keyClick(filled, Qt.Key.Key_Escape)
    assert room.notice.text() == "Stopped."
    language_model.waits_after = None
    settled(filled, qtbot)


def test_another_model_is_brought_in_kept_for_the_collection_and_given_back(
    room, filled, qtbot, made, tmp_path, language_model
):
    other = tmp_path / "larger.gguf"
    other.write_bytes(b"GGUF")
    room.bring_in(other)
    settled(filled, qtbot)
    assert room.language.name.text() == "larger"
    assert made == [other]
    assert language_model.is_closed
    filled.go_to(0)
    ask(filled, qtbot, "At what relative humidity in the loft shall work cease?")
    assert filled.desk.view.sheet.claims
    # A collection opened again has its own model again; a file that is gone is told.
    open_in(filled, qtbot, tmp_path / "shown.redlantern")
    other.unlink()
    filled.go_to(6)
    settled(filled, qtbot)
    assert f"The model file {other} is gone" in filled.models_room.notice.text()
    settle(filled, qtbot)


def test_going_back_to_the_packaged_model(room, filled, qtbot, made, tmp_path):
    other = tmp_path / "larger.gguf"
    other.write_bytes(b"GGUF")
    room.bring_in(other)
    settled(filled, qtbot)
    assert not any(button.isChecked() for button in room.readers.buttons.values())
    qtbot.mouseClick(room.readers.buttons["light"], Qt.MouseButton.LeftButton)
    settled(filled, qtbot)
    assert made == [other, READERS[0].place]
    assert room.language.name.text() == "Packaged" and room.readers.buttons["light"].isChecked()


@pytest.mark.parametrize(
    ("name", "reason"), [("broken", "it is no GGUF file"), ("silent", "it was loaded, but it wrote nothing")]
)
def test_a_file_that_cannot_be_used_changes_nothing(room, filled, qtbot, made, tmp_path, name, reason):
    room.bring_in(tmp_path / f"{name}.gguf")
    settled(filled, qtbot)
    assert room.notice.text() == f"“{name}.gguf” cannot be used: {reason}."
    assert made == []
    assert room.language.name.text() == "Packaged"


def test_a_file_is_chosen_in_a_dialog(room, filled, qtbot, made, tmp_path, monkeypatch):
    other = tmp_path / "larger.gguf"
    other.write_bytes(b"GGUF")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(other), ""))
    qtbot.mouseClick(room.language.bring_button, Qt.MouseButton.LeftButton)
    settled(filled, qtbot)
    assert made == [other]
    # A question that is given up changes nothing.
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: ("", ""))
    qtbot.mouseClick(room.language.bring_button, Qt.MouseButton.LeftButton)
    assert made == [other]


def test_the_embedding_model_is_measured_and_an_empty_prompt_is_told(room, filled, qtbot, monkeypatch):
    monkeypatch.setattr(models_work, "measure_embedding", lambda model, cancel, report: Speeds(0.5, 4000, 0, 25))
    qtbot.mouseClick(room.embedding.measure_button, Qt.MouseButton.LeftButton)
    settled(filled, qtbot)
    assert room.embedding.measured.text() == "loaded in 0.5 s, reads 4,000 tokens a second, embeds 25 passages a second"
    room.prompt.setText("  ")
    qtbot.keyClick(room.prompt, Qt.Key.Key_Return)
    assert room.notice.text() == "Type a prompt first."


def test_settings_are_used_kept_and_put_back(room, filled, qtbot, language_model, tmp_path):
    settings = room.settings
    assert not settings.use_button.isEnabled() and not settings.reset_button.isEnabled()
    settings.controls["answer_tokens"].setValue(60)
    settings.instruction.setPlainText("Answer in two sentences.")
    qtbot.mouseClick(settings.use_button, Qt.MouseButton.LeftButton)
    settled(filled, qtbot)
    assert room.notice.text() == "The next answer is written with these settings."
    filled.go_to(0)
    ask(filled, qtbot, "At what relative humidity in the loft shall work cease?")
    assert language_model.systems[-1].endswith("in brackets. Answer in two sentences.")
    assert filled.workspace.session.engine.collection.journal.entries()[-2].words == (
        'Writing: {"answer_tokens": 60, "instruction": "Answer in two sentences."}'
    )
    open_in(filled, qtbot, tmp_path / "other.redlantern", creates=True)
    open_in(filled, qtbot, tmp_path / "shown.redlantern")
    filled.go_to(6)
    settled(filled, qtbot)
    room = filled.models_room
    settings = room.settings
    assert settings.controls["answer_tokens"].value() == 60
    qtbot.mouseClick(settings.reset_button, Qt.MouseButton.LeftButton)
    assert settings.controls["answer_tokens"].value() == 240
    qtbot.mouseClick(settings.use_button, Qt.MouseButton.LeftButton)
    settled(filled, qtbot)
    assert filled.workspace.session.engine.method == Method()


def test_settings_that_cannot_be_are_refused_where_they_are_typed(room):
    settings = room.settings
    settings.controls["prompt_tokens"].setValue(1900)
    assert settings.problem.text() == (
        "Evidence, answer and instruction need 2,299 tokens together, and the context window has 2,048. "
        "Make it longer, or one of them shorter."
    )
    assert settings.problem.isVisible() and not settings.use_button.isEnabled()
    settings.controls["context_tokens"].setValue(4096)
    assert not settings.problem.isVisible() and settings.use_button.isEnabled()
    settings.instruction.setPlainText("x" * 700)
    assert "Characters of the instruction" in settings.problem.text()


def test_each_writing_setting_says_what_it_means_its_limits_and_its_default(room):
    said = words_of(room.settings)
    for declared in declared_settings():
        if declared.name in WRITING:
            assert declared.metadata["meaning"] in said
    assert "512 to 131,072; default 2,048." in said
    assert "Always there, for a model that reads:" in said


def test_the_monitor_says_what_is_held_and_warns_before_the_disk_is_used(room, monkeypatch):
    monitor = room.monitor
    assert "MB here" in monitor.memory.said.text() and "MB free" in monitor.memory.said.text()
    monitor.measure()
    assert monitor.processor.said.text().endswith("cores")
    assert monitor.tokens.said.text() == "nothing is being written"
    assert not monitor.warning.isVisible()
    monkeypatch.setattr(machine, "free_bytes", lambda: 90 * 2**20)
    monitor.measure()
    assert monitor.warning.text() == "Only 90 MB are free: the machine is about to use its disk for memory."
    room.workspace.status._measure()
    assert room.workspace.status._memory.text().endswith("only 90 MB free on this machine")


def test_the_monitor_counts_the_tokens_that_are_written(room, language_model):
    language_model.n_streamed = 10
    room.monitor._before = (room.monitor._before[0] - 2, room.monitor._before[1], 0)
    room.monitor.measure()
    assert room.monitor.tokens.said.text() == "5 a second"


def test_another_embedding_model_is_offered_with_its_cost_used_and_given_back(room, filled, qtbot, tmp_path):
    folder = tmp_path / "many tongues"
    folder.mkdir()
    room.bring_in_embedding(folder)
    settled(filled, qtbot)
    n = filled.workspace.session.engine.current_index().n_passages
    assert room.offer.isVisible()
    assert "“many tongues” can be used: vectors of 32 numbers, texts of up to 256 tokens." in room.offer.words.text()
    assert (
        f"The {n} passages of this collection are embedded anew with it, which takes about 1 s"
        in room.offer.words.text()
    )
    qtbot.mouseClick(room.offer.leave_button, Qt.MouseButton.LeftButton)
    assert not room.offer.isVisible()
    room.bring_in_embedding(folder)
    settled(filled, qtbot)
    qtbot.mouseClick(room.offer.agree_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not filled.workspace.is_updating, timeout=WAIT_MS)
    settled(filled, qtbot)
    assert filled.workspace.session.engine.embedder.name == "other"
    assert "many tongues" in words_of(room.embedding)
    assert filled.status.activity.text() == "Done, 3 made anew"
    filled.go_to(0)
    ask(filled, qtbot, "At what relative humidity in the loft shall work cease?")
    assert filled.desk.view.sheet.models["embedding"] == "other"
    filled.go_to(6)
    assert not any(button.isChecked() for button in room.embeddings.buttons.values())
    qtbot.mouseClick(room.embeddings.buttons["both"], Qt.MouseButton.LeftButton)
    assert not room.embeddings.buttons["both"].isChecked(), "nothing is changed before it was agreed to"
    settled(filled, qtbot)
    qtbot.mouseClick(room.offer.agree_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not filled.workspace.is_updating, timeout=WAIT_MS)
    settled(filled, qtbot)
    assert filled.workspace.session.engine.embedder.name == "small stand-in"
    assert room.embeddings.buttons["both"].isChecked()
    assert filled.workspace.session.engine.collection.facts.get("embedding model") == "both"


def test_a_folder_without_a_model_is_refused_and_one_that_is_gone_is_told(room, filled, qtbot, tmp_path, monkeypatch):
    room.bring_in_embedding(tmp_path / "broken")
    settled(filled, qtbot)
    assert room.notice.text() == "“broken” cannot be used: there is no tokenizer.json in the folder."
    assert not room.offer.isVisible()
    filled.workspace.session.engine.collection.facts.put("embedding model", "/gone/model")
    open_in(filled, qtbot, tmp_path / "other.redlantern", creates=True)
    open_in(filled, qtbot, tmp_path / "shown.redlantern")
    filled.go_to(6)
    settled(filled, qtbot)
    assert filled.models_room.notice.text().startswith("The embedding model in /gone/model is gone.")


def test_embedding_anew_is_cancelled_and_leaves_everything(room, filled, qtbot, tmp_path, monkeypatch):
    class Waits(Other):
        waits = False

        def embed(self, texts, spans):
            if Waits.waits:
                filled.workspace.updates._task.cancel._event.wait(5)
            return super().embed(texts, spans)

    monkeypatch.setattr(room, "_make_embedder", lambda model=None: Waits())
    room.bring_in_embedding(tmp_path)
    settled(filled, qtbot)
    Waits.waits = True
    qtbot.mouseClick(room.offer.agree_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: "Embedding anew" in filled.status.activity.text(), timeout=WAIT_MS)
    assert not room.embedding.bring_button.isEnabled()
    qtbot.mouseClick(filled.status.cancel_button, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not filled.workspace.is_updating, timeout=WAIT_MS)
    settled(filled, qtbot)
    assert filled.status.activity.text() == "Stopped. Everything is as it was."
    assert filled.workspace.session.engine.embedder.name == "small stand-in"
