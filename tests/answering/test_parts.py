import pytest
from hypothesis import given
from hypothesis import strategies as st

from redlantern.answering.evidence.lines import is_named_clause
from redlantern.answering.wording import not_answered
from redlantern.answering.writing.claims import drafts_of
from redlantern.answering.writing.grammars import stretch_grammar
from redlantern.text.answer_kind import holds, signs_of
from redlantern.text.question import parse_question


@pytest.mark.parametrize(
    ("question", "kind"),
    [
        ("When does the session take place?", "date"),
        ("Who is the inspector?", "name"),
        ("Which hotel did they stay at?", "name"),
        ("How much is the third instalment?", "sum"),
        ("What does a lost key cost the Builder?", "sum"),
        ("How many skins were charged?", "number"),
        ("What was the highest humidity below the hatch?", "number"),
        ("What is the telephone number of the surveyor?", "telephone number"),
        ("What colour is the hull?", "colour"),
        ("How old is the mate?", "age"),
        ("Why was it left?", "reason"),
        ("Is bellows 1 good?", "yes or no"),
        ("What is a hot standby?", "definition"),
        ("What does APR mean for a loan?", "definition"),
        ("What is the port of the server?", "anything"),
        ("How do I lock the yard?", "procedure"),
        ("Where was the silt put?", "place"),
        ("What is the difference between the Great and the Swell?", "comparison"),
        ("Which documents are needed?", "list"),
        ("What does clause 3 say?", "anything"),
        ("Wann ist die Kaution fällig?", "date"),
        ("Und wer verwahrt die Schlüssel?", "name"),
        ("Wie lang ist der Riss im Boden?", "number"),
        ("Was kostet die Reparatur?", "sum"),
        ("Pourquoi est-ce que le toit est fermé?", "reason"),
        ("Quand le dépôt est-il dû?", "date"),
        ("¿Dónde está la llave de la puerta?", "place"),
        ("Quanto costa la riparazione del tetto?", "sum"),
        ("Wanneer is de borg voor het huis verschuldigd?", "date"),
    ],
)
def test_the_kind_of_answer_is_told_by_the_questions_form(question, kind):
    assert parse_question(question).kind == kind


@pytest.mark.parametrize(
    ("kind", "line", "question", "expected"),
    [
        ("date", "It begins on 27 August 2026 at 10:00.", "When does it begin?", True),
        ("date", "It begins soon.", "When does it begin?", False),
        ("date", "The storm of 9 March broke it.", "When after the storm of 9 March was it mended?", False),
        ("sum", "charged at 340,00 EUR", "What does it cost?", True),
        ("sum", "18.600 cubic metres of silt were dredged.", "How much did the dredging cost?", False),
        ("sum", "Wages | 1.486.000 | 2", "What were the wages?", True),
        ("sum", "The grant of 1.950.000 pounds is paid.", "How much is the grant?", True),
        ("sum", "The piano is moved at the Trust's cost.", "How much did the piano cost?", False),
        ("name", "The survey was made by Mr. Quist.", "Who made the survey?", True),
        ("number", "280 hours at 61,50 EUR", "How many hours were they idle?", True),
        ("number", "They were idle, at 61,50 EUR an hour", "How many hours were they idle?", False),
        ("number", "Argentina | 30 min", "How many minutes are they late?", True),
        ("number", "Argentina | 30 miles", "How many minutes are they late?", False),
        ("sum", "The pins are worn by 4.5 millimetres.", "How much were the pins worn?", True),
        ("sum", "It weighs 4.5 kilograms.", "How much did it cost?", False),
        ("sum", "No more than $50 a night.", "How much is a licence for 50 people?", False),
        ("date", "Renewed once the first part is done.", "When should it be renewed?", True),
        ("date", "Renewed once the first part is done.", "When was it renewed?", False),
        ("telephone number", "Call 0123 456789.", "What is the telephone number?", True),
        ("date", "Fällig bis zum 3. März.", "Wann ist sie fällig?", True),
        ("date", "Fällig mit der Schlussrate.", "Wann ist sie fällig?", False),
        ("number", "Es dauert zwei Wochen.", "Wie viele Wochen dauert es?", True),
        ("anything", "Whatever.", "What?", True),
    ],
)
def test_a_line_holds_an_answer_of_a_kind(kind, line, question, expected):
    assert holds(kind, line, question, parse_question(question).language) is expected


