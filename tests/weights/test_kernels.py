# SPDX-License-Identifier: GPL-3.0-or-later
"""Building kernels: of the runtime's source alone what is needed, whole or not at all, and checked before they are used."""

import io
import shutil
import sys
import tarfile
from pathlib import Path

import pytest
from weights.fetch import NotFetchedError

from redlantern.models import kernels as sets
from redlantern.models.kernels import KERNEL_SETS, LIBRARIES, usable_kernels
from weights import kernels

WORKS = """add_library(ggml-base SHARED base.c)
add_library(ggml-cpu SHARED cpu.c)
target_link_libraries(ggml-cpu ggml-base)
target_compile_definitions(ggml-cpu PRIVATE X=1)
"""
BUILT = usable_kernels()
needs_compiler = pytest.mark.skipif(
    not shutil.which("g++") or not (Path(sys.executable).parent / "cmake").exists(), reason="nothing to compile with"
)


@pytest.fixture
def source(tmp_path, monkeypatch):
    """Stands in for the runtime's source: gives what its kernels' folder holds, by name."""
    monkeypatch.setattr(sets.sys, "prefix", str(tmp_path / "prefix"))
    files = {
        "CMakeLists.txt": WORKS,
        "base.c": "int base(void) { return 1; }\n",
        "cpu.c": "int cpu(void) { return X; }\n",
    }

    def download(part, name, folder, *, is_source):
        assert is_source and part.startswith("xllamacpp==") and "--hash=sha256:" in part
        archive = folder / "source.tar.gz"
        with tarfile.open(archive, "w:gz") as packed:
            for inner, text in {
                **{f"{kernels._INNER}/{one}": text for one, text in files.items()},
                "setup.py": "exit(1)",
            }.items():
                entry = tarfile.TarInfo(f"runtime-1.0/{inner}")
                entry.size = len(text.encode())
                packed.addfile(entry, io.BytesIO(text.encode()))
        return archive

    monkeypatch.setattr(kernels, "download", download)
    return files


def test_only_the_kernels_folder_is_unpacked_and_nothing_beyond_it(tmp_path, source):
    source["../../../../outside"] = "x"
    archive = kernels.download("xllamacpp== --hash=sha256:", "", tmp_path, is_source=True)
    with pytest.raises(tarfile.OutsideDestinationError):
        kernels._unpacked(archive, tmp_path / "source")
    assert not (tmp_path / "outside").exists() and not (tmp_path / "source" / "setup.py").exists()


@needs_compiler
def test_a_set_is_built_whole_and_nothing_else_stays(source):
    # What a set-up left that was killed goes.
    left = KERNEL_SETS[0].place.parent / ".building-before" / "source"
    left.mkdir(parents=True)
    kernels.build([KERNEL_SETS[0]])
    assert KERNEL_SETS[0].is_there
    assert sorted(one.name for one in KERNEL_SETS[0].place.parent.iterdir()) == [".lock", KERNEL_SETS[0].word]
    assert sorted(one.name for one in KERNEL_SETS[0].place.iterdir()) == sorted(LIBRARIES)
    # What is there is not built again.
    source.clear()
    kernels.build([KERNEL_SETS[0]])


@needs_compiler
def test_what_cannot_be_built_is_said_and_leaves_nothing(source, monkeypatch, capsys):
    source["cpu.c"] = "no C\n"
    with pytest.raises(NotFetchedError, match="could not be built"):
        kernels.build([KERNEL_SETS[0]])
    assert [one.name for one in KERNEL_SETS[0].place.parent.iterdir()] == [".lock"]
    monkeypatch.setattr(kernels, "fitting_kernels", lambda: KERNEL_SETS[0])
    monkeypatch.setattr(sys, "argv", ["weights.kernels"])
    assert kernels.main() == 1
    assert "slower" in capsys.readouterr().err


@needs_compiler
def test_kernels_that_compute_otherwise_are_removed(source, monkeypatch, capsys):
    monkeypatch.setattr(kernels, "fitting_kernels", lambda: KERNEL_SETS[0])
    monkeypatch.setattr(kernels, "LIGHT_READER", type("There", (), {"place": Path(__file__)}))
    monkeypatch.setattr(kernels, "agree", lambda one: False)
    monkeypatch.setattr(sys, "argv", ["weights.kernels"])
    assert kernels.main() == 0
    assert not KERNEL_SETS[0].place.exists() and "removed" in capsys.readouterr().err


@pytest.mark.skipif(BUILT is None, reason="no set of kernels fits this processor, or none could be built")
def test_those_that_were_built_agree_with_the_runtimes_own_and_others_do_not(tmp_path, monkeypatch):
    assert kernels.agree(BUILT)
    asked = iter([{"Yes": 0.9, "No": 0.1}, {"Yes": 0.2, "No": 0.8}])
    monkeypatch.setattr(kernels.HostedModel, "first_words", lambda *words: next(asked))
    assert not kernels.agree(BUILT)
