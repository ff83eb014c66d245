# SPDX-License-Identifier: GPL-3.0-or-later
"""The embedding model: texts to vectors of 384 numbers, and vectors of the lines within them at no extra cost."""

import hashlib
import os
import re
from collections import deque
from collections.abc import Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import Any, Protocol

import numpy as np
import numpy.typing as npt

from redlantern.models import approved
from redlantern.models.register import ENGLISH_EMBEDDING, PackagedEmbedding, identity_of

Vectors = npt.NDArray[np.float32]
Span = tuple[int, int]
PackedLines = npt.NDArray[np.uint8]
Offsets = npt.NDArray[np.int64]


WEIGHTS_FILE, TOKENIZER_FILE = "model.onnx", "tokenizer.json"
BEFORE_QUESTION, BEFORE_TEXT = "before a question", "before a text"
"""Entries of a weights file's metadata: words that the model was trained to see in front of each."""
_HALF_CLIP = 0.67
_WORDS = re.compile(r"\w+|[^\w\s]")
"""A run of letters and digits, or a sign by itself; tokenizers have their own ideas of what a word is."""


@dataclass(frozen=True)
class Embedded:
    """One text's vectors: `text` of shape (dim,), `lines` of shape (n_spans, dim); all of length 1."""

    text: Vectors
    lines: Vectors


class Embedder(Protocol):
    """What the rest of the application asks of an embedding model."""

    name: str
    identity: str
    """See register.identity_of: vectors of two identities are never compared."""
    dimensions: int
    most_tokens: int

    def count_tokens(self, texts: Sequence[str]) -> list[int]:
        """Count each text's tokens, without the special ones."""

    def embed(self, texts: Sequence[str], spans: Sequence[Sequence[Span]]) -> Iterator[tuple[int, Embedded]]:
        """Embed texts, with a vector for each span of code points; gives (index, vectors) in any order."""

    def embed_question(self, question: str, *, in_english: bool = True) -> Vectors:
        """Embed one short text: shape (dim,); its products with the vectors of texts are cosines."""

    def embed_words(
        self, texts: Sequence[str], *, asked: bool = False, in_english: bool = True
    ) -> list[list[tuple[Span, Vectors]]]:
        """Give each word of some short texts a vector in its context; `asked` where they are questions."""

    def splits_word(self, word: str) -> bool:
        """Whether the word is none of those that are frequent in English."""


_MOST_TOKENS = 512
"""Of a model that was made for longer texts: no passage is longer."""


def _read_model(model: Path | PackagedEmbedding, *, is_trial: bool) -> tuple[bytes, bytes]:
    """The bytes of the weights and the tokenizer: what is checked is what is loaded, and no other file beside them is."""
    if isinstance(model, PackagedEmbedding):
        return model.weights.checked_bytes(), model.tokenizer.checked_bytes()
    weights, tokenizer = (model / WEIGHTS_FILE).read_bytes(), (model / TOKENIZER_FILE).read_bytes()
    if not is_trial:
        hashes = {
            WEIGHTS_FILE: hashlib.sha256(weights).hexdigest(),
            TOKENIZER_FILE: hashlib.sha256(tokenizer).hexdigest(),
        }
        approved.check(model, hashes)
    return weights, tokenizer


