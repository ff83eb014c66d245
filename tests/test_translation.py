# SPDX-License-Identifier: GPL-3.0-or-later
"""The interface in other languages: whole, with its placeholders and keys, not too long, and chosen as it should be."""

import ast
import json
import os
import re
import shutil
import string
import subprocess
import sys
from pathlib import Path

import pytest

from redlantern.translation import LANGUAGES
from shipping import catalogues

OTHERS = sorted(set(LANGUAGES) - {"en"})
# A third longer is usual between these languages; short words vary more.
MOST_TIMES, MORE_CHARS = 1.6, 16


@pytest.fixture(params=OTHERS)
def kept(request):
    return catalogues.read(request.param)


def pairs(catalogue):
    """Every message with each of its translations, and the words that it is of."""
    for message in catalogue:
        if message.id and isinstance(message.id, str):
            yield message.id, message.string
        elif message.id:
            for number, said in enumerate(message.string):
                yield message.id[min(number, 1)], said


def placeholders(words):
    return sorted(
        f"{name}:{re.sub('%.*', '', spec or '')}" for _, name, spec, _ in string.Formatter().parse(words) if name
    )


@pytest.mark.parametrize("language", OTHERS)
def test_all_words_of_the_source_are_translated_and_compiled_as_they_are(language):
    kept = catalogues.read(language)
    made = catalogues.brought_up_to_date(language)
    assert [message.id for message in made if message.id and not catalogues.is_translated(message)] == []
    place = catalogues.place_of(language)
    assert place.read_bytes() == catalogues.as_po(made), "run: python -m shipping.catalogues"
    assert place.with_suffix(".mo").read_bytes() == catalogues.as_mo(kept)


def test_placeholders_keys_filters_and_blanks_are_kept(kept):
    for english, said in pairs(kept):
        # One of something needs no number.
        assert set(placeholders(said)) == set(placeholders(english)), english
        assert english.count("&") == said.count("&"), english
        assert re.findall(r"\(\*.*?\)", english) == re.findall(r"\(\*.*?\)", said), english
        assert english.startswith(" ") <= said.startswith(" ") and english.endswith(" ") == said.endswith(" "), english
        assert english.endswith("...") == said.endswith("..."), english
        assert re.findall(r"Ctrl\+|F\d", english) == re.findall(r"Ctrl\+|F\d", said.replace("Strg", "Ctrl")), english


def test_no_translation_is_much_longer_than_the_english(kept):
    too_long = [(english, said) for english, said in pairs(kept) if len(said) > MOST_TIMES * len(english) + MORE_CHARS]
    assert too_long == []


def test_a_change_of_the_source_is_seen(tmp_path):
    (tmp_path / "a.py").write_text(
        'x = tr("Ask"); y = trn("one", "many {n}", 2); z = counted(3, "hatch", "hatches"); w = noun(1, "door")\n'
        'marked("Later"); tr(dynamic); other("not this"); tr("door")\n',
        encoding="utf-8",
    )
    assert set(catalogues.messages(tmp_path)) == {
        "Ask", ("one", "many {n}"), ("hatch", "hatches"), ("door", "doors"), "Later"
    }  # fmt: skip


CHOSEN_BY = ("LANGUAGE", "LC_ALL", "LC_MESSAGES", "LANG", "REDLANTERN_LANGUAGE")
SAYS = "from redlantern.translation import language, tr; print(language(), tr('Ask'), sep='|')"


def says(home, **environment):
    clean = {name: value for name, value in os.environ.items() if name not in CHOSEN_BY}
    done = subprocess.run(
        [sys.executable, "-c", SAYS], env=clean | {"XDG_DATA_HOME": str(home), "PYTHONUTF8": "1"} | environment,
        capture_output=True, text=True, check=True, timeout=60,
    )  # fmt: skip
    return done.stdout.strip()


def test_the_desktop_says_which_language_and_a_choice_goes_before_it(tmp_path):
    assert says(tmp_path) == says(tmp_path, LANG="C.UTF-8") == says(tmp_path, LANG="es_ES.UTF-8") == "en|Ask"
    assert says(tmp_path, LANG="de_AT.UTF-8") == "de|Fragen"
    assert says(tmp_path, LANG="de_DE.UTF-8", LANGUAGE="fr:de") == "fr|Demander"
    assert says(tmp_path, LANGUAGE="en_GB:de", LANG="de_DE.UTF-8") == says(tmp_path, LANGUAGE="C:en") == "en|Ask"
    # A catalogue of somebody else's, where the environment leads to it.
    hostile = tmp_path / "theirs" / "LC_MESSAGES"
    hostile.mkdir(parents=True)
    shutil.copy(catalogues.place_of("de").with_suffix(".mo"), hostile / "redlantern.mo")
    assert (
        says(tmp_path, LANGUAGE=str(tmp_path / "theirs"))
        == says(tmp_path, LANGUAGE="../" * 12 + str(hostile.parent))
        == "en|Ask"
    )
    kept = tmp_path / "redlantern" / "window.json"
    kept.parent.mkdir()
    for content, said in (
        ({"language": "fr"}, "fr|Demander"), ({"language": "en"}, "en|Ask"), ({"language": "../x"}, "de|Fragen"),
        ({"language": ["fr"]}, "de|Fragen"),
        ([], "de|Fragen"),
    ):  # fmt: skip
        kept.write_text(json.dumps(content), encoding="utf-8")
        assert says(tmp_path, LANG="de_DE.UTF-8") == said
    assert says(tmp_path, LANG="de_DE.UTF-8", REDLANTERN_LANGUAGE="fr") == "fr|Demander"
    kept.write_bytes(b"\xff{")
    assert says(tmp_path, LANG="de_DE.UTF-8") == "de|Fragen"


