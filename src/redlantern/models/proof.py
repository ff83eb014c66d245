# SPDX-License-Identifier: GPL-3.0-or-later
"""The proof that nothing gets out: every process of the program tries, and says what the kernel said."""

import contextlib
import os
from dataclasses import dataclass

from redlantern.errors import RedlanternError
from redlantern.models.hosted import HostedModel
from redlantern.reading.pool import ReaderPool
from redlantern.safety import attempts, landlock, loopback, seal
from redlantern.safety.attempts import Attempt
from redlantern.safety.processes import ProcessState, household


@dataclass(frozen=True)
class Proof:
    """What each process tried, every process with its filter, and what this machine lacks, in sentences."""

    attempts: tuple[Attempt, ...]
    processes: tuple[ProcessState, ...]
    lacks: tuple[str, ...] = ()

    @property
    def is_kept(self) -> bool:
        """Whether nothing is open that must be closed, and every process has its filter."""
        return not any(attempt.is_wrong for attempt in self.attempts) and all(
            process.is_filtered for process in self.processes
        )

    @property
    def n_wrong(self) -> int:
        """How many ways are open that must be closed."""
        return sum(attempt.is_wrong for attempt in self.attempts)


def prove() -> Proof:
    """Start one of each process, and let each try everything. Takes a few seconds."""
    readers, model, link = ReaderPool(1), HostedModel(), loopback.link()
    found: list[Attempt] = []
    try:
        with attempts.canary() as folder:
            own = os.getpid()
            # Our own process is what the others have to try themselves at; ours at the one that started it.
            found += attempts.attempts_of(attempts.WINDOW, attempts.try_all(folder, os.getppid()))
            rows = readers.try_ways(folder, own)
            for role in (attempts.READER, attempts.RECOGNITION):
                found += attempts.attempts_of(role, [row for row in rows if row.get("role") == role])
            # Without the packaged model there is no such process.
            with contextlib.suppress(RedlanternError):
                found += attempts.attempts_of(attempts.HOST, model.try_ways(folder, own))
            if link is not None:
                found += attempts.attempts_of(attempts.LINK, link.try_ways(folder, own))
            processes = household()
    finally:
        readers.close()
        model.close()
    return Proof(tuple(found), tuple(processes), _lacks())


def _lacks() -> tuple[str, ...]:
    lacks = []
    if not seal.state().is_on:
        lacks.append(seal.state().reason)
    if not landlock.version():
        lacks.append(
            "This kernel has no Landlock (Linux 5.13 and later have it, unless it is turned off): what readers and the model "
            "host may read is not limited, and other processes of this login are open to ours where the rows say so."
        )
    return tuple(lacks)
