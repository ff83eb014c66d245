# SPDX-License-Identifier: GPL-3.0-or-later
"""Set-up of the language models' weights: downloaded in parts, joined, checked. The running program imports nothing of this."""
