# SPDX-License-Identifier: GPL-3.0-or-later
"""Turns passphrases into keys: Argon2id (RFC 9106), made as slow as a person will bear."""

import time
import unicodedata
from dataclasses import dataclass

from redlantern.errors import RedlanternError
from redlantern.translation import tr

TARGET_S = 0.5
"""How long unlocking should take: nothing to its owner once a day, a fortune to somebody who guesses."""

_LANES = 4
_LEAST_LOG2_KIB, _MOST_LOG2_KIB = 16, 20
_LEAST_PASSES, _MOST_PASSES = 3, 64
_MOST_WORK_KIB = 8 * 2**20
"""Passes times memory that a collection may ask for: some seconds. Ours ask for about half a second."""


class CostTooHighError(RedlanternError):
    """The first bytes of a file ask for so much work that opening it would take minutes, as no collection of ours does."""

    def __str__(self) -> str:
        return tr(
            "The first bytes of this collection ask for far more work than any that was made by Red Lantern: "
            "they were damaged, or changed so that opening it takes minutes. Nothing was tried. Restore it from "
            "a backup."
        )


@dataclass(frozen=True)
class Cost:
    """What one derivation costs: passes over a memory of 2 to the power of `log2_kib` KiB, in so many lanes."""

    passes: int
    log2_kib: int
    lanes: int = _LANES

    def packed(self) -> bytes:
        """The two bytes that a collection file keeps."""
        return bytes([self.passes, (self.log2_kib - _LEAST_LOG2_KIB) << 4 | self.lanes])

    @classmethod
    def unpacked(cls, packed: bytes) -> "Cost":
        """Read `packed` back.

        Raises
        ------
        CostTooHighError
            If it is more than any collection of ours asks for.
        """
        cost = cls(max(1, packed[0]), _LEAST_LOG2_KIB + (packed[1] >> 4), max(1, packed[1] & 15))
        if cost.log2_kib > _MOST_LOG2_KIB or cost.passes << cost.log2_kib > _MOST_WORK_KIB:
            raise CostTooHighError
        return cost


def derive(passphrase: str, salt: bytes, cost: Cost, n_bytes: int) -> bytes:
    """Derive so many bytes. The same words typed on another keyboard give the same (Unicode form NFC)."""
    from argon2.low_level import Type, hash_secret_raw

    return hash_secret_raw(
        unicodedata.normalize("NFC", passphrase).encode(),
        salt,
        time_cost=cost.passes,
        memory_cost=1 << cost.log2_kib,
        parallelism=cost.lanes,
        hash_len=n_bytes,
        type=Type.ID,
    )


def measured_cost() -> Cost:
    """Choose the cost that takes about TARGET_S on this machine just now, and never less than three passes of 64 MiB."""
    began = time.perf_counter()
    derive("measured", b"measured", Cost(_LEAST_PASSES, _LEAST_LOG2_KIB), 32)
    per_pass_s = max(1e-4, (time.perf_counter() - began) / _LEAST_PASSES)
    log2_kib = _LEAST_LOG2_KIB
    # More memory first: it is what special hardware lacks.
    while log2_kib < _MOST_LOG2_KIB - 2 and 2 * per_pass_s * _LEAST_PASSES <= TARGET_S:
        log2_kib, per_pass_s = log2_kib + 1, 2 * per_pass_s
    return Cost(max(_LEAST_PASSES, min(_MOST_PASSES, round(TARGET_S / per_pass_s))), log2_kib)
