# SPDX-License-Identifier: GPL-3.0-or-later
"""Teaches the judge, and says after each part of the way how well it orders what was kept aside.

Run as `python -m training.teach [--minutes N] [--seed N]`, after
`training.questions`: writes the best weights to build/training/judge.pt. The
loss is the cross-entropy of the right text among its group (listwise: Cao et
al., 2007), with a share of each pair's own, so that scores mean the same from
one question to the next.
"""

import argparse
import json
import random
import sys
import time
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
import torch
from tokenizers import Tokenizer
from torch.nn import functional

from training.base import BASE
from training.material import FETCHED
from training.network import Judge, from_embedding
from training.questions import GROUPS, HELD_OUT

TAUGHT = FETCHED.parent / "judge.pt"
MOST_TOKENS = 96
_GROUPS_A_STEP, _TEXTS = 8, 6
_RATE, _WARM_STEPS = 5e-5, 100
_PAIRWISE = 0.3
_CHECKED_EVERY = 300
_N_ASIDE = 300

Group = dict[str, Any]


def tokenizer(strategy: str = "only_second") -> Tokenizer:
    """The base model's, which cuts pairs to what the judge reads; `longest_first` for single texts."""
    found: Tokenizer = Tokenizer.from_file(str(BASE / "tokenizer.json"))
    found.enable_truncation(MOST_TOKENS, strategy=strategy)
    found.enable_padding()
    return found


def shown(text: dict[str, str], *, with_heading: bool) -> str:
    """What the judge reads of a section: as retrieval puts a passage for looking again."""
    parts = (text["title"], text["heading"]) if with_heading else (text["title"],)
    return ". ".join(dict.fromkeys(filter(None, parts))) + ". " + text["text"]


def tensors(
    pairs: Sequence[tuple[str, str]] | Sequence[str], tokens: Tokenizer
) -> tuple[torch.Tensor, torch.Tensor, torch.Tensor]:
    """Token numbers, kinds and mask of some pairs, padded to the longest."""
    encoded = tokens.encode_batch(list(pairs))
    return tuple(
        torch.tensor(np.array([getattr(row, name) for row in encoded]))
        for name in ("ids", "type_ids", "attention_mask")
    )  # type: ignore[return-value]


def taken(optimiser: torch.optim.Optimizer, loss: torch.Tensor, rate: float) -> float:
    """Take one step against a loss at this rate, no longer than 1 all parameters together; gives the loss."""
    for part in optimiser.param_groups:
        part["lr"] = rate
    loss.backward()  # type: ignore[no-untyped-call]
    torch.nn.utils.clip_grad_norm_([each for part in optimiser.param_groups for each in part["params"]], 1.0)
    optimiser.step()
    optimiser.zero_grad()
    return float(loss.item())


def learner(description: str | None, prog: str) -> tuple[argparse.Namespace, random.Random]:
    """The words of a step that learns for some minutes, with its seed set everywhere."""
    parser = argparse.ArgumentParser(prog=prog, description=description)
    parser.add_argument("--minutes", type=float, default=60)
    parser.add_argument("--seed", type=int, default=0)
    given = parser.parse_args()
    torch.manual_seed(given.seed)
    return given, random.Random(given.seed)


def steps(groups: Sequence[Group], chance: random.Random) -> Iterator[list[Group]]:
    """Groups in ever new order, without end."""
    while True:
        order = list(groups)
        chance.shuffle(order)
        for at in range(0, len(order) - _GROUPS_A_STEP + 1, _GROUPS_A_STEP):
            yield order[at : at + _GROUPS_A_STEP]


def loss_of(judge: Judge, groups: Sequence[Group], tokens: Tokenizer, chance: random.Random) -> torch.Tensor:
    """The loss of one step; the right text of a group comes first."""
    pairs = []
    for group in groups:
        with_heading = group["with_heading"]
        others = chance.sample(group["texts"][1:], _TEXTS - 1)
        pairs += [(group["question"], shown(text, with_heading=with_heading)) for text in (group["texts"][0], *others)]
    scores = judge(*tensors(pairs, tokens)).view(len(groups), _TEXTS)
    right = torch.zeros(len(groups), dtype=torch.long)
    wanted = torch.zeros_like(scores)
    wanted[:, 0] = 1
    listwise = functional.cross_entropy(scores, right)
    weights = torch.where(wanted > 0, float(_TEXTS - 1), 1.0)
    pairwise = functional.binary_cross_entropy_with_logits(scores, wanted, weights)
    return listwise + _PAIRWISE * pairwise


@torch.no_grad()  # type: ignore[untyped-decorator]
def checked(judge: Judge, groups: Sequence[Group], tokens: Tokenizer) -> float:
    """The mean reciprocal rank of the right text among its group."""
    judge.eval()
    ranks = []
    for group in groups:
        pairs = [(group["question"], shown(text, with_heading=group["with_heading"])) for text in group["texts"]]
        scores = judge(*tensors(pairs, tokens))
        ranks.append(int((scores > scores[0]).sum()) + 1)
    judge.train()
    return float(np.mean([1 / rank for rank in ranks]))


def main() -> int:
    """Teach for some minutes."""
    given, chance = learner(__doc__, "python -m training.teach")
    rows = [json.loads(line) for line in GROUPS.read_text(encoding="utf-8").splitlines()]
    aside = [row for row in rows if row["package"] in HELD_OUT]
    aside = chance.sample(aside, min(_N_ASIDE, len(aside)))
    groups = [row for row in rows if row["package"] not in HELD_OUT]
    tokens, judge = tokenizer(), from_embedding(BASE / "model.safetensors", Judge())
    optimiser = torch.optim.AdamW(judge.parameters(), lr=_RATE, weight_decay=0.01)
    best, started, losses = checked(judge, aside, tokens), time.monotonic(), []
    print(f"{len(groups)} groups to teach, {len(aside)} aside; before: {best:.3f}", flush=True)
    for n_done, step in enumerate(steps(groups, chance), start=1):
        share = (time.monotonic() - started) / (60 * given.minutes)
        rate = _RATE * min(n_done / _WARM_STEPS, max(1 - share, 0.02))
        losses.append(taken(optimiser, loss_of(judge, step, tokens, chance), rate))
        if n_done % _CHECKED_EVERY == 0 or share >= 1:
            figure = checked(judge, aside, tokens)
            print(
                f"{n_done} steps, {60 * given.minutes * share:.0f} s: loss {np.mean(losses):.3f}, aside {figure:.3f}",
                flush=True,
            )
            losses.clear()
            if figure > best:
                best = figure
                torch.save(judge.state_dict(), TAUGHT)
        if share >= 1:
            break
    return 0


if __name__ == "__main__":
    sys.exit(main())
