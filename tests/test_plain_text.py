# SPDX-License-Identifier: GPL-3.0-or-later
"""A whole session of the program under a tracer: it opens no network socket, and writes no word in plain text.

The tracer sees every system call of every process, so it sees each byte that is
written to any file, also to one that is gone again by the end.
"""

import json
import os
import re
import shutil
import sys
from pathlib import Path

import pytest

from redlantern.safety import keys

# Words that stand nowhere but in the planted documents and questions.
PLANTED = ["Zyrqblonde", "Quixvander", "Wexlomarth", "Kobbeltrunz", "Fjordapling"]
DOCUMENT = f"""# Report on the {PLANTED[0]} matter

The {PLANTED[1]} valve was opened on 3 March 2026. Its keeper, {PLANTED[2]}, was paid 4100 euros for the repair of the valve.
"""
QUESTION = f"What was {PLANTED[2]} paid for the repair of the {PLANTED[1]} valve?"
UNANSWERED = f"Where does {PLANTED[3]} live?"

# Uses every part of the window, then waits to be ended.
SESSION = """
import sys
from pathlib import Path
from redlantern.safety import limits, seal
seal.put_on(); limits.no_core_dumps()
from redlantern.desktop import portrait, start
from redlantern.application import upkeep
from redlantern.application.opening import NewKey
from redlantern.desktop.window import Window
import signal
from PyQt6.QtCore import QTimer
place, ending, questions = Path(sys.argv[1]), sys.argv[2], sys.argv[3:]
app = start.application()
window = Window()
window.show()
for number in (signal.SIGINT, signal.SIGTERM):
    signal.signal(number, lambda *_: window.close())
ticker = QTimer(); ticker.timeout.connect(lambda: None); ticker.start(50)
def settled():
    return window.workspace.session is not None and not window.workspace.is_busy and not window.workspace.is_updating
window.door.open_collection(place / "secret.redlantern", creates=True)
portrait.wait_until(settled)
window.workspace.updates.add(place / "documents")
portrait.wait_until(settled)
for question in questions:
    window.bar.question.setText(question)
    window.ask()
    portrait.wait_until(lambda: portrait.is_settled(window))
window.go_to(1)
room = window.shelf_room
room.table.choose(room.model.documents[0].document_id)
portrait.wait_until(settled)
room.look_first.look_at([place / "documents"])
portrait.wait_until(lambda: room.preview.preview is not None and settled())
room.preview.close_button.click()
window.plan_update()
portrait.wait_until(lambda: room.update_pane.plan is not None and settled())
window.go_to(7)
window.seal_room.proof_pane.run()
portrait.wait_until(lambda: window.seal_room.proof_pane.proof is not None and settled())
collection = window.workspace.session.engine.collection
window.workspace.run(
    lambda task: upkeep.change_key(collection, NewKey(), report=task.report, cancel=task.cancel)
)
portrait.wait_until(settled)
window.workspace.run(
    lambda task: upkeep.back_up(
        collection, place / "copy.redlantern", NewKey(), report=task.report, cancel=task.cancel
    )
)
portrait.wait_until(settled)
del collection
window.seal_room.search_plain()
portrait.wait_until(settled)
window.desk.ask_again()
portrait.wait_until(lambda: portrait.is_settled(window))
window.door.lock()
window.door.lock_page.unlock_button.click()
portrait.wait_until(settled)
window.bar.question.setText(questions[0])
window.ask()
portrait.wait_until(lambda: portrait.is_settled(window))
if ending == "quit":
    window.close()
    portrait.wait_until(lambda: window.is_closed)
    sys.exit(0)
import os
QTimer.singleShot(100, lambda: os.kill(os.getpid(), getattr(signal, ending)))
sys.exit(app.exec())
"""
_CALLS = "trace=socket,socketpair,connect,write,pwrite64,writev,pwritev,open,openat,creat,rename,renameat,renameat2"
_TO_FILE = re.compile(r"(?:write|pwrite64|writev|pwritev)\(\d+<(/[^>]*)>")
_UNFINISHED = "<unfinished ...>"
_RESUMED = re.compile(r"<\.\.\. \w+ resumed>")
_OPENED = re.compile(r'(?:open|openat|creat)\((?:[^,]*, )?"([^"]+)", (O_[A-Z_|]+)')


def places_of(tmp_path):
    for name in ("home", "run", "config", "cache", "tmp"):
        (tmp_path / name).mkdir(mode=0o700)
    return os.environ | {
        "HOME": str(tmp_path / "home"), "XDG_DATA_HOME": str(tmp_path / "home"), "XDG_RUNTIME_DIR": str(tmp_path / "run"),
        "XDG_CONFIG_HOME": str(tmp_path / "config"), "XDG_CACHE_HOME": str(tmp_path / "cache"), "TMPDIR": str(tmp_path / "tmp"),
        "QT_QPA_PLATFORM": "offscreen", "PYTHONDONTWRITEBYTECODE": "1",
    }  # fmt: skip


