# SPDX-License-Identifier: GPL-3.0-or-later
"""Writes the multilingual embedding model as ONNX and its tokenizer as JSON, from the weights that its package packs.

The graph is the encoder of BERT (Devlin et al., 2019): token, place and kind
embeddings, then layers of attention and two dense steps, each added to its input
and normalised. Weights stay in their 4 bits (the operator MatMulNBits reckons
with them as they are). What comes out are the tokens' vectors less a `centre`:
those of this model all lie in a narrow cone, and only what they differ in says
anything (Mu and Viswanath, "All-but-the-Top", 2018).
"""

import json
from typing import Any

import numpy as np
import numpy.typing as npt
import onnx
from onnx import TensorProto, helper, numpy_helper

from redlantern.models.embedding import BEFORE_QUESTION, BEFORE_TEXT
from weights.packed import BLOCK, Packed

_OPSET, _IR = 20, 9
_MOST_TOKENS = 512
_CONTROLS = r"[\x00-\x08\x0b\x0e-\x1f\x7f\u200b-\u200f\ufeff]"


class _Graph:
    """Nodes and constants under way; each method gives the name of what it makes."""

    def __init__(self) -> None:
        self.nodes: list[Any] = []
        self.constants: list[Any] = []

    def constant(self, name: str, values: npt.ArrayLike) -> str:
        """A constant."""
        self.constants.append(numpy_helper.from_array(np.ascontiguousarray(values), name))
        return name

    def node(self, operator: str, *inputs: str, domain: str = "", output: str = "", **options: Any) -> str:
        """An operator."""
        output = output or f"{operator.lower()}-{len(self.nodes)}"
        self.nodes.append(helper.make_node(operator, inputs, [output], domain=domain, **options))
        return output


