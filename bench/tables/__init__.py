# SPDX-License-Identifier: GPL-3.0-or-later
"""Made-up documents with tables, and questions whose figures are known because they were made with them."""
