# SPDX-License-Identifier: GPL-3.0-or-later
"""Files made to break a reader: each ends with a plain reason, or is read without doing what it asks, and nothing else suffers."""

import io
import struct
import time
import zipfile
import zlib

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from redlantern.progress import Cancel
from redlantern.reading import recognition
from redlantern.reading.errors import FileRefusedError
from redlantern.reading.material import Material
from redlantern.reading.pool import ReaderPool
from redlantern.reading.read import read_material
from tests.conftest import CONTRACT, LETTER, write_pdf
from tests.reading import makers

LONGEST_S = 20.0
ENTITIES = (
    '<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa">'
    + "".join(
        f'<!ENTITY a{n} "{"&a" + str(n - 1 if n > 1 else "") + ";"}{"&a" + str(n - 1 if n > 1 else "") + ";"}">'
        for n in range(1, 40)
    )
    + "]>"
)


def with_part(data: bytes, name: str, content: str | bytes) -> bytes:
    """An archive with one entry put in place of its own."""
    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        files = {one: packed.read(one) for one in packed.namelist()}
    return makers.archive({**files, name: content})


def pdf(tmp_path, body: bytes = b"") -> bytes:
    path = tmp_path / "made.pdf"
    write_pdf(path, [[(72, 72, "The hatch was closed.")]])
    return path.read_bytes() + body


def raw_pdf(objects: list[bytes]) -> bytes:
    """A PDF of these objects, the first of which is its catalogue."""
    out, offsets = bytearray(b"%PDF-1.7\n"), []
    for number, body in enumerate(objects, 1):
        offsets.append(len(out))
        out += b"%d 0 obj\n%s\nendobj\n" % (number, body)
    at = len(out)
    out += b"xref\n0 %d\n0000000000 65535 f \n" % (len(objects) + 1)
    out += b"".join(b"%010d 00000 n \n" % offset for offset in offsets)
    return bytes(out) + b"trailer <</Size %d /Root 1 0 R>>\nstartxref\n%d\n%%%%EOF" % (len(objects) + 1, at)


def stream(content: bytes, more: bytes = b"") -> bytes:
    return b"<</Length %d %s>>\nstream\n%s\nendstream" % (len(content), more, content)


def png(width: int, height: int) -> bytes:
    """A picture that says it is large, and holds hardly anything."""

    def chunk(name: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 1000)) + chunk(b"IEND", b"")
    )


def tiff_loop() -> bytes:
    """A TIFF whose list of pages leads back to itself."""
    data = bytearray(makers.picture("TIFF"))
    first = struct.unpack_from("<I", data, 4)[0]
    n_entries = struct.unpack_from("<H", data, first)[0]
    struct.pack_into("<I", data, first + 2 + 12 * n_entries, first)
    return bytes(data)


def nested_mail(depth: int) -> bytes:
    head = b"From: a@x\nMessage-ID: <1@x>\nSubject: s\nDate: Tue, 03 Mar 2026 10:00:00 +0000\nMIME-Version: 1.0\n"
    body = b"".join(
        b'Content-Type: multipart/mixed; boundary="b%d"\n\n--b%d\n' % (number, number) for number in range(depth)
    )
    return head + body + b"Content-Type: text/plain\n\nwords\n"


def bomb(name: str, n_mb: int) -> bytes:
    return with_part(makers.word(), name, b"\0" * (n_mb * 2**20))


