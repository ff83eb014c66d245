# SPDX-License-Identifier: GPL-3.0-or-later
"""The figures that retrieval is judged by, against worked examples; and a floor under them on the demo."""

import json
import math

import numpy as np
import pytest
from bench.asking import DEMO
from bench.collections import opened
from bench.open_documents import MEASURED
from bench.plain import PlainWords, plain_fusion

from bench import ranking


def asked(kind, *right):
    return ranking.Asked(kind, "?", (), frozenset(("a", page) for page in right))


def ranked(*pages):
    return [("a", page) for page in pages]


def test_any_right_page_answers_but_several_wants_all():
    figures = ranking.figures_of(asked("look-up", 3, 9), ranked(1, 3, 3, 2, 5))
    assert (figures["recall@1"], figures["recall@5"], figures["MRR"]) == (0.0, 1.0, 0.5)
    figures = ranking.figures_of(asked("several", 3, 9), ranked(1, 3, 3, 2, 5, 9))
    assert (figures["recall@1"], figures["recall@5"], figures["recall@10"]) == (0.0, 0.5, 1.0)


def test_gain_is_discounted_by_rank_and_a_page_gains_once():
    figures = ranking.figures_of(asked("look-up", 3, 9), ranked(3, 3, 9))
    assert figures["nDCG@10"] == pytest.approx((1 + 1 / math.log2(4)) / (1 + 1 / math.log2(3)))
    assert ranking.figures_of(asked("look-up", 3), ranked(3))["nDCG@10"] == 1.0


def test_what_is_not_found_counts_nothing():
    assert set(ranking.figures_of(asked("look-up", 3), ranked(*range(20, 35))).values()) == {0.0}
    assert set(ranking.figures_of(asked("look-up", 3), []).values()) == {0.0}


def test_plain_references_rank_as_the_formulas_say():
    plain = PlainWords(["bellows leather", "leather", "hatch"])
    scores = plain.scores("the leather bellows")
    assert scores[0] > scores[1] > scores[2] == 0
    fused = plain_fusion([np.array([3, 2, 0], np.float32), np.array([1, 2, 3], np.float32)])
    assert fused[0] == pytest.approx(1 / 61 + 1 / 63)
    assert fused[2] == pytest.approx(1 / 61)


@pytest.mark.parametrize("one", MEASURED, ids=lambda one: one.name)
def test_each_set_of_questions_has_what_it_must(one):
    rows = [json.loads(line) for line in one.questions.read_text(encoding="utf-8").splitlines()]
    kinds = [row["kind"] for row in rows]
    assert len(rows) >= 60
    assert kinds.count("paraphrase") >= len(rows) / 4
    assert kinds.count("misspelt") >= len(rows) / 10
    assert set(kinds) == {"look-up", "number", "paraphrase", "misspelt", "abbreviation", "several", "follow-up"}
    assert all(row["right"] for row in rows)
    assert all(bool(row["history"]) == (row["kind"] == "follow-up") for row in rows)


@pytest.mark.real_models
def test_a_floor_under_the_demo(tmp_path, monkeypatch):
    """Reads and embeds the demo with the real models: half a minute, for nothing smaller shows what the ranking is worth."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    with opened(tmp_path, DEMO / "documents") as engine:
        means = ranking.measure(engine, ranking.questions_of(DEMO / "questions.jsonl"))["means"]
    product, fusion = means["product"]["all"], means["plain fusion"]["all"]
    assert product["recall@5"] >= 0.92
    assert product["MRR"] >= 0.75
    assert product["recall@5"] >= fusion["recall@5"] + 0.05
    assert product["MRR"] >= fusion["MRR"] + 0.04
