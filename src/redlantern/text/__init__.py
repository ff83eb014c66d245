# SPDX-License-Identifier: GPL-3.0-or-later
"""What every layer knows of language: tokens and stems, function words, abbreviations, numbers and dates.

It knows nothing of documents: it takes texts and gives values. What is
peculiar to one language stands in that language's record in `languages/`.
"""
