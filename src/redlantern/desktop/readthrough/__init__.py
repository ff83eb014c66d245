# SPDX-License-Identifier: GPL-3.0-or-later
"""The room Read-through: one question put to every page, its map, its hits, and the statement of what was covered."""
