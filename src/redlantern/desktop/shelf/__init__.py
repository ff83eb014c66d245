# SPDX-License-Identifier: GPL-3.0-or-later
"""The shelf: add, update and leave out documents; what was read from each page and how it was split."""
