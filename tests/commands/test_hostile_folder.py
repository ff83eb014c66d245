# SPDX-License-Identifier: GPL-3.0-or-later
"""A folder of hostile and oddly named files is indexed to its end: exit 0, every refused file with a reason, the rest can be asked."""

import json
import os
import socket
import subprocess
import sys
import threading
import time
from pathlib import Path

import pytest

from tests.reading import makers
from tests.reading.test_hostile import BROKEN, HARMLESS, pdf

pytestmark = pytest.mark.real_models
WORDS = b"The blower stands in the passage under the north stairs of the hall, and number %d is its own.\n"
ODD_NAMES = [
    b"caf\xe9 r\xe9sum\xe9.txt", b"\xff\xfe\xfd.txt", b"M\xfcller\xdf Brief.md", b"half \xc3.txt", b"\xed\xa0\x80 surrogate.txt",
    b"two\nlines.txt", b"tab\tin it.txt", b"bell\x07.txt", b"escape\x1b[2J\x1b[31m.txt", b"c1 \xc2\x9b31m.txt",
    b"del\x7f.txt", "invoice\u202excod.txt".encode(), "\u200fright to left.txt".encode(), "zero\u200bwidth.txt".encode(),
    b"n" * 251 + b".txt", ("é" * 125 + ".txt").encode(), ("\U0001f38b" * 62 + ".txt").encode(),
    b"<b>bold<b>.txt", b"<img src=x onerror=y>.txt", b"&amp;.txt", b"a&b.txt", b"'quoted'.txt", b'"double".txt',
    b"; rm -rf $HOME.txt", b"$(id).txt", b"`id`.txt", b"%s%n%d.txt", b"-rf.txt", b"--help.txt", b"[.txt", b"*.txt", b"?.txt",
    b"...txt", b"ends with space .txt ", b" begins.txt", b"back\\slash.txt", b"C:\\file.txt", b"nul.txt", b"con.txt",
    b"a:b.txt", b"a|b.txt", b"no ending", b".txt.", b"x.PDF.exe.txt", "\u0130\u0131.txt".encode(), "\ufdd0.txt".encode(),
    "\U0010ff41 private.txt".encode(), b"file.redlantern-wal", b"other.redlantern.lock", b"{}.txt", b"null.txt", b"0.txt",
]  # fmt: skip


def redlantern(*words, timeout=400):
    command = [sys.executable, "-m", "redlantern", *map(str, words)]
    return subprocess.run(command, capture_output=True, check=False, timeout=timeout)


def lay(folder: Path, tmp_path: Path) -> int:
    """Make the folder; gives how many files in it are to be accounted for, those that change meanwhile not among them."""
    folder.mkdir()
    n_files = 0
    for number, name in enumerate(ODD_NAMES):
        (Path(os.fsdecode(os.fsencode(folder) + b"/" + name))).write_bytes(WORDS % number)
        n_files += not name.startswith(b".")  # hidden files are nobody's documents
    for number, (name, (make, _)) in enumerate({**BROKEN, **HARMLESS}.items()):
        if name.startswith(("text of one line", "csv of one row", "html of a million")):
            continue  # these take half a minute to embed, and are tried elsewhere
        (folder / f"hostile {number}").write_bytes(make(tmp_path))
        n_files += 1
    deep = folder.joinpath(*["deep"] * 60)
    deep.mkdir(parents=True)
    (deep / "bottom.txt").write_bytes(WORDS % 1001)
    odd = Path(os.fsdecode(os.fsencode(folder) + b"/fold\xe9r \n"))
    odd.mkdir()
    (odd / "inner.txt").write_bytes(WORDS % 1002)
    (odd / "mail.eml").write_bytes(makers.message())
    (folder / "print.pdf").write_bytes(pdf(tmp_path))
    with (folder / "huge").open("wb") as file:
        file.truncate(600 * 2**20)
    n_files += 5
    # None of these is a file of its own.
    (folder / "link to a file").symlink_to("/etc/passwd")
    (folder / "link to nothing").symlink_to("/no/such/file")
    (folder / "link to itself").symlink_to(folder)
    os.mkfifo(folder / "pipe.txt")
    with socket.socket(socket.AF_UNIX) as listener:
        before = Path.cwd()
        os.chdir(folder)  # the path of a socket may have 107 bytes only
        try:
            listener.bind("socket.txt")
        finally:
            os.chdir(before)
    return n_files


