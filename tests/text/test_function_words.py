# SPDX-License-Identifier: GPL-3.0-or-later
"""Questions in other languages: their small words are told and left out, and what is asked is found."""

import pytest

from redlantern.answering.engine import Engine
from redlantern.answering.question.understanding import Question
from redlantern.collection.store import Collection
from redlantern.models.embedding import OnnxEmbedder
from redlantern.progress import Cancel, silent
from redlantern.text.function_words import language_of_question
from redlantern.text.question import content_words

LEASE = """# Mietvertrag über die Werkstatt

Vermietet wird die Werkstatt im Erdgeschoss mit zwei Stellplätzen im Hof. Die Schlüssel verwahrt Herr Corvin.

Die monatliche Miete beträgt 1.180 Euro. Die Kaution ist bis zum 15. März 2026 zu hinterlegen.

Der Vertrag kann mit einer Frist von sechs Monaten gekündigt werden. Zwischen 20 Uhr und 7 Uhr darf nicht geschweißt werden,
weil im Haus Proben stattfinden.
"""


@pytest.mark.parametrize(
    ("question", "code", "words"),
    [
        ("When is the deposit due?", "en", ["deposit", "due"]),
        ("Wann ist die Kaution fällig?", "de", ["kaution", "fällig"]),
        ("Wie heißt der Anwalt?", "de", ["anwalt"]),
        ("Quand le dépôt est-il dû?", "fr", ["dépôt", "dû"]),
        ("¿Cuándo se paga el depósito?", "es", ["paga", "depósito"]),
        ("Quando si paga il deposito?", "it", ["paga", "deposito"]),
        ("Wanneer moet de borg worden betaald?", "nl", ["borg", "betaald"]),
        # Without small words, and where as many are English, it is taken for English.
        ("Kaution", "en", ["kaution"]),
        ("war in Holland", "en", ["war", "holland"]),
        ("", "en", []),
    ],
)
def test_the_language_of_a_question_is_told_by_its_small_words(question, code, words):
    assert language_of_question(question).code == code
    assert content_words(question) == words


@pytest.fixture(scope="module")
def german(tmp_path_factory, readers):
    folder = tmp_path_factory.mktemp("german")
    (folder / "mietvertrag.md").write_text(LEASE, encoding="utf-8")
    with pytest.MonkeyPatch.context() as patched:
        patched.setenv("XDG_DATA_HOME", str(folder / "data"))
        engine = Engine(Collection.create(folder / "case.redlantern"), OnnxEmbedder(), None)
        engine.collection.claim_writing()
        engine.update([folder / "mietvertrag.md"], report=silent, cancel=Cancel())
        yield engine
        engine.close()


@pytest.mark.parametrize(
    ("question", "said"),
    [
        ("Wann ist die Kaution zu hinterlegen?", "15. März 2026"),
        ("Wer verwahrt die Schlüssel?", "Corvin"),
        ("Wie hoch ist die monatliche Miete?", "1.180 Euro"),
        ("Wo sind die Stellplätze?", "im Hof"),
        ("Warum darf nachts nicht geschweißt werden?", "Proben"),
    ],
)
def test_a_question_in_german_is_answered_from_a_german_page(german, question, said):
    *_, done = german.ask(Question(question), Cancel())
    assert said in done.sheet.found_lines[0].citation.text
    assert not done.sheet.mended


def test_a_refusal_names_no_small_words(german):
    *_, done = german.ask(Question("Wie viel verdient der Hausmeister?"), Cancel())
    assert done.sheet.refused
    assert "“verdient” and “Hausmeister” do not appear" in done.sheet.refusal_reason
    # Another form of a word that is there is not missing.
    *_, done = german.ask(Question("Wo ist der Stellplatz?"), Cancel())
    assert not done.sheet.missing_words
