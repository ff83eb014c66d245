# SPDX-License-Identifier: GPL-3.0-or-later
"""The demo documents, wholly invented, and what makes them."""
