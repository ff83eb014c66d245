"""The tables of a collection file. A new version gets a number and a step in MIGRATIONS."""

APPLICATION_ID = 0x524C414E  # "RLAN"
VERSION = 1

TABLES = """
CREATE TABLE documents (
    id INTEGER PRIMARY KEY,
    sha256 TEXT UNIQUE,
    call_mark TEXT NOT NULL UNIQUE,
    title TEXT NOT NULL,
    kind TEXT NOT NULL,
    n_pages INTEGER NOT NULL,
    n_passages INTEGER NOT NULL,
    refusal TEXT NOT NULL DEFAULT ''
);

-- Where a document lies: exact copies are one document with several sources.
CREATE TABLE sources (
    full_path TEXT PRIMARY KEY,
    root TEXT NOT NULL,
    document_id INTEGER NOT NULL REFERENCES documents(id) ON DELETE CASCADE,
    size_bytes INTEGER NOT NULL,
    mtime_ns INTEGER NOT NULL
) WITHOUT ROWID;
CREATE INDEX sources_of_document ON sources(document_id);

CREATE TABLE pages (
    document_id INTEGER NOT NULL REFERENCES documents(id) ON DELETE CASCADE,
    page_number INTEGER NOT NULL,
    width_pt REAL NOT NULL,
    height_pt REAL NOT NULL,
    text TEXT NOT NULL,
    blocks BLOB NOT NULL,
    runs BLOB NOT NULL,
    PRIMARY KEY (document_id, page_number)
) WITHOUT ROWID;

CREATE TABLE passages (
    id INTEGER PRIMARY KEY,
    document_id INTEGER NOT NULL REFERENCES documents(id) ON DELETE CASCADE,
    page_number INTEGER NOT NULL,
    start INTEGER NOT NULL,
    "end" INTEGER NOT NULL,
    heading TEXT NOT NULL,
    n_tokens INTEGER NOT NULL,
    lines BLOB NOT NULL
);
CREATE INDEX passages_of_document ON passages(document_id);

-- One row a document: its passages' and lines' vectors as rows of small integers, and its word counts.
CREATE TABLE indexes (
    document_id INTEGER PRIMARY KEY REFERENCES documents(id) ON DELETE CASCADE,
    embedding_model TEXT NOT NULL,
    vectors BLOB NOT NULL,
    line_vectors BLOB NOT NULL,
    words BLOB NOT NULL
);

CREATE TABLE sheets (
    id INTEGER PRIMARY KEY,
    asked_at TEXT NOT NULL,
    question TEXT NOT NULL,
    sheet TEXT NOT NULL
);
"""
