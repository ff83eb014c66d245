# SPDX-License-Identifier: GPL-3.0-or-later
"""Commands touch nothing that is not theirs, say clearly why they did not do something, and print nothing that steers a terminal."""

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

from redlantern.collection.values import Document
from redlantern.commands.shared import plain
from redlantern.commands.text import inner_paths, page_markdown
from redlantern.reading.values import Block, Page
from tests.conftest import CONTRACT

pytestmark = pytest.mark.real_models
MINE = b"Dear Sir,\nthis is mine, and its last line has no end"


def redlantern(*words, stdin=b"", **environment):
    done = subprocess.run(
        [sys.executable, "-m", "redlantern", *(word if isinstance(word, bytes) else str(word) for word in words)],
        capture_output=True, check=False, input=stdin, timeout=120, env={**os.environ, **environment},
    )  # fmt: skip
    return done.returncode, done.stdout.decode(errors="replace"), done.stderr.decode(errors="replace")


@pytest.fixture(scope="module")
def made(tmp_path_factory):
    """A collection that the tests of this module only read, under a home of its own."""
    home = tmp_path_factory.mktemp("shared")
    (home / "run").mkdir(mode=0o700)
    environment = {"XDG_DATA_HOME": str(home), "XDG_RUNTIME_DIR": str(home / "run")}
    (home / "documents").mkdir()
    (home / "documents" / "contract.md").write_text(CONTRACT)
    code, _, problem = redlantern("index", home / "c.redlantern", home / "documents", **environment)
    assert code == 0, problem
    return home / "c.redlantern", environment


@pytest.mark.parametrize(
    ("name", "content"),
    [
        ("letter.txt", MINE),
        ("marked.txt", b"RLp is how my letter begins. " * 40),
        ("short", b"RLf" + bytes(13)),
        ("empty", b""),
        ("archive.zip", b"PK\x03\x04" + os.urandom(4000)),
    ],
)
def test_erasing_refuses_what_is_no_collection(tmp_path, name, content):
    path = tmp_path / name
    path.write_bytes(content)
    before = sorted(one.name for one in tmp_path.iterdir())
    code, said, problem = redlantern("erase", path, "--yes")
    assert code == 1 and said == ""
    assert "is not a collection of Red Lantern" in problem
    assert path.read_bytes() == content
    assert sorted(one.name for one in tmp_path.iterdir()) == before


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (MINE, "line 1 of"),
        (b"no end at all", "the last line of"),
        (b'{"id": 1, "found_lines": []}\nsome notes of mine', "the last line of"),
        (b'{"id": 1, "other": 2}\n', "line 1 of"),
        (b'[1, 2]\n{"id"', "line 1 of"),
        (b"[" * 100_000 + b"\n", "line 1 of"),
    ],
)
def test_results_go_on_only_after_results_of_ours(made, tmp_path, content, said):
    collection, environment = made
    results, questions = tmp_path / "r.jsonl", tmp_path / "q.jsonl"
    results.write_bytes(content)
    questions.write_text(json.dumps({"id": 1, "question": "What is the deposit?"}))
    # The collection does not even exist: the results are looked at first, and not touched either way.
    for path in (collection, tmp_path / "none.redlantern"):
        code, _, problem = redlantern("batch", path, questions, results, "--lines-only", **environment)
        assert code == 2 and said in problem and "so nothing was written" in problem
        assert results.read_bytes() == content


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ('{"id": 1, "question": "Why?", "history": 5}', "the history on line 1 of"),
        ('{"id": 1, "question": "Why?", "history": ["a", 2]}', "the history on line 1 of"),
        ('{"id": [1], "question": "Why?"}', "the id on line 1 of"),
        ("[" * 100_000 + "]" * 100_000, "is not JSON"),
        ('{"id": 1, "question": "half \\ud800 of a sign"}', "is not valid text"),
        ("\udcff", "is not UTF-8"),
        ("9" * 5000, "is not JSON"),
    ],
)
def test_questions_that_cannot_be_asked_are_named_and_no_results_are_made(made, tmp_path, line, said):
    collection, environment = made
    (tmp_path / "q.jsonl").write_bytes(line.encode("utf-8", "surrogateescape"))
    code, _, problem = redlantern("batch", collection, tmp_path / "q.jsonl", tmp_path / "r.jsonl", **environment)
    assert code == 2 and said in problem, problem
    assert not (tmp_path / "r.jsonl").exists()


