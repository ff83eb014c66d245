# SPDX-License-Identifier: GPL-3.0-or-later
"""How one answer compares with what was expected of it."""

import re
from collections.abc import Callable, Iterable, Sequence

from redlantern.answering import wording
from redlantern.answering.sheet import Claim, Sheet
from redlantern.collection.values import Citation
from redlantern.text.quantities import plain, quantities, stated_values, values
from redlantern.trials.ranks import rank_figures
from redlantern.trials.values import Marked, RightPage, Said, TrialQuestion

_PLACE = tuple[str, int]
_FROM_STRONG_TO_WEAK = ("supported", "partly supported", "unsupported")
_NAME = re.compile(r"(?<=[a-z,;] )[A-ZÀ-Þ][\w’'-]+")


def mark(question: TrialQuestion, sheet: Sheet, page_text: Callable[[Citation], str] = lambda _: "") -> Marked:
    """Mark one sheet. Cited and said is what was reckoned or the claims cite and say, or without prose what the found lines do.

    `page_text` gives the text of the page that a citation is on.
    """
    reckoning = sheet.reckoning if sheet.is_reckoned else None
    lines = [line.citation for line in sheet.found_lines]
    cited = [citation for claim in sheet.claims for citation in claim.citations]
    cited = [*reckoning.cells, *cited] if reckoning is not None else cited
    texts = [reckoning.answer] if reckoning is not None else [claim.text for claim in sheet.claims]
    texts = texts or [citation.text for citation in lines]
    pages_cited = set(map(_place_in(question.right), cited or lines))
    right = {(page.path, page.page_number) for page in question.right}
    named = {(page.path, page.page_number) for page in question.right if not page.is_pooled}
    ranked = [_place_in(question.right)(passage.citation) for passage in sheet.passages]
    is_answered = not sheet.refused
    return Marked(
        is_refused=sheet.refused,
        is_weak=sheet.is_weak,
        ranks=rank_figures(ranked, right, wants_all=question.wants_all) if right else None,
        is_cited=is_answered and bool(right & pages_cited) if right else None,
        is_cited_named=is_answered and bool(named & pages_cited) if named else None,
        is_said=is_answered and _is_said(question.expected, texts) if question.expected else None,
        n_claims=len(sheet.claims),
        n_supported=sum(claim.support == "supported" for claim in sheet.claims),
        n_partly=sum(claim.support == "partly supported" for claim in sheet.claims),
        n_not_in_cited=sum(is_wrongly_supported(claim, page_text) for claim in sheet.claims),
        first_word_s=sheet.seconds.first_word,
        total_s=sheet.seconds.total,
        is_written=bool(sheet.models.get("language")),
    )


def said_by(sheet: Sheet) -> Said:
    """What a sheet answers: what was reckoned or written, the reason of a refusal, or the best found line."""
    words = wording.answer(sheet)
    if sheet.refused:
        return Said(words, support="refused")
    if sheet.is_reckoned and sheet.reckoning is not None:
        return _standing_on(words, sheet.reckoning.cells, "reckoned")
    if sheet.claims:
        weakest = max((claim.support for claim in sheet.claims), key=_FROM_STRONG_TO_WEAK.index)
        return _standing_on(words, [each for claim in sheet.claims for each in claim.citations], weakest)
    lines = [line.citation for line in sheet.found_lines[:1]]
    return _standing_on(" ".join(" ".join(line.text.split()) for line in lines), lines, "found line" if lines else "")


def _standing_on(words: str, citations: Sequence[Citation], support: str) -> Said:
    first = citations[0] if citations else None
    return Said(words, first.mark if first else "", first.page_number if first else 0, support)


def is_wrongly_supported(claim: Claim, page_text: Callable[[Citation], str]) -> bool:
    """Whether a claim is called supported though a number or date of it is not in the cited words or the title, or a name not
    there nor on the page: the names of a row's columns stand above it.
    """
    if claim.support != "supported":
        return False
    cited = ". ".join(f"{citation.title}. {citation.text}" for citation in claim.citations)
    missing = values(quantities(plain(claim.text))) - stated_values(plain(cited))
    around = f"{cited} {' '.join(map(page_text, claim.citations))}".casefold()
    return bool(missing) or any(name.casefold() not in around for name in _NAME.findall(claim.text))


def _is_said(expected: Iterable[str], texts: Iterable[str]) -> bool:
    folded = [" ".join(text.split()).casefold() for text in texts]
    return any(" ".join(words.split()).casefold() in text for words in expected for text in folded)


def _place_in(right: Iterable[RightPage]) -> Callable[[Citation], _PLACE]:
    """Gives a citation's page, by the path that a right page has where it is one: a file that was moved is known by its content."""
    paths = {(page.key, page.page_number): page.path for page in right if page.key}

    def place(citation: Citation) -> _PLACE:
        path = paths.get((citation.document_key, citation.page_number), citation.path)
        return path, citation.page_number

    return place
