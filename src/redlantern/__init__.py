# SPDX-License-Identifier: GPL-3.0-or-later
"""Red Lantern: reads a private collection of documents on one machine and answers questions with cited passages."""

__version__ = "0.1.0"
