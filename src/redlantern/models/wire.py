# SPDX-License-Identifier: GPL-3.0-or-later
"""How a model's process is spoken to: HTTP over a Unix socket, chat messages without template tokens, server-sent events."""

import contextlib
import http.client
import json
import math
import re
import socket
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

SILENCE_TIMEOUT_S = 180.0
_LARGEST = 1e9
"""No count, and no time in milliseconds, is larger."""
_PLAIN_SIGNS = str.maketrans(
    {
        **dict.fromkeys("<＜〈⟨❮", "‹"),
        **dict.fromkeys(">＞〉⟩❯", "›"),
        **dict.fromkeys("｜│¦ǀ❘", "|"),
        "▁": "_",
        **dict.fromkeys("［〔【", "["),
        **dict.fromkeys("］〕】", "]"),
    }
)
_BRACKETED = re.compile(r"\[(/?[A-Za-z][A-Za-z0-9_ |/-]*)\]")
_DATA = b"data: "
_END = b"[DONE]"


class UnixConnection(http.client.HTTPConnection):
    """HTTP over a Unix socket."""

    def __init__(self, socket_path: str) -> None:
        super().__init__("localhost")
        self._socket_path = socket_path

    def connect(self) -> None:
        """Connect to the socket instead of a host."""
        self.sock = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        self.sock.settimeout(SILENCE_TIMEOUT_S)
        self.sock.connect(self._socket_path)

    def shut_down(self) -> None:
        """End the conversation from another thread; a read that waits returns at once."""
        with contextlib.suppress(OSError, AttributeError):
            self.sock.shutdown(socket.SHUT_RDWR)


def chat_messages(system: str, user: str) -> list[dict[str, str]]:
    """The two parts of a prompt, as words: nothing in them is a sign of any model's template."""
    return [{"role": "system", "content": neutral(system)}, {"role": "user", "content": neutral(user)}]


def neutral(text: str) -> str:
    """Text in which no token of a chat template is left, such as <|im_end|>, </s>, <｜User｜>, [INST] or <start_of_turn>.

    The runtime looks for those in contents, too. All of them stand in angle
    brackets or are a word in square ones; bars and blanks of their own kinds are
    made plain, so that no tokenizer takes what is left for one.
    """
    return _BRACKETED.sub(r"(\1)", text.translate(_PLAIN_SIGNS))


def events(answer: http.client.HTTPResponse) -> Iterator[dict[str, Any]]:
    """The data of server-sent events, each one JSON object, until the stream ends or says [DONE]."""
    for line in answer:
        data = line.removeprefix(_DATA).strip()
        if data == _END:
            return
        if line.startswith(_DATA) and data:
            yield json.loads(data)


@dataclass(frozen=True)
class Timings:
    """What a runtime says at the end of a stream: tokens read, of these from its cache, and written; and milliseconds."""

    n_read: int
    n_cached: int
    n_written: int
    read_ms: float
    written_ms: float


def timings_of(event: dict[str, Any]) -> Timings | None:
    """The counts and times of an event, if it has any.

    Raises
    ------
    ValueError, KeyError, TypeError
        If they make no sense: the process that says them has loaded a file from anywhere.
    """
    said = event.get("timings")
    if said is None:
        return None
    counts = [_number(said[name]) for name in ("prompt_n", "cache_n", "predicted_n", "prompt_ms", "predicted_ms")]
    return Timings(int(counts[0]), int(counts[1]), int(counts[2]), counts[3], counts[4])


def chances_of(event: dict[str, Any], most: int) -> dict[str, float]:
    """The likeliest tokens of an event's first place with their probabilities, at most so many; empty where it has none.

    Raises
    ------
    ValueError, KeyError, TypeError
        If they make no sense.
    """
    for choice in event.get("choices") or []:
        for place in (choice.get("logprobs") or {}).get("content") or []:
            rows = place["top_logprobs"][:most]
            return {str(row["token"]): math.exp(-_number(-row["logprob"])) for row in rows}
    return {}


def _number(value: Any) -> float:
    """A finite number that is not negative."""
    if isinstance(value, bool) or not isinstance(value, int | float) or not 0 <= value < _LARGEST:
        raise ValueError("no number that makes sense")
    return float(value)
