# SPDX-License-Identifier: GPL-3.0-or-later
"""A rendered brief in each format: a module for each, and `forms` to choose by an ending."""
