"""Takes the pictures in docs/screenshots anew, from the demo documents and the packaged models.

Run by `./run shots`; the window is drawn offscreen at 1280x800.
"""

import os
import tempfile
from pathlib import Path

from redlantern.safety import seal

HERE = Path(__file__).parent.parent
DOCUMENTS, PICTURES = HERE / "demo" / "documents", HERE / "docs" / "screenshots"
ANSWERED = "At what humidity must the leather work stop?"
FROM_A_SET_PAGE = "What does Professor Lindqvist recommend for both bellows?"
REFUSED = "What is the telephone number of the surveyor?"


def main() -> None:
    """Take all pictures."""
    seal.put_on()
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from redlantern.desktop import portrait
    from redlantern.desktop.start import application
    from redlantern.desktop.window import Window

    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_DATA_HOME"] = folder
        app = application()
        window = Window()
        window.show()
        portrait.save(window, PICTURES / "start.png")
        collection = Path(folder) / "Oriel Hall file.redlantern"
        window.open_collection(collection, creates=True)
        portrait.wait_until(lambda: window.desk.opened is not None and not window.desk.is_busy)
        portrait.save(window, PICTURES / "desk-empty.png")
        window.desk.add(DOCUMENTS)
        portrait.wait_until(lambda: len(window.desk.shelf.model.readable) > 7)
        portrait.save(window, PICTURES / "desk-indexing.png")
        portrait.wait_until(lambda: not window.desk.is_updating and not window.desk.is_busy)
        portrait.save(window, PICTURES / "desk-ready.png")
        for question, name in (
            (ANSWERED, "desk-answer"),
            (FROM_A_SET_PAGE, "desk-set-page"),
            (REFUSED, "desk-refusal"),
        ):
            window.question.setText(question)
            window.ask()
            portrait.wait_until(lambda: portrait.is_settled(window))
            portrait.save(window, PICTURES / f"{name}.png")
        window.go_to(2)
        window.seal_room.run_test()
        portrait.wait_until(lambda: bool(window.seal_room.ways))
        portrait.save(window, PICTURES / "seal.png")
        window.close()
        del app
    print(*sorted(str(path.relative_to(HERE)) for path in PICTURES.glob("*.png")), sep="\n")


if __name__ == "__main__":
    main()
