# SPDX-License-Identifier: GPL-3.0-or-later
"""What a language model writes of the evidence: prompts, grammars, claims, summaries and drafts."""
