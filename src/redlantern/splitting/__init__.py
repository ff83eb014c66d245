# SPDX-License-Identifier: GPL-3.0-or-later
"""Pages to passages and lines, within the token limit of the embedding model.

`lines` cuts a block into sentences, items and rows; `passages` gathers
neighbouring lines under one heading.
"""