class _Encoder:
    def __init__(self, packed: Packed) -> None:
        self.packed, self.sizes, self.graph = packed, packed.sizes, _Graph()
        shape, head = self.sizes.hidden, self.sizes.hidden // self.sizes.heads
        self.by_head = self.graph.constant("by head", np.array([0, 0, self.sizes.heads, head]))
        self.together = self.graph.constant("together", np.array([0, 0, shape]))
        self.scale = self.graph.constant("scale", np.float32(head**-0.5))

    def embedded(self) -> str:
        """Each token's vector, with that of its place added."""
        graph, sizes = self.graph, self.sizes
        n_blocks = sizes.hidden // BLOCK
        halves, scales = self.packed.halves("emb.word", sizes.pieces)
        codes = (halves[..., : BLOCK // 2] | halves[..., BLOCK // 2 :] << 4).reshape(sizes.pieces, -1)
        packed = graph.node("Gather", graph.constant("words", codes), "input_ids")
        packed = graph.node("Reshape", packed, graph.constant("by block", np.array([0, -1, n_blocks, BLOCK // 2])))
        low = graph.node("BitwiseAnd", packed, graph.constant("lower half", np.uint8(15)))
        high = graph.node("BitShift", packed, graph.constant("upper half", np.uint8(4)), direction="RIGHT")
        numbers = graph.node("Cast", graph.node("Concat", low, high, axis=-1), to=TensorProto.FLOAT)
        numbers = graph.node("Sub", numbers, graph.constant("eight", np.float32(8)))
        scale = graph.node("Gather", graph.constant("scales of words", scales), "input_ids")
        scale = graph.node("Cast", scale, to=TensorProto.FLOAT)
        scale = graph.node("Unsqueeze", scale, graph.constant("last", np.array([-1])))
        words = graph.node("Reshape", graph.node("Mul", numbers, scale), self.together_from_blocks())
        places = self.packed.plain("emb.pos", sizes.places, sizes.hidden)
        kind = self.packed.plain("emb.type", sizes.kinds, sizes.hidden)[0]
        used = graph.node(
            "Slice",
            graph.constant("places", places + kind),
            graph.constant("from", np.array([0])),
            graph.node("Shape", "input_ids", start=1, end=2),
            graph.constant("along", np.array([0])),
        )
        return self.normalised(graph.node("Add", words, used), "emb.ln")

    def together_from_blocks(self) -> str:
        """The shape of tokens whose numbers came in blocks."""
        return self.graph.constant("blocks together", np.array([0, -1, self.sizes.hidden]))

    def normalised(self, values: str, name: str) -> str:
        """Layer normalisation."""
        weight = self.graph.constant(f"{name}.w", self.packed.plain(f"{name}.w", self.sizes.hidden))
        bias = self.graph.constant(f"{name}.b", self.packed.plain(f"{name}.b", self.sizes.hidden))
        return self.graph.node("LayerNormalization", values, weight, bias, axis=-1, epsilon=self.packed.epsilon)

    def dense(self, values: str, name: str, n_out: int, n_in: int) -> str:
        """A dense step with weights of shape (n_out, n_in)."""
        halves, scales = self.packed.halves(f"{name}.w", n_out)
        # The operator wants neighbours in one byte.
        codes = self.graph.constant(f"{name}.codes", halves[..., 0::2] | halves[..., 1::2] << 4)
        scale = self.graph.constant(f"{name}.scales", scales.astype(np.float32).reshape(-1))
        product = self.graph.node(
            "MatMulNBits", values, codes, scale, domain="com.microsoft",
            K=n_in, N=n_out, bits=4, block_size=BLOCK, accuracy_level=1,
        )  # fmt: skip
        bias = self.graph.constant(f"{name}.b", self.packed.plain(f"{name}.b", n_out))
        return self.graph.node("Add", product, bias)

    def layer(self, values: str, layer: int) -> str:
        """One layer."""
        graph, hidden, between = self.graph, self.sizes.hidden, self.sizes.between

        def part(name: str, order: list[int]) -> str:
            split = graph.node("Reshape", self.dense(values, f"l{layer}.{name}", hidden, hidden), self.by_head)
            return graph.node("Transpose", split, perm=order)

        asked, offered, said = part("q", [0, 2, 1, 3]), part("k", [0, 2, 3, 1]), part("v", [0, 2, 1, 3])
        near = graph.node("Softmax", graph.node("Mul", graph.node("MatMul", asked, offered), self.scale), axis=-1)
        mixed = graph.node("Transpose", graph.node("MatMul", near, said), perm=[0, 2, 1, 3])
        mixed = self.dense(graph.node("Reshape", mixed, self.together), f"l{layer}.ao", hidden, hidden)
        values = self.normalised(graph.node("Add", values, mixed), f"l{layer}.aln")
        wide = graph.node("Gelu", self.dense(values, f"l{layer}.fi", between, hidden), approximate="none")
        narrow = self.dense(wide, f"l{layer}.fo", hidden, between)
        return self.normalised(graph.node("Add", values, narrow), f"l{layer}.oln")


def onnx_bytes(packed: Packed, centre: npt.NDArray[np.float32]) -> bytes:
    """The network as an ONNX file: token numbers, int64 of shape (batch, n_tokens), to float32 of shape (batch, n_tokens, hidden).

    `centre`, of shape (hidden,), is taken off each token's vector.
    """
    encoder = _Encoder(packed)
    graph, values = encoder.graph, encoder.embedded()
    for layer in range(packed.sizes.layers):
        values = encoder.layer(values, layer)
    output = "last_hidden_state"
    graph.node("Sub", values, graph.constant("centre", centre), output=output)
    shape = ["batch", "tokens"]
    made = helper.make_graph(
        graph.nodes,
        "encoder",
        [helper.make_tensor_value_info("input_ids", TensorProto.INT64, shape)],
        [helper.make_tensor_value_info(output, TensorProto.FLOAT, [*shape, packed.sizes.hidden])],
        graph.constants,
    )
    operators = [helper.make_opsetid("", _OPSET), helper.make_opsetid("com.microsoft", 1)]
    model = helper.make_model(made, opset_imports=operators, ir_version=_IR, producer_name="redlantern")
    helper.set_model_props(model, {BEFORE_QUESTION: "query: ", BEFORE_TEXT: "passage: "})
    onnx.checker.check_model(model)
    return bytes(model.SerializeToString(deterministic=True))


def tokenizer_text(packed: Packed) -> str:
    """The tokenizer as JSON: a unigram model (Kudo, 2018) over NFKC, words beginning with a mark for the blank before them."""
    special = {packed.beginning: "<s>", packed.padding: "<pad>", packed.end: "</s>", packed.unknown: "<unk>"}
    blanks = {"type": "Metaspace", "replacement": "▁", "prepend_scheme": "always", "split": True}
    begin, end = ({"SpecialToken": {"id": special[number], "type_id": 0}} for number in (packed.beginning, packed.end))
    text, other = ({"Sequence": {"id": name, "type_id": number}} for number, name in enumerate("AB"))
    described = {
        "version": "1.0",
        "truncation": {"direction": "Right", "max_length": _MOST_TOKENS, "strategy": "LongestFirst", "stride": 0},
        "padding": None,
        "added_tokens": [
            {
                "id": number, "content": content, "single_word": False, "lstrip": False, "rstrip": False,
                "normalized": False, "special": True,
            }
            for number, content in sorted(special.items())
        ],
        "normalizer": {
            "type": "Sequence",
            "normalizers": [
                {"type": "NFKC"},
                {"type": "Replace", "pattern": {"Regex": _CONTROLS}, "content": ""},
                {"type": "Replace", "pattern": {"Regex": r"\s+"}, "content": " "},
            ],
        },
        "pre_tokenizer": {"type": "Sequence", "pretokenizers": [{"type": "WhitespaceSplit"}, blanks]},
        "post_processor": {
            "type": "TemplateProcessing",
            "single": [begin, text, end],
            "pair": [begin, text, end, other, end],
            "special_tokens": {
                special[number]: {"id": special[number], "ids": [number], "tokens": [special[number]]}
                for number in (packed.beginning, packed.end)
            },
        },
        "decoder": blanks,
        "model": {"type": "Unigram", "unk_id": packed.unknown, "vocab": packed.pieces, "byte_fallback": False},
    }  # fmt: skip
    return json.dumps(described, ensure_ascii=False)
