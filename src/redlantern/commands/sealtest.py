# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern seal-test`: lets every process try to get out, and lists each with its filter."""

import json
from itertools import groupby

from redlantern.models.proof import Proof, prove
from redlantern.safety import loopback
from redlantern.safety.attempts import Attempt
from redlantern.safety.names import json_line


def seal_test(*, as_json: bool) -> int:
    """Print both tables; exit code 1 if any way is open that must be closed, or a process runs without its filter."""
    proof, link = prove(), loopback.link()
    server = link.server.address if link is not None else None
    if as_json:
        form = {
            "sealed": proof.is_kept,
            "lacks": list(proof.lacks),
            "attempts": [attempt.as_json() for attempt in proof.attempts],
            "processes": [process.as_json() for process in proof.processes],
            "model_server": server,
        }
        print(json_line(json.dumps(form, ensure_ascii=False)))
        return 0 if proof.is_kept else 1
    print("\n".join(_in_words(proof, server)))
    return 0 if proof.is_kept else 1


def _in_words(proof: Proof, server: str | None) -> list[str]:
    lines = []
    for process, attempts in groupby(proof.attempts, lambda attempt: attempt.process):
        lines += [process.upper(), *_rows(list(attempts)), ""]
    width = max(len(process.filter_words) for process in proof.processes)
    lines += ["PROCESSES"]
    lines += [
        f"  {process.role:18} {process.filter_words:{width}}  holds {process.holds}" for process in proof.processes
    ]
    lines += ["", *proof.lacks]
    if not proof.is_kept:
        return [*lines, f"{proof.n_wrong} ways are open that must be closed. This machine does not keep the seal."]
    lines.append(
        "Nothing is open that must be closed: no process of the program can reach a network, and those that read"
    )
    lines.append("documents or hold the language model can write nothing, start nothing and look into nothing else.")
    if server is not None:
        lines.append(f"One exception, by its owner's choice: the model link may speak to {server} on this machine.")
    return lines


def _rows(attempts: list[Attempt]) -> list[str]:
    width = max(len(attempt.way) for attempt in attempts)
    return [
        f"  {_state(attempt):7} {attempt.way:{width}}  {f'needed: {attempt.needed}' if attempt.needed else attempt.said}"
        for attempt in attempts
    ]  # fmt: skip


def _state(attempt: Attempt) -> str:
    return "closed" if attempt.is_closed else "open" if attempt.needed else "OPEN"
