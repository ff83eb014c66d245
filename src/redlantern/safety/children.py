# SPDX-License-Identifier: GPL-3.0-or-later
"""Starts the program's own processes: each in a session of its own, with nothing of the desktop's environment."""

import os
import subprocess
import sys
from collections.abc import Mapping, Sequence

_KEPT = frozenset(
    "PATH HOME LANG LANGUAGE REDLANTERN_LANGUAGE TZ TMPDIR VIRTUAL_ENV LD_LIBRARY_PATH TESSDATA_PREFIX "
    "XDG_DATA_HOME XDG_RUNTIME_DIR".split()
)
_KEPT_BEGINNINGS = ("PYTHON", "LC_", "OPENBLAS_", "OMP_", "MKL_")


def child_environment(environment: Mapping[str, str] = os.environ) -> dict[str, str]:
    """What a process of ours needs of the environment: no address of a message bus, a display, an agent or a session."""
    return {
        name: value for name, value in environment.items() if name in _KEPT or name.startswith(_KEPT_BEGINNINGS)
    }  # fmt: skip


def start_child(module: str, *words: str, handles: Sequence[int] = ()) -> "subprocess.Popen[bytes]":
    """Start a module of ours as a process, spoken to over its standard streams.

    It has no terminal to type into (a session of its own), and ends when its
    standard input closes. `handles` stay open in it under their numbers.
    """
    # -P: the folder that the program was started in is no place for code.
    return subprocess.Popen(
        [sys.executable, "-P", "-m", module, *words],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        close_fds=True,
        pass_fds=tuple(handles),
        start_new_session=True,
        env=child_environment(),
    )
