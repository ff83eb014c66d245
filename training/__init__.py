# SPDX-License-Identifier: GPL-3.0-or-later
"""How our own weights are made: material, questions, labels, training. Never needed to run or to test the program."""
