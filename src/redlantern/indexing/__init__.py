# SPDX-License-Identifier: GPL-3.0-or-later
"""From files to an up-to-date collection: what an update would do (`plan`), doing it (`update`), a look beforehand
(`preview`), embedding anew with another model (`reembed`), noticing that files changed (`watch`).
"""
