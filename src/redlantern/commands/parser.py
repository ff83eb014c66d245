# SPDX-License-Identifier: GPL-3.0-or-later
"""What the command line understands."""

import argparse
from pathlib import Path
from typing import Any

from redlantern import __version__
from redlantern.safety import seal
from redlantern.safety.keys import Holding

WAYS = ("lines", "read", "all")
"""As in readthrough.values, which would load what reads documents before the seal is on."""


def make_parser() -> argparse.ArgumentParser:
    """Build the parser of all commands."""
    parser = argparse.ArgumentParser(
        prog="redlantern",
        description="Reads a private collection of documents on this machine and answers questions with cited passages. "
        "Without a command, opens the window.",
    )
    parser.add_argument("--version", action="version", version=f"redlantern {__version__}")
    # Looked at before anything else is loaded, in __main__; here only so that it is explained.
    parser.add_argument(
        seal.UNSEALED, action="store_true",
        help="as the first word: start although the kernel cannot be asked to refuse the network; no document is read then",
    )  # fmt: skip
    commands = parser.add_subparsers(dest="command", metavar="COMMAND")

    _making(commands)
    _asking(commands)
    _trying(commands)
    _reading(commands)
    _keeping(commands)
    return parser


def _making(commands: Any) -> None:
    """Commands that open the window, and make a collection or bring it up to date."""
    command = commands.add_parser("open", help="open the window on a collection, or on files and folders to be read")
    command.add_argument("paths", type=Path, nargs="*", metavar="PATH")

    command = commands.add_parser("demo", help="build the demo collection and open the window on it")
    command.add_argument("--picture", type=Path, help="without a display: where to write the picture of the window")

    command = _on_collection(
        commands, "index", "make a collection from files and folders, or bring it up to date with them"
    )
    command.add_argument("paths", type=Path, nargs="+", metavar="PATH")
    command.add_argument("--json", action="store_true", help="print the summary as JSON")
    command.add_argument(
        "--key", type=Holding, choices=list(Holding), default=Holding.FILE,
        help="how a new collection's key is held: by a passphrase, by the login's secret store, or in a file of this login",
    )  # fmt: skip
    _new_passphrase(command)

    command = _on_collection(commands, "update", "bring a collection up to date with the folders it follows")
    command.add_argument(
        "--plan", action="store_true", help="only say what an update would do, and how long it would take"
    )
    command.add_argument("--json", action="store_true", help="print the summary or plan as JSON")


def _asking(commands: Any) -> None:
    """Commands that ask."""
    command = _on_collection(commands, "ask", "ask one question")
    command.add_argument("question")
    command.add_argument("--json", action="store_true", help="print the sheet as JSON (docs/sheet-json.md)")
    _answering(command)
    command.add_argument(
        "--scope", metavar="GLOB", help="only documents whose path, name or call-mark fits, such as 'letters/*'"
    )
    command.add_argument(
        "--also", type=Path, action="append", default=[], metavar="COLLECTION", help="ask this one, too"
    )

    command = _on_collection(commands, "batch", "ask every question of a file; goes on where it was interrupted")
    command.add_argument(
        "questions", type=Path, metavar="QUESTIONS",
        help="a JSONL file; with --each-document also CSV, a workbook (.xlsx), or one question a line",
    )  # fmt: skip
    command.add_argument("results", type=Path, metavar="RESULTS")
    command.add_argument(
        "--each-document", action="store_true",
        help="put each question to each document alone; RESULTS is then a grid (.xlsx, .csv, .html or .json)",
    )  # fmt: skip
    command.add_argument(
        "--scope", metavar="GLOB", help="with --each-document, only documents whose path, name or call-mark fits"
    )
    _answering(command)

    command = _on_collection(commands, "read-through", "put one question to every page, and say what was covered")
    command.add_argument("question")
    command.add_argument(
        "--how", choices=WAYS, default="lines",
        help="by lines, without a language model; read: with one, but for certainly silent pages; all: with one, every page",
    )  # fmt: skip
    command.add_argument("--counts", default="", metavar="WORDS", help="what counts as a hit, in own words")
    command.add_argument("--scope", metavar="GLOB", help="only documents whose path, name or call-mark fits")
    command.add_argument(
        "--resume", action="store_true", help="go on with the last one that asked the same in the same way"
    )
    command.add_argument("--statement", action="store_true", help="print the statement of what was covered as well")
    command.add_argument("--json", action="store_true", help="print the result as JSON (docs/read-through.md)")
    command.add_argument(
        "--model",
        type=Path,
        metavar="MODEL",
        help="the language model: close or light for a packaged reader, or a GGUF file",
    )


