"""Reads the command line and runs one command; exit code 0 done, 1 not done, 2 wrong use."""

import argparse
import logging
import signal
import sys
from collections.abc import Sequence
from pathlib import Path

from redlantern import __version__
from redlantern.errors import RedlanternError, UsageError
from redlantern.progress import Cancelled

EXIT_DONE, EXIT_FAILED, EXIT_USAGE, EXIT_STOPPED = 0, 1, 2, 130


def run(words: Sequence[str]) -> int:
    """Run the command that the words say; gives the exit code."""
    arguments = _parser().parse_args(words)
    signal.signal(signal.SIGPIPE, signal.SIG_DFL)
    try:
        return _dispatch(arguments)
    except UsageError as failure:
        print(f"redlantern: {failure}", file=sys.stderr)
        return EXIT_USAGE
    except RedlanternError as failure:
        print(f"redlantern: {failure}", file=sys.stderr)
        return EXIT_FAILED
    except (KeyboardInterrupt, Cancelled):
        print("redlantern: stopped; everything finished before is kept", file=sys.stderr)
        return EXIT_STOPPED
    except Exception as failure:  # the outer edge: a bug of ours must not show as a bare trace
        # The type alone: the text of an exception may hold words of a document.
        logging.getLogger(__name__).debug("bug", exc_info=True)
        print(
            f"redlantern: Something went wrong in redlantern ({type(failure).__name__}). Nothing was lost; please report it.",
            file=sys.stderr,
        )
        return EXIT_FAILED


def _dispatch(arguments: argparse.Namespace) -> int:
    # Each command is imported only when it is run: the headless ones never load Qt.
    match arguments.command:
        case None | "open":
            from redlantern.commands import window

            return window.open_window(getattr(arguments, "collection", None))
        case "demo":
            from redlantern.commands import demo

            return demo.demo(arguments.picture)
        case "index":
            from redlantern.commands import index

            return index.index(arguments.collection, arguments.paths, as_json=arguments.json)
        case "ask":
            from redlantern.commands import ask

            return ask.ask(
                arguments.collection,
                arguments.question,
                as_json=arguments.json,
                lines_only=arguments.lines_only,
                scope=arguments.scope,
                model=arguments.model,
            )
        case "batch":
            from redlantern.commands import batch

            return batch.batch(
                arguments.collection,
                arguments.questions,
                arguments.results,
                lines_only=arguments.lines_only,
                model=arguments.model,
            )
        case "text":
            from redlantern.commands import text

            return text.text(arguments.collection, arguments.folder)
        case "check":
            from redlantern.commands import check

            return check.check(arguments.collection)
        case "seal-test":
            from redlantern.commands import sealtest

            return sealtest.seal_test(as_json=arguments.json)
    raise UsageError(f"there is no command {arguments.command}")


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="redlantern",
        description="Reads a private collection of documents on this machine and answers questions with cited passages. "
        "Without a command, opens the window.",
    )
    parser.add_argument("--version", action="version", version=f"redlantern {__version__}")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND")

    one = commands.add_parser("open", help="open the window on a collection")
    one.add_argument("collection", type=Path)

    one = commands.add_parser("demo", help="build the demo collection and open the window on it")
    one.add_argument("--picture", type=Path, help="without a display: where to write the picture of the window")

    one = commands.add_parser("index", help="make a collection from files and folders, or bring it up to date")
    one.add_argument("collection", type=Path)
    one.add_argument("paths", type=Path, nargs="+", metavar="PATH")
    one.add_argument("--json", action="store_true", help="print the summary as JSON")

    one = commands.add_parser("ask", help="ask one question")
    one.add_argument("collection", type=Path)
    one.add_argument("question")
    one.add_argument("--json", action="store_true", help="print the sheet as JSON (docs/sheet-json.md)")
    _answering(one)
    one.add_argument(
        "--scope", metavar="GLOB", help="only documents whose path, name or call-mark fits, such as 'letters/*'"
    )

    one = commands.add_parser("batch", help="ask every question of a JSONL file; goes on where it was interrupted")
    one.add_argument("collection", type=Path)
    one.add_argument("questions", type=Path, metavar="QUESTIONS.jsonl")
    one.add_argument("results", type=Path, metavar="RESULTS.jsonl")
    _answering(one)

    one = commands.add_parser("text", help="write what was read as Markdown, one file a document")
    one.add_argument("collection", type=Path)
    one.add_argument("folder", type=Path)

    one = commands.add_parser("check", help="verify a collection file")
    one.add_argument("collection", type=Path)

    one = commands.add_parser("seal-test", help="try to reach a network in several ways, and show that none works")
    one.add_argument("--json", action="store_true", help="print the tables as JSON")
    return parser


def _answering(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--lines-only", action="store_true", help="found lines only, no written answer")
    parser.add_argument(
        "--model", type=Path, metavar="FILE", help="a GGUF language model to use instead of the packaged one"
    )
