# SPDX-License-Identifier: GPL-3.0-or-later
"""Takes the pictures in docs/screenshots anew, from the demo documents and the packaged models.

Run by `./run shots`; the window is drawn offscreen at 1280x800.
"""

import contextlib
import os
import shutil
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

from redlantern.safety import seal

if TYPE_CHECKING:
    from collections.abc import Iterator

    from redlantern.desktop.window import Window
    from redlantern.models.protocols import Written

HERE = Path(__file__).parent.parent
DOCUMENTS, PICTURES = HERE / "demo" / "documents", HERE / "docs" / "screenshots"
ANSWERED = "At what humidity must the leather work stop?"
SUMMARISED = "What is the condition survey about?"
REFUSED = "What is the telephone number of the surveyor?"
RECKONED = "What was the highest humidity in the loft in March?"
EVERY_PAGE = "every page that says who pays for damage or delay"
OF_EACH = (
    "Who wrote this?",
    "What is its date?",
    "Which sum of money is asked for?",
    "What is asked of the other side?",
)
SUMS = "Check the sums of the invoices"
IN_GERMAN = "Bei welcher Luftfeuchte muss die Arbeit am Leder ruhen?"


def main() -> None:
    """Take all pictures."""
    seal.put_on()
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from redlantern.desktop import portrait
    from redlantern.desktop.start import application
    from redlantern.desktop.window import Window

    with _named_folder() as folder:
        os.environ["XDG_DATA_HOME"] = folder
        app = application()
        window = Window()
        window.resize(*portrait.SIZE)
        window.show()
        portrait.save(window, PICTURES / "start.png")
        collection = Path(folder) / "Oriel Hall file.redlantern"
        window.door.open_collection(collection, creates=True)
        portrait.wait_until(lambda: window.workspace.session is not None and not window.workspace.is_busy)
        # A copy, for some of the documents are changed later on.
        shutil.copytree(DOCUMENTS, Path(folder) / "documents")
        window.workspace.updates.add(Path(folder) / "documents")
        portrait.wait_until(lambda: not window.workspace.is_updating and not window.workspace.is_busy)
        for question, name in (
            (ANSWERED, "desk-answer"),
            (REFUSED, "desk-refusal"),
            (SUMS, "desk-sums"),
        ):
            window.bar.question.setText(question)
            window.ask()
            portrait.wait_until(lambda: portrait.is_settled(window))
            if question == REFUSED:
                window.desk.model_alone.ask()
                portrait.wait_until(lambda: not window.workspace.is_busy)
            portrait.save(window, PICTURES / f"{name}.png")
        _reckoned(window)
        _summary(window)
        _support(window)
        _evidence(window)
        _side_by_side(window)
        _trials(window)
        _read_through(window)
        _brief(window)
        _shelf(window)
        _plan(window, Path(folder) / "documents")
        _models(window)
        _seal(window)
        window.close()
        del app
    print(*sorted(str(path.relative_to(HERE)) for path in PICTURES.glob("*.png")), sep="\n")


def _reckoned(window: "Window") -> None:
    """A figure with its working, the plan opened to be changed."""
    from redlantern.desktop import portrait

    window.bar.question.setText(RECKONED)
    window.ask()
    portrait.wait_until(lambda: portrait.is_settled(window))
    reckoned = window.desk.view.reckoned
    assert reckoned is not None and reckoned.editor is not None
    reckoned.editor.show()
    portrait.save(window, PICTURES / "desk-reckoned.png")


def _summary(window: "Window") -> None:
    """A summary, some of whose sections are written."""
    from redlantern.desktop import portrait

    window.bar.question.setText(SUMMARISED)
    window.ask()

    def is_half_written() -> bool:
        summary = window.desk.view._summary
        return summary is not None and "4 of " in summary.progress.text()

    portrait.wait_until(is_half_written)
    portrait.save(window, PICTURES / "desk-summary.png")
    portrait.wait_until(lambda: portrait.is_settled(window))


class _Errs:
    """A stand-in for a language model that errs in every way there is a mark for, on purpose."""

    name, can_read, can_judge = "a stand-in that errs", False, False

    def fit(self, n_context: int, n_threads: int) -> None: ...

    def window_tokens(self) -> int:
        return 2048

    def count_tokens(self, text: str) -> int:
        return len(text) // 3

    def count_prompt(self, system: str, user: str) -> int:
        return self.count_tokens(system + user)

    def write(self, system: str, user: str, **rest: object) -> "Iterator[Written]":
        from redlantern.models.protocols import Written

        yield Written(
            "The Builder shall stop all leathering and gluing in the Loft when the relative humidity exceeds 65 per cent for "
            "more than 36 consecutive hours. [1] The Builder shall promptly stop all leathering and gluing in the Loft when the "
            "relative humidity exceeds 65 per cent for more than 36 consecutive hours. [1] The Builder shall stop all leathering "
            "and gluing in the Loft when the relative humidity exceeds 75 per cent. [1] Goat skins were tanned with alum in the "
            "Middle Ages. [1]"
        )
        yield Written("", 100, 0, 80)

    def close(self) -> None: ...


