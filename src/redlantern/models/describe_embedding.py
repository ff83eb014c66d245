# SPDX-License-Identifier: GPL-3.0-or-later
"""The process that tries an embedding model that somebody wants to bring in, inside limits of its own.

Runs as `python -m redlantern.models.describe_embedding FOLDER` and is started by `card`. It loads the model,
embeds a few sentences, and prints one line of JSON: what it found, or `{"unfit": reason}`.
"""

import json
import sys
from pathlib import Path
from typing import Any

from redlantern.safety import limits, seal
from redlantern.translation import tr

_MEMORY_BYTES = 8 * 2**30
_CPU_S = 120
_KNOWN_INPUTS = {"input_ids", "attention_mask", "token_type_ids"}
_ALIKE = ("The roof leaks when it rains.", "Water comes through the roof in wet weather.")
_OTHER = "The invoice is due within thirty days."
_LEAST_DIFFERENCE = 0.1
_LONGEST_BEFORE = 64
"""It is read with every question and passage, in the window's own process."""
_PER_TOKEN, _PER_TEXT = 3, 2
"""Axes of an output with a vector for each token, and of one with a vector for the whole text only."""


def main() -> None:
    """Describe the folder named on the command line."""
    state = seal.put_on_reader(Path(sys.argv[1]))
    if not state.is_on:
        print(json.dumps({"unfit": tr("it cannot be tried safely: {reason}").format(reason=state.reason)}), flush=True)
        return
    limits.confine_reader(memory_bytes=_MEMORY_BYTES)
    limits.bound_cpu(_CPU_S)
    try:
        said = described(Path(sys.argv[1]))
    except Exception as failure:  # the runtimes of models raise what they like for a file that is not one
        said = {"unfit": tr("it cannot be loaded ({kind})").format(kind=type(failure).__name__)}
    print(json.dumps(said), flush=True)


def described(folder: Path) -> dict[str, Any]:
    """Load the model and try it."""
    import onnxruntime

    from redlantern.models.embedding import (
        BEFORE_QUESTION,
        BEFORE_TEXT,
        TOKENIZER_FILE,
        WEIGHTS_FILE,
        OnnxEmbedder,
    )

    for name in (WEIGHTS_FILE, TOKENIZER_FILE):
        if not (folder / name).is_file():
            return {"unfit": tr("there is no {name} in the folder").format(name=name)}
    session = onnxruntime.InferenceSession((folder / WEIGHTS_FILE).read_bytes(), providers=["CPUExecutionProvider"])
    unknown = {entry.name for entry in session.get_inputs()} - _KNOWN_INPUTS
    if unknown:
        return {"unfit": tr("it wants an input that is not known here ({unknown})").format(unknown=min(unknown))}
    noted = session.get_modelmeta().custom_metadata_map
    if max(len(noted.get(name, "")) for name in (BEFORE_QUESTION, BEFORE_TEXT)) > _LONGEST_BEFORE:
        return {
            "unfit": tr("what it wants before each text has more than {most} characters").format(most=_LONGEST_BEFORE)
        }
    axes = len(session.get_outputs()[0].shape or ())
    del session
    if axes == _PER_TEXT:
        return {
            "unfit": tr(
                "it gives one vector for a whole text and none for its words, which is a pooling that is not known here"
            )
        }
    if axes != _PER_TOKEN:
        return {"unfit": tr("what it gives is not a vector for each word")}
    embedder = OnnxEmbedder(folder, is_trial=True)
    if embedder.dimensions % 8:
        return {"unfit": tr("its vectors have {n} numbers; a multiple of 8 is needed").format(n=embedder.dimensions)}
    asked, alike, other = (embedder.embed_question(text) for text in (*_ALIKE, _OTHER))
    if float(asked @ alike) < float(asked @ other) + _LEAST_DIFFERENCE:
        return {"unfit": tr("pooled by the mean, it does not tell a sentence on the same matter from one on another")}
    return {"dimensions": embedder.dimensions, "most_tokens": embedder.most_tokens}


if __name__ == "__main__":
    main()
