# SPDX-License-Identifier: GPL-3.0-or-later
"""One module for each container: it opens the file with a library and hands its blocks on in reading order."""
