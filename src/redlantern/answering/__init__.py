# SPDX-License-Identifier: GPL-3.0-or-later
"""From a question to a sheet: what is asked, what the documents say to it, what is written of that, and whether it holds.

`engine` ties it together and is what window and commands talk to; `asking` puts
one question through; the four packages are its stages, in their order.
"""
