"""`redlantern seal-test`: tries to reach a network in several ways and prints what became of each."""

from redlantern.safety import seal
from redlantern.safety.wayout import try_all


def seal_test() -> int:
    """Print the table; exit code 1 if any way is open."""
    state = seal.state()
    ways = try_all()
    width = max(len(way.name) for way in ways)
    for way in ways:
        print(f"  {'closed' if way.is_closed else 'OPEN':7} {way.name:{width}}  {way.said}")
    n_open = sum(not way.is_closed for way in ways)
    if n_open:
        reason = f" {state.reason}" if state.reason else ""
        print(f"{n_open} of {len(ways)} ways out are open. This machine does not keep the seal.{reason}")
        return 1
    print(f"All {len(ways)} ways out are closed: neither this process nor anything it starts can reach a network.")
    return 0
