# SPDX-License-Identifier: GPL-3.0-or-later
"""What a reader says is believed in nothing: any answer becomes a whole document of ours or a refusal, within bounds."""

import contextlib
import json
import math
import struct
import subprocess
import sys
import tracemalloc
import zlib

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from redlantern.collection.writing import _page_row
from redlantern.progress import Cancel
from redlantern.reading import errors, pool
from redlantern.reading.answers import Gathering, page_of, picture_of, refusal
from redlantern.reading.geometry import pack_blocks, pack_runs
from redlantern.reading.pool import ReaderPool
from redlantern.reading.values import Block, ReadFile, Run

TEXT = "A line of words.\nAnother."
BLOCKS = (Block("heading", 0, 16, 1), Block("paragraph", 17, 25))
RUNS = (
    Run(0, 16, 10.0, 20.0, tuple(float(x) for x in range(17))),
    Run(17, 25, 30.0, 40.0, tuple(map(float, range(9)))),
)


def page_message(text=TEXT, blocks=BLOCKS, runs=RUNS, **changed):
    body = [text.encode(), pack_blocks(tuple(blocks)), pack_runs(runs)]
    head = {
        "is": "page", "page_number": 1, "width_pt": 595.0, "height_pt": 842.0, "origin": "text", "confidence": 1.0,
        "warnings": [], "parts": [len(one) for one in body],
    }  # fmt: skip
    return {**head, **changed}, b"".join(body)


def document_message(**changed):
    head = {"is": "document", "kind": "pdf", "title": "A title", "language": "en", "notes": [], "details": {}}
    return {**head, **changed}, b""


DONE = ({"is": "done"}, b"")


def gathered(messages):
    gathering = Gathering(None)
    for head, body in messages:
        read = gathering.take(head, body)
        if read is not None:
            return read
    raise errors.ReaderBrokeError


def test_a_whole_answer_is_taken_as_it_is():
    read = gathered([page_message(), document_message(), DONE])
    [page] = read.pages
    assert (page.text, page.blocks, tuple(page.runs)) == (TEXT, BLOCKS, RUNS)
    assert (read.kind, read.title, read.language) == ("pdf", "A title", "en")


def test_runs_are_looked_at_without_being_unpacked_into_values():
    [page] = gathered([page_message(), document_message(), DONE]).pages
    assert "_runs" not in vars(page.runs)


json_values = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=30),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=8), inner, max_size=4),
    max_leaves=8,
)
FIELDS = ["is", "page_number", "width_pt", "height_pt", "origin", "confidence", "warnings", "parts"]
DOCUMENT_FIELDS = ["is", "kind", "title", "language", "notes", "details"]


heads = st.dictionaries(st.sampled_from([*FIELDS, *DOCUMENT_FIELDS, "name", "reason", "done", "total"]), json_values)


def check_is_ours(read):
    """A document that went through holds nothing that could raise further on."""
    assert isinstance(read, ReadFile)
    for document in (read, *(part.read for part in read.parts if part.read)):
        json.dumps([document.title, document.notes, dict(document.details)]).encode()
        for number, page in enumerate(document.pages, start=1):
            assert page.page_number == number
            page.text.encode()
            assert all(math.isfinite(one) and one >= 0 for one in (page.width_pt, page.height_pt, page.confidence))
            at = 0
            for block in page.blocks:
                assert at <= block.start <= block.end <= len(page.text)
                at = block.end
            assert len(page.boxes(0, len(page.text))) == len(page.runs)
            _page_row(1, page)


@settings(max_examples=300, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.sampled_from(FIELDS), json_values, st.sampled_from(DOCUMENT_FIELDS), json_values, st.sampled_from([0, 1, 2]))
def test_any_field_may_be_anything(field, value, document_field, other, which):
    messages = [page_message(), document_message(), DONE]
    if which in (0, 2):
        messages[0][0][field] = value
    if which in (1, 2):
        messages[1][0][document_field] = other
    with contextlib.suppress(errors.FileRefusedError):
        check_is_ours(gathered(messages))


