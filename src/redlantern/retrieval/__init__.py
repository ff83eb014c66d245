# SPDX-License-Identifier: GPL-3.0-or-later
"""Finds passages: lexically (BM25F over stems), by dense vectors, and by both fused and reranked.

`index` holds a loaded collection and ranks, `hybrid` takes a question through all
steps, `explain` says why a passage stands where it stands.
"""
