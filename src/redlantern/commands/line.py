# SPDX-License-Identifier: GPL-3.0-or-later
"""Reads the command line and runs one command; exit code 0 done, 1 not done, 2 wrong use."""

import argparse
import errno
import os
import sys
from collections.abc import Sequence

from redlantern.commands.parser import make_parser
from redlantern.errors import RedlanternError, UsageError
from redlantern.progress import Cancelled
from redlantern.safety.failures import something_went_wrong
from redlantern.safety.keys import Holding
from redlantern.safety.names import visible_lines

EXIT_DONE, EXIT_FAILED, EXIT_USAGE, EXIT_STOPPED = 0, 1, 2, 130


def run(words: Sequence[str]) -> int:
    """Run the command that the words say; gives the exit code."""
    arguments = make_parser().parse_args(words)
    try:
        code = _dispatch(arguments)
        sys.stdout.flush()
        return code
    except BrokenPipeError:
        # Whoever read what is printed has gone (`redlantern ask ... | head`). The signal for that stays ignored: it would end
        # the program as well when a model or a reader of ours goes away, which is told and survived where it happens.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return EXIT_FAILED
    except UsageError as failure:
        print(f"redlantern: {visible_lines(str(failure))}", file=sys.stderr)
        return EXIT_USAGE
    except RedlanternError as failure:
        print(f"redlantern: {visible_lines(str(failure))}", file=sys.stderr)
        return EXIT_FAILED
    except (KeyboardInterrupt, Cancelled):
        print("redlantern: stopped; everything finished before is kept", file=sys.stderr)
        return EXIT_STOPPED
    except Exception as failure:  # the outer edge: a bug of ours must not show as a bare trace
        if isinstance(failure, OSError) and failure.errno in (errno.ENOSPC, errno.EDQUOT):
            # What is printed, or written beside a collection, did not find room.
            print(
                "redlantern: The disk is full. Everything finished before is kept; make room, then try again.",
                file=sys.stderr,
            )
            return EXIT_FAILED
        print(f"redlantern: {something_went_wrong(failure)}", file=sys.stderr)
        return EXIT_FAILED


def _dispatch(given: argparse.Namespace) -> int:
    # Each command is imported only when it is run: the headless ones never load Qt.
    source = getattr(given, "passphrase_from", None)
    match given.command:
        case None | "open":
            from redlantern.commands import window

            return window.open_window(getattr(given, "paths", []))
        case "demo":
            from redlantern.commands import demo

            return demo.demo(given.picture)
        case "index":
            from redlantern.application.opening import NewKey
            from redlantern.commands import index
            from redlantern.commands.unlock import new_passphrase

            is_locked = given.key is Holding.PASSPHRASE and not given.collection.exists()
            new_key = NewKey(given.key, new_passphrase(given.new_passphrase_from) if is_locked else "")
            return index.index(
                given.collection, given.paths, as_json=given.json, new_key=new_key, passphrase_source=source
            )
        case "update":
            from redlantern.commands import update

            return update.update(given.collection, only_plan=given.plan, as_json=given.json, passphrase_source=source)
    return _ask(given, source)


def _ask(given: argparse.Namespace, source: str | None) -> int:
    """The commands that ask."""
    match given.command:
        case "ask":
            from redlantern.commands import ask

            return ask.ask(
                given.collection, given.question, as_json=given.json, lines_only=given.lines_only, scope=given.scope,
                model=given.model, passphrase_source=source, also=given.also,
            )  # fmt: skip
        case "batch":
            from redlantern.commands import batch

            if given.each_document:
                from redlantern.commands import grid

                return grid.grid(
                    given.collection, given.questions, given.results, scope=given.scope, lines_only=given.lines_only,
                    model=given.model, passphrase_source=source,
                )  # fmt: skip
            return batch.batch(
                given.collection, given.questions, given.results, lines_only=given.lines_only, model=given.model,
                passphrase_source=source,
            )  # fmt: skip
        case "read-through":
            from redlantern.commands import read_through

            choices = read_through.Choices(
                given.how, given.counts, given.scope, given.resume, given.json, given.statement
            )
            return read_through.read_through(
                given.collection, given.question, choices, model=given.model, passphrase_source=source
            )
        case "trials":
            return _try(given, source)
    return _look(given, source)


def _try(given: argparse.Namespace, source: str | None) -> int:
    """The steps of trials."""
    from redlantern.commands import trials

    match given.step:
        case "run":
            wish = trials.RunWish(given.set, given.questions, tuple(given.way), given.resume, given.json)
            return trials.run(given.collection, wish, passphrase_source=source)
        case "list":
            return trials.list_kept(given.collection, as_json=given.json, passphrase_source=source)
    return trials.compare(given.collection, given.run, as_json=given.json, passphrase_source=source)


def _look(given: argparse.Namespace, source: str | None) -> int:
    """The commands that write out what was read, and the one that tries the seal."""
    match given.command:
        case "text":
            from redlantern.commands import text

            return text.text(given.collection, given.folder, passphrase_source=source)
        case "tables":
            from redlantern.commands import tables

            return tables.tables(given.collection, given.folder, form=given.form, passphrase_source=source)
        case "verify":
            from redlantern.commands import verify

            return verify.verify_export(given.export, given.folder, as_json=given.json)
        case "models":
            from redlantern.commands import models

            return models.add(given.folder) if given.step == "add" else models.list_models(as_json=given.json)
        case "seal-test":
            from redlantern.commands import sealtest

            return sealtest.seal_test(as_json=given.json)
    return _keep(given, source)


def _keep(given: argparse.Namespace, source: str | None) -> int:
    """The commands that look after a collection."""
    match given.command:
        case "check":
            from redlantern.commands import check

            return check.check(given.collection, passphrase_source=source)
        case "mend":
            from redlantern.commands import mend

            return mend.mend(given.collection, passphrase_source=source)
        case "journal":
            from redlantern.commands import journal

            return journal.journal(given.collection, as_json=given.json, passphrase_source=source)
        case "backup":
            from redlantern.commands import backup

            return backup.backup(
                given.collection, given.file, locks_anew=given.lock, passphrase_source=source,
                new_source=given.new_passphrase_from,
            )  # fmt: skip
        case "key":
            from redlantern.commands import key

            return key.key(
                given.collection, given.holding, passphrase_source=source, new_source=given.new_passphrase_from
            )
        case "move":
            from redlantern.commands import move

            return move.move(given.collection, given.target, passphrase_source=source)
        case "erase":
            from redlantern.commands import erase

            return erase.erase(
                given.collection, scope=given.scope, is_everything=given.everything, is_sure=given.yes,
                passphrase_source=source,
            )  # fmt: skip
    raise UsageError(f"there is no command {given.command}")
