# SPDX-License-Identifier: GPL-3.0-or-later
"""A stand-in for the runtime's source, and a process that builds it: `python -m tests.weights.standin_source PREFIX`."""

import io
import sys
import tarfile

from redlantern.models import kernels as sets
from redlantern.models.kernels import KERNEL_SETS
from weights import kernels

FILES = {
    "CMakeLists.txt": "add_library(ggml-base SHARED base.c)\nadd_library(ggml-cpu SHARED cpu.c)\n"
    "target_link_libraries(ggml-cpu ggml-base)\ntarget_compile_definitions(ggml-cpu PRIVATE X=1)\n",
    "base.c": "int base(void) { return 1; }\n",
    "cpu.c": "int cpu(void) { return X; }\n",
}


def packed_from(files):
    """What takes the place of the download: a source distribution with these files in the kernels' folder."""

    def download(part, name, folder, *, is_source):
        assert is_source and part.startswith("xllamacpp==") and "--hash=sha256:" in part
        archive = folder / "source.tar.gz"
        named = {f"{kernels._INNER}/{inner}": text for inner, text in files.items()} | {"setup.py": "exit(1)"}
        with tarfile.open(archive, "w:gz") as packed:
            for inner, text in named.items():
                entry = tarfile.TarInfo(f"runtime-1.0/{inner}")
                entry.size = len(text.encode())
                packed.addfile(entry, io.BytesIO(text.encode()))
        return archive

    return download


if __name__ == "__main__":
    sets.sys.prefix = sys.argv[1]
    kernels.download = packed_from(FILES)
    kernels.build([KERNEL_SETS[0]])
