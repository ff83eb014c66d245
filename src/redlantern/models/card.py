# SPDX-License-Identifier: GPL-3.0-or-later
"""What is known of a model before it is used, and how fast it is on this machine."""

import json
import subprocess
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from redlantern.errors import RedlanternError
from redlantern.models.chosen import chosen_embedder
from redlantern.models.embedding import WEIGHTS_FILE
from redlantern.models.hosted import HostedModel
from redlantern.models.machine import free_bytes, resident_bytes
from redlantern.models.protocols import LanguageModelError
from redlantern.models.readers import default_reader, reader_at
from redlantern.models.register import EMBEDDINGS, sha256_of
from redlantern.progress import Cancel
from redlantern.safety.children import start_child
from redlantern.translation import tr

N_CONTEXT = 2048
_SPARE_BYTES = 300 * 2**20
_DESCRIBE_TIMEOUT_S = 90
_READ_TEXT = "The relative humidity of the loft is read at eight in the morning and entered in the log. " * 16
_MEASURED_TOKENS, _TRIED_TOKENS = 48, 8
_PASSAGE = "The Builder shall stop all work when the relative humidity exceeds the limit for more than a day. " * 8
_MEASURED_PASSAGES = 12
_NO_MEMORY = tr("it would need about {needed} of memory, and {free} are free on this machine")


class UnfitModelError(RedlanternError):
    """A model file that cannot be used here, and why."""

    def __init__(self, path: str, reason: str) -> None:
        super().__init__(path, reason)
        self.path, self.reason = path, reason

    def __str__(self) -> str:
        return tr("“{name}” cannot be used: {reason}.").format(name=Path(self.path).name, reason=self.reason)


@dataclass(frozen=True)
class ModelCard:
    """What a model's file says, and its size and SHA-256. `n_context` is in tokens, `memory_bytes` an estimate in use;
    `dimensions` are of an embedding model's vectors.
    """

    name: str
    path: str
    size_bytes: int
    sha256: str
    n_parameters: int = 0
    quantisation: str = ""
    n_context: int = 0
    languages: tuple[str, ...] = ()
    licence: str = ""
    memory_bytes: int = 0
    dimensions: int = 0


@dataclass(frozen=True)
class Speeds:
    """Measured on this machine: seconds to load, tokens a second read and written, passages embedded a second, bytes held;
    0 for what does not apply.
    """

    load_s: float = 0.0
    read_per_s: float = 0.0
    written_per_s: float = 0.0
    passages_per_s: float = 0.0
    memory_bytes: int = 0


def language_card(path: Path | None = None) -> ModelCard:
    """Describe a language model file; without a path, the packaged one that is used where nobody chose.

    Its header is read in a process of its own.

    Raises
    ------
    UnfitModelError
        If it is no GGUF file, does not write text, has no chat template (so it
        was not made to follow instructions), or needs more memory than is free.
    """
    place = path or default_reader().path()
    if not place.is_file():
        raise UnfitModelError(str(place), tr("there is no such file"))
    told = _describe(place)
    if "unfit" in told:
        raise UnfitModelError(str(place), told["unfit"])
    if not told["has_template"]:
        raise UnfitModelError(
            str(place),
            tr("it has no chat template, so it was not made to follow instructions but only to go on with text"),
        )
    size = place.stat().st_size
    needed = size + told["bytes_a_token"] * N_CONTEXT + _SPARE_BYTES
    free = free_bytes()
    if needed > free:
        raise UnfitModelError(str(place), _NO_MEMORY.format(needed=in_mib(needed), free=in_mib(free)))
    packaged = reader_at(place)
    name = packaged.name if packaged is not None else told["name"]
    return ModelCard(
        name, str(place), size, sha256_of(place), told["n_parameters"], told["quantisation"], told["n_context"],
        tuple(told["languages"]), told["licence"] or ("apache-2.0" if packaged is not None else ""), needed,
    )  # fmt: skip


def packaged_embedding_card(word: str) -> ModelCard:
    """Describe the packaged embedding model that people choose by this word.

    Raises
    ------
    ModelMissingError
        If a file of it is not there.
    """
    parts = EMBEDDINGS[word]
    places = [part.weights.path() for part in parts]
    return ModelCard(
        " and ".join(part.name for part in parts), str(places[0]), sum(place.stat().st_size for place in places),
        ", ".join(part.weights.sha256 for part in parts), sum(part.n_parameters for part in parts),
        ", ".join(dict.fromkeys(part.quantisation for part in parts)), min(part.most_tokens for part in parts),
        parts[-1].languages, ", ".join(dict.fromkeys(part.licence for part in parts)), 0, 384 * len(parts),
    )  # fmt: skip


