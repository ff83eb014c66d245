# SPDX-License-Identifier: GPL-3.0-or-later
"""The model host: the process that holds the language model and answers on a private Unix socket.

Runs as `python -m redlantern.models.host MODEL SOCKET N_CONTEXT N_THREADS STEP_TOKENS [KERNELS]` and is
started by `hosted`; KERNELS is a folder (see `kernels`). Before it loads anything the kernel refuses it every network, every
file but its model and the packages it runs with, writing, and other programs;
once it listens, every further socket. It ends when its parent does (its standard
input closes).
"""

import os
import sys
from pathlib import Path

from redlantern.models import kernels
from redlantern.safety import attempts, limits, seal


def main() -> None:
    """Load the model, say READY on standard output, and serve until standard input closes."""
    model, socket_path, n_context, n_threads, step_tokens, *kernel_folders = sys.argv[1:]
    ready = os.fdopen(os.dup(1), "w")
    _silence()
    state = seal.put_on_host((Path(model), *map(Path, kernel_folders)), Path(socket_path).parent)
    if not state.is_on:
        print("FAILED", state.reason, file=ready, flush=True)
        sys.exit(1)
    limits.no_core_dumps()
    for folder in kernel_folders:
        kernels.load(Path(folder))
    import xllamacpp

    params = xllamacpp.CommonParams()
    params.model.path = model
    params.n_ctx = int(n_context)
    # A request whose connection is closed is dropped between two steps.
    params.n_batch = params.n_ubatch = int(step_tokens)
    params.n_parallel = 1
    params.cpuparams.n_threads = params.cpuparams_batch.n_threads = int(n_threads)
    params.hostnames = [socket_path]
    # A processor that cannot run the kernels after all is met while the model is loaded, not at a question.
    params.warmup = bool(kernel_folders)
    params.verbosity = -1
    try:
        server = xllamacpp.Server(params)
    except RuntimeError as failure:
        print("FAILED", str(failure).replace("\n", " "), file=ready, flush=True)
        sys.exit(1)
    state = seal.close_host()
    if not state.is_on:
        print("FAILED", state.reason, file=ready, flush=True)
        os._exit(1)
    print("READY", file=ready, flush=True)
    attempts.serve(sys.stdin, ready)
    del server
    os._exit(0)


def _silence() -> None:
    # The runtime prints prompts when something goes wrong; nothing of a document may reach a terminal or a log.
    nowhere = os.open(os.devnull, os.O_WRONLY)
    os.dup2(nowhere, 1)
    os.dup2(nowhere, 2)


if __name__ == "__main__":
    main()
