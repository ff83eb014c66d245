"""The program: puts the seal on before anything that reads a file is imported, then does what the command line says."""

import sys

from redlantern.safety import limits, loopback, seal


def main() -> int:
    """Run the command line; gives the exit code."""
    # Only if its owner has chosen a model server of their own on this machine's loopback; see loopback.
    loopback.start_link()
    seal.put_on()
    limits.no_core_dumps()
    from redlantern.commands.line import run

    return run(sys.argv[1:])


if __name__ == "__main__":
    sys.exit(main())
