# SPDX-License-Identifier: GPL-3.0-or-later
"""Set-up of the models: their weights, downloaded in parts, joined, checked, and the kernels that they compute with, compiled.

The running program imports nothing of this.
"""
