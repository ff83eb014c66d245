# SPDX-License-Identifier: GPL-3.0-or-later
"""What each step of finding brings, on the collection that the method was chosen on.

Run as `python -m bench.steps`, after `python -m bench.open_documents`; prints
recall and MRR of the product with one setting changed at a time. The figures of
the collections that are measured with come from `./run bench quality`.
"""

import sys
from dataclasses import replace

import numpy as np

from redlantern.safety import seal

SETTINGS: tuple[tuple[str, dict[str, float]], ...] = (
    ("as it is", {}),
    ("words count nothing", {"word_weight": 0.0}),
    *((f"words count {weight}", {"word_weight": weight}) for weight in (0.2, 0.3, 0.5, 0.75)),
    ("not reranked", {"reranked": 0}),
    ("8 reranked", {"reranked": 8}),
    ("12 reranked", {"reranked": 12}),
)


def main() -> int:
    """Print the table."""
    seal.put_on()
    from bench import ranking
    from bench.collections import opened
    from bench.open_documents import CHOSEN_ON

    if not CHOSEN_ON.documents.exists():
        print("Run `python -m bench.open_documents` first.", file=sys.stderr)
        return 1
    questions = ranking.questions_of(CHOSEN_ON.questions)
    with opened(CHOSEN_ON.kept_index(), CHOSEN_ON.documents) as engine:
        method = engine.method
        print(f"{'':22}" + "".join(f"{one:>11}" for one in ranking.FIGURES))
        for name, changed in SETTINGS:
            engine.exchange(method=replace(method, **changed))  # type: ignore[arg-type]
            rows = [ranking.figures_of(asked, ranking.product_order(engine, asked)) for asked in questions]
            print(f"{name:22}" + "".join(f"{np.mean([row[one] for row in rows]):11.3f}" for one in ranking.FIGURES))
    return 0


if __name__ == "__main__":
    sys.exit(main())
