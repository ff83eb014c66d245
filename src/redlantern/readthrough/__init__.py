# SPDX-License-Identifier: GPL-3.0-or-later
"""One question put to every page: each is read, none is passed over, and what was missed is estimated.

A wish (`values`) is read by lines (`lines`) or by the language model as well
(`reading`), page by page (`going`); people judge what was found, which orders the
rest (`learning`); a sample of the silent pages says how much was missed
(`estimate`), and a statement says what was done (`statement`). `extraction` makes
tables of dates, sums, persons and duties.
"""
