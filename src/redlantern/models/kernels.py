# SPDX-License-Identifier: GPL-3.0-or-later
"""The runtime's kernels for this processor: which sets there are, which one fits, and how it is loaded.

The runtime's package holds kernels that any processor of the last ten years can
run. Set-up builds the same source once more for newer instructions
(`weights/kernels.py`); what is loaded before the runtime takes the place of its
own, for the dynamic linker looks there first. They read a prompt up to three
times as fast (docs/quality.md).
"""

import ctypes
import os
import sys
from dataclasses import dataclass
from importlib import metadata
from pathlib import Path

from redlantern.models.machine import processor_features

RUNTIME = "xllamacpp"
"""The package of the runtime; kernels must be of the very source that it was built from."""
LIBRARIES = ("libggml-base.so", "libggml-cpu.so")
"""The files of a set, in the order in which they are loaded."""
KERNELS_VARIABLE = "REDLANTERN_KERNELS"
"""The environment variable that, set to `plain`, lets the runtime use its own kernels."""
PLAIN = "plain"
_AVX2 = frozenset({"avx2", "fma", "f16c", "bmi2"})


@dataclass(frozen=True)
class KernelSet:
    """Kernels for the processors that have certain features, named as the kernel names them in /proc/cpuinfo.

    `options` are what the build is told.
    """

    word: str
    needs: frozenset[str]
    options: tuple[str, ...]

    @property
    def place(self) -> Path:
        """Its folder; the runtime's version stands in the path, so that kernels of another are never taken."""
        kernels = Path(sys.prefix) / "share" / "redlantern" / "kernels"
        return kernels / f"{RUNTIME}-{metadata.version(RUNTIME)}" / self.word

    @property
    def is_there(self) -> bool:
        """Whether set-up built it whole."""
        return all((self.place / name).is_file() for name in LIBRARIES)


KERNEL_SETS = (
    KernelSet(
        "avx512-vnni",
        _AVX2 | {"avx512f", "avx512cd", "avx512bw", "avx512dq", "avx512vl", "avx512_vnni"},
        ("GGML_AVX512", "GGML_AVX512_VNNI"),
    ),
    KernelSet("avx-vnni", _AVX2 | {"avx_vnni"}, ("GGML_AVX_VNNI",)),
)
"""The sets there are, the fastest first."""


def fitting_kernels(features: frozenset[str] | None = None) -> KernelSet | None:
    """The fastest set that a processor with these features can run; without them, this machine's."""
    has = processor_features() if features is None else features
    return next((kernels for kernels in KERNEL_SETS if kernels.needs <= has), None)


def usable_kernels() -> KernelSet | None:
    """The set that this machine's language models run with; None where the runtime's own kernels serve."""
    found = None if os.environ.get(KERNELS_VARIABLE) == PLAIN else fitting_kernels()
    return found if found is not None and found.is_there else None


def load(folder: Path) -> None:
    """Put a set's kernels before the runtime's own in this process. Must come before the runtime is loaded.

    Raises
    ------
    OSError
        If a file cannot be loaded.
    """
    for name in LIBRARIES:
        ctypes.CDLL(str(folder / name), mode=os.RTLD_GLOBAL | os.RTLD_NOW)
