"""The collection file: one encrypted file with the documents' text, passages, vectors, words and sheets.

`file` makes and opens it, `store` is the only place that speaks SQL about
documents, `update` brings it up to date with folders, `check` verifies it.
"""
