# SPDX-License-Identifier: GPL-3.0-or-later
"""The commands that look after a collection, through the command line itself."""

import json

import pytest

from redlantern.commands import unlock
from redlantern.commands.line import EXIT_DONE, EXIT_FAILED, EXIT_USAGE, run
from tests.conftest import SmallEmbedder


@pytest.fixture(autouse=True)
def stand_ins(monkeypatch):
    """The stand-in model: what is tried here is the commands."""
    monkeypatch.setattr("redlantern.application.opening.named_embedder", lambda *_, **__: (SmallEmbedder(), ""))
    monkeypatch.setattr("redlantern.commands.check.named_embedder", lambda *_, **__: (SmallEmbedder(), ""))


@pytest.fixture
def phrase(tmp_path):
    """A file with a passphrase."""
    place = tmp_path / "phrase"
    place.write_text("seven grey herons\nand a second line\n")
    return str(place)


@pytest.fixture
def made(tmp_path, folder, capsys):
    path = tmp_path / "file.redlantern"
    assert run(["index", str(path), str(folder)]) == EXIT_DONE
    capsys.readouterr()
    return str(path)


def test_a_collection_is_made_with_a_passphrase_and_asks_for_it(tmp_path, folder, phrase, capsys):
    path = str(tmp_path / "locked.redlantern")
    assert run(["index", path, str(folder), "--key", "passphrase", "--new-passphrase-from", phrase]) == EXIT_DONE
    assert run(["ask", path, "When is the deposit due?", "--lines-only"]) == EXIT_FAILED
    assert "This collection is locked with a passphrase." in capsys.readouterr().err
    assert run(["ask", path, "When is the deposit due?", "--lines-only", "--passphrase-from", phrase]) == EXIT_DONE
    (tmp_path / "wrong").write_text("six grey herons")
    assert run(["check", path, "--passphrase-from", str(tmp_path / "wrong")]) == EXIT_FAILED
    assert "This is not the passphrase." in capsys.readouterr().err
    assert run(["check", path, "--passphrase-from", str(tmp_path / "nowhere")]) == EXIT_USAGE
    assert run(["check", path, "--passphrase-from", phrase]) == EXIT_DONE


def test_a_plan_is_printed_and_then_carried_out(made, folder, capsys):
    (folder / "new.txt").write_text("The blower stands in the passage.")
    (folder / "contract.md").unlink()
    assert run(["update", made, "--plan", "--json"]) == EXIT_DONE
    plan = json.loads(capsys.readouterr().out)
    assert (plan["new"], plan["gone"], plan["unchanged"]) == (
        [str(folder / "new.txt")],
        [str(folder / "contract.md")],
        1,
    )
    assert run(["update", made, "--plan"]) == EXIT_DONE
    assert "An update would take about" in capsys.readouterr().out
    assert run(["update", made]) == EXIT_DONE
    assert "1 document read" in capsys.readouterr().out
    assert run(["update", made, "--plan"]) == EXIT_DONE
    assert "An update would change nothing." in capsys.readouterr().out


def test_the_key_is_changed_and_a_backup_made(made, tmp_path, phrase, capsys):
    copy = str(tmp_path / "copy.redlantern")
    assert run(["backup", made, copy, "--lock", "--new-passphrase-from", phrase]) == EXIT_DONE
    assert run(["check", copy, "--passphrase-from", phrase]) == EXIT_DONE
    assert run(["backup", made, copy]) == EXIT_FAILED
    assert run(["key", made, "passphrase", "--new-passphrase-from", phrase]) == EXIT_DONE
    assert run(["check", made]) == EXIT_FAILED
    assert run(["key", made, "file", "--passphrase-from", phrase]) == EXIT_DONE
    assert run(["check", made]) == EXIT_DONE
    assert run(["key", made, "passphrase"]) == EXIT_USAGE
    assert "a passphrase is needed" in capsys.readouterr().err


def test_a_collection_is_moved_and_its_journal_printed(made, tmp_path, capsys):
    target = str(tmp_path / "other.redlantern")
    assert run(["move", made, target]) == EXIT_DONE
    assert run(["check", made]) == EXIT_FAILED
    capsys.readouterr()
    assert run(["journal", target]) == EXIT_DONE
    printed = capsys.readouterr().out
    assert f"{made} to {target}" in printed and "Last hash: " in printed
    assert run(["journal", target, "--json"]) == EXIT_DONE
    lines = [json.loads(line) for line in capsys.readouterr().out.splitlines()]
    assert [one["what"] for one in lines] == ["made", "added", "added", "moved", "exported"]


def test_nothing_is_erased_without_a_yes(made, capsys):
    assert run(["erase", made]) == EXIT_USAGE
    assert run(["erase"]) == EXIT_USAGE
    assert run(["erase", made, "--everything"]) == EXIT_USAGE
    assert run(["erase", made, "--scope", "nothing*", "--yes"]) == EXIT_USAGE
    assert run(["check", made]) == EXIT_DONE


def test_documents_and_then_the_collection_are_erased(made, tmp_path, capsys):
    assert run(["erase", made, "--scope", "*.md", "--yes"]) == EXIT_DONE
    printed = capsys.readouterr().out
    assert "1 documents are erased" in printed and "Not reached:" in printed
    assert run(["erase", made, "--yes"]) == EXIT_DONE
    assert not (tmp_path / "file.redlantern").exists()


def test_everything_is_erased(made, tmp_path, monkeypatch, capsys):
    monkeypatch.setattr("redlantern.safety.secretstore.forget_all", lambda: None)
    assert run(["erase", "--everything", "--yes"]) == EXIT_DONE
    assert "Everything is erased." in capsys.readouterr().out
    assert not (tmp_path / "file.redlantern").exists()


def test_a_damaged_collection_is_mended(made, tmp_path, capsys):
    path = tmp_path / "file.redlantern"
    raw = bytearray(path.read_bytes())
    raw[-2000] ^= 1
    path.write_bytes(raw)
    assert run(["check", made]) == EXIT_FAILED
    assert "HMAC verification failed for page" in capsys.readouterr().out
    assert run(["mend", made]) == EXIT_DONE
    assert "is whole again" in capsys.readouterr().out
    assert run(["check", made]) == EXIT_DONE


def test_another_collection_is_asked_too(made, tmp_path, capsys):
    (tmp_path / "others").mkdir()
    (tmp_path / "others" / "blower.txt").write_text(
        "The blower stands in the passage under the north stairs of the hall."
    )
    other = str(tmp_path / "other.redlantern")
    assert run(["index", other, str(tmp_path / "others")]) == EXIT_DONE
    capsys.readouterr()
    question = "Where does the blower stand?"
    assert run(["ask", made, question, "--lines-only", "--json", "--also", other]) == EXIT_DONE
    sheet = json.loads(capsys.readouterr().out)
    assert sheet["passages"][0]["path"] == "other: blower.txt"


def test_a_passphrase_typed_twice_must_be_the_same(monkeypatch, capsys, made):
    typed = iter(["seven grey herons", "seven gray herons"])
    monkeypatch.setattr(unlock.getpass, "getpass", lambda _: next(typed))
    monkeypatch.setattr(unlock.sys.stdin, "isatty", lambda: True, raising=False)
    assert run(["key", made, "passphrase"]) == EXIT_USAGE
    assert "the two passphrases differ; nothing was changed" in capsys.readouterr().err
