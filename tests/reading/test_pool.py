# SPDX-License-Identifier: GPL-3.0-or-later
import os
import threading

import pytest

from redlantern.progress import Cancel, Cancelled
from redlantern.reading import frames
from redlantern.reading.errors import FileRefusedError, ReaderBrokeError
from redlantern.reading.pool import ReaderPool, _Reader
from tests.conftest import write_pdf


def test_a_file_is_read_in_another_process(readers, folder, cancel):
    read = readers.read(folder / "contract.md", cancel)
    assert read.title == "Contract for the restoration"
    assert "70 per cent" in read.pages[0].text


def test_pages_are_reported_while_a_pdf_is_read(readers, tmp_path, cancel):
    path = tmp_path / "three.pdf"
    write_pdf(path, [[(72, 72, f"Page {number}")] for number in range(3)])
    seen = []
    readers.read(path, cancel, lambda done, total: seen.append((done, total)))
    assert seen == [(1, 3), (2, 3), (3, 3)]


def test_a_reader_that_dies_costs_one_file_only(folder, cancel):
    pool = ReaderPool(1)
    try:
        pool.read(folder / "contract.md", cancel)
        pool._readers[0]._process.kill()
        pool._readers[0]._process.wait()
        # The next file simply gets a new process.
        assert pool.read(folder / "contract.md", cancel).pages
    finally:
        pool.close()


def test_a_hang_is_ended_with_a_reason(tmp_path, cancel, monkeypatch):
    pool = ReaderPool(1, timeout_s=0.3)
    # A pipe would hang a reader for ever; it is refused before it is opened, so the hang is made by stopping the process.
    (tmp_path / "a.txt").write_text("words")
    try:
        process = pool._readers[0]._started()
        os.kill(process.pid, 19)
        with pytest.raises(FileRefusedError) as refused:
            pool.read(tmp_path / "a.txt", cancel)
        assert "took over 0 seconds" in str(refused.value)
    finally:
        pool.close()


def test_cancelling_ends_a_reader_at_once(tmp_path):
    pool, cancel = ReaderPool(1), Cancel()
    (tmp_path / "a.txt").write_text("words")
    try:
        os.kill(pool._readers[0]._started().pid, 19)
        threading.Timer(0.1, cancel.now).start()
        with pytest.raises(Cancelled):
            pool.read(tmp_path / "a.txt", cancel)
    finally:
        pool.close()


def test_pipes_links_and_missing_files_are_not_opened(readers, tmp_path, cancel):
    os.mkfifo(tmp_path / "pipe")
    (tmp_path / "link").symlink_to(tmp_path / "nothing")
    for name in ("pipe", "link", "nothing", "."):
        with pytest.raises(FileRefusedError) as refused:
            readers.read(tmp_path / name, cancel)
        assert str(refused.value).startswith("The file could not be opened")


def test_a_reader_cannot_write_files_or_reach_a_network(tmp_path):
    # The limits are put on a process of its own, for they stay.
    import subprocess
    import sys

    target = str(tmp_path / "out")
    code = (
        "from redlantern.safety import limits, seal; seal.put_on(); limits.confine_reader(memory_bytes=2**31)\n"
        "import socket, signal; signal.signal(signal.SIGXFSZ, signal.SIG_IGN)\n"
        f"def write():\n    with open({target!r}, 'w') as file: file.write('x' * 10)\n"
        "for attempt in (write, socket.socket):\n"
        "    try:\n        attempt(); print('done')\n    except OSError: print('refused')\n"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert done.stdout == "refused\nrefused\n"
    assert (tmp_path / "out").stat().st_size == 0


def test_a_message_that_is_too_large_is_not_taken():
    import io

    pipe = io.BytesIO()
    frames.send(pipe, {"is": "page"}, b"x" * 1000)
    pipe.seek(0)
    with pytest.raises(ValueError, match="a message of"):
        frames.receive(pipe, most_bytes=100)


def test_a_message_cut_short_is_an_end():
    import io

    pipe = io.BytesIO()
    frames.send(pipe, {"is": "page"}, b"x" * 1000)
    with pytest.raises(EOFError):
        frames.receive(io.BytesIO(pipe.getvalue()[:-1]), most_bytes=10_000)


def test_a_file_is_blamed_only_when_a_new_reader_breaks_on_it_too(folder, cancel, monkeypatch):
    pool = ReaderPool(1)
    asked = []

    def breaks_first(reader, *words):
        asked.append(reader)
        if len(asked) == 1:
            raise ReaderBrokeError
        yield from original(reader, *words)

    def breaks_always(reader, *words):
        asked.append(reader)
        raise ReaderBrokeError
        yield

    original = _Reader.ask
    try:
        monkeypatch.setattr(_Reader, "ask", breaks_first)
        assert pool.read(folder / "contract.md", cancel).pages
        assert len(asked) == 2
        asked.clear()
        monkeypatch.setattr(_Reader, "ask", breaks_always)
        with pytest.raises(FileRefusedError, match="It broke the reader"):
            pool.read(folder / "contract.md", cancel)
        assert len(asked) == 2
    finally:
        pool.close()
