# SPDX-License-Identifier: GPL-3.0-or-later
"""Tests of how our own weights are made."""