def embedding_card(folder: Path) -> ModelCard:
    """Describe the embedding model in a folder, which is tried in a process of its own.

    Raises
    ------
    UnfitModelError
        If a file is missing or cannot be loaded, it takes or gives something else than is known here, or does not tell
        related sentences from others.
    """
    weights = folder / WEIGHTS_FILE
    size = weights.stat().st_size if weights.is_file() else 0
    if size + _SPARE_BYTES > free_bytes():
        raise UnfitModelError(
            str(folder),
            _NO_MEMORY.format(needed=in_mib(size + _SPARE_BYTES), free=in_mib(free_bytes())),
        )
    told = _describe(folder, "describe_embedding")
    if "unfit" in told:
        raise UnfitModelError(str(folder), told["unfit"])
    return ModelCard(
        folder.name,
        str(weights),
        size,
        sha256_of(weights),
        n_context=told["most_tokens"],
        dimensions=told["dimensions"],
    )


def check_writes(card: ModelCard, cancel: Cancel) -> None:
    """Load a language model in a host of its own and let it write a few words, before anything depends on it.

    Raises
    ------
    UnfitModelError, Cancelled
        If it cannot be loaded, or writes nothing.
    """
    model = HostedModel(Path(card.path))
    try:
        steps = model.write("Answer in one word.", "Is it day?", grammar="", most_tokens=_TRIED_TOKENS, cancel=cancel)
        if not "".join(step.words for step in steps).strip():
            raise UnfitModelError(card.path, tr("it was loaded, but it wrote nothing"))
    except LanguageModelError as failure:
        raise UnfitModelError(card.path, tr("it {reason}").format(reason=failure.reason)) from failure
    finally:
        model.close()


def measure_language(path: Path | None, cancel: Cancel, report: Callable[[str], None]) -> Speeds:
    """Load a language model, let it read and write a little, and end it.

    Raises
    ------
    LanguageModelError, Cancelled
    """
    model = HostedModel(path)
    try:
        report(tr("loading ..."))
        began = time.perf_counter()
        model.start()
        loaded = time.perf_counter()
        report(tr("reading and writing ..."))
        first = last = 0.0
        n_read = n_written = 0
        for step in model.write(
            "Go on with the story.", _READ_TEXT, grammar="", most_tokens=_MEASURED_TOKENS, cancel=cancel
        ):
            last = time.perf_counter()
            first = first or last
            n_read, n_written = max(n_read, step.n_prompt_tokens), max(n_written, step.n_written_tokens)
        return Speeds(
            loaded - began,
            n_read / max(first - loaded, 1e-6),
            n_written / max(last - first, 1e-6),
            0,
            resident_bytes(model.pid or 0),
        )
    finally:
        model.close()


def measure_embedding(model: Path | str, cancel: Cancel, report: Callable[[str], None]) -> Speeds:
    """Load an embedding model again, of a folder or a packaged one by its word, and embed a few passages."""
    report(tr("loading ..."))
    began = time.perf_counter()
    embedder = chosen_embedder(model)
    embedder.embed_question("humidity")
    loaded = time.perf_counter()
    cancel.check()
    report(tr("embedding ..."))
    for _ in embedder.embed([_PASSAGE] * _MEASURED_PASSAGES, [[] for _ in range(_MEASURED_PASSAGES)]):
        cancel.check()
    spent = time.perf_counter() - loaded
    n_tokens = sum(embedder.count_tokens([_PASSAGE] * _MEASURED_PASSAGES))
    # It lives in this process, so what it holds cannot be told from the rest.
    return Speeds(loaded - began, n_tokens / spent, 0, _MEASURED_PASSAGES / spent)


def in_mib(n_bytes: int) -> str:
    """A size in words."""
    return f"{n_bytes / 2**20:,.0f} MiB" if n_bytes < 10 * 2**30 else f"{n_bytes / 2**30:.1f} GiB"


def _describe(path: Path, by: str = "describe") -> dict[str, Any]:
    try:
        with start_child(f"redlantern.models.{by}", str(path.absolute())) as process:
            try:
                said, _ = process.communicate(timeout=_DESCRIBE_TIMEOUT_S)
            finally:
                process.kill()
        return dict(json.loads(said))
    except (subprocess.TimeoutExpired, ValueError, TypeError):
        return {"unfit": tr("it cannot be read")}
