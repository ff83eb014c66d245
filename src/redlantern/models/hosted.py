# SPDX-License-Identifier: GPL-3.0-or-later
"""A GGUF model in a host process: starts the host, streams words, stops at once."""

import contextlib
import http.client
import json
import os
import select
import shutil
import subprocess
import tempfile
import threading
import time
from collections.abc import Iterator
from functools import cached_property
from pathlib import Path
from typing import Any

from redlantern.models.abilities import NONE, Ability, ability_of
from redlantern.models.kernels import usable_kernels
from redlantern.models.protocols import GREEDY, LanguageModelError, Pace, Sampling, Written
from redlantern.models.readers import default_reader, measured_pace, reader_at
from redlantern.models.register import sha256_of
from redlantern.models.wire import Timings, UnixConnection, chances_of, chat_messages, events, timings_of
from redlantern.progress import Cancel
from redlantern.safety import attempts
from redlantern.safety.children import start_child
from redlantern.safety.places import runtime_directory
from redlantern.translation import tr

START_TIMEOUT_S = 120.0
_LOOK_S = 0.1
"""So often a start that was stopped is noticed."""
_STEP_S, _FEWEST_STEP_TOKENS, _MOST_STEP_TOKENS = 1.0, 16, 128
_FIRST_WORDS = 20
_FEWEST_TIMED_TOKENS = 24
"""Fewer tokens than this say little of how fast a model reads."""


def step_tokens(pace: Pace) -> int:
    """How many tokens of a prompt the host reads at a time: a power of two, and a second's at most where that is known.

    What was stopped is dropped between two steps, and holds the next question up until then; larger steps are read faster
    (docs/decisions/reading.md).
    """
    most = max(_FEWEST_STEP_TOKENS, min(_MOST_STEP_TOKENS, int(_STEP_S * pace.read_per_s)))
    return 1 << (most.bit_length() - 1)