@pytest.mark.parametrize(
    ("question", "says", "does_not"),
    [
        ("What is a hot standby?", "A hot standby is a server that answers.", "Begin the hot standby now."),
        ("What is APR?", "The yearly rate, known as APR.", "The APR of this loan was 6 %."),
        ("What is QIF?", "QIF\tAn older format.", "Import QIF files."),
        ("What does FAI mean?", "Fully Automatic Installer (FAI)", "FAI needs a server."),
        ("Why was it left?", "It was left because of the rain.", "It was left on Monday."),
        ("How do I lock the yard?", "Lock it, then give the key to the porter.", "The yard has a lock."),
        ("Where was the silt put?", "It lies behind the fish market.", "It was put ashore."),
        ("How does the Great differ from the Swell?", "The Great is open, whereas the Swell is shut.", "The Swell was cleaned."),
        ("Which documents are needed?", "The lease, the log and a key.", "Two are needed."),
    ],
)  # fmt: skip
def test_a_line_shows_signs_of_answering(question, says, does_not):
    signs = signs_of(parse_question(question).kind, question)
    assert signs.search(says)
    assert not signs.search(does_not)


def test_what_has_a_form_of_its_own_needs_no_signs():
    assert signs_of("date", "When does it begin?") is None


@given(st.text(max_size=60))
def test_signs_can_be_made_of_any_question(text):
    for question in (f"What is {text}?", f"What does {text} mean?", text):
        signs_of(parse_question(question).kind, question)


def test_claims_are_cut_as_they_come():
    assert [
        (one.text, one.number) for one in drafts_of("work stops above 70 per cent, [2] The log is kept [1] And th")
    ] == [
        ("Work stops above 70 per cent", 2),
        ("The log is kept", 1),
        ("And th", 0),
    ]
    assert drafts_of("") == []
    assert len(drafts_of("Same. [1] Same. [2]")) == 1


@given(st.text(max_size=200))
def test_any_writing_can_be_cut(written):
    assert all(one.number >= 0 for one in drafts_of(written))


def test_the_grammar_holds_one_rule_a_word_and_quotes_them():
    grammar = stretch_grammar(['He said "no" to it, and left.', "Two."])
    assert 'from0x2 ::= "\\"no\\""' in grammar
    assert grammar.startswith('root ::= plain0 (" " plain1)? | plain1 (" " plain0)?\n')


def test_lines_that_are_as_good_as_the_best_must_be_said():
    lines = ["One.", "Two.", "Three."]
    assert stretch_grammar(lines, begins=[0], must=[0, 1]).startswith('root ::= plain0 (" " plain1) (" " plain2)?\n')
    assert stretch_grammar(lines, begins=[1], must=[0, 1, 2, 3]).startswith(
        'root ::= plain1 (" " plain0) (" " plain2)\n'
    )


def test_a_stretch_never_ends_before_what_takes_away():
    grammar = stretch_grammar(["Work goes on every day unless it rains, and then it stops."])
    assert 'from0x4 ::= "day" (" " from0x5)\n' in grammar
    assert 'from0x7 ::= "rains," (" " from0x8)?\n' in grammar


def test_a_refusal_names_the_words_that_are_nowhere():
    assert not_answered(["salary"]) == (
        "The documents in scope do not answer this. “salary” does not appear in any of them. The nearest passages are listed below."
    )
    assert "“a”, “b” and “c” do not appear" in not_answered(["a", "b", "c"])


def test_a_named_clause_is_told_by_its_number():
    assert is_named_clause("What does clause 9.8 say about 9.2?", "9.8 Leather that was glued")
    assert not is_named_clause("What does clause 9.8 say?", "9.81 Something else")
    assert not is_named_clause("What about leather?", "9.8 Leather")
