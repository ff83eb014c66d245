# SPDX-License-Identifier: GPL-3.0-or-later
"""The command line: one module per command, all headless but for the two that open the window.

`line` reads the words of the command and turns errors into text and exit codes.
"""
