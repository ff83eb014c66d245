"""Takes the pictures in docs/screenshots anew, from the demo documents and the packaged models.

Run by `./run shots`; the window is drawn offscreen at 1280x800.
"""

import os
import shutil
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING

from redlantern.safety import seal

if TYPE_CHECKING:
    from redlantern.desktop.window import Window

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
        _look_first(window)
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
        _shelf(window, Path(folder))
        window.go_to(2)
        window.seal_room.run_test()
        portrait.wait_until(lambda: bool(window.seal_room.ways))
        portrait.save(window, PICTURES / "seal.png")
        window.close()
        del app
    print(*sorted(str(path.relative_to(HERE)) for path in PICTURES.glob("*.png")), sep="\n")


def _look_first(window: "Window") -> None:
    """The look at files before they are added, with changed settings beside the present ones."""
    from redlantern.desktop import portrait

    room = window.shelf_room
    window.go_to(1)
    portrait.save(window, PICTURES / "shelf-empty.png")
    room.look_at([DOCUMENTS])
    portrait.wait_until(lambda: room.preview.preview is not None and not window.desk.is_busy)
    room.preview.tokens.setValue(96)
    room.preview.overlap.setValue(16)
    portrait.wait_until(lambda: not window.desk.is_busy)
    portrait.save(window, PICTURES / "shelf-look-first.png")
    room.preview.close_button.click()
    window.go_to(0)


def _shelf(window: "Window", folder: Path) -> None:
    """The shelf room: a scan, a workbook, a refused file, and while it reads."""
    from redlantern.desktop import portrait

    room = window.shelf_room
    window.go_to(1)
    portrait.wait_until(lambda: not window.desk.is_busy)
    for word, name, block in (
        ("roofers-scan", "shelf-scan", 5),
        ("2026-014", "shelf-invoice", 5),
        ("yard-keys", "shelf-attachment", 1),
    ):
        document = next(one for one in room.model.documents if word in one.path)
        room.table.choose(document.document_id)
        portrait.wait_until(lambda: not window.desk.is_busy)
        room.report.light(block)
        portrait.save(window, PICTURES / f"{name}.png")
    broken = folder / "more"
    broken.mkdir()
    (broken / "cut short.docx").write_bytes((DOCUMENTS / "letters/2026-03-20-builder.docx").read_bytes()[:9000])
    shutil.copytree(DOCUMENTS / "minutes", broken / "minutes of other years")
    for number, path in enumerate(sorted((broken / "minutes of other years").iterdir())):
        path.write_text(path.read_text(encoding="utf-8") + f"\nCopy {number} for the file.\n", encoding="utf-8")
    window.desk.add(broken)
    portrait.wait_until(lambda: any(one.is_refused for one in room.model.documents))
    portrait.save(window, PICTURES / "shelf-reading.png")
    portrait.wait_until(lambda: not window.desk.is_updating and not window.desk.is_busy)
    refused = next(one for one in room.model.documents if one.is_refused)
    room.table.choose(refused.document_id)
    portrait.wait_until(lambda: not window.desk.is_busy)
    portrait.save(window, PICTURES / "shelf-refused.png")


if __name__ == "__main__":
    main()
