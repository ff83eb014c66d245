# SPDX-License-Identifier: GPL-3.0-or-later
"""The judge's network: an encoder of BERT's kind (Devlin et al., 2019) that reads question and text together, and a score.

A cross-encoder as in Nogueira and Cho, "Passage re-ranking with BERT" (2019).
PyTorch is needed here and nowhere in the program: see requirements-train.txt.
"""

from pathlib import Path
from typing import Any, TypeVar

import torch
from safetensors.torch import load_file
from torch import Tensor, nn
from torch.nn import functional

N_LAYERS, N_HEADS, HIDDEN, BETWEEN, N_PIECES, N_PLACES = 6, 12, 384, 1536, 30_522, 512
_EPSILON = 1e-12


class Layer(nn.Module):  # type: ignore[misc]
    """One layer: attention and two dense steps, each added to its input and normalised."""

    def __init__(self) -> None:
        super().__init__()
        self.query, self.key, self.value = (nn.Linear(HIDDEN, HIDDEN) for _ in range(3))
        self.mixed = nn.Linear(HIDDEN, HIDDEN)
        self.wide, self.narrow = nn.Linear(HIDDEN, BETWEEN), nn.Linear(BETWEEN, HIDDEN)
        self.first, self.second = nn.LayerNorm(HIDDEN, eps=_EPSILON), nn.LayerNorm(HIDDEN, eps=_EPSILON)
        self.drop = nn.Dropout(0.1)

    def forward(self, values: Tensor, allowed: Tensor) -> Tensor:
        """From (batch, tokens, hidden) to the same; `allowed` of shape (batch, 1, 1, tokens) is added to the attention."""
        n_batch, n_tokens, _ = values.shape
        asked, offered, said = (
            part(values).view(n_batch, n_tokens, N_HEADS, -1).transpose(1, 2)
            for part in (self.query, self.key, self.value)
        )
        near = torch.softmax(asked @ offered.transpose(2, 3) * (HIDDEN // N_HEADS) ** -0.5 + allowed, dim=-1)
        mixed = self.mixed((near @ said).transpose(1, 2).reshape(n_batch, n_tokens, HIDDEN))
        values = self.first(values + self.drop(mixed))
        between = self.narrow(functional.gelu(self.wide(values)))
        return torch.as_tensor(self.second(values + self.drop(between)))


class Encoder(nn.Module):  # type: ignore[misc]
    """What judge and embedding model have in common: tokens to values in their context."""

    def __init__(self) -> None:
        super().__init__()
        self.words, self.places, self.kinds = (
            nn.Embedding(N_PIECES, HIDDEN),
            nn.Embedding(N_PLACES, HIDDEN),
            nn.Embedding(2, HIDDEN),
        )
        self.norm = nn.LayerNorm(HIDDEN, eps=_EPSILON)
        self.layers = nn.ModuleList(Layer() for _ in range(N_LAYERS))

    def encoded(self, input_ids: Tensor, token_type_ids: Tensor, attention_mask: Tensor) -> tuple[Tensor, Tensor]:
        """Token numbers, which of two texts each belongs to, and which are no padding, (batch, tokens) each.

        Gives each token's values, (batch, tokens, hidden), and their mean over each row, (batch, hidden).
        """
        places = torch.arange(input_ids.shape[1], device=input_ids.device)
        values = self.norm(self.words(input_ids) + self.places(places) + self.kinds(token_type_ids))
        allowed = (1.0 - attention_mask[:, None, None, :].to(values.dtype)) * -1e4
        for layer in self.layers:
            values = layer(values, allowed)
        kept = attention_mask[..., None].to(values.dtype)
        return values, (values * kept).sum(1) / kept.sum(1)


class SentenceEncoder(Encoder):
    """The embedding model: a text's direction is the mean of its tokens' (Reimers and Gurevych, 2019)."""

    def forward(self, input_ids: Tensor, token_type_ids: Tensor, attention_mask: Tensor) -> Tensor:
        """As `encoded`, to vectors of length 1: (batch, hidden)."""
        return functional.normalize(self.encoded(input_ids, token_type_ids, attention_mask)[1], dim=-1)


class Judge(Encoder):
    """Scores pairs of a question and a text: the higher, the surer that the text answers."""

    def __init__(self) -> None:
        super().__init__()
        self.pooled, self.score = nn.Linear(HIDDEN, HIDDEN), nn.Linear(HIDDEN, 1)

    def forward(self, input_ids: Tensor, token_type_ids: Tensor, attention_mask: Tensor) -> Tensor:
        """As `encoded`, to one score a row: (batch,)."""
        values, mean = self.encoded(input_ids, token_type_ids, attention_mask)
        return torch.as_tensor(self.score(torch.tanh(self.pooled(values[:, 0] + mean)))[:, 0])


_OURS = {
    "attention.self.query": "query", "attention.self.key": "key", "attention.self.value": "value",
    "attention.output.dense": "mixed", "attention.output.LayerNorm": "first",
    "intermediate.dense": "wide", "output.dense": "narrow", "output.LayerNorm": "second",
}  # fmt: skip


Network = TypeVar("Network", bound=Encoder)


def from_embedding(path: Path, network: Network) -> Network:
    """The network, with all that the embedding model knows whose weights these are (safetensors), and nothing more."""
    stored = load_file(path)
    named: dict[str, Any] = {
        "words.weight": stored["embeddings.word_embeddings.weight"],
        "places.weight": stored["embeddings.position_embeddings.weight"],
        "kinds.weight": stored["embeddings.token_type_embeddings.weight"],
        "norm.weight": stored["embeddings.LayerNorm.weight"],
        "norm.bias": stored["embeddings.LayerNorm.bias"],
    }
    for at in range(N_LAYERS):
        for theirs, ours in _OURS.items():
            for part in ("weight", "bias"):
                named[f"layers.{at}.{ours}.{part}"] = stored[f"encoder.layer.{at}.{theirs}.{part}"]
    missing, unknown = network.load_state_dict(named, strict=False)
    assert not unknown and {name.split(".")[0] for name in missing} <= {"pooled", "score"}
    return network
