# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern demo`: the demo collection in the window, or without a display the whole example in text."""

import os
from pathlib import Path

from redlantern.answering.question.understanding import Question
from redlantern.application import trials
from redlantern.application.demo import find_demo
from redlantern.application.opening import NewKey
from redlantern.application.ways import QUICK_WAYS
from redlantern.commands.ask import answer, in_words
from redlantern.commands.shared import ProgressLine, engine_on, stoppable
from redlantern.commands.trials import conclusions
from redlantern.commands.window import has_display, show_window
from redlantern.errors import UsageError

QUESTIONS = (
    "At what humidity must the leather work stop?",
    "How much does the Builder claim in total?",
    "What is the wind pressure of the Swell?",
    "When did the Trust first hear of the damp in the loft?",
    "What is the telephone number of the surveyor?",
)


def demo(picture: Path | None) -> int:
    """Build the demo collection if it is not there, then show it."""
    found = find_demo()
    if found is None:
        raise UsageError(
            "the demo documents are not here; they are in the project's folder, or installed with the program"
        )
    path, documents, asked = found.collection, found.documents, found.questions
    if has_display():
        return show_window(path, folder=documents, questions=asked)
    return _in_text(path, documents, asked, picture or Path("build") / "demo-window.png")


def _in_text(path: Path, documents: Path, asked: Path, picture: Path) -> int:
    progress = ProgressLine()
    with engine_on(path, creates=NewKey(), writes=True) as engine, stoppable() as cancel:
        summary = engine.update([documents], report=progress, cancel=cancel)
        progress.finish()
        n_documents = len(engine.current_index().documents)
        print(f"{n_documents} documents ready ({summary.read} read now, {summary.unchanged} unchanged)\n")
        for question in QUESTIONS:
            print(in_words(answer(engine, Question(question), cancel)), end="\n\n" + "-" * 100 + "\n\n", flush=True)
        run_id = trials.begin_first(engine, asked, QUICK_WAYS, cancel)
        if run_id is not None:
            print("Asking the questions of the demo in two ways (`redlantern trials compare` shows more) ...\n")
            state = trials.go_on_with(engine, run_id, report=progress, cancel=cancel)
            progress.finish()
            print("\n".join(conclusions(state)), end="\n\n")
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from redlantern.desktop.portrait import take_picture

    take_picture(path, QUESTIONS[0], picture)
    print(f"The window as it would look: {picture}")
    return 0