def trouble(folder: Path, ends: threading.Event) -> None:
    """Let files grow, shrink, vanish, come and become links while they are read."""
    number = 0
    while not ends.is_set():
        number += 1
        with (folder / "growing.txt").open("ab") as file:
            file.write(WORDS % number)
        (folder / "shrinking.txt").write_bytes((WORDS % number) * (number % 7))
        coming = folder / f"vanishing {number % 20}.txt"
        if coming.is_symlink() or coming.exists():
            coming.unlink(missing_ok=True)
        elif number % 3:
            coming.write_bytes(WORDS % number)
        else:
            coming.symlink_to("/etc/passwd")
        time.sleep(0.01)


def test_every_file_of_a_hostile_folder_is_read_or_has_a_reason(tmp_path):
    """One run over ninety files and more with the real model: half a minute."""
    folder, collection = tmp_path / "documents", tmp_path / "case.redlantern"
    n_files = lay(folder, tmp_path)
    assert n_files >= 90
    ends = threading.Event()
    troubling = threading.Thread(target=trouble, args=(folder, ends))
    troubling.start()
    try:
        done = redlantern("index", collection, folder, "--json")
    finally:
        ends.set()
        troubling.join(20)
    assert done.returncode == 0, done.stderr.decode(errors="replace")[-2000:]
    assert b"Traceback" not in done.stderr and b"\x1b" not in done.stdout + done.stderr
    summary = json.loads(done.stdout)["documents"]
    refused = {one["path"]: one["reason"] for one in summary["refused"]}
    assert all(10 < len(reason) < 400 for reason in refused.values())
    # What nobody thought of has a reason of its own; there must be none.
    assert [reason for reason in refused.values() if "unforeseen" in reason] == []
    assert "etc/passwd" not in done.stdout.decode()
    changing = ("growing.txt", "shrinking.txt", "vanishing ")
    still = [path for path in refused if Path(path).name.startswith("hostile ") or Path(path).name == "huge"]
    assert len(still) >= 34
    # Everything with an odd name and plain words in it was read.
    odd_refused = [
        path
        for path in refused
        if path not in still and not Path(path).name.startswith(changing) and "/mail.eml/" not in path
    ]
    assert odd_refused == []
    assert summary["read"] + len(still) + summary["copies"] >= n_files
    checked = redlantern("check", collection)
    assert checked.returncode == 0, checked.stdout.decode(errors="replace")
    asked = redlantern("ask", collection, "Where does the blower stand?", "--lines-only", "--json")
    assert "passage under the north stairs" in json.loads(asked.stdout)["found_lines"][0]["text"]
    # A second update finds all of it again under the same names, and reads what changed meanwhile.
    again = redlantern("index", collection, folder, "--json")
    assert again.returncode == 0, again.stderr.decode(errors="replace")[-2000:]
    form = json.loads(again.stdout)["documents"]
    assert form["unchanged"] >= n_files - 2 and form["removed"] <= 22
    written = redlantern("text", collection, tmp_path / "out")
    assert written.returncode == 0, written.stderr.decode(errors="replace")
    places = [one for one in (tmp_path / "out").rglob("*") if one.is_file()]
    assert len(places) == int(written.stdout.split()[0])
    assert all(one.stat().st_mode & 0o777 == 0o600 and not one.name.startswith(".writing-") for one in places)
    assert all(len(os.fsencode(one.name)) <= 255 for one in places)
    assert not any(ord(sign) < 32 or sign in "\u202e\u200f" for one in places for sign in str(one))
