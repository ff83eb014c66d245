# SPDX-License-Identifier: GPL-3.0-or-later
"""Questions with known answers: asked in several ways, marked, and compared, with how sure that is.

The project's own figures (bench/) and those of a collection's owner come from here; so do grids, where the same
questions are put to each of many documents.
"""
