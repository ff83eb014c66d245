"""Finds passages: by words (BM25 over stems), by meaning (vectors), and by both fused.

`analysis` makes stems of text, `words` scores by them, `index` holds a loaded
collection and ranks, `spelling` mends a question's misspelt words.
"""
