# SPDX-License-Identifier: GPL-3.0-or-later
"""Why a passage stands where it stands, in figures and in a plain sentence; and why another one does not."""

from collections.abc import Collection as Ids
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from redlantern.collection.values import StoredPassage
from redlantern.models.embedding import Embedder
from redlantern.retrieval.index import Index
from redlantern.retrieval.rerank import Reranked
from redlantern.text.listing import listed, ordinal, quoted
from redlantern.text.question import ParsedQuestion
from redlantern.text.stems import every_stem
from redlantern.text.tokens import tokens
from redlantern.translation import tr

_NEAR, _FAIRLY_NEAR = 0.55, 0.35
_SHOWN_FORMS = 3


@dataclass(frozen=True)
class Why:
    """What brought a passage to its rank.

    `found` are the question's words that stand in it, each with the forms it has
    there, as written; `missing` those that do not. `share` is its word score as a
    part of what would be possible, `meaning` and `best_line` are cosines, `max_sim`
    and `proximity` are what looking again measured (see Reranked), all from 0 to
    1; `max_sim` is None where the words were not compared one by one. `before` and
    `after` are its ranks before and after that, `after` 0 where it was not looked
    at again; `repeats` the rank of the passage that it repeats, or 0.
    """

    found: tuple[tuple[str, tuple[str, ...]], ...]
    missing: tuple[str, ...]
    share: float
    meaning: float
    best_line: float
    max_sim: float | None
    proximity: float
    before: int
    repeats: int = 0
    is_contents: bool = False
    n_joined: int = 0
    """How many neighbours on the page were found, too, and stand with it."""
    after: int = 0

    def sentences(self) -> str:
        """Say it in plain words."""
        said = [_words_sentence(self.found, self.missing), _meaning_sentence(max(self.meaning, self.best_line))]
        if self.n_joined:
            said.append(tr("What adjoins it on the page was found, too, and stands with it."))
        if self.repeats:
            said.append(
                tr("It says little else than passage {repeats}, so it stands behind.").format(repeats=self.repeats)
            )
        elif self.is_contents:
            said.append(tr("It is a list of contents, so it stands behind."))
        elif self.after and self.before != self.after and self.max_sim is not None:
            said.append(
                tr("Compared word by word it went from place {before} to {after}.").format(
                    before=self.before, after=self.after
                )
            )
        elif self.after and self.before != self.after:
            said.append(
                tr("What was compared word by word moved it from place {before} to {after}.").format(
                    before=self.before, after=self.after
                )
            )
        return " ".join(said)


@dataclass(frozen=True)
class Standing:
    """Where the best passage of a page stands among all passages in scope, each rank from 1; 0 where it has none.

    `n_kept` is how many were looked at more closely.
    """

    why: Why
    by_words: int
    by_meaning: int
    by_both: int
    n_in_scope: int
    n_kept: int
    is_in_scope: bool = True

    def sentences(self) -> str:
        """Say in plain words what held the page back."""
        if not self.is_in_scope:
            return tr("This document is not in the scope of the question. Tick it on the shelf to ask it, too.")
        words = (
            tr("{ordinal} by its words").format(ordinal=ordinal(self.by_words))
            if self.by_words
            else tr("nowhere by its words")
        )
        place = tr("Its best passage stands {ordinal} of {n_in_scope:,}: ").format(
            ordinal=ordinal(self.by_both), n_in_scope=self.n_in_scope
        )
        place += tr("{words}, {ordinal} by its meaning.").format(words=words, ordinal=ordinal(self.by_meaning))
        said = [place, _words_sentence(self.why.found, self.why.missing), _meaning_sentence(self.why.meaning)]
        if self.by_both > self.n_kept:
            said.append(tr("Only the first {n_kept} are looked at more closely.").format(n_kept=self.n_kept))
        return " ".join(said)


def why(reranked: Reranked, question: ParsedQuestion, languages: Sequence[str] = ()) -> Why:
    """Explain a passage that was found for a question (misspelt words mended)."""
    found, missing = _words_in(question, reranked.passage, languages)
    hit = reranked.hit
    return Why(
        found, missing, hit.share, hit.meaning, hit.best_line, reranked.max_sim, reranked.proximity, reranked.before, reranked.repeats,
        reranked.is_contents, len(reranked.joined), reranked.after,
    )  # fmt: skip


def standing(
    index: Index, embedder: Embedder, question: ParsedQuestion, scope: Ids[int] | None, page: tuple[int, int],
    passages: Sequence[StoredPassage], *, word_weight: float, n_kept: int,
) -> Standing | None:  # fmt: skip
    """Say where a page stands for a question; None if it has no passage.

    Parameters
    ----------
    page : (document id, page number)
    passages : sequence of StoredPassage
        Those of the page.
    """
    known = {passage.passage_id for passage in passages}
    rows = {passage_id: row for passage_id, row in index.passages_of(page).items() if passage_id in known}
    if not rows:
        return None
    in_scope = index.in_scope(scope)
    words = np.where(in_scope, index.word_scores(question), 0)
    share = words / index.best_possible(question)
    meaning = np.where(
        in_scope, index.meaning_scores(embedder.embed_question(question.text, in_english=question.is_english)), -1
    )
    both = meaning + word_weight * share
    best_id, best = max(rows.items(), key=lambda row: (float(both[row[1]]), -row[0]))
    [passage] = [passage for passage in passages if passage.passage_id == best_id]
    found, missing = _words_in(question, passage, index.words.languages)
    here = Why(found, missing, float(share[best]), float(meaning[best]), float(meaning[best]), None, 0.0, 0)
    return Standing(
        here,
        int((words > words[best]).sum()) + 1 if words[best] > 0 else 0,
        int((meaning > meaning[best]).sum()) + 1,
        int((both > both[best]).sum()) + 1,
        int(in_scope.sum()),
        n_kept,
        bool(in_scope[best]),
    )


def _words_in(
    question: ParsedQuestion, passage: StoredPassage, languages: Sequence[str]
) -> tuple[tuple[tuple[str, tuple[str, ...]], ...], tuple[str, ...]]:
    forms: dict[str, list[str]] = {}
    for token in tokens(f"{passage.headings.printed}\n{passage.text}"):
        for term in every_stem(token, languages):
            here = forms.setdefault(term, [])
            if token not in here:
                here.append(token)
    found, missing = [], []
    for word in question.content_words:
        here = [form for stemmed in every_stem(word, languages) for form in forms.get(stemmed, [])]
        if here:
            found.append((word, tuple(dict.fromkeys(here))))
        else:
            missing.append(word)
    return tuple(found), tuple(missing)


def _words_sentence(found: Sequence[tuple[str, tuple[str, ...]]], missing: Sequence[str]) -> str:
    if not found:
        return tr("None of the question's words stand in it.")
    said = []
    for word, forms in found:
        others = [form for form in forms if form != word][:_SHOWN_FORMS]
        same = word in forms
        said.append(
            f"“{word}”"
            if same and not others
            else tr("“{word}” (as {others})").format(word=word, others=", ".join(others))
            if not same
            else f"“{word}”"
        )
    lacks = tr(", not {quoted}").format(quoted=quoted(missing)) if missing else ""
    return tr("It has {listed}{lacks}.").format(listed=listed(said), lacks=lacks)


def _meaning_sentence(cosine: float) -> str:
    how = tr("near to") if cosine >= _NEAR else tr("fairly near to") if cosine >= _FAIRLY_NEAR else tr("far from")
    return tr("In meaning it is {how} the question ({cosine:.2f} of 1).").format(how=how, cosine=max(cosine, 0))