def test_bad_words_have_clear_reasons_and_the_right_code(made, tmp_path):
    collection, environment = made
    (tmp_path / "q.jsonl").write_text('{"id": 1, "question": "What is the deposit?"}')
    (tmp_path / "binary").write_bytes(b"\xff\xfe\n")
    cases = [
        (["ask", collection, b"what \xff is it"], 2, "is not valid text"),
        (["ask", collection, "Why?", "--scope", "["], 2, "has a bracket that is not closed"),
        (["ask", collection, "Why?", "--scope", " "], 2, "the scope is empty"),
        (["erase", collection, "--scope", "x[", "--yes"], 2, "has a bracket that is not closed"),
        (["batch", collection, tmp_path / "q.jsonl", tmp_path], 2, "it is a folder"),
        (["batch", collection, tmp_path / "q.jsonl", tmp_path / "none" / "r"], 2, "their folder does not exist"),
        (
            ["backup", collection, tmp_path / "b", "--lock", "--new-passphrase-from", tmp_path / "binary"],
            2,
            "is not valid text",
        ),
        (
            ["backup", collection, tmp_path / "b", "--lock", "--new-passphrase-from", tmp_path / "none"],
            2,
            "cannot be read from",
        ),
        (["index", tmp_path / "new.redlantern", tmp_path / "nope"], 1, "There is no file or folder"),
        (["ask", b"/no/caf\xe9", "Why?"], 1, "There is no collection at /no/caf‹E9›"),
    ]
    for words, expected, said in cases:
        code, _, problem = redlantern(*words, **environment)
        assert (code, said in problem) == (expected, True), (words, code, problem)
        assert "Traceback" not in problem and "report it" not in problem
    assert not (tmp_path / "new.redlantern").exists()
    assert not (tmp_path / "new.redlantern.lock").exists()


def test_a_full_disk_is_told_as_such(made):
    collection, environment = made
    with Path("/dev/full").open("w") as full:
        done = subprocess.run(
            [sys.executable, "-m", "redlantern", "ask", collection, "What is the deposit?", "--lines-only"],
            stdout=full, stderr=subprocess.PIPE, check=False, env={**os.environ, **environment}, timeout=120,
        )  # fmt: skip
    assert done.returncode == 1
    assert b"The disk is full. Everything finished before is kept" in done.stderr


def test_results_are_for_this_login_alone(made, tmp_path):
    collection, environment = made
    (tmp_path / "q.jsonl").write_text('{"id": 1, "question": "What is the deposit?"}')
    assert (
        redlantern("batch", collection, tmp_path / "q.jsonl", tmp_path / "r.jsonl", "--lines-only", **environment)[0]
        == 0
    )
    assert (tmp_path / "r.jsonl").stat().st_mode & 0o777 == 0o600
    (tmp_path / "victim").write_text("mine")
    (tmp_path / "link.jsonl").symlink_to(tmp_path / "victim")
    code, _, problem = redlantern("batch", collection, tmp_path / "q.jsonl", tmp_path / "link.jsonl", **environment)
    assert code == 2 and "no result of an earlier run" in problem
    assert (tmp_path / "victim").read_text() == "mine"


def document(path, number=1, part=""):
    return Document(number, "MARK", "title", "pdf", path, f"/x/{path}", "hash", 1, 1, 1, part=part)


def test_exported_names_are_one_for_each_and_never_lead_out():
    paths = [
        "letter.txt", "letter.txt", "LETTER.TXT", "../../etc/passwd", "..", "mail.eml/..", "mail.eml/.", "a/./b/../c.txt", "/root.txt",
        "\U0001f38b" * 110 + ".txt", "\U0001f38b" * 110 + ".md", "x\nname\x1b[2J.txt", "caf\U0010ffe9.txt",
        "invoice\u202excod.txt", " ", "mail.eml",
    ]  # fmt: skip
    places = inner_paths([document(path, number) for number, path in enumerate(paths)], ".md")
    assert len({str(one).casefold() for one in places}) == len(paths)
    for place in places:
        assert not place.is_absolute() and ".." not in place.parts and "." not in place.parts
        assert all(0 < len(os.fsencode(part)) <= 230 for part in place.parts)
        assert not any(ord(sign) < 32 or sign == "\u202e" for sign in str(place))
    assert [str(one) for one in places[:3]] == ["letter.txt.md", "letter.txt (2).md", "LETTER.TXT (3).md"]
    assert str(places[5]) == "mail.eml/_...md" and str(places[6]) == "mail.eml.md"


def test_words_of_a_document_are_only_words_in_markdown():
    text = (
        "Look ![](http://127.0.0.1:9/x) and <img src=http://127.0.0.1:9/y> and [here](file:///etc/passwd) `x` &copy;\n"
        "# no heading\n- <script>alert(1)</script>\na\tb|c"
    )
    at = text.index("a\tb")
    page = Page(1, text, (Block("paragraph", 0, at - 1), Block("table", at, len(text))))
    written = page_markdown(page)
    for sign in ("![", " [", "<img", "<script", "&copy;", "\n# no", "\n- "):
        assert sign not in written, sign
    assert "Look !\\[\\](http://127.0.0.1:9/x)" in written
    assert "| a | b\\|c |" in written


def test_what_steers_a_terminal_is_shown_instead():
    assert plain("a\x1b[2J\x9b31m\u202eb\u2066c\td\ne\u00adf") == "a‹1B›[2J‹9B›31m‹202E›b‹2066›c | d ef"
    from redlantern.safety.names import json_line

    raw = json.dumps({"name": "x\u202ey\x9b\u2028", "byte": "caf\U0010ffe9"}, ensure_ascii=False)
    line = json_line(raw)
    assert all(31 < ord(sign) < 0x80 for sign in line)
    assert json.loads(line) == json.loads(raw)
