# SPDX-License-Identifier: GPL-3.0-or-later
"""What is asked: the question parsed once, the kind of answer it wants, follow-ups made whole, requests for summaries and drafts."""
