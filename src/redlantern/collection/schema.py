# SPDX-License-Identifier: GPL-3.0-or-later
"""The tables of a collection file. A new version gets a number and a step in MIGRATIONS."""

import re

APPLICATION_ID = 0x524C414E  # "RLAN"
VERSION = 5

_PAGES = """
-- With row numbers: rows of a thousand bytes and more would each spill into a page of the file of their own without.
-- The text is compressed (zlib); before file version 3 it was kept as it is.
CREATE TABLE pages (
    document_id INTEGER NOT NULL REFERENCES documents(id) ON DELETE CASCADE,
    page_number INTEGER NOT NULL,
    width_pt REAL NOT NULL,
    height_pt REAL NOT NULL,
    text TEXT NOT NULL,
    blocks BLOB NOT NULL,
    runs BLOB NOT NULL,
    origin TEXT NOT NULL DEFAULT 'text',
    confidence REAL NOT NULL DEFAULT 1,
    warnings TEXT NOT NULL DEFAULT '[]',
    PRIMARY KEY (document_id, page_number)
);
"""

TABLES = (
    """
-- A document within another (an attachment, a message of a mailbox) names that one, and itself there; only the
-- outermost has a place on disk and a hash.
CREATE TABLE documents (
    id INTEGER PRIMARY KEY,
    sha256 TEXT UNIQUE,
    call_mark TEXT NOT NULL UNIQUE,
    title TEXT NOT NULL,
    kind TEXT NOT NULL,
    n_pages INTEGER NOT NULL,
    n_passages INTEGER NOT NULL,
    refusal TEXT NOT NULL DEFAULT '',
    language TEXT NOT NULL DEFAULT '',
    details TEXT NOT NULL DEFAULT '{}',
    notes TEXT NOT NULL DEFAULT '[]',
    container_id INTEGER REFERENCES documents(id) ON DELETE CASCADE,
    part TEXT NOT NULL DEFAULT '',
    fingerprint BLOB NOT NULL DEFAULT x'',
    n_recognised INTEGER NOT NULL DEFAULT 0,
    confidence REAL NOT NULL DEFAULT 1,
    n_unread INTEGER NOT NULL DEFAULT 0,
    n_warned INTEGER NOT NULL DEFAULT 0
);
CREATE INDEX documents_of_container ON documents(container_id);

-- Where a document lies: exact copies are one document with several sources.
CREATE TABLE sources (
    full_path TEXT PRIMARY KEY,
    root TEXT NOT NULL,
    document_id INTEGER NOT NULL REFERENCES documents(id) ON DELETE CASCADE,
    size_bytes INTEGER NOT NULL,
    mtime_ns INTEGER NOT NULL
) WITHOUT ROWID;
CREATE INDEX sources_of_document ON sources(document_id);

-- Files that were taken out on purpose: an update of their folder does not bring them back.
CREATE TABLE taken_out (full_path TEXT PRIMARY KEY) WITHOUT ROWID;

{pages}CREATE TABLE passages (
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

-- One row a document: its passages' and lines' vectors as rows of small integers, its word counts, and what all of it
-- was made with. An empty splitting or a reader of 0 is not known. Passages and words of a document in a segment are there.
CREATE TABLE indexes (
    document_id INTEGER PRIMARY KEY REFERENCES documents(id) ON DELETE CASCADE,
    embedding_model TEXT NOT NULL,
    vectors BLOB NOT NULL,
    line_vectors BLOB NOT NULL,
    words BLOB NOT NULL,
    splitting TEXT NOT NULL DEFAULT '',
    reader INTEGER NOT NULL DEFAULT 0,
    segment_id INTEGER
);

CREATE TABLE sheets (
    id INTEGER PRIMARY KEY,
    asked_at TEXT NOT NULL,
    question TEXT NOT NULL,
    sheet TEXT NOT NULL
);
"""
).replace("{pages}", _PAGES)

