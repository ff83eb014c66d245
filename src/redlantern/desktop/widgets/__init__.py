# SPDX-License-Identifier: GPL-3.0-or-later
"""Widgets, pictures and styles that more than one room uses. None of them knows a room."""
