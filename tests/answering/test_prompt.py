# SPDX-License-Identifier: GPL-3.0-or-later
"""Prompts that fit: counted with the model's own tokenizer, from a window of 512 tokens to one of 128,000."""

import numpy as np
import pytest

from redlantern.answering.evidence.lines import Candidate
from redlantern.answering.writing.prompt import FIXED, NoRoomError, build_prompt
from redlantern.collection.values import StoredPassage
from redlantern.models.hosted import HostedModel
from redlantern.progress import Cancel
from redlantern.settings import Method
from redlantern.splitting.headings import Headings
from tests.conftest import SmallLanguageModel


def candidates(n, n_words=12):
    made = []
    for number in range(n):
        text = f"Line {number} " + " ".join(f"word{number}x{at}" for at in range(n_words))
        passage = StoredPassage(number, 1, number + 1, 0, len(text), Headings(), text, ((0, len(text)),))
        made.append(Candidate(passage, 0, 1.0 - number / 100, 0.5, 0.5, True, np.ones(1, np.float32)))
    return made


@pytest.mark.parametrize(("window", "evidence", "answer"), [(512, 100, 60), (2048, 300, 120), (128_000, 90_000, 4000)])
def test_a_prompt_and_its_answer_fit_into_the_window(window, evidence, answer):
    model = SmallLanguageModel()
    model.n_context = window
    method = Method(context_tokens=max(512, window), prompt_tokens=evidence, answer_tokens=answer)
    prompt = build_prompt("How wet is it?", candidates(200), model, method)
    assert model.count_prompt(prompt.system, prompt.user) + prompt.answer_tokens <= window
    assert len(prompt.lines) + prompt.n_left_out == 200
    assert sum(model.count_tokens(line) for line in prompt.user.split("\n\n")[0].split("\n")) <= evidence
    assert prompt.system.startswith(FIXED)


def test_a_model_made_for_less_gets_no_more_than_it_has():
    model = SmallLanguageModel()
    model.n_context = 128
    prompt = build_prompt("How wet is it?", candidates(20), model, Method())
    assert model.count_prompt(prompt.system, prompt.user) + prompt.answer_tokens <= 128
    assert prompt.answer_tokens == 32


def test_what_does_not_fit_at_all_is_said():
    model = SmallLanguageModel()
    model.n_context = 40
    with pytest.raises(NoRoomError) as failure:
        build_prompt("How wet is it?", candidates(3), model, Method())
    assert str(failure.value) == (
        "The question and its best line do not fit into the language model's context window of 40 tokens, "
        "so there is no written answer."
    )


@pytest.mark.real_models
def test_the_packaged_model_counts_with_its_own_tokenizer_and_template():
    model = HostedModel()
    try:
        method = Method(context_tokens=512, prompt_tokens=200, answer_tokens=100)
        model.fit(512, 0)
        assert model.window_tokens() == 512
        prompt = build_prompt("How wet is it?", candidates(40), model, method)
        n_tokens = model.count_prompt(prompt.system, prompt.user)
        assert 150 < n_tokens <= 412
        *_, last = model.write(prompt.system, prompt.user, grammar="", most_tokens=4, cancel=Cancel())
        assert last.n_prompt_tokens == n_tokens
    finally:
        model.close()