class OnnxEmbedder:
    """A sentence embedding model in ONNX with its tokenizer, pooled by the mean over its tokens.

    Mean pooling and length 1 as in Reimers and Gurevych, "Sentence-BERT" (2019).
    """

    _AHEAD = 4

    def __init__(self, model: Path | PackagedEmbedding = ENGLISH_EMBEDDING, *, is_trial: bool = False) -> None:
        """Load a packaged model, or the one in a folder with `model.onnx` and `tokenizer.json`, in about half a second.

        `is_trial` is for the process that tries a model before it is brought in, and for nothing else.

        Raises
        ------
        ModelNotApprovedError
            If the model in the folder is not what was brought in here.
        ModelMissingError
            If a packaged file is missing, or is not what was released.
        """
        import onnxruntime
        from tokenizers import Tokenizer

        weights, tokenizer = _read_model(model, is_trial=is_trial)
        self.name = model.name
        self._tokenizer = Tokenizer.from_buffer(tokenizer)
        # Its list of pieces is one of English words; those of other models hold few of them whole.
        self._vocabulary = Tokenizer.from_buffer(ENGLISH_EMBEDDING.tokenizer.checked_bytes())
        self._vocabulary.no_padding()
        is_packaged = isinstance(model, PackagedEmbedding)
        self.most_tokens = _MOST_TOKENS if is_packaged else most_tokens_of(self._tokenizer.truncation)
        self._tokenizer.no_truncation()
        self._tokenizer.no_padding()
        self.identity = identity_of(self.name, hashlib.sha256(weights).hexdigest())
        options = onnxruntime.SessionOptions()
        # One text on each core is a quarter faster than one text on all cores, and faster still than padded batches;
        # and a text's vector then depends on no other text (the scale of its small integers is found anew in each run).
        options.intra_op_num_threads = 1
        options.log_severity_level = 3
        self._session: Any = onnxruntime.InferenceSession(weights, options, providers=["CPUExecutionProvider"])
        self._inputs = [entry.name for entry in self._session.get_inputs()]
        noted = self._session.get_modelmeta().custom_metadata_map
        self._before_question, self._before_text = noted.get(BEFORE_QUESTION, ""), noted.get(BEFORE_TEXT, "")
        self.dimensions = int(self._run([0]).shape[1])

    def count_tokens(self, texts: Sequence[str]) -> list[int]:
        """Count each text's tokens, without the special ones."""
        return [len(encoding.ids) for encoding in self._tokenizer.encode_batch(list(texts), add_special_tokens=False)]

    def splits_word(self, word: str) -> bool:
        """Whether the word is none of thirty thousand that are frequent in English."""
        return len(self._vocabulary.encode(word, add_special_tokens=False).ids) > 1

    def embed(self, texts: Sequence[str], spans: Sequence[Sequence[Span]]) -> Iterator[tuple[int, Embedded]]:
        """Embed texts, one on each core.

        Parameters
        ----------
        texts : sequence of str
            Of at most `most_tokens` tokens each; what is longer is cut off.
        spans : sequence of sequences of (start, end)
            For each text, the code points of its lines. A line's vector is
            pooled from the text's own token outputs, so it knows its context.

        Yields
        ------
        (index, Embedded)
            Longest texts first. A span without tokens gets the text's vector.
        """
        for index, offsets, outputs in self._outputs(texts, self._before_text):
            yield index, _pool(outputs, offsets, spans[index])

    def embed_question(self, question: str, *, in_english: bool = True) -> Vectors:
        """Embed one short text: shape (dim,), length 1."""
        [(_, _, outputs)] = self._outputs([question], self._before_question)
        return _unit(outputs.mean(axis=0))

    def embed_words(
        self, texts: Sequence[str], *, asked: bool = False, in_english: bool = True
    ) -> list[list[tuple[Span, Vectors]]]:
        """Give each word of some short texts a vector in its context; `asked` where they are questions.

        Returns
        -------
        list, for each text, of ((start, end), float32 array of shape (dim,))
            A word is a run of letters and digits, or a sign by itself; its vector
            is the mean over the tokens in it, of length 1.
        """
        found: list[list[tuple[Span, Vectors]]] = [[] for _ in texts]
        for index, offsets, outputs in self._outputs(texts, self._before_question if asked else self._before_text):
            found[index] = _word_vectors(texts[index], offsets, outputs)
        return found

    def _outputs(self, texts: Sequence[str], before: str) -> Iterator[tuple[int, Offsets, Vectors]]:
        """Give the token outputs of each text, the longest first, so that the cores end together.

        With each the code points of the text that its tokens stand for, shape (n_tokens, 2): none, (0, 0), for those of
        what is put before it and for special ones.
        """
        encoded = self._tokenizer.encode_batch([before + text for text in texts])
        order = sorted(range(len(texts)), key=lambda index: -len(encoded[index].ids))
        for index, outputs in self._run_all(encoded, order):
            offsets = np.array(encoded[index].offsets[: self.most_tokens]) - len(before)
            yield index, np.maximum(offsets, 0), outputs

    def _run_all(self, encoded: Sequence[Any], order: Sequence[int]) -> Iterator[tuple[int, Vectors]]:
        """Give the token outputs of each text, in order: (index, float32 array of shape (n_tokens, dim))."""
        ahead: deque[tuple[int, Future[Vectors]]] = deque()
        try:
            for index in order:
                ahead.append((index, _threads().submit(self._run, encoded[index].ids[: self.most_tokens])))
                if len(ahead) >= self._AHEAD:
                    done, outputs = ahead.popleft()
                    yield done, outputs.result()
            while ahead:
                done, outputs = ahead.popleft()
                yield done, outputs.result()
        finally:
            for _, outputs in ahead:
                outputs.cancel()

    def _run(self, ids: list[int]) -> Vectors:
        row = np.array([ids], np.int64)
        feed = {"input_ids": row, "attention_mask": np.ones_like(row), "token_type_ids": np.zeros_like(row)}
        hidden: Vectors = self._session.run(None, {name: feed[name] for name in self._inputs})[0][0]
        return hidden


