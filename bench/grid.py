# SPDX-License-Identifier: GPL-3.0-or-later
"""Measures a grid: the same twelve questions put to each of eighty made-up contracts, killed and gone on with on the way.

Each run is the command itself (`redlantern batch --each-document`) in a process of its own, which is killed twice and
started again; its memory is looked at while it works. What each contract says is known, so that the answers are, too.
"""

import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from dataclasses import asdict, dataclass, field
from pathlib import Path
from typing import Any

_N_DOCUMENTS, _KILLS = 80, 2
_KILLED_AFTER = (0.2, 0.5)
"""Shares of the answers at which the process is killed."""
_QUESTIONS = {
    "Who is the contractor?": "contractor",
    "Who is the client?": "client",
    "What is the contract price?": "price",
    "When must the work be completed?": "completion",
    "What are the liquidated damages for each day of delay?": "damages",
    "How long is the defects liability period?": "defects",
    "Within how many days must invoices be paid?": "payment",
    "Which law governs the contract?": "law",
    "What retention may the client keep back?": "retention",
    "How much notice must be given to terminate?": "notice",
    "What is the least insurance cover?": "insurance",
    "Where do disputes go first?": "disputes",
}
_TEXT = """# Contract for works at {place}

## 1 Parties

This contract is made between {client} (the client) and {contractor} (the contractor).

## 2 Price and payment

The contract price is {price}. Invoices shall be paid within {payment} days of receipt. The client may keep back a retention of
{retention} of each payment until practical completion.

## 3 Time

The work shall be completed by {completion}. For each day of delay the contractor shall pay liquidated damages of {damages}.

## 4 Defects

The defects liability period is {defects} from practical completion. The contractor shall make good at its own cost what appears
within it.

## 5 Insurance

The contractor maintains insurance with a cover of at least {insurance} for each event.

## 6 Ending and disputes

Either party may terminate by giving {notice} of written notice. Disputes go first to {disputes}. The contract is governed by the
law of {law}.
"""
_NAMES = ("Alder", "Birch", "Cedar", "Hazel", "Juniper", "Larch", "Maple", "Oak", "Poplar", "Rowan", "Spruce", "Willow")
_TRADES = ("Roofing", "Masonry", "Joinery", "Glazing", "Plumbing", "Painting", "Scaffolding", "Tiling")
_MONTHS = ("January", "March", "April", "June", "July", "September", "October", "December")


@dataclass
class GridFigures:
    """What a grid took and gave: answers a second over all runs, memory in MB of the working process, right answers."""

    n_documents: int
    n_answers: int
    n_kills: int
    seconds: float
    right: int
    asked_again: int
    memory_mb: list[int] = field(default_factory=list)

    @property
    def per_s(self) -> float:
        """Answers a second."""
        return self.n_answers / self.seconds


