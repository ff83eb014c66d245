# SPDX-License-Identifier: GPL-3.0-or-later
"""Recognises near versions of a document: the same text with changes.

Each document gets a fingerprint of its stretches of five words: for each of
128 hash functions the smallest value among them. The share of equal values
estimates the share of stretches that two documents have in common (Broder,
"On the resemblance and containment of documents", 1997).
"""

import re
import zlib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

N_HASHES = 128
LEAST_ALIKE = 0.5
"""Documents that share at least half of all their stretches are versions of one another."""

_STRETCH_WORDS = 5
_LEAST_STRETCHES = 20
_BANDS = 32
_WORD = re.compile(r"\w+")

_Marks = npt.NDArray[np.uint32]


@dataclass(frozen=True)
class Version:
    """A document's place among its near versions: 1 is the newest of `total`; `newest_id` is that document."""

    place: int
    total: int
    newest_id: int


def fingerprint(texts: Iterable[str]) -> bytes:
    """Make the fingerprint of a document's pages; empty when there is too little text to tell it from others."""
    words = [word for text in texts for word in _WORD.findall(text.casefold())]
    if len(words) < _LEAST_STRETCHES + _STRETCH_WORDS:
        return b""
    hashes = np.array([zlib.crc32(word.encode()) for word in words], np.uint64)
    n_stretches = len(words) - _STRETCH_WORDS + 1
    mixed = np.zeros(n_stretches, np.uint64)
    for place in range(_STRETCH_WORDS):
        mixed = (mixed ^ hashes[place : place + n_stretches]) * np.uint64(0x9E3779B97F4A7C15)
        mixed ^= mixed >> np.uint64(29)
    mixed = np.unique(mixed)
    factors, shifts = _functions()
    smallest = [
        ((mixed * factor + shift) >> np.uint64(32)).min() for factor, shift in zip(factors, shifts, strict=True)
    ]
    return np.array(smallest, "<u4").tobytes()


def alike(one: bytes, other: bytes) -> float:
    """Estimate the share of stretches that two documents have in common, from 0 to 1; 0 where one has no fingerprint."""
    if not one or not other:
        return 0.0
    return float((np.frombuffer(one, "<u4") == np.frombuffer(other, "<u4")).mean())


def versions(fingerprints: Mapping[int, bytes], newest_first: list[int]) -> dict[int, Version]:
    """Group documents into near versions.

    Parameters
    ----------
    fingerprints : mapping
        From document id to its fingerprint.
    newest_first : list of int
        All document ids, by their date.

    Returns
    -------
    dict
        From document id to its place, for documents that have another version.
    """
    known = [document_id for document_id in newest_first if fingerprints.get(document_id)]
    alike_ones = [
        (one, other)
        for one, other in _candidates(known, fingerprints)
        if alike(fingerprints[one], fingerprints[other]) >= LEAST_ALIKE
    ]
    if not alike_ones:
        return {}
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    place_of = {document_id: place for place, document_id in enumerate(known)}
    rows, columns = ([place_of[pair[side]] for pair in alike_ones] for side in (0, 1))
    links = coo_array((np.ones(len(rows), bool), (rows, columns)), shape=(len(known), len(known)))
    _, labels = connected_components(links, directed=False)
    groups: dict[int, list[int]] = {}
    for document_id, label in zip(known, labels.tolist(), strict=True):
        groups.setdefault(label, []).append(document_id)
    return {
        member: Version(place, len(members), members[0])
        for members in groups.values()
        if len(members) > 1
        for place, member in enumerate(members, start=1)
    }


def _candidates(known: list[int], fingerprints: Mapping[int, bytes]) -> Iterable[tuple[int, int]]:
    """Pairs that agree in a whole band of four values: nearly all pairs that are half alike, few others."""
    seen = set()
    n_bytes = N_HASHES * 4 // _BANDS
    for band in range(_BANDS):
        same: dict[bytes, int] = {}
        for document_id in known:
            piece = fingerprints[document_id][band * n_bytes : (band + 1) * n_bytes]
            first = same.setdefault(piece, document_id)
            if first != document_id and (first, document_id) not in seen:
                seen.add((first, document_id))
                yield first, document_id


def _functions() -> tuple[npt.NDArray[np.uint64], npt.NDArray[np.uint64]]:
    generator = np.random.default_rng(1997)
    return (
        generator.integers(1, 2**63, N_HASHES, dtype=np.uint64) | np.uint64(1),
        generator.integers(0, 2**63, N_HASHES, dtype=np.uint64),
    )