class HostedModel:
    """A GGUF model in a host process. The host starts when first needed and again after a crash."""

    def __init__(self, model: Path | None = None, *, n_context: int = 2048, n_threads: int = 0) -> None:
        self._reader = default_reader() if model is None else reader_at(model)
        self._model = model or default_reader().place
        self._n_context, self._n_threads = n_context, n_threads
        self._window = 0
        self.name = self._reader.name if self._reader is not None else self._model.stem
        self.pace = measured_pace(self._reader) if self._reader is not None else Pace()
        self._lock = threading.RLock()
        self._process: subprocess.Popen[bytes] | None = None
        self._directory: str | None = None
        self._is_closed = False
        self.kernels = usable_kernels()
        """What it computes with; None for the runtime's own, which also serve where these cannot be run after all."""
        self.sha256 = ""
        """What the model's file must be, where it was brought in; empty where whoever uses it named it."""
        self.n_starts = self.n_streamed = 0

    @property
    def can_read(self) -> bool:
        """Whether it passed the reading test; one that was never tested did not."""
        return self._ability.reads

    @property
    def can_judge(self) -> bool:
        """Whether its first word tells a question that is answered from one that is not."""
        return self._ability.judges

    @cached_property
    def _ability(self) -> Ability:
        sha256 = self._reader.sha256 if self._reader is not None else self.sha256 or sha256_of(self._model)
        return ability_of(sha256) or NONE

    @property
    def pid(self) -> int | None:
        """The host's process number while it runs."""
        process = self._process
        return process.pid if process is not None and process.poll() is None else None

    def start(self, cancel: Cancel | None = None) -> None:
        """Start the host unless it runs, and wait until the model is loaded.

        Raises
        ------
        LanguageModelError
            If the model cannot be loaded.
        Cancelled
            If stopping was asked for meanwhile; the host is ended again.
        """
        cancel = cancel or Cancel()
        with self._lock:
            if self._is_closed:
                # Another took its place: a host that is started now would belong to nobody.
                raise LanguageModelError(tr("was closed meanwhile"))
            if self.pid is None:
                self._end()
                self._launch(cancel)

    def fit(self, n_context: int, n_threads: int) -> None:
        """Run from now on with a context window of at most `n_context` tokens, on `n_threads` threads (0 for one a core).

        A host that runs otherwise is ended; the next question starts a new one.
        """
        with self._lock:
            if (n_context, n_threads) != (self._n_context, self._n_threads):
                self._n_context, self._n_threads = n_context, n_threads
                self._end()

    def try_ways(self, folder: str, other: int) -> list[dict[str, Any]]:
        """Let the host try to get out; gives what it tried (see safety.attempts)."""
        with self._lock:
            self.start()
            assert self._process is not None
            return attempts.ask(self._process, folder, other)

    def window_tokens(self) -> int:
        """The context window that it really has: what was asked for, or what the model was trained with if that is less."""
        with self._speaking(Cancel()) as connection:
            if not self._window:
                connection.request("GET", "/slots")
                [slot, *_] = json.loads(connection.getresponse().read())
                self._window = min(int(slot["n_ctx"]), self._n_context)
            return self._window

    def count_tokens(self, text: str) -> int:
        """Count a text's tokens with the model's own tokenizer."""
        return self._count(text, is_prompt=False)

    def count_prompt(self, system: str, user: str) -> int:
        """Count the tokens of a whole prompt, in the model's own chat template."""
        with self._speaking(Cancel()) as connection:
            answer = self._post(connection, "/apply-template", {"messages": chat_messages(system, user)})
            prompt = str(json.loads(answer.read())["prompt"])
        return self._count(prompt, is_prompt=True)

    def _count(self, text: str, *, is_prompt: bool) -> int:
        with self._speaking(Cancel()) as connection:
            request = {"content": text, "add_special": is_prompt, "parse_special": is_prompt}
            return len(json.loads(self._post(connection, "/tokenize", request).read())["tokens"])

    def write(
        self, system: str, user: str, *, grammar: str, most_tokens: int, cancel: Cancel, sampling: Sampling = GREEDY
    ) -> Iterator[Written]:
        """Write an answer.

        Parameters
        ----------
        system : str
            The fixed part, first, so that the runtime keeps it from question to question.
        user : str
            The evidence and the question.
        grammar : str
            GBNF that the words are held to; empty for none.
        most_tokens : int
            The answer ends there at the latest.
        cancel : Cancel
            Closes the connection, at which the host stops reading or writing.
        sampling : Sampling
            How the next token is chosen.

        Yields
        ------
        Written
            Words as they come; the last one has none, but the counts.

        Raises
        ------
        LanguageModelError
            If the host cannot be started, or ends while it writes.
        Cancelled
            If stopping was asked for.
        """
        request = _request(system, user, most_tokens, sampling) | ({"grammar": grammar} if grammar else {})
        with self._speaking(cancel) as connection:
            answer = self._post(connection, "/v1/chat/completions", request)
            for step in self._written(answer):
                # The host sends each token as it is written.
                self.n_streamed += bool(step.words)
                yield step

    def first_words(self, system: str, user: str, cancel: Cancel) -> dict[str, float]:
        """Read a prompt, and give the likeliest tokens that an answer would begin with, each with its probability.

        What was read stays with the runtime: `write` with the same prompt goes on from there.

        Raises
        ------
        LanguageModelError
            If the host cannot be started, or ends while it reads.
        Cancelled
            If stopping was asked for.
        """
        request = _request(system, user, 1, GREEDY) | {"logprobs": True, "top_logprobs": _FIRST_WORDS}
        found: dict[str, float] = {}
        with self._speaking(cancel) as connection:
            answer = self._post(connection, "/v1/chat/completions", request)
            for event in events(answer):
                found = found or chances_of(event, _FIRST_WORDS)
                self._note_pace(timings_of(event))
        return found

    def _written(self, answer: http.client.HTTPResponse) -> Iterator[Written]:
        """The words of a streamed answer, and at its end the counts."""
        is_cut_off = False
        for event in events(answer):
            choices = event.get("choices") or []
            if choices:
                words = choices[0].get("delta", {}).get("content")
                if words:
                    yield Written(str(words))
                is_cut_off = is_cut_off or choices[0].get("finish_reason") == "length"
            timings = timings_of(event)
            if timings is not None:
                self._note_pace(timings)
                n_prompt = timings.n_read + timings.n_cached
                yield Written("", n_prompt, timings.n_cached, timings.n_written, is_cut_off)
                return
        raise ConnectionError("the stream ended early")

    def _note_pace(self, timings: Timings | None) -> None:
        """Keep how fast it read and wrote, the last time half and what was before half."""
        if timings is None:
            return

        def mean(before: float, n_tokens: int, ms: float) -> float:
            if n_tokens < _FEWEST_TIMED_TOKENS or ms < 1:
                return before
            now = 1000 * n_tokens / ms
            return (before + now) / 2 if before else now

        self.pace = Pace(
            mean(self.pace.read_per_s, timings.n_read, timings.read_ms),
            mean(self.pace.written_per_s, timings.n_written, timings.written_ms),
        )

    def close(self) -> None:
        """End the host for good: whoever uses the model after that is told that it was closed."""
        # Before the lock: a start that holds it looks at this, and lets go.
        self._is_closed = True
        self._end()

    def _end(self) -> None:
        """End the host, if it runs, and remove its socket."""
        with self._lock:
            process, self._process = self._process, None
            directory, self._directory = self._directory, None
            if process is not None:
                _put_down(process)
            if directory is not None:
                shutil.rmtree(directory, ignore_errors=True)

    def _launch(self, cancel: Cancel) -> None:
        if self._reader is not None:
            self._reader.check()
        elif self.sha256 and sha256_of(self._model) != self.sha256:
            raise LanguageModelError(
                tr(
                    "was not loaded, for its file is not the one that was checked when it was brought in; bring it in again in the "
                    "Models room if you trust it"
                )
            )
        # mkdtemp makes the directory with mode 0700: nobody else can reach the socket.
        self._directory = tempfile.mkdtemp(prefix="model-", dir=runtime_directory())
        self.n_starts += 1
        self._window = 0
        self._process = self._started()
        said = self._first_line(self._process, cancel)
        if not (said or cancel.is_set or self._is_closed) and self.kernels is not None:
            # It ended without a word: at an instruction that this processor does not have, perhaps.
            self.kernels = None
            _put_down(self._process)
            self._process = self._started()
            said = self._first_line(self._process, cancel)
        if cancel.is_set:
            self._end()
        cancel.check()
        if said != "READY":
            self._end()
            raise LanguageModelError(tr("could not be loaded") + (f" ({said.removeprefix('FAILED ')})" if said else ""))

    def _started(self) -> "subprocess.Popen[bytes]":
        return start_child(
            "redlantern.models.host", str(self._model.absolute()), self._socket_path(), str(self._n_context),
            str(self._n_threads or os.cpu_count() or 1), str(step_tokens(self.pace)),
            *([str(self.kernels.place)] if self.kernels is not None else []),
        )  # fmt: skip

    def _first_line(self, process: "subprocess.Popen[bytes]", cancel: Cancel) -> str:
        assert process.stdout is not None
        deadline, said = time.monotonic() + START_TIMEOUT_S, b""
        while not said.endswith(b"\n") and time.monotonic() < deadline and not (cancel.is_set or self._is_closed):
            if select.select([process.stdout], [], [], _LOOK_S)[0]:
                piece = os.read(process.stdout.fileno(), 4096)
                if not piece:
                    break
                said += piece
        return said.decode(errors="replace").strip()

    def _socket_path(self) -> str:
        return str(Path(self._directory or "") / "host.sock")

    @contextlib.contextmanager
    def _speaking(self, cancel: Cancel) -> Iterator[UnixConnection]:
        """A connection that is shut down the moment stopping is asked for."""
        cancel.check()
        self.start(cancel)
        connection = UnixConnection(self._socket_path())
        try:
            connection.connect()
            with cancel.calling(connection.shut_down):
                yield connection
        except (OSError, http.client.HTTPException, ValueError, KeyError, TypeError, AttributeError) as failure:
            cancel.check()
            # Whatever is left of the host goes, so that the next question starts a new one.
            self._end()
            raise LanguageModelError(tr("stopped unexpectedly and will be started again")) from failure
        finally:
            connection.close()

    def _post(self, connection: UnixConnection, path: str, body: dict[str, Any]) -> http.client.HTTPResponse:
        connection.request("POST", path, json.dumps(body), {"Content-Type": "application/json"})
        answer = connection.getresponse()
        if answer.status != http.HTTPStatus.OK:
            message = json.loads(answer.read()).get("error", {}).get("message", f"status {answer.status}")
            raise LanguageModelError(tr("refused the request ({message})").format(message=message))
        return answer


def _put_down(process: "subprocess.Popen[bytes]") -> None:
    process.kill()
    process.wait()
    for pipe in (process.stdin, process.stdout):
        if pipe is not None:
            pipe.close()


def _request(system: str, user: str, most_tokens: int, sampling: Sampling) -> dict[str, Any]:
    return {
        "messages": chat_messages(system, user),
        "max_tokens": most_tokens,
        "temperature": sampling.temperature,
        "repeat_penalty": 1.05,
        "seed": sampling.seed,
        "stream": True,
        "cache_prompt": True,
    }
