# SPDX-License-Identifier: GPL-3.0-or-later
"""What the documents say of the code is so: each stop of a walk is there, and the packages are those of the map."""

import ast
import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "redlantern"
ARCHITECTURE = (ROOT / "docs" / "architecture.md").read_text()
_STOP = re.compile(r"`([\w/]+\.py)`, `([\w.]+)`")
MOST_STOPS = 12


def walks():
    text = ARCHITECTURE.split("## Three walks")[1].split("\n## ")[0]
    for part in text.split("\n### ")[1:]:
        title, *lines = part.splitlines()
        yield title, [line for line in lines if re.match(r"\d+\. ", line)]


def defined_in(path):
    """Names of a module's functions and classes, and of the methods of each class with those that it inherits nothing of."""
    names = set()
    for node in ast.parse(path.read_text()).body:
        if isinstance(node, ast.FunctionDef | ast.ClassDef):
            names.add(node.name)
        if isinstance(node, ast.ClassDef):
            names |= {f"{node.name}.{member.name}" for member in node.body if isinstance(member, ast.FunctionDef)}
    return names


def test_there_are_three_walks_of_at_most_twelve_stops():
    assert [title for title, _ in walks()] == [
        "A file from the disk into the collection",
        "A question from the bar to the sheet",
        "A click on a citation to the marked page",
    ]
    assert all(0 < len(stops) <= MOST_STOPS for _, stops in walks())


@pytest.mark.parametrize("stop", [line for _, lines in walks() for line in lines], ids=lambda line: line[:60])
def test_each_stop_of_a_walk_is_where_it_is_said_to_be(stop):
    found = _STOP.findall(stop)
    assert found
    for path, name in found:
        assert name in defined_in(SOURCE / path)


def test_every_package_stands_on_the_map():
    picture = ARCHITECTURE.split("```")[1]
    packages = {path.stem for path in SOURCE.iterdir() if not path.name.startswith("_") and path.suffix in ("", ".py")}
    missing = {name for name in packages if not re.search(rf"\b{name}\b", picture)}
    assert missing == set()


@pytest.mark.parametrize(
    "name", ["architecture.md", "contributing.md", "retrieval.md", "decisions/support-by-rules.md"]
)
def test_modules_that_documents_name_are_there(name):
    text = (ROOT / "docs" / name).read_text()
    for path in re.findall(r"`((?:[a-z_]+/)+[a-z_]+\.py)`", text):
        assert (SOURCE / path).exists() or (ROOT / path).exists(), path
