# SPDX-License-Identifier: GPL-3.0-or-later
"""`redlantern tables`: writes every table that was read as a file of its own, as CSV or as a workbook with types."""

from collections.abc import Callable
from pathlib import Path

from redlantern.application.exporting import put_exported
from redlantern.commands.shared import plain
from redlantern.commands.text import inner_paths
from redlantern.commands.unlock import open_collection
from redlantern.reckoning.source import TableSource
from redlantern.reckoning.tables import Table
from redlantern.reckoning.written import as_csv, as_workbook
from redlantern.text.listing import counted


def tables(path: Path, folder: Path, *, form: str, passphrase_source: str | None) -> int:
    """Write every table of every readable document to `folder`, for this login alone: `<file name>, table N.csv` or `.xlsx`."""
    write: Callable[[Table], bytes] = as_csv if form == "csv" else as_workbook
    collection = open_collection(path, passphrase_source)
    n_tables = 0
    try:
        documents = [document for document in collection.documents() if document.n_pages]
        source = TableSource({document.document_id: document for document in documents}, collection.pages)
        for document, place in zip(documents, inner_paths(documents, ""), strict=True):
            for table in source.tables(document.document_id):
                put_exported(folder / place.with_name(f"{place.name}, table {table.number}.{form}"), write(table))
                n_tables += 1
        if not collection.is_read_only:
            collection.journal.note(
                "exported", f"{counted(n_tables, 'table')} of {len(documents)} documents to {folder}"
            )
    finally:
        collection.close()
    print(f"{counted(n_tables, 'table')} written to {plain(str(folder))}")
    return 0