def _support(window: "Window") -> None:
    """An answer with each kind of support, by a stand-in for the model."""
    from redlantern.desktop import portrait

    engine = window.workspace.session.engine  # type: ignore[union-attr]
    model = engine.exchange(language_model=_Errs()).language_model
    window.bar.question.setText(ANSWERED)
    window.ask()
    portrait.wait_until(lambda: portrait.is_settled(window))
    portrait.save(window, PICTURES / "desk-support.png")
    engine.exchange(language_model=model)


def _evidence(window: "Window") -> None:
    """Why a passage is there, for a question in another language."""
    from redlantern.desktop import portrait

    view = window.desk.view
    window.desk.shelf.best_first.setChecked(True)
    window.bar.question.setText(IN_GERMAN)
    window.ask()
    portrait.wait_until(lambda: portrait.is_settled(window))
    view.choose(next(at for at, row in enumerate(view.rows) if row.place.startswith("passage 2 ")))
    portrait.wait_until(lambda: portrait.is_settled(window))
    portrait.save(window, PICTURES / "desk-evidence.png")


def _side_by_side(window: "Window") -> None:
    """One question with and without a language model."""
    from redlantern.desktop import portrait

    room = window.side_by_side_room
    window.go_to(3)
    portrait.wait_until(lambda: not window.workspace.is_busy)
    room.question.setText(ANSWERED)
    room.choices[2].combo.setCurrentText("Without documents")
    room.begin()
    portrait.wait_until(lambda: len(room.sheets) == 3 and not window.workspace.is_busy)
    portrait.save(window, PICTURES / "side-by-side.png")


def _trials(window: "Window") -> None:
    """The demo's questions asked in two ways, one of them opened, and a grid of some of them."""
    from redlantern.application import grids, trials
    from redlantern.application.ways import QUICK_WAYS
    from redlantern.desktop import portrait
    from redlantern.trials.values import QuestionSet, TrialQuestion

    room, session = window.trials_room, window.workspace.session
    assert session is not None
    engine = session.engine

    def is_settled() -> bool:
        return not window.workspace.is_busy and not room.runs.runner.run_id

    window.go_to(4)
    room.begin_first(HERE / "demo" / "questions.jsonl")
    portrait.wait_until(lambda: bool(room.runs.runner.run_id))
    portrait.wait_until(is_settled)
    [state] = trials.runs(engine)
    room.open_run(state.run.run_id)
    portrait.wait_until(is_settled)
    portrait.save(window, PICTURES / "trials.png")
    room.open_set(trials.sets(engine)[0], 10)
    room.set_page.editor.find_button.click()
    portrait.wait_until(is_settled)
    portrait.save(window, PICTURES / "trials-set.png")
    asked = tuple(TrialQuestion(str(number), words) for number, words in enumerate(OF_EACH))
    letters = [each for each in engine.collection.documents() if each.path.startswith(("letters/", "invoices/"))]
    run_id = grids.begin_grid(
        engine, trials.keep_set(engine, QuestionSet("Of each letter", asked)), QUICK_WAYS[0], letters
    )
    room._begin(run_id)
    portrait.wait_until(lambda: bool(room.runs.runner.run_id))
    portrait.wait_until(is_settled)
    portrait.save(window, PICTURES / "trials-grid.png")
    window.go_to(0)


def _read_through(window: "Window") -> None:
    """A question put to every page, some of it judged; and its statement."""
    from redlantern.application import read_through as throughs
    from redlantern.desktop import portrait
    from redlantern.desktop.readthrough.dialogs import StatementDialog

    room, view = window.read_through_room, window.read_through_room.view

    def is_settled() -> bool:
        return not window.workspace.is_busy and not room.judging.is_keeping and not view.is_running

    window.go_to(2)
    portrait.wait_until(is_settled)
    room.begin(EVERY_PAGE, "", "lines")
    portrait.wait_until(lambda: view.through is not None and not view.through.covered.n_unread and is_settled())
    for judged in ("accepted", "rejected", "accepted", "rejected", "accepted"):
        view.hits.judged.emit(judged)
        portrait.wait_until(is_settled)
        view.facsimile.step_wanted.emit(1)
        portrait.wait_until(is_settled)
    portrait.save(window, PICTURES / "read-through.png")
    assert window.workspace.session is not None and view.through is not None
    engine = window.workspace.session.engine
    dialog = StatementDialog(throughs.statement(engine, throughs.load(engine, view.through.key)), window)
    dialog.show()
    portrait.save(dialog, PICTURES / "read-through-statement.png")
    dialog.close()
    window.go_to(0)