@settings(max_examples=100, deadline=None)
@given(st.lists(st.tuples(heads, st.binary(max_size=200)), max_size=6))
def test_any_messages_are_a_document_or_a_refusal(messages):
    with contextlib.suppress(errors.FileRefusedError):
        check_is_ours(gathered(messages))


rows = st.lists(st.tuples(*[st.integers(-(2**31), 2**31 - 1)] * 4), max_size=6)


@settings(max_examples=300, deadline=None)
@given(rows, rows, st.lists(st.integers(-(2**31), 2**31 - 1), max_size=40))
def test_any_blocks_and_runs_lie_on_the_page_or_break_the_reader(blocks, heads, steps):
    packed_blocks = zlib.compress(np.array(blocks, "<i4").tobytes())
    planes = np.array(steps, "<i4").view(np.uint8).reshape(-1, 4).T.tobytes()
    packed_runs = zlib.compress(struct.pack("<II", len(heads), len(steps)) + np.array(heads, "<i4").tobytes() + planes)
    body = TEXT.encode() + packed_blocks + packed_runs
    head, _ = page_message(parts=[len(TEXT.encode()), len(packed_blocks), len(packed_runs)])
    with contextlib.suppress(errors.FileRefusedError):
        check_is_ours(gathered([(head, body), document_message(), DONE]))


@settings(max_examples=200, deadline=None)
@given(st.integers(0, 400), st.binary(min_size=1, max_size=8))
def test_any_changed_bytes_of_a_page_are_a_page_or_a_refusal(at, new):
    head, body = page_message()
    at %= len(body)
    changed = (body[:at] + new + body[at + len(new) :])[: len(body)]
    with contextlib.suppress(errors.FileRefusedError):
        check_is_ours(gathered([(head, changed), document_message(), DONE]))


@pytest.mark.parametrize("what", ["blocks", "runs"])
def test_what_unpacks_to_more_than_a_page_can_have_costs_no_memory(what):
    bomb = zlib.compress(bytes(200 * 2**20), 9)
    assert len(bomb) < 700_000
    packed = [pack_blocks(BLOCKS), pack_runs(RUNS)]
    packed[0 if what == "blocks" else 1] = bomb
    head, _ = page_message(parts=[len(TEXT), *map(len, packed)])
    tracemalloc.start()
    try:
        with pytest.raises(errors.ReaderBrokeError):
            gathered([(head, TEXT.encode() + b"".join(packed))])
        assert tracemalloc.get_traced_memory()[1] < 20 * 2**20
    finally:
        tracemalloc.stop()


@pytest.mark.parametrize(
    ("width", "height", "pixels"),
    [
        (10, 10, 399),
        (10, 10, 401),
        (0, 10, 0),
        (-1, -1, 4),
        (2**20, 2**20, 4),
        ("10", 10, 400),
        (True, 1, 4),
        (10, 10, None),
    ],
)
def test_a_picture_is_of_exactly_the_size_that_it_says(width, height, pixels):
    body = zlib.compress(bytes(pixels)) if pixels is not None else b"nothing packed"
    with pytest.raises(errors.ReaderBrokeError):
        picture_of({"width": width, "height": height}, body)
    assert picture_of({"width": 10, "height": 10}, zlib.compress(bytes(400))) == (10, 10, bytes(400))


def test_reasons_and_titles_come_without_signs_that_nobody_sees():
    told = refusal({"reason": "a\x1b[31m\ud800\nreason" + "x" * 5000, "advice": "b\x00"})
    assert told.reason.startswith("a\ufffd[31m\ufffd reason") and len(told.reason) == 1000
    read = gathered([page_message(), document_message(title="invoice\u202efdp.exe"), DONE])
    assert read.title == "invoice‹202E›fdp.exe"


@pytest.mark.parametrize(
    "messages",
    [
        [DONE],
        [document_message(), document_message(), DONE],
        [page_message(page_number=2), document_message(), DONE],
        [page_message(), DONE],
        [document_message(), page_message(), DONE],
        [({"is": "part", "name": "x"}, b""), ({"is": "done"}, b"")],
        [({"is": "part refused", "name": "x", "reason": "y"}, b"")],
        [({"is": "progress", "done": -1, "total": 5}, b"")],
        [({"is": "fly"}, b"")],
        [({}, b"")],
    ],
)
def test_messages_out_of_order_break_the_reader(messages):
    with pytest.raises(errors.ReaderBrokeError):
        gathered(messages)


