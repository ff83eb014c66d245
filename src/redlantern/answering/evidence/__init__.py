# SPDX-License-Identifier: GPL-3.0-or-later
"""What the documents say to a question: its lines in order, whether they answer it at all, where documents differ."""
