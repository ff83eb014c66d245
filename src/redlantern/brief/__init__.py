# SPDX-License-Identifier: GPL-3.0-or-later
"""A brief: what was found, gathered and ordered, with own words between, so that a colleague can check every quoted word.

Nothing that is gathered loses its words, document, hash, page and place.
"""
