# SPDX-License-Identifier: GPL-3.0-or-later
"""The two kinds of failure: what a person can act on, and everything else (which is a bug of ours)."""


class RedlanternError(Exception):
    """The file, the disk or the model is at fault; the text is written for the person at the screen."""


class UsageError(RedlanternError):
    """A command was called with words that do not fit together."""