def test_the_command_line_is_english_in_every_desktop(tmp_path):
    """What it starts as well: why a file was refused is said by the process that read it."""
    (tmp_path / "empty.txt").touch()
    clean = {name: value for name, value in os.environ.items() if name != "REDLANTERN_LANGUAGE"}
    done = subprocess.run(
        [sys.executable, "-m", "redlantern", "index", str(tmp_path / "a.redlantern"), str(tmp_path)],
        env=clean | {"LANGUAGE": "de"}, capture_output=True, text=True, timeout=60,
    )  # fmt: skip
    assert "0 documents read" in done.stdout and "unless it should hold something" in done.stdout


@pytest.mark.parametrize("language", OTHERS)
def test_the_whole_window_is_walked_through_and_nothing_english_is_left(language, tmp_path):
    """A process for each language: the words of a window are made once, when it starts."""
    done = subprocess.run(
        [sys.executable, "-m", "tests.desktop.walk", str(tmp_path)], cwd=Path(__file__).parents[1], timeout=120,
        env=os.environ | {"REDLANTERN_LANGUAGE": language, "QT_QPA_PLATFORM": "offscreen"}, capture_output=True, text=True,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr[-2000:]
    shown = {words for part in json.loads(done.stdout).values() for words in part}
    assert len(shown) > 400
    catalogue = {english: said for english, said in pairs(catalogues.read(language)) if english != said}
    assert sorted(shown & set(catalogue) - set(catalogue.values())) == []
    # Nor a hole, where a sentence was put together.
    assert [words for words in shown if re.search(r"\{[a-z_]+\}", words)] == []


def test_no_title_in_capitals_of_a_room_is_left_as_it_is():
    """The walk does not come to every sheet and dialog; what is set in capitals is always a title that somebody reads."""
    left = []
    for path in (Path(__file__).parents[1] / "src/redlantern/desktop").rglob("*.py"):
        tree = ast.parse(path.read_text(encoding="utf-8"))
        said = {
            id(word)
            for call in ast.walk(tree)
            if isinstance(call, ast.Call) and getattr(call.func, "id", "") in ("tr", "trn", "marked")
            for word in ast.walk(call)
        }
        left += [
            f"{path.name}: {word.value}"
            for word in ast.walk(tree)
            if isinstance(word, ast.Constant) and isinstance(word.value, str) and id(word) not in said
            and re.fullmatch(r"[A-Z]{4,}(?:,? [A-Z]+)*", word.value) and word.value not in ("HTML", "JSON")
        ]  # fmt: skip
    assert left == []


def test_sentences_that_the_core_puts_together_are_in_the_language_too():
    asked = """
from redlantern.answering.checking.support import judge
from redlantern.reckoning.checks import check_table
from redlantern.reckoning.plan import Condition, Plan, in_words
from redlantern.reckoning.wording import checked, read_as, what_was_checked
from tests.reckoning.test_tables import INVOICE, table_of

table = table_of(INVOICE)
checks = [check_table(table)]
plan = Plan(((1, 1),), "sum", "Total EUR", (Condition("Quantity", "above", ("2",)),))
print(judge("The fee is 40 EUR.", "The fee is 30 EUR.", "").doubt)
print(in_words(plan, ["Rechnung"]), checked(checks), what_was_checked(checks), read_as(table), sep="\\n")
"""
    said = subprocess.run(
        [sys.executable, "-c", asked], cwd=Path(__file__).parents[1], timeout=60, capture_output=True, text=True,
        env=os.environ | {"REDLANTERN_LANGUAGE": "de"},
    )  # fmt: skip
    assert said.returncode == 0, said.stderr[-2000:]
    doubt, plan, checked, looked_at, read = said.stdout.splitlines()
    assert doubt.endswith("steht nicht in den zitierten Worten")
    assert plan == "Zähle Total EUR zusammen in Rechnung, wo Quantity über 2"
    assert "stimmt überein" in checked and looked_at.startswith("Geprüft: ") and "gegen" in looked_at
    assert read.startswith("Gelesen als Pos.: ") and "Dezimalen mit Komma" in read and "Keine Posten: " in read


def test_what_is_painted_by_hand_is_in_the_language_too():
    """The walk sees widgets and models, not what a delegate paints."""
    asked = """
from redlantern.answering.sheet import Claim
from redlantern.answering.wording import claim_text
from redlantern.brief.values import BriefEntry
from redlantern.desktop.brief.entries_list import words_under
from redlantern.desktop.readthrough.words import certainty_words
from redlantern.readthrough.values import PageRead

print(certainty_words(PageRead(("a", 1), "hit", 0.8)), certainty_words(PageRead(("a", 1), "silent", 0.1, judged="rejected")))
print(words_under(BriefEntry(0, "claim", "The fee is 40.", (), "partly supported"), ""))
print(claim_text(Claim("The fee is 40.", "unsupported", (), "so")))
"""
    said = subprocess.run(
        [sys.executable, "-c", asked], cwd=Path(__file__).parents[1], timeout=60, capture_output=True, text=True,
        env=os.environ | {"REDLANTERN_LANGUAGE": "de", "QT_QPA_PLATFORM": "offscreen"},
    )  # fmt: skip
    assert said.returncode == 0, said.stderr[-2000:]
    assert said.stdout.splitlines() == [
        "Treffer, 80% verworfen",
        "teilweise gedeckt",
        "The fee is 40. [nicht gedeckt: so]",
    ]
