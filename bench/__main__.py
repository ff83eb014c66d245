# SPDX-License-Identifier: GPL-3.0-or-later
"""`python -m bench [NAME] [--json]`: runs one measurement, or all of them."""

import argparse
import json
import sys
from typing import Any

from redlantern.models.register import DEFAULT_EMBEDDING, EMBEDDINGS
from redlantern.readthrough.values import WAYS
from redlantern.safety import seal


def main() -> int:
    """Run what was asked for."""
    seal.put_on()
    from bench import (
        answering,
        answers,
        brief,
        collection,
        grid,
        indexing,
        kernels,
        quality,
        reading,
        readthrough,
        reckoning,
        retrieval,
        speed,
        support,
        translations,
    )

    benches: dict[str, Any] = {
        "quality": quality, "retrieval": retrieval, "indexing": indexing, "speed": speed, "reading": reading,
        "collection": collection, "answers": answers, "answering": answering, "support": support, "translations": translations,
        "reckoning": reckoning, "readthrough": readthrough, "grid": grid, "brief": brief, "kernels": kernels,
    }  # fmt: skip
    parser = argparse.ArgumentParser(prog="./run bench")
    parser.add_argument("name", nargs="?", choices=[*benches])
    parser.add_argument("--passages", type=int, help="for retrieval: how many, instead of all three sizes")
    parser.add_argument(
        "--only",
        default="",
        help="for answers and readthrough: the collection (demo, accounts, handbook), instead of all",
    )
    parser.add_argument(
        "--model",
        default="",
        choices=["", *answers.READER_WORDS],
        help="for answers and grid: with this reader alone; for reckoning: with it where the rules find nothing",
    )
    parser.add_argument(
        "--unpooled",
        action="store_true",
        help="for quality: only pages named with the questions are right, not those judged right in the pool",
    )
    parser.add_argument(
        "--embedding",
        default=DEFAULT_EMBEDDING,
        choices=[*EMBEDDINGS],
        help="for quality and translations: with this packaged embedding model",
    )
    parser.add_argument(
        "--tuning",
        action="store_true",
        help="for reckoning: the questions that rules were tuned on; says what was not right",
    )
    parser.add_argument(
        "--how", choices=WAYS, default="lines", help="for readthrough: how carefully; but for lines with --model"
    )
    parser.add_argument(
        "--sample", type=int, default=0, help="for readthrough with a model: read only so many pages a question"
    )
    parser.add_argument("--documents", type=int, default=80, help="for grid: how many contracts")
    parser.add_argument("--json", action="store_true", help="print the figures as JSON")
    arguments = parser.parse_args()
    results = {}
    for name in [arguments.name] if arguments.name else [*benches]:
        chosen: dict[str, Any] = {}
        if name == "retrieval" and arguments.passages:
            chosen["sizes"] = (arguments.passages,)
        if name == "answers":
            chosen["only"], chosen["model"] = arguments.only, arguments.model
        if name == "quality":
            chosen["unpooled"] = arguments.unpooled
        if name == "reckoning":
            chosen["model"] = arguments.model or "none"
            if arguments.tuning:
                chosen["world"], chosen["says"] = "tuning", True
        if name == "readthrough":
            chosen["only"], chosen["way"] = arguments.only, arguments.how
            chosen["model"] = arguments.model.replace("none", "") if arguments.how != "lines" else ""
            chosen["embedding"], chosen["n_sampled"] = arguments.embedding, arguments.sample
        if name == "grid":
            chosen["n_documents"], chosen["model"] = arguments.documents, arguments.model.replace("none", "")
        if name in ("quality", "translations"):
            chosen["embedding"] = arguments.embedding
        result = benches[name].measure(**chosen)
        results[name] = benches[name].as_json(result)
        if not arguments.json:
            print(f"\n{name.upper()}")
            benches[name].show(result)
    if arguments.json:
        print(json.dumps(results, indent=1))
    return 0


if __name__ == "__main__":
    sys.exit(main())
