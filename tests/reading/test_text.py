# SPDX-License-Identifier: GPL-3.0-or-later
import pytest
from hypothesis import given
from hypothesis import strategies as st

from redlantern.reading.errors import FileRefusedError
from redlantern.reading.formats.text import decode, read_text
from redlantern.reading.material import Material
from redlantern.reading.setting import FULL_PAGE_CHARS, Piece, clean, set_pages


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
def test_usual_encodings_are_found(tmp_path, encoding):
    path = tmp_path / "note.txt"
    words = "Die Rechnung über 1.299,50 € wurde am 3. März geprüft.\n\nGrüße aus Köln, Ihr Büro für Gebäudeprüfung"
    path.write_bytes(words.encode(encoding))
    page = read_text(Material(path.name, data=path.read_bytes())).pages[0]
    assert page.text == words.replace("\n\n", "\n")


def test_wrapped_prose_is_joined_and_fields_stay_apart(tmp_path):
    path = tmp_path / "mail.txt"
    path.write_text(
        "From: Oona Petrie\nTo: Tobias Renn\n\nThe weather service has put out a warning for tonight, with gusts up to\n"
        "120 kilometres an hour, and the tarpaulin on the hatch has been flapping\nsince noon.\n\n1. First thing\n2. Second thing\n"
    )
    page = read_text(Material(path.name, data=path.read_bytes())).pages[0]
    texts = [page.text[block.start : block.end] for block in page.blocks]
    assert texts[:2] == ["From: Oona Petrie", "To: Tobias Renn"]
    assert texts[2].endswith(
        "with gusts up to 120 kilometres an hour, and the tarpaulin on the hatch has been flapping since noon."
    )
    assert [block.kind for block in page.blocks[-2:]] == ["list item", "list item"]


def test_a_form_feed_starts_a_new_page(tmp_path):
    path = tmp_path / "two.txt"
    path.write_text("First page.\fSecond page.")
    assert [page.text for page in read_text(Material(path.name, data=path.read_bytes())).pages] == [
        "First page.",
        "Second page.",
    ]


def test_an_empty_file_is_refused(tmp_path):
    path = tmp_path / "empty.txt"
    path.write_text(" \n\n ")
    with pytest.raises(FileRefusedError) as refused:
        read_text(Material(path.name, data=path.read_bytes()))
    assert str(refused.value) == "The file is empty. Nothing to do, unless it should hold something."


def test_control_and_direction_marks_are_taken_out():
    assert clean("a\x1b[31mb\u202ec\u200bd\x00\u2066e") == "a[31mbcde"


@given(
    st.lists(
        st.builds(Piece, st.sampled_from(["heading", "paragraph", "list item"]), st.text(max_size=3000).map(clean))
    )
)
def test_set_pages_lose_nothing_and_blocks_fit_their_text(pieces):
    pages = set_pages(pieces)
    texts = [page.text[block.start : block.end] for page in pages for block in page.blocks]
    assert texts == [piece.text for piece in pieces if piece.text]
    assert [page.page_number for page in pages] == list(range(1, len(pages) + 1))
    for page in pages:
        assert page.is_set
        assert page.text == "\n".join(page.text[block.start : block.end] for block in page.blocks)
        assert len(page.blocks) <= 2 or len(page.text) <= FULL_PAGE_CHARS + 3000


@given(st.binary(max_size=400))
def test_any_bytes_become_text_or_a_reason(raw):
    try:
        assert isinstance(decode(raw), str)
    except FileRefusedError as refusal:
        assert refusal.advice
