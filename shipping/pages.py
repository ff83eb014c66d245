# SPDX-License-Identifier: GPL-3.0-or-later
"""Makes the man page and the completion of the shell from the parser: `python -m shipping.pages`.

Both are kept in this folder, so that installing needs neither of the packages that make them.
"""

import argparse
import re
import sys
from pathlib import Path

from redlantern import __version__
from redlantern.commands.parser import make_parser

HERE = Path(__file__).parent
_ENDING = re.compile(r"^\.(?=(?:csv|html|jsonl?|xlsx|gguf)\b)", re.MULTILINE)
MAN_PAGE, COMPLETION = HERE / "redlantern.1", HERE / "redlantern.bash"


def man_page() -> str:
    """The man page, in the language of man (man(7))."""
    from build_manpages.manpage import Manpage

    parser = make_parser()
    parser.man_short_description = "asks a private collection of documents, offline"  # type: ignore[attr-defined]
    page = Manpage(parser)
    page.date = "2026"
    page.version = __version__
    page.source = f"redlantern {__version__}"
    page.manual = "Red Lantern"
    # A line that begins with an ending of a file name would be taken for a command of the page's language.
    return _ENDING.sub(r"\\&.", str(page))


def completion() -> str:
    """The completion for bash: commands and options, and the names of files where files are wanted."""
    import shtab

    parser = make_parser()
    for each in _all_of(parser):
        for action in each._actions:
            if action.type is Path and not action.choices:
                action.complete = shtab.FILE  # type: ignore[attr-defined]
    return str(shtab.complete(parser, shell="bash"))


def _all_of(parser: argparse.ArgumentParser) -> list[argparse.ArgumentParser]:
    within = [
        inner
        for action in parser._actions
        if isinstance(action, argparse._SubParsersAction)
        for each in action.choices.values()
        for inner in _all_of(each)
    ]
    return [parser, *within]


def main() -> int:
    """Write both."""
    MAN_PAGE.write_text(man_page(), encoding="utf-8")
    COMPLETION.write_text(completion(), encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
