# SPDX-License-Identifier: GPL-3.0-or-later
"""The program: puts the seal on before anything that reads a file is imported, then does what the command line says."""

import os
import sys

# Before any word is made: the window speaks as the desktop does, the command line English, for scripts read it.
if not {"open", "demo"} & set(sys.argv[1:3]):
    os.environ.setdefault("REDLANTERN_LANGUAGE", "en")

from redlantern.safety import limits, loopback, seal

EXIT_UNSEALED = 3


def main() -> int:
    """Run the command line; gives the exit code."""
    words = sys.argv[1:]
    is_told_to_go_on = words[:1] == [seal.UNSEALED]
    # Only if its owner has chosen a model server of their own on this machine's loopback; see loopback.
    link = loopback.start_link()
    state = seal.put_on()
    if not state.is_on and not is_told_to_go_on:
        if link is not None:
            link.close()
        print(
            f"redlantern: The seal cannot be put on, so nothing was opened. {state.reason} To go on without it, at your own "
            f"risk: redlantern {seal.UNSEALED} ...",
            file=sys.stderr,
        )
        return EXIT_UNSEALED
    limits.no_core_dumps()
    from redlantern.commands.line import run

    return run(words[1:] if is_told_to_go_on else words)


if __name__ == "__main__":
    sys.exit(main())
