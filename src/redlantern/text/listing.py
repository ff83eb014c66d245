"""Words as they are listed in a sentence."""

from collections.abc import Sequence


def listed(parts: Sequence[str]) -> str:
    """`parts`, at least one, with commas and an "and"."""
    return parts[0] if len(parts) == 1 else f"{', '.join(parts[:-1])} and {parts[-1]}"


def quoted(words: Sequence[str]) -> str:
    """The same of words in quotation marks."""
    return listed([f"“{word}”" for word in words])


def counted(n: int, thing: str) -> str:
    """So many of a thing."""
    return f"{n:,} {thing}{'s' * (n != 1)}"
