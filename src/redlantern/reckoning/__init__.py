# SPDX-License-Identifier: GPL-3.0-or-later
"""What is reckoned from tables, exactly: columns with types, plans of what is asked, their carrying out with the working, checks.

A question that is answered by counting, adding or comparing becomes a plan in a
small typed language. It is carried out in decimal arithmetic over the cells as
they were read, so that every figure leads back to its places on the page.
"""