def test_a_page_that_does_not_fit_raises_what_the_gathering_tells():
    head, body = page_message()
    for wrong in ({"parts": [1, 2]}, {"parts": [10**9, 1, 1]}, {"width_pt": math.nan}, {"confidence": 1.5}):
        with pytest.raises((ValueError, TypeError)):
            page_of({**head, **wrong}, body, 1)


_LYING_READER = """
import json, os, struct, sys
sys.stdin.buffer.read(12)
def send(head, body=b''):
    raw = json.dumps(head).encode() if isinstance(head, dict) else head
    sys.stdout.buffer.write(struct.pack('>IQ', len(raw), len(body)) + raw + body); sys.stdout.buffer.flush()
{what}
sys.stdin.buffer.read()
"""


def lying(what, handles):
    """A process in a reader's place that says something else."""
    return subprocess.Popen(
        [sys.executable, "-c", _LYING_READER.replace("{what}", what)], stdin=subprocess.PIPE, stdout=subprocess.PIPE,
        pass_fds=handles,
    )  # fmt: skip


@pytest.mark.parametrize(
    "what",
    [
        "send({'is': 'done'})",
        "send(b'[' * 200000 + b']' * 200000)",
        "send(b'{\"is\": \"page\"}', b'x' * 10)",
        "sys.stdout.buffer.write(struct.pack('>IQ', 2**31, 2**60)); sys.stdout.buffer.flush()",
        "send({'is': 'progress', 'done': 'x' * 10, 'total': None})",
        "send(b'null'); send(b'5')",
    ],
)
def test_a_real_process_that_lies_is_a_broken_reader_and_the_next_file_is_read(monkeypatch, tmp_path, what):
    (tmp_path / "a.txt").write_text("Some words of prose stand here.")
    real, n_lies = pool.start_child, []

    def lie(module, *words, handles=()):
        if len(n_lies) < 2:
            n_lies.append(1)
            return lying(what, handles)
        return real(module, *words, handles=handles)

    monkeypatch.setattr(pool, "start_child", lie)
    readers = ReaderPool(1, timeout_s=20)
    try:
        with pytest.raises(errors.FileRefusedError) as told:
            readers.read(tmp_path / "a.txt", Cancel())
        assert "it broke the reader" in told.value.reason
        assert readers.read(tmp_path / "a.txt", Cancel()).pages[0].text == "Some words of prose stand here."
    finally:
        readers.close()


def test_a_reader_that_only_repeats_itself_is_ended(monkeypatch, tmp_path):
    (tmp_path / "a.txt").write_text("Some words.")
    what = "import time\nwhile True:\n    send({'is': 'progress', 'done': 1, 'total': 9}); time.sleep(0.05)"
    monkeypatch.setattr(pool, "start_child", lambda *_, handles: lying(what, handles))
    readers = ReaderPool(1, timeout_s=1)
    try:
        with pytest.raises(errors.FileRefusedError) as told:
            readers.read(tmp_path / "a.txt", Cancel())
        assert "reading it took over 1 seconds" in told.value.reason
    finally:
        readers.close()


def test_what_is_left_of_one_answer_is_not_taken_for_the_next(tmp_path, monkeypatch):
    """A file that holds too much is broken off in mid-answer; the reader still has messages about it."""
    (tmp_path / "long.txt").write_text("\f".join("Many words stand on this page of the long file." for _ in range(400)))
    (tmp_path / "short.txt").write_text("Few words.")
    readers = ReaderPool(1, timeout_s=30)
    try:
        monkeypatch.setattr("redlantern.reading.answers.MOST_TEXT_CHARS", 500)
        with pytest.raises(errors.FileRefusedError):
            readers.read(tmp_path / "long.txt", Cancel())
        assert readers.read(tmp_path / "short.txt", Cancel()).pages[0].text == "Few words."
    finally:
        readers.close()
