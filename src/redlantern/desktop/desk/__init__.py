"""The desk: ask, read the answer, check it against the page."""