BROKEN = {
    "cut pdf": (lambda tmp: pdf(tmp)[:300], "damaged"),
    "pdf without pages": (
        lambda tmp: raw_pdf([b"<</Type/Catalog/Pages 2 0 R>>", b"<</Type/Pages/Kids[]/Count 0>>"]),
        "damaged",
    ),
    "pdf whose pages are each other's parents": (
        lambda tmp: raw_pdf(
            [
                b"<</Type/Catalog/Pages 2 0 R>>",
                b"<</Type/Pages/Kids[3 0 R]/Count 1>>",
                b"<</Type/Pages/Kids[2 0 R]/Count 1>>",
            ]
        ),
        "no words",
    ),
    "pdf that says it has two billion pages": (
        lambda tmp: raw_pdf([b"<</Type/Catalog/Pages 2 0 R>>", b"<</Type/Pages/Kids[2 0 R]/Count 2000000000>>"]),
        "damaged",
    ),
    "pdf with a password": (lambda tmp: locked_pdf(), "a password is needed"),
    "pdf that is only its first line": (lambda tmp: b"%PDF-1.7\n", "damaged"),
    "pdf with a stream that unpacks to a thousand times its size": (
        lambda tmp: raw_pdf(
            [
                b"<</Type/Catalog/Pages 2 0 R>>",
                b"<</Type/Pages/Kids[3 0 R]/Count 1>>",
                b"<</Type/Page/Parent 2 0 R/MediaBox[0 0 600 800]/Contents 4 0 R>>",
                stream(zlib.compress(b" " * 2**28, 1), b"/Filter/FlateDecode"),
            ]
        ),
        "no words",
    ),
    "pdf page a mile wide": (
        lambda tmp: raw_pdf(
            [
                b"<</Type/Catalog/Pages 2 0 R>>",
                b"<</Type/Pages/Kids[3 0 R]/Count 1>>",
                b"<</Type/Page/Parent 2 0 R/MediaBox[0 0 4000000 4000000]/Contents 4 0 R>>",
                stream(b"0 0 100 100 re f"),
            ]
        ),
        "",
    ),
    "docx cut short": (lambda tmp: makers.word()[:4000], "damaged"),
    "docx without its main part": (
        lambda tmp: makers.archive({"word/document.xml": "", "[Content_Types].xml": ""}),
        "damaged",
    ),
    "docx that unpacks to half a gigabyte": (
        lambda tmp: bomb("word/media/a.bin", 190),
        "unpacks to many hundred times",
    ),
    "docx with growing entities": (
        lambda tmp: with_part(makers.word(), "word/document.xml", ENTITIES + "<x>&a39;</x>"),
        "it defines XML entities",
    ),
    "docx that names another file": (
        lambda tmp: with_part(
            makers.word(), "word/document.xml", '<!DOCTYPE x [<!ENTITY f SYSTEM "file:///etc/passwd">]><x>&f;</x>'
        ),
        "it defines XML entities",
    ),
    "docx nested without end": (
        lambda tmp: with_part(makers.word(), "word/document.xml", "<a>" * 200_000 + "</a>" * 200_000),
        "damaged",
    ),
    "archive within an archive": (
        lambda tmp: makers.archive({"inner.zip": makers.archive({"a": "b"})}),
        "An archive cannot be read",
    ),
    "archive of names that lead out": (
        lambda tmp: makers.archive({"../../etc/evil": "x", "mimetype": "no"}),
        "An archive cannot be read",
    ),
    "archive of a hundred thousand entries": (
        lambda tmp: makers.archive({"word/document.xml": "<x/>"} | {f"{number}": "" for number in range(30_000)}),
        "it holds 30,001 entries",
    ),
    "archive with a password": (lambda tmp: locked_zip(), "a password is needed"),
    "xlsx with a sheet of billions of cells": (lambda tmp: far_cell(), "it has more than"),
    "pptx that is no presentation": (
        lambda tmp: makers.archive({"ppt/presentation.xml": "<x/>", "[Content_Types].xml": "<x/>"}),
        "damaged",
    ),
    "odt with entities": (
        lambda tmp: with_part(makers.odt(), "content.xml", ENTITIES + "<x>&a39;</x>"),
        "it defines XML entities",
    ),
    "epub whose book is missing": (lambda tmp: with_part(makers.epub(), "OEBPS/book.opf", ""), "damaged"),
    "picture of four billion dots": (lambda tmp: png(65_000, 65_000), "million pixels"),
    "picture cut short": (lambda tmp: makers.picture("PNG")[:2000], "damaged"),
    "jpeg of noise": (lambda tmp: b"\xff\xd8\xff" + bytes(range(256)) * 40, "damaged"),
    "mail nested without end": (lambda tmp: nested_mail(3000), "damaged"),
    "zero bytes only": (lambda tmp: b"\0" * 100_000, "cannot be read"),
    "empty": (lambda tmp: b"", "the file is empty"),
    "white space only": (lambda tmp: b" \n\t" * 10_000, "the file is empty"),
    "a program": (lambda tmp: b"\x7fELF" + bytes(500), "is not a document"),
    "rtf cut in a group": (lambda tmp: b"{\\rtf1" + b"{" * 100_000, "no words"),
    "rtf of nothing but codes": (lambda tmp: b"{\\rtf1\\ansi" + b"\\b\\i" * 200_000 + b"}", "no words"),
    "html nested without end": (lambda tmp: b"<html><body>" + b"<div>" * 100_000 + b"<p>deep words</p>", "no words"),
}
HARMLESS = {
    "ods with a million repeated rows of a million cells": (
        lambda tmp: makers.odf(
            "spreadsheet",
            '<table:table><table:table-row table:number-rows-repeated="999999"><table:table-cell'
            ' table:number-columns-repeated="999999"><text:p>x</text:p></table:table-cell></table:table-row></table:table>'
            * 50,
        ),
        "x",
    ),
    "text of one line of 30 MB": (lambda tmp: b"word " * 6_000_000, "word word"),
    "csv of one row of 30 MB": (lambda tmp: b"a;b\nc;d\n" + b"x;" * 15_000_000 + b"\n", "a"),
    "html of a million open tags": (lambda tmp: b"<html><body><p>first words</p>" + b"<b>" * 1_000_000, "first words"),
    "html that names files and hosts": (
        lambda tmp: (
            b'<html><body><p>shown words</p><img src="http://127.0.0.1:9/x"><iframe src="file:///etc/passwd"></iframe>'
            b'<link rel=stylesheet href="http://127.0.0.1:9/c"><object data="/etc/passwd"></object>'
        ),
        "shown words",
    ),
    "pdf with junk after its end": (lambda tmp: pdf(tmp, b"\0" * 100_000), "The hatch was closed."),
    "tiff whose pages lead back to the first": (lambda tmp: tiff_loop(), ""),
    "csv with a quote that is never closed": (lambda tmp: b'a;b\n"c;d\n' * 1000, "a"),
    "text with marks that turn its direction": (
        lambda tmp: "pay 100 \u202eEUR\u202c \x1b[2J now".encode(),
        "pay 100 EUR [2J now",
    ),
}


