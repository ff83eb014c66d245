# SPDX-License-Identifier: GPL-3.0-or-later
"""The room Side by side: one question answered in several ways, and what each step of finding does with it."""