@contextlib.contextmanager
def _named_folder() -> "Iterator[str]":
    """A folder with a name that can be shown in the pictures, removed at the end."""
    folder = Path(tempfile.gettempdir()) / "Oriel Hall mediation"
    folder.mkdir(mode=0o700)
    try:
        yield str(folder)
    finally:
        shutil.rmtree(folder)


def _brief(window: "Window") -> None:
    """A brief of what the desk and the read-through found, by daylight."""
    from PyQt6.QtWidgets import QApplication

    from redlantern.brief.values import BriefEntry
    from redlantern.desktop import portrait
    from redlantern.desktop.widgets import theme

    room = window.brief_room
    window.bar.question.setText(ANSWERED)
    window.ask()
    portrait.wait_until(lambda: portrait.is_settled(window))
    for at in (0, 1, 3):
        window.desk.view.choose(at)
        window.between_rooms.gather()
        portrait.wait_until(lambda: not window.workspace.is_busy)
    window.go_to(2)
    window.between_rooms.gather()
    portrait.wait_until(lambda: not window.workspace.is_busy)
    window.go_to(5)
    portrait.wait_until(lambda: not window.workspace.is_busy)
    own = (
        (BriefEntry(0, "heading", "When leather work must stop"), 0),
        (
            BriefEntry(
                0, "own", "The parties do not dispute the limit itself, only from which reading the hours count."
            ),
            2,
        ),
        (BriefEntry(0, "heading", "Who pays"), 4),
    )
    for entry, row in own:
        room.list.setCurrentRow(row)
        room.add(entry)
        portrait.wait_until(lambda: not window.workspace.is_busy)
    room.list.setCurrentRow(0)
    room.list.moved.emit(1)
    portrait.wait_until(lambda: not window.workspace.is_busy)
    room.list.setCurrentRow(1)
    portrait.wait_until(lambda: not window.workspace.is_busy)
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    theme.apply(app, theme.DAYLIGHT)
    portrait.save(window, PICTURES / "brief.png")
    theme.apply(app, theme.LAMPLIGHT)
    window.go_to(0)


def _shelf(window: "Window") -> None:
    """The shelf room with a scan."""
    from redlantern.desktop import portrait

    room = window.shelf_room
    window.go_to(1)
    portrait.wait_until(lambda: not window.workspace.is_busy)
    document = next(one for one in room.model.documents if "roofers-scan" in one.path)
    room.table.choose(document.document_id)
    portrait.wait_until(lambda: not window.workspace.is_busy)
    room.report.light(5)
    portrait.save(window, PICTURES / "shelf-scan.png")


def _plan(window: "Window", documents: Path) -> None:
    """The plan of an update."""
    from redlantern.desktop import portrait

    (documents / "letters" / "2026-04-02-hall-manager.txt").write_text("The hall is free from 4 to 9 May.\n")
    contract = next(one for one in (documents / "contract").glob("*.pdf") if "contract" in one.name)
    for changed in (documents / "records" / "loft-door.csv", contract):
        changed.write_bytes(changed.read_bytes() + b"\n")
    minutes = documents / "minutes" / "2026-02-24.md"
    minutes.rename(documents / "mediation" / minutes.name)
    (documents / "records" / "certificates.pdf").unlink()
    window.plan_update()
    pane = window.shelf_room.update_pane
    portrait.wait_until(lambda: pane.plan is not None and pane.isVisible() and not window.workspace.is_busy)
    portrait.save(window, PICTURES / "shelf-update-plan.png")
    pane.close_button.click()
    portrait.wait_until(lambda: not window.workspace.is_busy)


def _models(window: "Window") -> None:
    """The models room, both models measured and a prompt tried."""
    from redlantern.desktop import portrait

    room = window.models_room
    window.go_to(6)
    portrait.wait_until(lambda: room.shown is not None and not window.workspace.is_busy)
    for part in (room.language, room.embedding):
        part.measure_button.click()
        portrait.wait_until(lambda: not window.workspace.is_busy)
    room.prompt.setText("What is relative humidity?")
    room.try_button.click()
    portrait.wait_until(lambda: not window.workspace.is_busy)
    portrait.save(window, PICTURES / "models.png")


def _seal(window: "Window") -> None:
    """The seal room, and what may open a collection."""
    from redlantern.desktop import portrait

    window.go_to(7)
    room = window.seal_room
    room.proof_pane.run()
    portrait.wait_until(
        lambda: room.proof_pane.proof is not None and room.standing is not None and not window.workspace.is_busy
    )
    room.search_plain()
    portrait.wait_until(lambda: "None." in room._plain.text() and not window.workspace.is_busy)
    portrait.save(window, PICTURES / "seal.png")


if __name__ == "__main__":
    main()
