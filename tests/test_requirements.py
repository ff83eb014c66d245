# SPDX-License-Identifier: GPL-3.0-or-later
"""What is installed is what was looked at: every requirement with its version and the hashes of its files, from no named place."""

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
FILES = sorted(ROOT.glob("requirements*.txt"))
LICENCE_LINE = "# SPDX-License-Identifier: GPL-3.0-or-later\n"
_HASH = re.compile(r"--hash=sha256:[0-9a-f]{64}")


def entries(path):
    """The requirements of a file, each with all that belongs to it."""
    text = re.sub(r"\\\n", " ", path.read_text())
    return [line for line in text.splitlines() if line.strip() and not line.startswith("#")]


def test_what_it_is_made_with_is_listed_as_it_is_installed_and_shown_so():
    from bench import licences

    written, shown = (target.read_text(encoding="utf-8") for target in licences.TARGETS)
    assert written == shown == licences.third_party()
    assert "not installed" not in written and "| not stated |" not in written
    assert (ROOT / "LICENSE").read_text(encoding="utf-8").lstrip().startswith("GNU GENERAL PUBLIC LICENSE")


def test_every_module_says_its_licence_first():
    modules = [
        path
        for folder in ("src", "bench", "weights", "training", "demo", "shipping")
        for path in (ROOT / folder).rglob("*.py")
    ]
    assert len(modules) > 300
    assert [path for path in modules if not path.read_text(encoding="utf-8").startswith(LICENCE_LINE)] == []


def test_there_are_six_lists():
    names = [f"requirements{end}.txt" for end in ("-build", "-dev", "-fuzz", "-models", "-train", "")]
    assert [one.name for one in FILES] == names


@pytest.mark.parametrize("path", FILES, ids=lambda one: one.name)
def test_every_requirement_is_pinned_with_its_hashes(path):
    found = entries(path)
    assert found
    for entry in found:
        name, *rest = entry.split()
        assert re.fullmatch(r"[A-Za-z0-9._-]+==[A-Za-z0-9.!+_-]+", name), name
        assert rest and all(_HASH.fullmatch(one) for one in rest), name
        assert len(set(rest)) == len(rest), name
    names = [re.sub("[._-]+", "-", entry.split("==")[0].lower()) for entry in found]
    assert len(set(names)) == len(names)


def test_the_lists_are_installed_with_their_hashes_required_and_name_no_place():
    run = (ROOT / "run").read_text()
    for path in FILES:
        assert f"pip_install --require-hashes -r {path.name}" in run
        # Nothing but requirements and their hashes: no option that names where they are taken from.
        assert "://" not in path.read_text() and not any(entry.startswith("-") for entry in entries(path))
