# SPDX-License-Identifier: GPL-3.0-or-later
"""A small run of every step of teaching, in a few minutes: `python -m training.check`.

Made-up pages go through pairs, groups, some steps of teaching and the check aside;
it shows that the steps fit together, not that anything is learned.
"""

import json
import random
import sys
import tempfile
from pathlib import Path

import lxml.html

from redlantern.safety import seal
from training.base import BASE
from training.pairs import asked_by, sections_of

_THINGS = "lamp hatch bellows ladder key drier pump scaffold roof organ".split()
_DEEDS = "clean repair move order store paint measure close open lend".split()
_STEPS = 12


def page(thing: str) -> str:
    """A page about one thing: a section for each deed, in words of its own."""
    parts = []
    for deed in _DEEDS:
        said = f"To {deed} the {thing} two people are needed, and the {thing} is looked at before and after. " * 3
        parts.append(f"<h2>How do I {deed} the {thing}?</h2><p>{said}</p>")
    return f"<html><head><title>The {thing}</title></head><body>{''.join(parts)}</body></html>"


def groups() -> list[dict[str, object]]:
    """Groups from all made-up pages: the right section, and others of the same page."""
    from collections import Counter

    made: list[dict[str, object]] = []
    for thing in _THINGS:
        sections, _ = sections_of("made up", f"{thing}.html", lxml.html.fromstring(page(thing)))
        kept = [section for section in sections if section.text]
        for right in kept:
            asked = asked_by(right, Counter())
            assert asked is not None and asked[0] == "asks"
            others = [section for section in kept if section is not right]
            texts = [{"title": each.title, "heading": each.heading, "text": each.text} for each in (right, *others[:7])]
            made.append(
                {"kind": "asks", "package": "made up", "question": asked[1], "with_heading": False, "texts": texts}
            )
    return made


def main() -> int:
    """Run every step once."""
    import torch

    from training.network import Judge, from_embedding
    from training.teach import checked, loss_of, taken, tokenizer

    seal.put_on()
    chance = random.Random(1)
    torch.manual_seed(1)
    all_groups = groups()
    chance.shuffle(all_groups)
    aside, taught = all_groups[:10], all_groups[10:]
    tokens, judge = tokenizer(), from_embedding(BASE / "model.safetensors", Judge())
    optimiser = torch.optim.AdamW(judge.parameters(), lr=5e-5)
    before = checked(judge, aside, tokens)
    losses = []
    for step in range(_STEPS):
        losses.append(taken(optimiser, loss_of(judge, taught[step * 4 : step * 4 + 4], tokens, chance), 5e-5))
    with tempfile.TemporaryDirectory() as folder:
        kept = Path(folder) / "judge.pt"
        torch.save(judge.state_dict(), kept)
        judge.load_state_dict(torch.load(kept))
    after = checked(judge, aside, tokens)
    tuned = _tuned(all_groups, chance)
    print(
        json.dumps(
            {
                "groups": len(all_groups),
                "before": round(before, 3),
                "after": round(after, 3),
                "losses": [round(each, 3) for each in losses],
                "losses of tuning": [round(each, 3) for each in tuned],
            }
        )
    )
    return 0 if losses[-1] < losses[0] and tuned[-1] < tuned[0] else 1


def _tuned(made: list[dict[str, object]], chance: random.Random) -> list[float]:
    """The losses of some steps of tuning the embedding model on the same pairs."""
    import torch

    from training.network import SentenceEncoder, from_embedding
    from training.teach import taken
    from training.tune import loss_of

    sections = [texts[0] for group in made if isinstance(texts := group["texts"], list)]
    pairs = [{"kind": "asks", "question": group["question"], "section": at} for at, group in enumerate(made)]
    encoder = from_embedding(BASE / "model.safetensors", SentenceEncoder())
    optimiser = torch.optim.AdamW(encoder.parameters(), lr=2e-5)
    losses = []
    for _ in range(_STEPS):
        losses.append(taken(optimiser, loss_of(encoder, sections, pairs[:16], chance), 2e-5))
    return losses


if __name__ == "__main__":
    sys.exit(main())
