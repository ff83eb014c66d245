# SPDX-License-Identifier: GPL-3.0-or-later
"""Fits how the language model's yes counts beside a page's lines, on the tuning questions of bench/tuning/pages.jsonl only.

Run as `python -m bench.fit_page_reading [--model close]`, after
`bench.open_documents`; reads two right and two other pages of each question that are
not silent by their lines, some ten minutes, and prints the weights and thresholds for
redlantern/fitted.py.
"""

import argparse
import json
import random
import re
import sys
import tempfile
from typing import Any

import numpy as np
from scipy.optimize import minimize
from scipy.special import expit, logit

from bench.collections import opened
from bench.fit_refusal import TUNING, kept_in
from bench.open_documents import CHOSEN_ON
from redlantern import fitted
from redlantern.answering.engine import Engine
from redlantern.answering.writing.reading import wants_to_answer
from redlantern.models.chosen import packaged_reader
from redlantern.models.protocols import LanguageModel
from redlantern.progress import Cancel
from redlantern.readthrough import reading
from redlantern.readthrough.lines import LineReader, PageLines, chance_by_lines
from redlantern.readthrough.values import PageWish
from redlantern.safety import seal

_EACH = 2
_RIDGE = 0.05


def _chosen(engine: Engine, row: dict[str, Any], chance: random.Random) -> list[tuple[PageLines, bool, float]]:
    """Pages of a question that are not silent, some of either kind, with how many such ones each stands for."""
    pattern = re.compile(row["right"], re.IGNORECASE)
    reader = LineReader(PageWish(row["question"]), engine.current_index(), engine.collection, engine.embedder)
    kinds: dict[bool, list[PageLines]] = {True: [], False: []}
    for document in engine.collection.documents():
        for lines in reader.pages(document, frozenset(range(1, document.n_pages + 1))):
            if lines.lines and chance_by_lines(lines.features) >= fitted.PAGE_DOUBT:
                kinds[bool(pattern.search(lines.page.text))].append(lines)
    found = []
    for is_right, pages in kinds.items():
        drawn = chance.sample(pages, min(_EACH, len(pages)))
        found += [(lines, is_right, len(pages) / len(drawn)) for lines in drawn]
    return found


def _log_odds(lines: PageLines, wish: PageWish, model: LanguageModel) -> float | None:
    system, user = reading.prompt_of(lines, wish, model)
    return wants_to_answer(model.first_words(system, user, Cancel()))


def main() -> int:
    """Print weights and figures."""
    seal.put_on()
    parser = argparse.ArgumentParser(prog="python -m bench.fit_page_reading", description=__doc__)
    parser.add_argument("--model", default="close")
    model = packaged_reader(parser.parse_args().model)
    if model is None:
        print("That reader is not there.", file=sys.stderr)
        return 1
    chance = random.Random(11)
    asked = [json.loads(line) for line in (TUNING / "pages.jsonl").read_text(encoding="utf-8").splitlines()]
    rows, right, weights = [], [], []
    for name, documents in (("manual", CHOSEN_ON.documents), ("letters and reports", TUNING / "documents")):
        with tempfile.TemporaryDirectory() as folder, opened(kept_in(documents, folder), documents) as engine:
            model.fit(engine.method.context_tokens, engine.method.threads)
            for row in (each for each in asked if each["collection"] == name):
                for lines, is_right, stands_for in _chosen(engine, row, chance):
                    says_yes = _log_odds(lines, PageWish(row["question"]), model)
                    if says_yes is not None:
                        rows.append([logit(np.clip(chance_by_lines(lines.features), 1e-4, 1 - 1e-4)), says_yes])
                        right.append(float(is_right))
                        weights.append(stands_for)
                        print(
                            f"{row['question'][:60]:62}{int(is_right)} {rows[-1][0]:6.2f} {rows[-1][1]:6.2f}",
                            flush=True,
                        )
    model.close()
    _report(np.array(rows), np.array(right), np.array(weights) / np.mean(weights))
    return 0


def _report(rows: Any, right: Any, weights: Any) -> None:
    with_one = np.hstack([np.ones((len(rows), 1)), rows])

    def loss(values: Any) -> float:
        total = with_one @ values
        return float(np.mean(weights * (np.logaddexp(0, total) - right * total)) + _RIDGE * np.sum(values[1:] ** 2))

    values = minimize(loss, np.zeros(3)).x
    print(f"intercept, lines, reading: {', '.join(f'{value:.2f}' for value in values)}")
    for name, scores in (("lines alone", rows[:, 0]), ("reading alone", rows[:, 1]), ("both", with_one @ values)):
        positive, negative = scores[right > 0], scores[right == 0]
        area = np.mean([(one > negative).mean() + (one == negative).mean() / 2 for one in positive])
        print(f"{name:14} area {area:.3f}")
    found = expit(with_one @ values)
    for least in (0.05, 0.1, 0.15, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7):
        said = found >= least
        recall = weights[(right > 0) & said].sum() / weights[right > 0].sum()
        precision = weights[(right > 0) & said].sum() / max(weights[said].sum(), 1e-9)
        print(f"from {least:.2f}: recall {recall:.2f}, precision {precision:.2f}")


if __name__ == "__main__":
    sys.exit(main())
