# SPDX-License-Identifier: GPL-3.0-or-later
"""Reads ever new changes of small files of every kind, led by which code they reach (atheris), and what a reader might answer.

Run as `python -m tests.reading.fuzz SECONDS FOLDER`: ends with exit code 0 when
nothing was found in that time. Anything but a document or a refusal is a
finding; its input is left in FOLDER. Recognition itself is left out: it would take
minutes, and sees only pixels; pictures are decoded.
"""

import sys
from pathlib import Path

import atheris

_FIRST = 1
"""The first byte of an input says what is done with the rest: read as a file, or taken for a reader's page."""

with atheris.instrument_imports(include=["redlantern"]):
    from redlantern.reading import errors, recognition
    from redlantern.reading.answers import Gathering
    from redlantern.reading.errors import FileRefusedError
    from redlantern.reading.material import Material
    from redlantern.reading.read import read_material
    from tests.reading import makers
    from tests.reading.test_answers import check_is_ours, document_message, page_message
    from tests.reading.test_hostile import _WORD, SEEDS, pdf


def one_input(data: bytes) -> None:
    """Read one file, or one answer."""
    if not data:
        return
    if data[0] % 4:
        _file(data[_FIRST:])
    else:
        _answer(data[_FIRST:])


def _file(data: bytes) -> None:
    try:
        # As a reader does it: what a library raises is a refusal. A crash, a hang and a document that is none are findings.
        with errors.making_sense():
            read = read_material(Material("x", data=data))
    except (FileRefusedError, OSError):
        return
    for page in read.pages:
        for block in page.blocks:
            assert 0 <= block.start <= block.end <= len(page.text)
    # What a reader would send is what the parent takes.
    gathering = Gathering(None)
    for page in read.pages[:20]:
        text = page.text.encode(errors="replace").decode()
        gathering.take(*page_message(text, page.blocks, page.runs, page_number=page.page_number))


def _answer(body: bytes) -> None:
    head, whole = page_message()
    n_text = body[0] if body else 0
    n_blocks = body[1] if len(body) > 1 else 0
    rest = body[2:] or whole
    head["parts"] = [min(n_text, len(rest)), min(n_blocks, len(rest)), max(0, len(rest) - n_text - n_blocks)]
    gathering = Gathering(None)
    try:
        gathering.take(head, rest)
        gathering.take(*document_message())
        check_is_ours(gathering.take({"is": "done"}, b""))
    except FileRefusedError:
        return


def main() -> None:
    """Fuzz for so many seconds."""
    seconds, folder = int(sys.argv[1]), Path(sys.argv[2])
    recognition.is_installed = lambda: True
    recognition._run = lambda grey, data: [_WORD]
    corpus = folder / "corpus"
    corpus.mkdir(parents=True, exist_ok=True)
    for name, make in SEEDS.items():
        if make is not None:
            (corpus / name).write_bytes(b"\x01" + make())
    (corpus / "made.pdf").write_bytes(b"\x01" + pdf(folder))
    for kind in ("PNG", "JPEG", "TIFF"):
        (corpus / kind).write_bytes(b"\x01" + makers.picture(kind, size=(160, 120)))
    head, body = page_message()
    (corpus / "page").write_bytes(bytes([0, head["parts"][0], head["parts"][1]]) + body)
    words = [
        sys.argv[0], str(corpus), f"-max_total_time={seconds}", "-max_len=60000", "-timeout=60", "-rss_limit_mb=6000",
        f"-artifact_prefix={folder}/", "-print_final_stats=1", "-verbosity=0",
    ]  # fmt: skip
    atheris.Setup(words, one_input)
    atheris.Fuzz()


if __name__ == "__main__":
    main()
