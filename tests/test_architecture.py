# SPDX-License-Identifier: GPL-3.0-or-later
"""Rules that the import linter cannot see."""

import ast
import json
import re
import subprocess
import sys
from pathlib import Path

import grimp
import numpy as np
import pytest
from importlinter.cli import lint_imports
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components

SOURCE = Path(__file__).parents[1] / "src" / "redlantern"
MODULES = sorted(SOURCE.rglob("*.py"))
MOST_LINES_OF_FILE, MOST_LINES_OF_FUNCTION, MOST_METHODS = 400, 50, 25
FUNCTIONS = (ast.FunctionDef, ast.AsyncFunctionDef)

WALK = """
import importlib, json, pkgutil, sys
import redlantern
for found in pkgutil.walk_packages(redlantern.__path__, "redlantern."):
    if not found.name.startswith("redlantern.desktop") and not found.name.endswith("__main__"):
        importlib.import_module(found.name)
print(json.dumps(sorted(sys.modules)))
"""


def imported_by(code: str) -> list[str]:
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    return json.loads(done.stdout)


def test_nothing_outside_the_desktop_brings_qt_along():
    assert [name for name in imported_by(WALK) if name.startswith("PyQt6")] == []


def test_the_seal_comes_before_everything_that_reads_a_file():
    # What the entry point imports before it can put the seal on.
    modules = imported_by("import json, sys, redlantern.__main__; print(json.dumps(sorted(sys.modules)))")
    heavy = ("numpy", "scipy", "onnxruntime", "tokenizers", "pypdfium2", "docx", "sqlcipher3", "xllamacpp", "PyQt6")
    assert [name for name in modules if name.split(".")[0] in heavy] == []


def test_no_modules_import_each_other_in_a_circle():
    """Not for types alone either: those imports are arrows for whoever reads."""
    graph = grimp.build_graph("redlantern", cache_dir=None, exclude_type_checking_imports=False)
    names = sorted(graph.modules)
    number = {name: at for at, name in enumerate(names)}
    arrows = [(number[name], number[to]) for name in names for to in graph.find_modules_directly_imported_by(name)]
    rows, columns = np.array(arrows).T
    matrix = csr_array((np.ones(len(arrows), bool), (rows, columns)), shape=(len(names), len(names)))
    _, labels = connected_components(matrix, connection="strong")
    circles = [np.flatnonzero(labels == label) for label in np.unique(labels)]
    assert [[names[at] for at in circle] for circle in circles if len(circle) > 1] == []


def test_the_contract_of_imports_is_kept(monkeypatch):
    """Every package is named in it, in its order; `./run lint` shows what breaks it."""
    monkeypatch.chdir(SOURCE.parents[1])
    assert lint_imports(no_cache=True) == 0


def code_lines(function: ast.AST) -> int:
    """The lines of a function from its name on, without its docstring."""
    n_lines = function.end_lineno - function.lineno + 1
    first = function.body[0]
    has_docstring = ast.get_docstring(function) is not None
    return n_lines - (first.end_lineno - first.lineno + 1) * has_docstring


@pytest.mark.parametrize("path", MODULES, ids=lambda path: str(path.relative_to(SOURCE)))
def test_no_file_function_or_class_is_too_large_to_be_read(path):
    text = path.read_text()
    assert text.count("\n") <= MOST_LINES_OF_FILE
    nodes = list(ast.walk(ast.parse(text)))
    functions = [node for node in nodes if isinstance(node, FUNCTIONS)]
    assert [node.name for node in functions if code_lines(node) > MOST_LINES_OF_FUNCTION] == []
    classes = [node for node in nodes if isinstance(node, ast.ClassDef)]
    methods = {node.name: sum(isinstance(child, FUNCTIONS) for child in node.body) for node in classes}
    assert {name: n for name, n in methods.items() if n > MOST_METHODS} == {}


def test_no_two_types_have_one_name():
    places: dict[str, list[str]] = {}
    for path in MODULES:
        for node in ast.parse(path.read_text()).body:
            if isinstance(node, ast.ClassDef):
                places.setdefault(node.name, []).append(str(path.relative_to(SOURCE)))
    assert {name: where for name, where in places.items() if len(where) > 1} == {}


def is_constant(name: str) -> bool:
    return name.strip("_").isupper()


@pytest.mark.parametrize("path", MODULES, ids=lambda path: str(path.relative_to(SOURCE)))
def test_constants_stand_above_what_uses_them(path):
    body = ast.parse(path.read_text()).body
    made = {}
    defined: set[str] = set()
    late = []
    for at, statement in enumerate(body):
        if isinstance(statement, ast.ClassDef | ast.FunctionDef):
            defined.add(statement.name)
        elif isinstance(statement, ast.Assign | ast.AnnAssign):
            targets = statement.targets if isinstance(statement, ast.Assign) else [statement.target]
            names = [node.id for target in targets for node in ast.walk(target) if isinstance(node, ast.Name)]
            needs = {node.id for node in ast.walk(statement) if isinstance(node, ast.Name)}
            # What is made of a function or class of the same module has to stand below that.
            made.update({name: at for name in names if is_constant(name) and not needs & defined})
    for at, statement in enumerate(body):
        if isinstance(statement, ast.ClassDef | ast.FunctionDef):
            used = {node.id for node in ast.walk(statement) if isinstance(node, ast.Name)}
            late += [name for name in used if made.get(name, -1) > at]
    assert late == []


def test_no_variable_is_called_one_where_it_stands_alone():
    """A pair of like things may be `one` and `other`; everything else is named for what it holds."""
    alone = []
    for path in MODULES:
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.comprehension | ast.For) and isinstance(node.target, ast.Name):
                alone += [f"{path.name}:{node.target.lineno}"] if node.target.id == "one" else []
            elif isinstance(node, ast.Lambda) and [argument.arg for argument in node.args.args][:1] == ["one"]:
                alone += [f"{path.name}:{node.lineno}"] if len(node.args.args) == 1 else []
    assert alone == []


_ARRAY = re.compile(r"NDArray|\b(?:Vectors|SmallVectors|PackedLines|Scores|Rows|Signs|Nearness)\b")
_DTYPE = re.compile(r"float(?:32|64)?\b|u?int(?:8|32|64)\b|bool\b")


def public_functions(path):
    """Public functions of a module and methods of its public classes, each with the docstring that is to explain it."""
    for node in ast.parse(path.read_text()).body:
        if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
            yield node, ast.get_docstring(node) or ""
        if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
            for member in node.body:
                if isinstance(member, ast.FunctionDef) and (member.name == "__init__" or member.name[0] != "_"):
                    yield member, ast.get_docstring(member) or ""


def test_array_arguments_of_public_functions_state_shape_and_dtype():
    silent = []
    for path in MODULES:
        for function, docstring in public_functions(path):
            arguments = [*function.args.args, *function.args.kwonlyargs]
            takes_array = any(
                argument.annotation and _ARRAY.search(ast.unparse(argument.annotation)) for argument in arguments
            )
            if takes_array and not ("shape" in docstring and _DTYPE.search(docstring)):
                silent.append(f"{path.name}: {function.name}")
    assert silent == []