def locked_pdf() -> bytes:
    from reportlab.lib.pdfencrypt import StandardEncryption
    from reportlab.pdfgen.canvas import Canvas

    buffer = io.BytesIO()
    canvas = Canvas(buffer, encrypt=StandardEncryption("sesame", canPrint=0))
    canvas.drawString(72, 700, "The secret sum is 400.")
    canvas.save()
    return buffer.getvalue()


def locked_zip() -> bytes:
    """A DOCX whose entries say that they are encrypted."""
    data = bytearray(makers.word())
    for signature, offset in ((b"PK\x03\x04", 6), (b"PK\x01\x02", 8)):
        at = data.find(signature)
        while at >= 0:
            data[at + offset] |= 1
            at = data.find(signature, at + 4)
    return bytes(data)


def far_cell() -> bytes:
    import openpyxl

    book = openpyxl.Workbook()
    book.active["A1"] = "first"
    book.active["XFD1048576"] = "last"
    return makers.saved(book)


@pytest.fixture(scope="module")
def pool():
    pool = ReaderPool(1, timeout_s=LONGEST_S)
    yield pool
    pool.close()


def read(pool, tmp_path, data: bytes):
    """Read bytes as a file by a name that tells nothing; gives what came of it, and takes no longer than it may."""
    path = tmp_path / "file"
    path.write_bytes(data)
    began = time.monotonic()
    try:
        return pool.read(path, Cancel())
    finally:
        assert time.monotonic() - began < LONGEST_S + 1


def test_there_are_thirty_ways_and_more():
    assert len(BROKEN) + len(HARMLESS) >= 40


@pytest.mark.parametrize("name", BROKEN)
def test_a_broken_file_ends_with_a_plain_reason(pool, tmp_path, name):
    make, words = BROKEN[name]
    with pytest.raises(FileRefusedError) as refused:
        read(pool, tmp_path, make(tmp_path))
    said = str(refused.value)
    assert words in said or words in refused.value.reason
    assert "Traceback" not in said and said.endswith(".") and len(said) < 300
    # Nothing else is disturbed: the next file is read as ever.
    assert read(pool, tmp_path, makers.web()).title == "Humidity in lofts"


@pytest.mark.parametrize("name", HARMLESS)
def test_what_looks_hostile_and_holds_words_is_read_without_harm(pool, tmp_path, name):
    make, words = HARMLESS[name]
    found = read(pool, tmp_path, make(tmp_path))
    assert words in found.pages[0].text
    assert max(len(page.text) for page in found.pages) < 20_000
    assert not any(one in page.text for page in found.pages for one in ("\x1b", "\u202e", "root:"))


def test_a_password_opens_a_pdf_and_a_wrong_one_does_not(tmp_path):
    path = tmp_path / "locked.pdf"
    path.write_bytes(locked_pdf())
    assert "400" in read_material(Material(path.name, data=path.read_bytes(), password="sesame")).pages[0].text
    with pytest.raises(FileRefusedError, match="The password does not open it"):
        read_material(Material(path.name, data=path.read_bytes(), password="open"))


# A few hundred changed files of each kind a run, in one reader process that must outlive them or be replaced without a word.
N_MUTATIONS = 200