_UPKEEP = """
CREATE INDEX indexes_of_segment ON indexes(segment_id);

-- What finding needs of many documents together, in arrays that are opened without parsing; see segments.py.
CREATE TABLE segments (
    id INTEGER PRIMARY KEY,
    embedding_model TEXT,
    passage_ids BLOB,
    document_ids BLOB,
    page_numbers BLOB,
    n_lines BLOB,
    vectors BLOB,
    norms BLOB,
    indptr BLOB,
    term_rows BLOB,
    counts BLOB,
    lengths BLOB,
    terms BLOB,
    forms BLOB
);

-- Folders and single files that an update looks at.
CREATE TABLE followed (full_path TEXT PRIMARY KEY) WITHOUT ROWID;

-- What was done and when. `digest` covers nonce, about and words, `hash` everything but those three, so that words can be
-- erased without breaking the chain. `about` names the content of a document.
CREATE TABLE journal (
    id INTEGER PRIMARY KEY,
    at TEXT,
    what TEXT,
    words TEXT,
    about TEXT,
    nonce BLOB,
    digest TEXT,
    hash TEXT
);

-- The collection's own settings and what it remembers of itself.
CREATE TABLE facts (name TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
"""
_READ_THROUGHS = """
CREATE TABLE read_throughs (
    id INTEGER PRIMARY KEY,
    began_at TEXT NOT NULL,
    wish TEXT NOT NULL
);

-- A page that was read for one: by the content of its document, so that a changed document is read anew. `finding` holds
-- what was found and words of it, `judged` and `note` what a person said to that.
CREATE TABLE read_pages (
    through_id INTEGER,
    document_key TEXT,
    page_number INTEGER,
    state TEXT,
    certainty REAL,
    read_at TEXT,
    finding TEXT,
    judged TEXT DEFAULT '',
    note TEXT DEFAULT '',
    PRIMARY KEY (through_id, document_key, page_number)
) WITHOUT ROWID;
"""
_CELLS = """
-- An answer of a run: one question (its id) put to one lane. `figures` are what it was marked with, `words` what a person put
-- in its place, `sheet` the whole of it. Sets of questions and runs themselves are facts.
CREATE TABLE cells (
    run_id INTEGER,
    lane TEXT,
    question_id TEXT,
    answered_at TEXT,
    figures TEXT,
    words TEXT,
    sheet TEXT,
    PRIMARY KEY (run_id, lane, question_id)
) WITHOUT ROWID;
"""


def _close_set(sql: str) -> str:
    """Statements without comments and without blanks that say nothing.

    A file keeps its statements as they are written. Close set they all fit its first page: a damage anywhere else then
    leaves a file that opens, of which the rest can be kept.
    """
    bare = re.sub(r"\s+", " ", re.sub(r"--[^\n]*\n", "\n", sql))
    return re.sub(r"\s*([(),;])\s*", r"\1", bare)


TABLES = _close_set(TABLES + _UPKEEP + _READ_THROUGHS + _CELLS)

MIGRATIONS = {
    2: """
ALTER TABLE documents ADD COLUMN language TEXT NOT NULL DEFAULT '';
ALTER TABLE documents ADD COLUMN details TEXT NOT NULL DEFAULT '{}';
ALTER TABLE documents ADD COLUMN notes TEXT NOT NULL DEFAULT '[]';
ALTER TABLE documents ADD COLUMN container_id INTEGER REFERENCES documents(id) ON DELETE CASCADE;
ALTER TABLE documents ADD COLUMN part TEXT NOT NULL DEFAULT '';
CREATE INDEX documents_of_container ON documents(container_id);
CREATE TABLE taken_out (full_path TEXT PRIMARY KEY) WITHOUT ROWID;
ALTER TABLE pages ADD COLUMN origin TEXT NOT NULL DEFAULT 'text';
ALTER TABLE pages ADD COLUMN confidence REAL NOT NULL DEFAULT 1;
ALTER TABLE pages ADD COLUMN warnings TEXT NOT NULL DEFAULT '[]';
""",
    # A file that was added alone had its folder for a root: only a root with more than one file is followed as a folder.
    3: """
ALTER TABLE documents ADD COLUMN fingerprint BLOB NOT NULL DEFAULT x'';
ALTER TABLE indexes ADD COLUMN splitting TEXT NOT NULL DEFAULT '';
ALTER TABLE indexes ADD COLUMN reader INTEGER NOT NULL DEFAULT 0;
ALTER TABLE indexes ADD COLUMN segment_id INTEGER;
ALTER TABLE documents ADD COLUMN n_recognised INTEGER NOT NULL DEFAULT 0;
ALTER TABLE documents ADD COLUMN confidence REAL NOT NULL DEFAULT 1;
ALTER TABLE documents ADD COLUMN n_unread INTEGER NOT NULL DEFAULT 0;
ALTER TABLE documents ADD COLUMN n_warned INTEGER NOT NULL DEFAULT 0;
UPDATE documents SET
    n_recognised = (SELECT count(*) FROM pages p WHERE p.document_id = documents.id AND p.origin = 'recognised'),
    confidence = coalesce((SELECT avg(p.confidence) FROM pages p
        WHERE p.document_id = documents.id AND p.origin = 'recognised'), 1),
    n_unread = (SELECT count(*) FROM pages p
        WHERE p.document_id = documents.id AND p.origin = 'none' AND p.warnings != '[]'),
    n_warned = (SELECT count(*) FROM pages p WHERE p.document_id = documents.id AND p.warnings != '[]');
"""
    + "ALTER TABLE pages RENAME TO pages_before;"
    + _PAGES
    + "INSERT INTO pages SELECT * FROM pages_before; DROP TABLE pages_before;"
    + _UPKEEP
    + """
INSERT INTO followed SELECT CASE count(*) WHEN 1 THEN full_path ELSE root END FROM sources GROUP BY root;
""",
    4: _READ_THROUGHS,
    5: _CELLS,
}
"""What brings a collection of the version before to this one."""
