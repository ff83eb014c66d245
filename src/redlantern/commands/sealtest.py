"""`redlantern seal-test`: tries to reach a network in several ways, and lists every process with its filter."""

import contextlib
import json

from redlantern.errors import RedlanternError
from redlantern.models.language import HostedModel
from redlantern.reading.pool import ReaderPool
from redlantern.safety import loopback, seal
from redlantern.safety.processes import ProcessState, household
from redlantern.safety.wayout import WayOut, try_all


def seal_test(*, as_json: bool) -> int:
    """Print both tables; exit code 1 if any way is open or a process runs without its filter."""
    ways, processes = try_all(), _with_children()
    n_open = sum(not way.is_closed for way in ways)
    is_kept = not n_open and all(one.is_filtered for one in processes)
    link = loopback.link()
    if as_json:
        form = {
            "sealed": is_kept,
            "ways_out": [{"name": one.name, "closed": one.is_closed, "kernel_said": one.said} for one in ways],
            "processes": [one.as_json() for one in processes],
            "model_server": link.server.address if link is not None else None,
        }
        print(json.dumps(form, ensure_ascii=False))
        return 0 if is_kept else 1
    _print_ways(ways)
    print()
    _print_processes(processes)
    print()
    if not is_kept:
        reason = f" {seal.state().reason}" if seal.state().reason else ""
        print(f"{n_open} of {len(ways)} ways out are open. This machine does not keep the seal.{reason}")
        return 1
    print(f"All {len(ways)} ways out are closed: neither this process nor anything it starts can reach a network.")
    if link is not None:
        print(
            f"One exception, by its owner's choice: the model link may speak to {link.server.address} on this machine."
        )
    return 0


def _with_children() -> list[ProcessState]:
    """The processes as they are while files are read and an answer is written."""
    readers, model = ReaderPool(1), HostedModel()
    try:
        readers.start()
        # Without the packaged model there is no such process to list.
        with contextlib.suppress(RedlanternError):
            model.start()
        return household()
    finally:
        readers.close()
        model.close()


def _print_ways(ways: list[WayOut]) -> None:
    width = max(len(way.name) for way in ways)
    for way in ways:
        print(f"  {'closed' if way.is_closed else 'OPEN':7} {way.name:{width}}  {way.said}")


def _print_processes(processes: list[ProcessState]) -> None:
    print("  process            filter                holds")
    for one in processes:
        print(f"  {one.role:18} {one.filter_words:21} {one.holds}")
