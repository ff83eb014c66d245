# SPDX-License-Identifier: GPL-3.0-or-later
"""Tunes the English embedding model on pairs of question and text, and says how well it then finds in sources kept aside.

Run as `python -m training.tune [--minutes N] [--seed N]`, after `training.base`
and `training.pairs`: writes build/training/tuned.pt. All other texts of a step
are wrong answers to a question (in-batch negatives: Henderson et al., "Efficient
natural language response suggestion", 2017), and costs nothing when a question
is asked. What is kept is the mean of the weights before and after where that
finds more than either (Wortsman et al., "Robust fine-tuning", 2022).
"""

import json
import random
import sys
import time
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
import torch
from torch.nn import functional

from training.base import BASE
from training.material import FETCHED
from training.network import SentenceEncoder, from_embedding
from training.pairs import PAIRS
from training.questions import HELD_OUT, as_asked, is_plain
from training.teach import learner, shown, taken, tensors, tokenizer

TUNED = FETCHED.parent / "tuned.pt"
_A_STEP, _SHARPNESS = 64, 20.0
_RATE, _WARM_STEPS = 2e-5, 40
_CHECKED_EVERY = 60
_N_ASIDE = 400
_AT_ONCE = 32
_STRATEGY = "longest_first"
SHARES = (0.0, 0.25, 0.5, 0.75, 1.0)
"""How much of the tuned weights is mixed with those before."""

Row = dict[str, Any]


def read_pairs() -> tuple[list[Row], list[Row]]:
    """All sections, and the pairs that ask as a person would."""
    rows = [json.loads(line) for line in PAIRS.read_text(encoding="utf-8").splitlines()]
    pairs = [row for row in rows if "kind" in row and (row["kind"] == "asks" or is_plain(row["question"]))]
    return [row for row in rows if "text" in row], pairs


def steps(sections: Sequence[Row], pairs: Sequence[Row], chance: random.Random) -> Iterator[list[Row]]:
    """Pairs in ever new order, those of one source together, so that the wrong texts are near ones; without end."""
    while True:
        order = list(pairs)
        chance.shuffle(order)
        order.sort(key=lambda pair: sections[pair["section"]]["package"])
        parts = [order[at : at + _A_STEP] for at in range(0, len(order) - _A_STEP + 1, _A_STEP)]
        chance.shuffle(parts)
        for part in parts:
            # A text that stands twice in a step would be called wrong for its own question.
            yield list({sections[pair["section"]]["text"]: pair for pair in part}.values())


def loss_of(
    encoder: SentenceEncoder, sections: Sequence[Row], step: Sequence[Row], chance: random.Random
) -> torch.Tensor:
    """The cross-entropy of each question's own text among those of the step, and of each text's own question."""
    tokens = tokenizer(_STRATEGY)
    asked = [as_asked(pair["kind"], pair["question"], chance) for pair in step]
    texts = [shown(sections[pair["section"]], with_heading=pair["kind"] == "link") for pair in step]
    near = _SHARPNESS * encoder(*tensors(asked, tokens)) @ encoder(*tensors(texts, tokens)).T
    right = torch.arange(len(step))
    return functional.cross_entropy(near, right) + functional.cross_entropy(near.T, right)


@torch.no_grad()  # type: ignore[untyped-decorator]
def vectors(encoder: SentenceEncoder, texts: Sequence[str]) -> np.ndarray[Any, np.dtype[np.float32]]:
    """One row a text: (n, hidden). Texts of like length go together."""
    encoder.eval()
    tokens, order = tokenizer(_STRATEGY), sorted(range(len(texts)), key=lambda at: len(texts[at]))
    found = np.zeros((len(texts), 384), np.float32)
    for start in range(0, len(order), _AT_ONCE):
        part = order[start : start + _AT_ONCE]
        found[part] = encoder(*tensors([texts[at] for at in part], tokens)).numpy()
    encoder.train()
    return found


def checked(encoder: SentenceEncoder, sections: Sequence[Row], pairs: Sequence[Row]) -> float:
    """The mean reciprocal rank of the right text among all of the pairs'."""
    numbers = sorted({pair["section"] for pair in pairs})
    places = {number: at for at, number in enumerate(numbers)}
    texts = vectors(encoder, [shown(sections[number], with_heading=False) for number in numbers])
    near = vectors(encoder, [pair["question"] for pair in pairs]) @ texts.T
    own = near[np.arange(len(pairs)), [places[pair["section"]] for pair in pairs]]
    return float((1 / (1 + (near > own[:, None]).sum(axis=1))).mean())


def mixed(before: dict[str, torch.Tensor], after: dict[str, torch.Tensor], share: float) -> dict[str, torch.Tensor]:
    """Weights between two."""
    return {name: torch.lerp(before[name], after[name], share) for name in before}


def main() -> int:
    """Tune for some minutes."""
    given, chance = learner(__doc__, "python -m training.tune")
    sections, pairs = read_pairs()
    aside = [pair for pair in pairs if sections[pair["section"]]["package"] in HELD_OUT]
    aside = chance.sample(aside, min(_N_ASIDE, len(aside)))
    taught = [pair for pair in pairs if sections[pair["section"]]["package"] not in HELD_OUT]
    encoder = from_embedding(BASE / "model.safetensors", SentenceEncoder())
    before = {name: values.clone() for name, values in encoder.state_dict().items()}
    print(f"{len(taught)} pairs, {len(aside)} aside; before: {checked(encoder, sections, aside):.3f}", flush=True)
    optimiser = torch.optim.AdamW(encoder.parameters(), lr=_RATE, weight_decay=0.01)
    started, losses = time.monotonic(), []
    for n_done, step in enumerate(steps(sections, taught, chance), start=1):
        share = (time.monotonic() - started) / (60 * given.minutes)
        rate = _RATE * min(n_done / _WARM_STEPS, max(1 - share, 0.02))
        losses.append(taken(optimiser, loss_of(encoder, sections, step, chance), rate))
        if n_done % _CHECKED_EVERY == 0:
            figure = checked(encoder, sections, aside)
            print(
                f"{n_done} steps, {60 * given.minutes * share:.0f} s: {np.mean(losses):.3f}, {figure:.3f}", flush=True
            )
            losses.clear()
        if share >= 1:
            break
    after = {name: values.clone() for name, values in encoder.state_dict().items()}
    figures = {}
    for share in SHARES:
        encoder.load_state_dict(mixed(before, after, share))
        figures[share] = checked(encoder, sections, aside)
    print(", ".join(f"share {share:g}: {figure:.3f}" for share, figure in figures.items()))
    torch.save({"before": before, "after": after}, TUNED)
    return 0


if __name__ == "__main__":
    sys.exit(main())
