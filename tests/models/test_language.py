# SPDX-License-Identifier: GPL-3.0-or-later
"""The real model host: it streams, stops at once, and comes back after a crash."""

import contextlib
import os
import signal
import stat
import threading
import time
from pathlib import Path

import pytest

from redlantern.answering.writing.grammars import prose_grammar, sentence_grammar, stretch_grammar
from redlantern.answering.writing.prompt import FIXED as SYSTEM
from redlantern.models.hosted import HostedModel
from redlantern.models.protocols import LanguageModelError
from redlantern.progress import Cancel, Cancelled
from redlantern.safety.seal import kernel_says_filtered

pytestmark = pytest.mark.real_models
LINES = [
    "Work shall cease when the relative humidity exceeds 70 per cent, unless the log says otherwise.",
    "The key was lost.",
]
USER = "\n".join(f"[{number}] {line}" for number, line in enumerate(LINES, 1)) + "\n\nWhen must work stop?"


@pytest.fixture(scope="module")
def model(tmp_path_factory):
    before = os.environ.get("XDG_RUNTIME_DIR")
    os.environ["XDG_RUNTIME_DIR"] = str(tmp_path_factory.mktemp("run", numbered=True))
    hosted = HostedModel()
    hosted.start()
    yield hosted
    hosted.close()
    os.environ.pop("XDG_RUNTIME_DIR")
    if before:
        os.environ["XDG_RUNTIME_DIR"] = before


def written(model, user=USER, grammar="", most_tokens=40):
    return list(model.write(SYSTEM, user, grammar=grammar, most_tokens=most_tokens, cancel=Cancel()))


def test_words_stream_and_the_counts_come_last(model):
    user = f"{USER} Tell the whole story of it in five sentences."
    steps = written(model, user)
    assert len(steps) > 5
    assert all(step.words for step in steps[:-1])
    assert steps[-1].n_written_tokens > 5
    assert steps[-1].n_prompt_tokens > model.count_tokens(user)


def test_prose_has_as_many_words_as_it_must_and_no_brackets(model):
    text = "".join(step.words for step in written(model, f"{USER} Answer in one word.", prose_grammar(1, 4), 60))
    assert len(text.split()) >= 4 and not {"[", "]", "\n"} & set(text)


def test_prose_has_no_marks_of_programs(model):
    def said(grammar):
        asked = "Write one sentence that says to use the command git status, with the command in `backticks`."
        steps = model.write("You help.", asked, grammar=grammar, most_tokens=40, cancel=Cancel())
        return "".join(step.words for step in steps)

    assert "`" in said("") and "status" in said(prose_grammar(1)) and "`" not in said(prose_grammar(1))


def test_the_first_words_are_weighed_and_what_was_read_is_kept(model):
    asked = f"{USER} Is that stated in the lines? Answer Yes or No."
    chances = model.first_words(SYSTEM, asked, Cancel())
    assert 0.3 < sum(chances.values()) <= 1.001 and len(chances) > 5
    assert any(word.strip() in ("Yes", "No") for word in chances)
    *_, last = model.write(SYSTEM, asked, grammar="", most_tokens=2, cancel=Cancel())
    assert last.n_cached_tokens >= last.n_prompt_tokens - 2
    assert model.pace.read_per_s > 0


def test_a_small_model_is_held_to_stretches_of_the_lines(model):
    text = "".join(step.words for step in written(model, grammar=stretch_grammar(LINES)))
    claim = text.split(" [")[0]
    assert any(line.startswith(claim) for line in LINES)
    # What takes away from a line is never cut off.
    assert not claim.endswith("70 per cent") or claim.endswith("otherwise.")


def test_free_sentences_end_in_a_number(model):
    *steps, last = written(model, grammar=sentence_grammar(2), most_tokens=120)
    text = "".join(step.words for step in steps)
    assert last.is_cut_off or text.rstrip().endswith(("[1]", "[2]"))


def test_the_host_listens_on_a_private_socket_inside_the_seal(model):
    path = Path(model._socket_path())
    assert stat.S_ISSOCK(path.stat().st_mode)
    assert stat.S_IMODE(path.parent.stat().st_mode) == 0o700
    assert kernel_says_filtered(model.pid)
    sockets = []
    for entry in Path(f"/proc/{model.pid}/fd").iterdir():
        with contextlib.suppress(FileNotFoundError):  # closed since it was listed
            sockets.append(str(entry.readlink()))
    assert any(link.startswith("socket:") for link in sockets)
    inodes = {link[8:-1] for link in sockets if link.startswith("socket:")}
    for table in ("tcp", "tcp6", "udp", "udp6"):
        rows = Path(f"/proc/{model.pid}/net/{table}").read_text().splitlines()[1:]
        assert not inodes & {row.split()[9] for row in rows}


def test_stopping_while_the_prompt_is_read_is_at_once(model):
    cancel = Cancel()
    threading.Timer(0.4, cancel.now).start()
    began = time.monotonic()
    with pytest.raises(Cancelled):
        for _ in model.write(SYSTEM, f"{time.time()} " + USER * 12, grammar="", most_tokens=5, cancel=cancel):
            pass
    # Not the clock of a fast machine, but far from the seconds that reading so long a prompt takes.
    assert time.monotonic() - began < 2.0
    assert written(model, "Hello", most_tokens=2)[-1].n_written_tokens >= 1


def test_a_start_that_is_stopped_ends_the_host_at_once(own_places):
    model, cancel, failures = HostedModel(), Cancel(), []

    def start():
        try:
            model.start(cancel)
        except Cancelled as stopped:
            failures.append(stopped)

    thread = threading.Thread(target=start)
    thread.start()
    while model.pid is None and thread.is_alive():
        time.sleep(0.002)
    pid = model.pid
    cancel.now()
    thread.join(10)
    assert not thread.is_alive()
    assert model.pid is None
    # Unless it was loaded before the stop came.
    if failures:
        with pytest.raises(ProcessLookupError):
            os.kill(pid, 0)
    model.close()


def test_closing_waits_for_no_start(own_places):
    model, failures = HostedModel(), []

    def start():
        try:
            model.start()
        except LanguageModelError as closed:
            failures.append(closed)

    thread = threading.Thread(target=start)
    thread.start()
    while model.pid is None and thread.is_alive():
        time.sleep(0.002)
    began = time.monotonic()
    model.close()
    assert time.monotonic() - began < 5
    thread.join(10)
    assert model.pid is None
    with pytest.raises(LanguageModelError, match="was closed meanwhile"):
        model.start()


def test_a_crash_is_told_and_the_host_comes_back(model):
    starts = model.n_starts
    steps = model.write(SYSTEM, USER, grammar="", most_tokens=60, cancel=Cancel())
    next(steps)
    os.kill(model.pid, signal.SIGKILL)
    with pytest.raises(LanguageModelError) as failed:
        list(steps)
    assert "stopped unexpectedly and will be started again" in str(failed.value)
    assert written(model, most_tokens=4)[-1].n_written_tokens > 0
    assert model.n_starts == starts + 1


def test_a_file_that_is_no_model_has_a_reason(tmp_path):
    path = tmp_path / "broken.gguf"
    path.write_bytes(b"GGUF" + b"\0" * 100)
    broken = HostedModel(path)
    with pytest.raises(LanguageModelError) as failed:
        broken.start()
    assert "could not be loaded" in str(failed.value)
    assert broken.pid is None
