# SPDX-License-Identifier: GPL-3.0-or-later
"""The brief room: what was gathered, ordered, with own words between, and saved with citations that can be checked."""
