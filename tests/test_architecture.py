"""Rules that the import linter cannot see."""

import json
import subprocess
import sys

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
