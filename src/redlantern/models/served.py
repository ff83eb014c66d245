# SPDX-License-Identifier: GPL-3.0-or-later
"""A language model behind its owner's own server on this machine's loopback, reached through the model link.

The server is spoken to in the common form for chat completions in JSON over
HTTP, streamed as server-sent events.
"""

import contextlib
import http.client
import json
from collections.abc import Iterator
from typing import Any

from redlantern.models.protocols import GREEDY, LanguageModelError, Pace, Sampling, Written
from redlantern.models.wire import UnixConnection, chat_messages, events
from redlantern.progress import Cancel
from redlantern.safety.loopback import Link
from redlantern.translation import tr

_CHARS_PER_TOKEN = 3.0
"""Fewer than any usual tokenizer has, so that what is counted fits."""
_TEMPLATE_TOKENS = 30
_MOST_REFUSAL_CHARS = 200


class ServedModel:
    """The model of a server. It is not held to a grammar, so what it writes without naming a line is left out."""

    can_read, can_judge = True, False
    pace = Pace()

    def __init__(self, link: Link) -> None:
        self._link = link
        self._n_context = 2048
        self.name = f"{link.server.model or 'model'} at {link.server.address}"

    def fit(self, n_context: int, n_threads: int) -> None:
        """Keep prompts within so many tokens; how the server runs its model is its owner's business."""
        self._n_context = n_context

    def start(self, cancel: Cancel) -> None:
        """Nothing to start: the server is its owner's."""

    def window_tokens(self) -> int:
        """The context window that was asked for: the server does not say its own."""
        return self._n_context

    def count_tokens(self, text: str) -> int:
        """Estimate a text's tokens, rather too many than too few."""
        return int(len(text) / _CHARS_PER_TOKEN) + 1

    def count_prompt(self, system: str, user: str) -> int:
        """Estimate the tokens of a whole prompt."""
        return self.count_tokens(system + user) + _TEMPLATE_TOKENS

    def write(
        self, system: str, user: str, *, grammar: str, most_tokens: int, cancel: Cancel, sampling: Sampling = GREEDY
    ) -> Iterator[Written]:
        """Write an answer; see HostedModel.write. The grammar is not sent, for servers differ in whether they know one.

        Raises
        ------
        LanguageModelError
            If the server is not there, refuses, or breaks off.
        Cancelled
            If stopping was asked for.
        """
        request: dict[str, Any] = {
            "messages": chat_messages(system, user),
            "max_tokens": most_tokens,
            "temperature": sampling.temperature,
            "seed": sampling.seed,
            "stream": True,
        }
        if self._link.server.model:
            request["model"] = self._link.server.model
        cancel.check()
        connection = UnixConnection(self._link.socket_path)
        try:
            connection.connect()
            with cancel.calling(connection.shut_down):
                yield from self._written(connection, request)
        except (OSError, http.client.HTTPException, ValueError, KeyError) as failure:
            cancel.check()
            raise LanguageModelError(
                tr("at {address} does not answer; is its server running?").format(address=self._link.server.address)
            ) from failure
        finally:
            connection.close()

    def first_words(self, system: str, user: str, cancel: Cancel) -> dict[str, float]:
        """Nothing: servers differ in whether they tell chances, and reading the prompt twice may take as long again."""
        return {}

    def close(self) -> None:
        """Nothing to end: the server is its owner's, and the link lives as long as the program."""

    def _written(self, connection: UnixConnection, request: dict[str, Any]) -> Iterator[Written]:
        connection.request("POST", "/v1/chat/completions", json.dumps(request), {"Content-Type": "application/json"})
        answer = connection.getresponse()
        if answer.status != http.HTTPStatus.OK:
            said = answer.read(_MOST_REFUSAL_CHARS).decode(errors="replace")
            with contextlib.suppress(ValueError, KeyError, TypeError):
                said = str(json.loads(said)["error"]["message"])[:_MOST_REFUSAL_CHARS]
            raise LanguageModelError(
                tr("at {address} refused the request ({said})").format(address=self._link.server.address, said=said)
            )
        n_written = 0
        for event in events(answer):
            choices = event.get("choices") or []
            words = choices[0].get("delta", {}).get("content") if choices else None
            if words:
                n_written += 1
                yield Written(words)
        yield Written("", 0, 0, n_written)
