# SPDX-License-Identifier: GPL-3.0-or-later
"""Fits what decides about pages in a read-through, on the tuning questions of bench/tuning/pages.jsonl only.

Run as `python -m bench.fit_readthrough`; prints the weights and thresholds for
redlantern/fitted.py, with what they bring when each question in turn is kept out
of the fit. Which pages are right is told by words there: a pattern for each
question, that finds what a person would take for a hit nearly always.
"""

import json
import re
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt
from scipy.optimize import minimize
from scipy.special import expit, logit

from bench.collections import opened
from bench.fit_refusal import TUNING, kept_in
from bench.open_documents import CHOSEN_ON
from redlantern.answering.engine import Engine
from redlantern.readthrough.lines import FEATURES, LineReader
from redlantern.readthrough.values import PageWish
from redlantern.safety import seal

_RIDGE = 0.02
_RECALL_SEEN = 0.95
"""What the threshold of doubtful pages is to reach, on average over the questions; that of hits has the best mean F1."""
Rows = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Tuned:
    """One tuning question: the features of all pages, shape (n_pages, n_features), and which are right."""

    question: str
    rows: Rows
    right: Rows


def tuned() -> list[Tuned]:
    """Ask every tuning question of all pages of its collection."""
    asked = [json.loads(line) for line in (TUNING / "pages.jsonl").read_text(encoding="utf-8").splitlines()]
    found: list[Tuned] = []
    for name, documents in (("manual", CHOSEN_ON.documents), ("letters and reports", TUNING / "documents")):
        mine = [row for row in asked if row["collection"] == name]
        with (
            tempfile.TemporaryDirectory() as folder,
            opened(Path(kept_in(documents, folder)), documents) as engine,
        ):
            found += [_ask(engine, row) for row in mine]
    return found


def _ask(engine: Engine, row: dict[str, Any]) -> Tuned:
    wish, pattern = PageWish(row["question"]), re.compile(row["right"], re.IGNORECASE)
    reader = LineReader(wish, engine.current_index(), engine.collection, engine.embedder)
    rows, right = [], []
    for document in engine.collection.documents():
        for lines in reader.pages(document, frozenset(range(1, document.n_pages + 1))):
            if lines.lines:
                rows.append(lines.features)
                right.append(float(bool(pattern.search(lines.page.text))))
    return Tuned(row["question"], np.array(rows), np.array(right))


def fitted_to(tuning: list[Tuned]) -> Rows:
    """Weights of shape (1 + n_features,), the intercept first; each question counts the same, hits and others half each."""
    rows = np.vstack([each.rows for each in tuning])
    right = np.concatenate([each.right for each in tuning])
    weights = np.concatenate([_shares(each.right) for each in tuning])
    with_one = np.hstack([np.ones((len(rows), 1)), rows])

    def loss(values: Rows) -> tuple[float, Rows]:
        total = with_one @ values
        chance = 1 / (1 + np.exp(-np.clip(total, -30, 30)))
        value = float(np.sum(weights * (np.logaddexp(0, total) - right * total)) + _RIDGE * np.sum(values[1:] ** 2))
        slope = with_one.T @ (weights * (chance - right))
        slope[1:] += 2 * _RIDGE * values[1:]
        return value, slope

    # No measure may speak against a page.
    bounds = [(None, None), *[(0, None)] * rows.shape[1]]
    return np.asarray(minimize(loss, np.zeros(with_one.shape[1]), jac=True, method="L-BFGS-B", bounds=bounds).x)


def _shares(right: Rows) -> Rows:
    n_right = max(1.0, float(right.sum()))
    return np.where(right > 0, 0.5 / n_right, 0.5 / max(1.0, len(right) - n_right))


def chances(weights: Rows, each: Tuned) -> Rows:
    """The chance of each page of a question."""
    return np.asarray(1 / (1 + np.exp(-np.clip(each.rows @ weights[1:] + weights[0], -30, 30))))


def threshold(asked: list[tuple[Rows, Rows]], recall: float) -> float:
    """The highest threshold at which the mean recall over the questions is still reached."""
    for value in np.arange(0.95, 0.0, -0.01):
        reached = np.mean([float(found[right > 0].__ge__(value).mean()) for found, right in asked if right.any()])
        if reached >= recall:
            return round(float(value), 2)
    return 0.0


def best_f1(asked: list[tuple[Rows, Rows]]) -> float:
    """The threshold with the best mean F1 over the questions."""

    def mean_f1(value: float) -> float:
        figures = []
        for found, right in asked:
            n_true = float(((found >= value) & (right > 0)).sum())
            figures.append(2 * n_true / max(1.0, float((found >= value).sum()) + float(right.sum())))
        return float(np.mean(figures))

    return round(float(max(np.arange(0.05, 0.96, 0.01), key=mean_f1)), 2)


def main() -> int:
    """Print weights, thresholds and figures."""
    seal.put_on()
    tuning = tuned()
    weights = fitted_to(tuning)
    aside = [
        (chances(fitted_to([other for other in tuning if other is not each]), each), each.right) for each in tuning
    ]
    hit, doubt = best_f1(aside), threshold(aside, _RECALL_SEEN)
    for name, value in zip(FEATURES, weights[1:], strict=True):
        print(f"{name:22}{value:8.2f}")
    # Moved so that a page is a hit from a chance of a half on.
    moved = weights[0] - logit(hit)
    print(f"intercept {moved:.2f}, hit from 0.5, doubtful from {expit(logit(doubt) - logit(hit)):.3f}")
    print(f"{'question kept out of the fit':70}{'right':>7}{'recall':>8}{'prec.':>7}{'seen':>7}{'silent':>8}")
    for each, (found, right) in zip(tuning, aside, strict=True):
        is_hit, is_right = found >= hit, right > 0
        recall = float(is_hit[is_right].mean()) if is_right.any() else 1.0
        precision = float(is_right[is_hit].mean()) if is_hit.any() else 0.0
        seen = float((found[is_right] >= doubt).mean()) if is_right.any() else 1.0
        print(
            f"{each.question[:68]:70}{int(right.sum()):7}{recall:8.2f}{precision:7.2f}{seen:7.2f}{float((found < doubt).mean()):8.2f}"
        )
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
