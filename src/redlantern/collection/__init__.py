# SPDX-License-Identifier: GPL-3.0-or-later
"""The collection file: one encrypted file with the documents' text, passages, vectors, words and sheets.

`store.Collection` is what others hold: `documents`, `pages` and `vectors` over one
`file`. They are the only ones that speak SQL of documents; `upkeep/` acts on the whole.
"""
