# SPDX-License-Identifier: GPL-3.0-or-later
"""A model host that answers with what makes no sense: its process has loaded a file from anywhere, and is not believed."""

import json
import socket
import threading

import pytest

from redlantern.models.hosted import HostedModel
from redlantern.models.protocols import LanguageModelError, Pace
from redlantern.models.register import LIGHT_READER
from redlantern.progress import Cancel

TIMES = {"prompt_n": 40, "cache_n": 0, "predicted_n": 30, "prompt_ms": 1000, "predicted_ms": 3000}


def first(logprob=-0.1, token="Yes"):
    place = {"token": token, "logprob": logprob, "top_logprobs": [{"token": token, "logprob": logprob}]}
    return {"choices": [{"delta": {"content": "Yes"}, "logprobs": {"content": [place]}}]}


@pytest.fixture
def host(tmp_path, monkeypatch):
    """A model whose host is a thread of ours: it answers every request with these bytes."""
    model = HostedModel(LIGHT_READER.place)
    path = tmp_path / "host.sock"
    listening = socket.socket(socket.AF_UNIX)
    listening.bind(str(path))
    listening.listen()
    monkeypatch.setattr(model, "start", lambda cancel=None: None)
    monkeypatch.setattr(model, "_socket_path", lambda: str(path))

    def answer(body):
        def serve():
            asked, _ = listening.accept()
            # All of the request, or closing would reset the connection before the answer was read.
            with asked.makefile("rb") as request:
                headers = dict(
                    line.lower().split(b": ", 1) for line in iter(request.readline, b"\r\n") if b": " in line
                )
                request.read(int(headers.get(b"content-length", 0)))
            asked.sendall(b"HTTP/1.1 200 OK\r\nConnection: close\r\n\r\n" + body)
            asked.close()

        threading.Thread(target=serve, daemon=True).start()
        return model

    yield answer
    listening.close()


def stream(*events):
    return b"".join(f"data: {json.dumps(event)}\n\n".encode() for event in events)


def test_what_makes_sense_is_taken(host):
    model = host(stream(first(), {"choices": [], "timings": TIMES}))
    assert model.first_words("s", "u", Cancel()) == {"Yes": pytest.approx(0.905, abs=0.01)}
    assert model.pace.read_per_s > 0


@pytest.mark.parametrize(
    "body",
    [
        stream(first("x")),
        stream(first(None)),
        stream(first(5.0)),
        stream(first(float("nan"))),
        stream(first(float("-inf"))),
        stream(first(True)),
        stream({"choices": [{"logprobs": {"content": [{"top_logprobs": 7}]}}]}),
        stream({"choices": [{"logprobs": {"content": [[]]}}]}),
        stream({"choices": 5}),
        stream([1, 2]),
        stream({"choices": [], "timings": TIMES | {"prompt_n": "40"}}),
        stream({"choices": [], "timings": TIMES | {"prompt_ms": float("nan")}}),
        stream({"choices": [], "timings": TIMES | {"predicted_n": -1}}),
        stream({"choices": [], "timings": TIMES | {"prompt_n": 1e300}}),
        stream({"choices": [], "timings": []}),
        b"data: {not json}\n\n",
    ],
    ids=range(16),
)
@pytest.mark.parametrize("judges", [True, False])
def test_what_makes_none_is_told_in_words_and_changes_nothing(host, body, judges):
    model = host(body)
    before = model.pace
    with pytest.raises(LanguageModelError, match="stopped unexpectedly"):
        if judges:
            model.first_words("s", "u", Cancel())
        else:
            list(model.write("s", "u", grammar="", most_tokens=4, cancel=Cancel()))
    assert model.pace == before and isinstance(model.pace, Pace)
