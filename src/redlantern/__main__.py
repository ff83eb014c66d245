"""The program: puts the seal on before anything else is imported, then does what the command line says."""

import sys

from redlantern.safety import limits, seal


def main() -> int:
    """Run the command line; gives the exit code."""
    seal.put_on()
    limits.no_core_dumps()
    from redlantern.commands.line import run

    return run(sys.argv[1:])


if __name__ == "__main__":
    sys.exit(main())
