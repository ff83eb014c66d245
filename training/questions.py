# SPDX-License-Identifier: GPL-3.0-or-later
"""Makes groups to teach with: a question, the text that answers it, and texts near it in the same source that do not.

Run as `python -m training.questions`, after `training.pairs`: writes
build/training/groups.jsonl. The texts that do not answer are those that the
English embedding model thinks nearest but the first two, which often answer,
too, with some that follow in the ranks (hard negatives: Xiong et al., 2021).
"""

import json
import random
import re
import sys
from collections import Counter
from collections.abc import Sequence
from typing import Any

import numpy as np

from redlantern.safety import seal
from training.material import FETCHED
from training.pairs import PAIRS

GROUPS = FETCHED.parent / "groups.jsonl"
HELD_OUT = frozenset({"debian-faq", "debian-policy", "aptitude-doc-en", "borgbackup-doc", "bacula-doc"})
"""Sources that are never taught, to see when to stop."""
_N_OTHERS = 7
_NEAREST_LEFT_OUT, _NEAREST = 2, 40
_OF_KIND = {"asks": 1_528, "heading": 3_200, "link": 2_000, "term": 400}
_FURTHER_TEXTS = 150
"""Of each source, beside those that a question leads to: embedding takes most of the time."""
_CODE = re.compile(r"[$_<>\\{}()=/|*\[\]^~@]|--|\w\.\w")
_GERUND = re.compile(r"^([A-Z]?[a-z]{2,})ing\b (?!of\b)(?=.*\w)")
_WORD = re.compile(r"[^\W\d_]{2,}")


def as_asked(kind: str, words: str, chance: random.Random) -> str:
    """Put a heading or the words of a link as a person would: as a question, as key words, now and then misspelt."""
    if kind == "asks":
        asked = words
    elif (found := _GERUND.match(words)) and chance.random() < 0.7:
        rest = words[found.end() :].lstrip()
        asked = chance.choice(("How do I go about {}?", "How is {} done?", "What should I know for {}?")).format(
            f"{found.group().lower()} {rest}".replace("  ", " ")
        )
    elif kind == "term" or chance.random() < 0.5:
        asked = chance.choice(
            ("What is {}?", "What does {} mean?", "{}", "Tell me what {} is for", "When is {} needed?")
        ).format(words)
    else:
        asked = chance.choice(
            ("{}", "{}?", "What about {}?", "What is said about {}?", "Where are {} described?")
        ).format(words)
    asked = asked[:1].upper() + asked[1:] if chance.random() < 0.6 else asked.lower()
    return _misspelt(asked, chance) if chance.random() < 0.08 else asked


def _misspelt(words: str, chance: random.Random) -> str:
    long = [found for found in _WORD.finditer(words) if len(found.group()) >= 6]
    if not long:
        return words
    at = chance.choice(long).start() + chance.randint(1, 4)
    return chance.choice((words[:at] + words[at + 1 :], words[:at] + words[at + 1] + words[at] + words[at + 2 :]))


def is_plain(words: str) -> bool:
    """Whether words are such as a person writes, not a name in a program."""
    return not _CODE.search(words) and len(_WORD.findall(words)) >= 2


def chosen(pairs: Sequence[dict[str, Any]], chance: random.Random) -> list[dict[str, Any]]:
    """A share of the pairs of each kind, none of whose words are a name in a program."""
    kept: list[dict[str, Any]] = []
    for kind, most in _OF_KIND.items():
        fitting = [pair for pair in pairs if pair["kind"] == kind and (kind == "asks" or is_plain(pair["question"]))]
        chance.shuffle(fitting)
        kept += fitting[:most]
    return kept


def _compared(sections: Sequence[dict[str, Any]], right: set[int], chance: random.Random) -> list[int]:
    """The sections among which texts that do not answer are looked for: the right ones, and a sample of each source's others."""
    of_package: dict[str, list[int]] = {}
    for at, section in enumerate(sections):
        of_package.setdefault(section["package"], []).append(at)
    found = set(right)
    for numbers in of_package.values():
        if not right.isdisjoint(numbers):
            found.update(chance.sample(numbers, min(_FURTHER_TEXTS, len(numbers))))
    return sorted(found)


def main() -> int:
    """Write the groups; all sections are embedded for it, some minutes."""
    seal.put_on()
    from redlantern.models.embedding import OnnxEmbedder

    chance = random.Random(7)
    rows = [json.loads(line) for line in PAIRS.read_text(encoding="utf-8").splitlines()]
    sections = [row for row in rows if "text" in row]
    pairs = chosen([row for row in rows if "kind" in row], chance)
    embedder = OnnxEmbedder()
    packages = {sections[pair["section"]]["package"] for pair in pairs}
    wanted = _compared(sections, {pair["section"] for pair in pairs}, chance)
    vectors = np.zeros((len(sections), embedder.dimensions), np.float32)
    texts = [f"{sections[at]['heading']}\n{sections[at]['text']}" for at in wanted]
    for at, embedded in embedder.embed(texts, [[] for _ in texts]):
        vectors[wanted[at]] = embedded.text
    of_package = {name: np.array([at for at in wanted if sections[at]["package"] == name]) for name in packages}
    counts: Counter[str] = Counter()
    with GROUPS.open("w", encoding="utf-8") as file:
        for pair in pairs:
            right = sections[pair["section"]]
            own = of_package[right["package"]]
            near = vectors[own] @ embedder.embed_question(pair["question"])
            ranked = [int(at) for at in own[np.argsort(-near)] if at != pair["section"]]
            pool = [at for at in ranked[_NEAREST_LEFT_OUT:_NEAREST] if sections[at]["text"] != right["text"]]
            if len(pool) < _N_OTHERS:
                continue
            # Nearest first, with a tail: half from the first ten, half from the rest.
            others = chance.sample(pool[:10], min(4, len(pool[:10])))
            others += chance.sample(sorted(set(pool) - set(others)), _N_OTHERS - len(others))
            row = {
                "kind": pair["kind"],
                "package": right["package"],
                "question": as_asked(pair["kind"], pair["question"], chance),
                # What the question was made of is no heading of the text that it asks for.
                "with_heading": pair["kind"] == "link",
                "texts": [
                    {name: sections[at][name] for name in ("title", "heading", "text")}
                    for at in (pair["section"], *others)
                ],
            }
            file.write(json.dumps(row, ensure_ascii=False) + "\n")
            counts["kept aside" if right["package"] in HELD_OUT else pair["kind"]] += 1
    print(dict(counts))
    return 0


if __name__ == "__main__":
    sys.exit(main())