def mutated(data: bytes, seed: int) -> bytes:
    """Bytes flipped, cut, doubled or put elsewhere, the same for the same seed."""
    import random

    chance = random.Random(seed)
    out = bytearray(data)
    for _ in range(chance.randint(1, 3)):
        if not out:
            break
        at, n_bytes = chance.randrange(len(out)), chance.randint(1, 64)
        match chance.randrange(5):
            case 0:
                out[at] ^= 1 << chance.randrange(8)
            case 1:
                out[at : at + n_bytes] = bytes(chance.randrange(256) for _ in range(n_bytes))
            case 2:
                del out[at : at + n_bytes * 8]
            case 3:
                out[at:at] = out[at : at + n_bytes]
            case _:
                out[at : at + 4] = struct.pack("<I", chance.choice((0, 1, 0x7FFFFFFF, 0xFFFFFFFF)))
    return bytes(out)


def repacked(data: bytes, seed: int) -> bytes:
    """An archive with one of its entries changed, so that the change gets past the checksums."""
    import random

    with zipfile.ZipFile(io.BytesIO(data)) as packed:
        files = {one: packed.read(one) for one in packed.namelist()}
    name = random.Random(seed).choice(sorted(one for one in files if files[one]))
    return makers.archive({**files, name: mutated(files[name], seed)})


SEEDS = {
    **makers.MAKERS,
    "made.pdf": None,
    "contract.md": lambda: CONTRACT.encode(),
    "letter.txt": lambda: LETTER.encode("utf-16"),
}


def test_what_a_spreadsheet_repeats_has_its_bound_in_what_it_holds(pool, tmp_path):
    """A file of 450 bytes became a book of 1,500 pages."""
    row = (
        '<table:table-row table:number-rows-repeated="60000"><table:table-cell table:number-columns-repeated="30">'
        "<text:p>x</text:p></table:table-cell></table:table-row>"
    )
    found = read(pool, tmp_path, makers.odf("spreadsheet", f"<table:table>{row}</table:table>"))
    assert len(found.pages) <= 3
    many = "".join(
        f"<table:table-row><table:table-cell><text:p>{n}</text:p></table:table-cell></table:table-row>"
        for n in range(300)
    )
    found = read(pool, tmp_path, makers.odf("spreadsheet", f"<table:table>{many}{row}</table:table>"))
    assert "299" in "".join(page.text for page in found.pages)


@pytest.mark.parametrize("name", SEEDS)
def test_changed_files_never_break_the_parent(pool, tmp_path, name):
    data = pdf(tmp_path) if SEEDS[name] is None else SEEDS[name]()
    is_archive = data.startswith(b"PK")
    n_read = 0
    for seed in range(N_MUTATIONS):
        changed = repacked(data, seed) if is_archive and seed % 2 else mutated(data, seed)
        try:
            found = read(pool, tmp_path, changed)
            n_read += 1
        except FileRefusedError as refused:
            assert len(str(refused)) < 300
            continue
        for page in found.pages:
            assert all(0 <= block.start <= block.end <= len(page.text) for block in page.blocks)
    # Were nothing read at all, the test would show nothing: some changes leave a file that can be read.
    assert n_read > 0


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "TIFF"])
def test_changed_pictures_are_decoded_or_refused(kind, monkeypatch):
    # Recognition itself is left out here: it would take minutes, and sees only pixels.
    monkeypatch.setattr(recognition, "is_installed", lambda: True)
    monkeypatch.setattr(recognition, "_run", lambda grey, data: [_WORD])
    data = makers.picture(kind, size=(420, 300))
    n_read = 0
    for seed in range(N_MUTATIONS):
        try:
            found = read_material(Material("x", data=mutated(data, seed)))
            n_read += found.pages[0].text == "word"
        except FileRefusedError as refused:
            assert len(str(refused)) < 300
    assert n_read > 0


_WORD = {"text": "word", "conf": "90", "left": "100", "top": "100", "width": "50", "height": "20"}


@settings(max_examples=150, deadline=None)
@given(
    st.binary(max_size=400),
    st.sampled_from(
        [b"", b"%PDF-1.4\n", b"{\\rtf1 ", b"<html>", b"From: a@b\nMessage-ID: x\nDate: y\n\n", b"PK\x03\x04"]
    ),
)
def test_any_bytes_are_read_or_refused(data, head):
    try:
        found = read_material(Material("x", data=head + data))
    except FileRefusedError:
        return
    for page in found.pages:
        assert not set(page.text) & {chr(code) for code in range(32) if chr(code) not in "\t\n"}
