# SPDX-License-Identifier: GPL-3.0-or-later
"""Measurements, each a command that prints a table: `python -m bench NAME`."""