def _trying(commands: Any) -> None:
    """Commands that run questions with known answers, and compare."""
    trials = commands.add_parser(
        "trials", help="run sets of questions with known answers, and compare ways of answering"
    )
    steps = trials.add_subparsers(dest="step", metavar="STEP", required=True)

    step = _on_collection(steps, "run", "ask every question of a set in one or more ways, and print the figures")
    step.add_argument("--set", metavar="NAME", help="a set that the collection keeps")
    step.add_argument(
        "--questions", type=Path, metavar="FILE",
        help="take the set from a file (.jsonl, .csv, .xlsx, or one question a line) and keep it",
    )  # fmt: skip
    step.add_argument(
        "--way", action="append", default=[], metavar="WAY",
        help="a way of answering, more than once to compare: own, close, light, none (found lines), memory (no documents), and "
        "after commas settings, as in none,reranked=0",
    )  # fmt: skip
    step.add_argument("--resume", action="store_true", help="go on with the last run of this set that is not done")
    step.add_argument("--json", action="store_true", help="print the result as JSON (docs/trials.md)")

    step = _on_collection(steps, "list", "list the sets of questions and the runs that the collection keeps")
    step.add_argument("--json", action="store_true", help="as JSON")

    step = _on_collection(steps, "compare", "print what to conclude from a run with two ways, and question by question")
    step.add_argument("--run", type=int, metavar="NUMBER", help="its number, as listed; without it the last one")
    step.add_argument("--json", action="store_true", help="as JSON")


def _reading(commands: Any) -> None:
    """Commands that look at what a collection holds."""
    command = _on_collection(commands, "text", "write what was read as Markdown, one file a document")
    command.add_argument("folder", type=Path)

    command = _on_collection(commands, "tables", "write every table that was read, one file a table")
    command.add_argument("folder", type=Path)
    command.add_argument(
        "--form", choices=["csv", "xlsx"], default="csv", help="as printed (csv), or a workbook with types (xlsx)"
    )

    _on_collection(commands, "check", "verify a collection file, and name the documents that a damage touches")
    _on_collection(commands, "mend", "make a whole collection of what can still be read of a damaged one")


def _keeping(commands: Any) -> None:
    """Commands that keep, move and erase."""
    command = _on_collection(
        commands, "journal", "print what was done with a collection and when, and whether the chain holds"
    )
    command.add_argument("--json", action="store_true", help="one JSON object a line")

    command = _on_collection(commands, "backup", "write a copy of a collection, also while it is in use")
    command.add_argument("file", type=Path, metavar="FILE")
    command.add_argument("--lock", action="store_true", help="lock the copy with a passphrase of its own")
    _new_passphrase(command)

    command = _on_collection(commands, "key", "change how the key is held; everything is encrypted anew")
    command.add_argument("holding", type=Holding, choices=list(Holding))
    _new_passphrase(command)

    command = _on_collection(commands, "move", "give a collection another name or place")
    command.add_argument("target", type=Path)

    command = commands.add_parser("erase", help="erase documents, a collection or everything; says first what goes")
    command.add_argument("collection", type=Path, nargs="?")
    command.add_argument("--scope", metavar="GLOB", help="only documents whose path, name or call-mark fits")
    command.add_argument("--everything", action="store_true", help="all collections, keys and settings of this login")
    command.add_argument("--yes", action="store_true", help="do not ask")
    _passphrase(command)

    command = commands.add_parser(
        "verify",
        help="check an exported brief against the documents: that each cited word stands on its page, in that very file",
    )
    command.add_argument(
        "export", type=Path, metavar="EXPORT", help="the exported brief, or its citations (.citations.json)"
    )
    command.add_argument("folder", type=Path, metavar="FOLDER", help="where the documents are")
    command.add_argument("--json", action="store_true", help="as JSON")

    models = commands.add_parser("models", help="list the packaged models, or add them from a folder")
    steps = models.add_subparsers(dest="step", metavar="STEP", required=True)
    step = steps.add_parser("list", help="say which of them are here, and where")
    step.add_argument("--json", action="store_true", help="as JSON")
    step = steps.add_parser(
        "add", help="put in place what is missing, from a folder made by ./run bundle; hashes are checked"
    )
    step.add_argument("folder", type=Path, metavar="FOLDER")

    command = commands.add_parser(
        "seal-test", help="let every process of the program try to get out, and show what the kernel said"
    )
    command.add_argument("--json", action="store_true", help="print the tables as JSON")


def _answering(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--lines-only", action="store_true", help="found lines only, no written answer")
    parser.add_argument(
        "--model",
        type=Path,
        metavar="MODEL",
        help="the language model: close or light for one of the packaged readers, or a GGUF file",
    )


def _on_collection(commands: Any, name: str, words: str) -> argparse.ArgumentParser:
    """Add a command that works on one collection."""
    command: argparse.ArgumentParser = commands.add_parser(name, help=words)
    command.add_argument("collection", type=Path)
    _passphrase(command)
    return command


def _passphrase(parser: argparse.ArgumentParser) -> None:
    parser.add_argument(
        "--passphrase-from",
        metavar="FILE",
        help="read the passphrase from a file's first line, or from standard input for -",
    )


def _new_passphrase(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--new-passphrase-from", metavar="FILE", help="the same for a passphrase that is set now")