@cache
def _threads() -> ThreadPoolExecutor:
    """One for each core, for all models together."""
    return ThreadPoolExecutor(os.cpu_count() or 1, "embedding")


def most_tokens_of(truncation: dict[str, Any] | None) -> int:
    """How many tokens a model takes at once, by its tokenizer's own limit; the packaged one's where it states none."""
    stated = int((truncation or {}).get("max_length", ENGLISH_EMBEDDING.most_tokens))
    return min(stated, _MOST_TOKENS)


def _pool(outputs: Vectors, offsets: Offsets, spans: Sequence[Span]) -> Embedded:
    text = _unit(outputs.mean(axis=0))
    lines = np.empty((len(spans), outputs.shape[1]), np.float32)
    # Those without a place in the text belong to no line.
    is_real = offsets[:, 1] > offsets[:, 0]
    for row, (start, end) in enumerate(spans):
        inside = is_real & (offsets[:, 0] < end) & (offsets[:, 1] > start)
        lines[row] = _unit(outputs[inside].mean(axis=0)) if inside.any() else text
    return Embedded(text, lines)


def _word_vectors(text: str, offsets: Offsets, outputs: Vectors) -> list[tuple[Span, Vectors]]:
    spans = np.array([match.span() for match in _WORDS.finditer(text)], np.int64).reshape(-1, 2)
    is_real = offsets[:, 1] > offsets[:, 0]
    # A few hundred tokens at most, so that all may be compared with all words.
    inside = (offsets[:, 0] < spans[:, 1:]) & (offsets[:, 1] > spans[:, :1]) & is_real
    whole = np.flatnonzero(inside.any(axis=1))
    sums = inside[whole].astype(np.float32) @ outputs
    vectors = (sums / np.maximum(np.linalg.norm(sums, axis=1, keepdims=True), 1e-12)).astype(np.float32)
    return [((int(start), int(end)), vector) for (start, end), vector in zip(spans[whole], vectors, strict=True)]


def _unit(vector: Vectors) -> Vectors:
    return np.asarray(vector / max(float(np.linalg.norm(vector)), 1e-12), np.float32)


def to_int8(vectors: Vectors) -> npt.NDArray[np.int8]:
    """Store float32 vectors of length 1, shape (n, dim), as int8 codes of the same shape.

    Each number is taken times 127 and divided by the largest of its row. The scale is
    dropped, for only directions are compared: `from_int8` gives vectors of length 1 again, within about 0.5% of the cosine.
    """
    if vectors.size == 0:
        return np.zeros(vectors.shape, np.int8)
    largest = np.abs(vectors).max(axis=1, keepdims=True)
    small: npt.NDArray[np.int8] = np.round(vectors / np.maximum(largest, 1e-12) * 127).astype(np.int8)
    return small


def to_int4(vectors: Vectors) -> PackedLines:
    """Store float32 vectors of length 1, shape (n, dim), as int4 codes, two in a byte: uint8 of shape (n, dim / 2).

    For lines, of which there are many.

    `from_int4` gives vectors of length 1 again, within about 2% of the cosine.
    """
    if vectors.size == 0:
        return np.zeros((len(vectors), vectors.shape[1] // 2), np.uint8)
    largest = np.abs(vectors).max(axis=1, keepdims=True)
    # Clipped at two thirds of the largest: few numbers are near it, and the steps for all others become finer.
    scaled = np.clip(vectors / np.maximum(largest * _HALF_CLIP, 1e-12), -1, 1)
    small = (np.round(scaled * 7) + 8).astype(np.uint8)
    return np.asarray(small[:, 0::2] << 4 | small[:, 1::2], np.uint8)


def from_int4(packed: PackedLines, dimensions: int) -> Vectors:
    """Give the vectors of length 1, float32 of shape (n, dimensions), that `to_int4` stored; or `to_int8`, before file version 3.

    `packed` is a uint8 array of shape (n, dimensions / 2), or (n, dimensions).
    """
    if packed.shape[1] == dimensions:
        return from_int8(packed.view(np.int8))
    small = np.empty((len(packed), packed.shape[1] * 2), np.int8)
    small[:, 0::2] = (packed >> 4).astype(np.int8) - 8
    small[:, 1::2] = (packed & 15).astype(np.int8) - 8
    return from_int8(small)


def from_int8(small: npt.NDArray[np.int8]) -> Vectors:
    """Give the vectors of length 1, float32 of shape (n, dim), that `to_int8` stored: `small` is int8 of the same shape."""
    vectors = small.astype(np.float32)
    norms = np.linalg.norm(vectors, axis=1, keepdims=True)
    return np.asarray(vectors / np.maximum(norms, 1e-12), np.float32)
