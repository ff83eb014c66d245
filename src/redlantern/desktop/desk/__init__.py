# SPDX-License-Identifier: GPL-3.0-or-later
"""The desk: ask, read the answer, check it against the page."""
