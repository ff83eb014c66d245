# SPDX-License-Identifier: GPL-3.0-or-later
"""The trials room: sets of questions with known answers, run in several ways and compared; and grids of questions by documents."""
