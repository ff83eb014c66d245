# SPDX-License-Identifier: GPL-3.0-or-later
"""Files to documents, pages and blocks: one module per format, and the isolated process that reads them.

`values` holds what every format is read into; `kinds` says what a file really
is; `pool` hands files to reader processes and gives back pages.
"""