def measure(*, n_documents: int = _N_DOCUMENTS, model: str = "") -> dict[str, Any]:
    """Make the contracts, index them, and fill the grid; `model` for a written answer by a packaged reader."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        expected = _write_contracts(folder / "contracts", n_documents)
        questions = folder / "asked.txt"
        questions.write_text("\n".join(_QUESTIONS) + "\n", encoding="utf-8")
        environment = {**os.environ, "XDG_DATA_HOME": str(folder / "home")}
        collection = folder / "contracts.redlantern"
        command = [sys.executable, "-m", "redlantern"]
        subprocess.run(
            [*command, "index", collection, folder / "contracts"], env=environment, check=True, capture_output=True
        )
        asking = [*command, "batch", collection, questions, folder / "grid.json", "--each-document"]
        asking += ["--model", model] if model else ["--lines-only"]
        figures = GridFigures(n_documents, n_documents * len(_QUESTIONS), 0, 0.0, 0, 0)
        _fill([str(word) for word in asking], environment, figures)
        rows = json.loads((folder / "grid.json").read_text(encoding="utf-8"))["rows"]
        for row in rows:
            said = expected[Path(row["path"]).name]
            figures.right += sum(said[_QUESTIONS[cell["question"]]] in cell["answer"] for cell in row["answers"])
        return {"model": model or "none", "figures": figures}


def _fill(command: list[str], environment: dict[str, str], figures: GridFigures) -> None:
    """Run the command until it is done, killed on the way; notes time, memory, and what was asked twice."""
    before = 0
    while True:
        kill_at = int(_KILLED_AFTER[figures.n_kills] * figures.n_answers) if figures.n_kills < _KILLS else None
        began = time.monotonic()
        log = tempfile.TemporaryFile("w+")  # noqa: SIM115 - closed with the process
        process = subprocess.Popen(command, env=environment, stderr=log, stdout=subprocess.DEVNULL)
        n_kept = 0
        while process.poll() is None:
            time.sleep(0.5)
            n_kept = _asked_so_far(command[4], environment)
            memory = _memory_mb(process.pid)
            if memory:
                figures.memory_mb.append(memory)
            if kill_at is not None and n_kept >= kill_at:
                process.send_signal(signal.SIGKILL)
                process.wait()
        figures.seconds += time.monotonic() - began
        log.close()
        figures.asked_again += max(0, before - n_kept)
        before = n_kept
        if process.returncode != -signal.SIGKILL:
            if process.returncode:
                raise RuntimeError(f"the grid ended with {process.returncode}")
            return
        figures.n_kills += 1


def _asked_so_far(collection: str, environment: dict[str, str]) -> int:
    """How many answers the collection keeps, by a look of our own at it."""
    os.environ["XDG_DATA_HOME"] = environment["XDG_DATA_HOME"]
    from redlantern.collection.store import Collection

    looked = Collection.open(Path(collection))
    try:
        return sum(len(looked.trials.answered(run_id)) for run_id in looked.trials.runs())
    finally:
        looked.close()


def _memory_mb(pid: int) -> int:
    try:
        status = Path(f"/proc/{pid}/status").read_text(encoding="ascii", errors="replace")
    except OSError:
        return 0
    line = next((line for line in status.splitlines() if line.startswith("VmRSS:")), "VmRSS: 0")
    return int(line.split()[1]) // 1024


def _write_contracts(folder: Path, n: int) -> dict[str, dict[str, str]]:
    """Write the contracts; gives what each says, by the name of its file."""
    folder.mkdir()
    chance = random.Random(21)
    said = {}
    for number in range(n):
        values = {
            "place": f"{chance.choice(_NAMES)} House {number + 1}",
            "client": f"{chance.choice(_NAMES)} {chance.choice(('Trust', 'Estates', 'Housing'))}",
            "contractor": f"{chance.choice(_NAMES)} {chance.choice(_TRADES)} Ltd",
            "price": f"{chance.randrange(20, 900)},{chance.randrange(100, 1000)} EUR",
            "payment": str(chance.choice((14, 21, 28, 30, 45))),
            "retention": f"{chance.choice((2, 3, 5))} per cent",
            "completion": f"{chance.randrange(1, 29)} {chance.choice(_MONTHS)} 2027",
            "damages": f"{chance.randrange(2, 90) * 50} EUR",
            "defects": f"{chance.choice((6, 12, 18, 24))} months",
            "insurance": f"{chance.randrange(1, 10)} million EUR",
            "notice": f"{chance.choice((2, 4, 6, 8))} weeks",
            "disputes": chance.choice(("mediation", "adjudication", "an expert named by both")),
            "law": chance.choice(("Scotland", "Ireland", "Austria", "the Netherlands")),
        }
        name = f"contract-{number + 1:03d}.md"
        (folder / name).write_text(_TEXT.format(**values), encoding="utf-8")
        said[name] = values
    return said


def show(result: dict[str, Any]) -> None:
    """Print what was measured."""
    found: GridFigures = result["figures"]
    memory = found.memory_mb
    half = len(memory) // 2
    print(
        f"{found.n_documents} documents by {len(_QUESTIONS)} questions, language model: {result['model']}\n"
        f"{found.n_answers} answers in {found.seconds:.0f} s, {found.per_s:.2f} a second; killed {found.n_kills} times, "
        f"{found.asked_again} answers lost\n"
        f"what the contract says is in the answer: {found.right} of {found.n_answers}\n"
        f"memory of the working process: at most {max(memory[:half], default=0)} MB in the first half, "
        f"{max(memory[half:], default=0)} MB in the second"
    )


def as_json(result: dict[str, Any]) -> dict[str, Any]:
    """The result as plain values."""
    found: GridFigures = result["figures"]
    return result | {"figures": asdict(found) | {"per_s": found.per_s}}
