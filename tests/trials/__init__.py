# SPDX-License-Identifier: GPL-3.0-or-later
"""Tests of the measures."""