def _whole_calls(lines):
    """The lines of a log with each call in one: strace writes one that another thread came between in two."""
    begun = {}
    for line in lines:
        process, _, rest = line.rstrip("\n").partition(" ")
        resumed = _RESUMED.match(rest.lstrip())
        if rest.endswith(_UNFINISHED):
            begun[process] = f"{process} {rest}"
        elif resumed:
            yield begun.pop(process, process).removesuffix(_UNFINISHED) + rest.lstrip()[resumed.end() :]
        else:
            yield line.rstrip("\n")
    yield from begun.values()


def test_calls_that_were_written_in_two_are_put_together():
    log = [
        "7 socket(AF_INET6, SOCK_DGRAM, IPPROTO_IP <unfinished ...>", "8 openat(AT_FDCWD, \"a\", O_RDONLY) = 3",
        "7 <... socket resumed>) = -1 EACCES (Permission denied)", "9 socket(AF_INET, SOCK_STREAM <unfinished ...>",
    ]  # fmt: skip
    assert list(_whole_calls(f"{line}\n" for line in log)) == [
        log[1], "7 socket(AF_INET6, SOCK_DGRAM, IPPROTO_IP ) = -1 EACCES (Permission denied)", log[3],
    ]  # fmt: skip


@pytest.mark.real_models
@pytest.mark.parametrize("ending", ["quit", "SIGTERM", "SIGKILL"])
def test_a_whole_session_opens_no_network_and_writes_no_plain_word(outside, tmp_path, ending):
    """Real models, every room, under a tracer: 10 to 20 s each."""
    if shutil.which("strace") is None:
        pytest.skip("strace is not installed")
    environment = places_of(tmp_path)
    (tmp_path / "documents").mkdir()
    (tmp_path / "documents" / f"{PLANTED[4]}.md").write_text(DOCUMENT)
    log = tmp_path / "trace"
    command = [
        "strace",
        "-f",
        "--seccomp-bpf",
        "-y",
        "-qq",
        "-s",
        "70000",
        "-e",
        _CALLS,
        "-o",
        str(log),
        sys.executable,
        "-c",
        SESSION,
    ]
    command += [str(tmp_path), ending, QUESTION, UNANSWERED]
    code, _, complaint = outside.run(command, env=environment, timeout_s=240)
    assert code in ({"quit": (0,), "SIGTERM": (0,), "SIGKILL": (-9, 137)}[ending]), complaint[-3000:]
    assert "Traceback" not in complaint, complaint[-3000:]
    written, n_sockets = set(), 0
    with log.open(errors="replace") as lines:
        for line in _whole_calls(lines):
            if " socket(" in line:
                n_sockets += 1
                # The seal room's own tries to get out are there too, each refused. One that never ended had no socket.
                assert "AF_UNIX" in line or "EACCES" in line or line.endswith(_UNFINISHED), line[:300]
            to_file = _TO_FILE.search(line)
            if to_file and not to_file.group(1).startswith(("/dev/", "/proc/")):
                written.add(to_file.group(1))
                assert not any(word in line for word in PLANTED), f"{to_file.group(1)}: {line[:400]}"
            opened = _OPENED.search(line)
            if opened and (
                "O_WRONLY" in opened.group(2) or "O_RDWR" in opened.group(2) or "O_CREAT" in opened.group(2)
            ):
                written.add(opened.group(1))
    assert n_sockets > 5 and any(name.endswith(".redlantern") for name in written)
    assert any(name.endswith(".redlantern-wal") for name in written)
    looked = [
        path for name in written if (path := Path(name)).is_file() and not name.startswith(("/dev/", "/proc/", "/sys/"))
    ]
    looked += [
        path for path in tmp_path.rglob("*") if path.is_file() and path != log and path.parent.name != "documents"
    ]
    assert len(looked) > 3
    for path in looked:
        raw = path.read_bytes()
        for word in PLANTED:
            assert word.encode() not in raw and word.encode("utf-16-le") not in raw, f"{word} in {path}"
    # The document's name stands in no name of a file either.
    assert not any(word in name for word in PLANTED for name in written if "/documents/" not in name)
    told = _journal(tmp_path, environment)
    assert {"added", "asked", "key changed", "backed up", "locked", "opened"} <= {one["what"] for one in told}


def _journal(tmp_path, environment):
    from redlantern.collection.store import Collection

    saved = {name: os.environ.get(name) for name in ("XDG_DATA_HOME", "XDG_RUNTIME_DIR")}
    os.environ.update({name: environment[name] for name in saved})
    try:
        collection = Collection.open(tmp_path / "secret.redlantern")
        entries = [
            json.loads(json.dumps({"what": one.what, "words": one.words})) for one in collection.journal.entries()
        ]
        assert list(collection.journal.faults()) == []
        assert keys.holding_of(collection.file.salt)
        collection.close()
        return entries
    finally:
        os.environ.update({name: value for name, value in saved.items() if value is not None})
