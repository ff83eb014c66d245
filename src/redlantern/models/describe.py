# SPDX-License-Identifier: GPL-3.0-or-later
"""The process that reads what a model file says of itself: a file from anywhere, so it is read inside limits of its own.

Runs as `python -m redlantern.models.describe FILE` and is started by `card`. It
prints one line of JSON, either the description or `{"unfit": reason}`. Only the
header is read (GGUF version 2 and 3), and of its long lists only how long they are.
"""

import json
import struct
import sys
from pathlib import Path
from typing import Any, BinaryIO

from redlantern.safety import limits, seal
from redlantern.translation import tr

_MEMORY_BYTES = 2 * 2**30
_CPU_S = 60
_NO_TEXT = frozenset("clip bert nomic-bert jina-bert-v2 t5encoder whisper".split())
# The format's kinds of numbers, by their codes; 8 is a string and 9 a list.
_NUMBERS = {0: "B", 1: "b", 2: "H", 3: "h", 4: "I", 5: "i", 6: "f", 7: "?", 10: "Q", 11: "q", 12: "d"}
_STRING, _LIST = 8, 9
_QUANTISATIONS = {
    0: "F32", 1: "F16", 2: "Q4_0", 3: "Q4_1", 7: "Q8_0", 8: "Q5_0", 9: "Q5_1", 10: "Q2_K", 11: "Q3_K_S", 12: "Q3_K_M",
    13: "Q3_K_L", 14: "Q4_K_S", 15: "Q4_K_M", 16: "Q5_K_S", 17: "Q5_K_M", 18: "Q6_K", 32: "BF16",
}  # fmt: skip
_MOST_ENTRIES, _MOST_CHARS, _MOST_KEPT = 2_000_000, 4_000_000, 64


def main() -> None:
    """Describe the file named on the command line."""
    state = seal.put_on_reader(Path(sys.argv[1]))
    if not state.is_on:
        print(
            json.dumps({"unfit": tr("it cannot be looked at safely: {reason}").format(reason=state.reason)}), flush=True
        )
        return
    limits.confine_reader(memory_bytes=_MEMORY_BYTES)
    limits.bound_cpu(_CPU_S)
    try:
        with Path(sys.argv[1]).open("rb") as file:
            said = described(file, Path(sys.argv[1]).stem)
    except (ValueError, KeyError, struct.error, OSError, MemoryError) as failure:
        said = {"unfit": tr("its header cannot be read ({kind})").format(kind=type(failure).__name__)}
    print(json.dumps(said), flush=True)


def described(file: BinaryIO, otherwise: str) -> dict[str, Any]:
    """Read a model file's header; `otherwise` is its name where it gives none.

    Raises
    ------
    ValueError, struct.error
        If the header breaks off, or makes no sense.
    """
    if file.read(4) != b"GGUF":
        return {"unfit": tr("it is no GGUF file")}
    version, n_tensors, n_fields = struct.unpack("<IQQ", file.read(20))
    if version not in (2, 3):
        return {
            "unfit": tr("it is of version {version} of its format, which is not known here").format(version=version)
        }
    if max(n_tensors, n_fields) > _MOST_ENTRIES:
        raise ValueError("more entries than any model has")
    fields = {_string(file): _value(file, *struct.unpack("<I", file.read(4))) for _ in range(n_fields)}
    n_parameters = sum(_n_elements(file) for _ in range(n_tensors))
    make = str(fields.get("general.architecture", ""))
    if not make:
        return {"unfit": tr("it does not say of what make it is")}
    if make in _NO_TEXT or fields.get("general.type", "model") != "model":
        return {"unfit": tr("it is not a model that writes text (its make is {make})").format(make=make)}
    layers, heads = (
        int(fields.get(f"{make}.block_count", 0)),
        int(_first(fields.get(f"{make}.attention.head_count", 1))),
    )
    key_heads = int(_first(fields.get(f"{make}.attention.head_count_kv", heads)))
    return {
        "name": str(fields.get("general.name") or otherwise),
        "n_parameters": n_parameters,
        "quantisation": _QUANTISATIONS.get(fields.get("general.file_type", -1), ""),
        "n_context": int(fields.get(f"{make}.context_length", 0)),
        "languages": [str(language) for language in fields.get("general.languages", [])],
        "licence": str(fields.get("general.license", "")),
        "has_template": bool(fields.get("tokenizer.chat_template")),
        # Keys and values of every token that is kept, of two bytes each.
        "bytes_a_token": 4
        * layers
        * (int(fields.get(f"{make}.embedding_length", 0)) // max(1, heads))
        * max(1, key_heads),
    }


def _string(file: BinaryIO) -> str:
    (length,) = struct.unpack("<Q", file.read(8))
    if length > _MOST_CHARS:
        raise ValueError("a text longer than any model has")
    return file.read(length).decode(errors="replace")


def _value(file: BinaryIO, kind: int) -> Any:
    """One value; of a long list only its first few."""
    if kind == _STRING:
        return _string(file)
    if kind != _LIST:
        form = "<" + _NUMBERS[kind]
        return struct.unpack(form, file.read(struct.calcsize(form)))[0]
    inner, length = struct.unpack("<IQ", file.read(12))
    if length > _MOST_ENTRIES or inner == _LIST:
        raise ValueError("a list longer than any model has, or lists within lists")
    kept = [_value(file, inner) for _ in range(min(length, _MOST_KEPT))]
    rest = length - len(kept)
    if inner == _STRING:
        for _ in range(rest):
            file.seek(struct.unpack("<Q", file.read(8))[0], 1)
    else:
        file.seek(rest * struct.calcsize("<" + _NUMBERS[inner]), 1)
    return kept


def _n_elements(file: BinaryIO) -> int:
    """How many numbers a tensor has, from its entry in the header."""
    _string(file)
    (n_dimensions,) = struct.unpack("<I", file.read(4))
    total = 1
    for size in struct.unpack(f"<{min(n_dimensions, 8)}Q", file.read(8 * min(n_dimensions, 8))):
        total *= size
    file.read(12)
    return total


def _first(value: Any) -> Any:
    """One number where a file gives one for each layer."""
    return value[0] if isinstance(value, list) else value


if __name__ == "__main__":
    main()
