# SPDX-License-Identifier: GPL-3.0-or-later
"""Whether the documents bear a claim out: by its words, its numbers, who did what, negation and strength."""
