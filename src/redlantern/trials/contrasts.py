# SPDX-License-Identifier: GPL-3.0-or-later
"""What the answers to one question have that the others have not."""

from collections.abc import Sequence
from dataclasses import dataclass

from redlantern.answering.sheet import Claim, Sheet
from redlantern.collection.values import Citation
from redlantern.text.quantities import plain, quantities, values


@dataclass(frozen=True)
class Contrast:
    """What a column has that others have not: found lines and claims by their number, and claims that contradict another's."""

    lines: frozenset[int] = frozenset()
    claims: frozenset[int] = frozenset()
    against: frozenset[int] = frozenset()


def contrasts(sheets: Sequence[Sheet]) -> list[Contrast]:
    """What each sheet has that no other has; nothing where there is but one.

    A claim is another's where both cite the same page and no number or date parts them; it speaks against another where
    both cite the same page and their numbers or dates differ.
    """
    found = []
    for at, sheet in enumerate(sheets):
        others = [other for number, other in enumerate(sheets) if number != at]
        if not others:
            return [Contrast()]
        pages = {_page(line.citation) for other in others for line in other.found_lines}
        lines = {n for n, line in enumerate(sheet.found_lines) if _page(line.citation) not in pages}
        # What stands on no document is no claim that another could share.
        theirs = [claim for other in others for claim in other.claims if claim.citations]
        own = [(n, claim) for n, claim in enumerate(sheet.claims) if claim.citations and theirs]
        claims = {n for n, claim in own if not any(_is_shared(claim, other) for other in theirs)}
        against = {n for n, claim in enumerate(sheet.claims) if any(_is_against(claim, other) for other in theirs)}
        found.append(Contrast(frozenset(lines), frozenset(claims - against), frozenset(against)))
    return found


def _page(citation: Citation) -> tuple[str, int, str]:
    return citation.path, citation.page_number, " ".join(citation.text.split())


def _pages(claim: Claim) -> set[tuple[str, int]]:
    return {(citation.path, citation.page_number) for citation in claim.citations}


def _is_shared(claim: Claim, other: Claim) -> bool:
    return bool(_pages(claim) & _pages(other)) and not _is_against(claim, other)


def _is_against(claim: Claim, other: Claim) -> bool:
    mine, theirs = values(quantities(plain(claim.text))), values(quantities(plain(other.text)))
    return bool(_pages(claim) & _pages(other)) and bool(mine) and bool(theirs) and not mine & theirs
