# SPDX-License-Identifier: GPL-3.0-or-later
"""What a judge is taught with: no text that is near to what is measured on, no other language, nothing without words."""

from hypothesis import given
from hypothesis import strategies as st
from training.material import SOURCES, Source, _chosen, measured_shingles, overlap, shingles

WORDS = "the leather work shall stop when the humidity in the loft exceeds seventy per cent for more than a day"
OTHER = "a ferry leaves the quay at noon and nobody knows who sold the last ticket to the captain of the harbour"


def test_a_copy_overlaps_wholly_and_another_text_not_at_all():
    measured = frozenset(shingles(WORDS))
    assert overlap(f"<p>{WORDS.upper()}</p>", measured) == 1.0
    assert overlap(OTHER, measured) == 0.0
    assert 0.0 < overlap(f"{OTHER} {WORDS}", measured) < 0.6
    assert overlap("seven words are too few to tell", measured) == 0.0


@given(st.lists(st.sampled_from(["a", "b", "c", "ü"]), min_size=8, max_size=40))
def test_a_text_has_a_shingle_for_each_eight_words(words):
    assert len(list(shingles(" ".join(words)))) == len(words) - 7


def test_what_is_measured_on_is_known_by_its_words(tmp_path):
    (tmp_path / "a.md").write_text(WORDS, encoding="utf-8")
    (tmp_path / "b.png").write_bytes(b"\x89PNG")
    assert measured_shingles([tmp_path]) == frozenset(shingles(WORDS))


def test_texts_in_english_are_taken_and_nothing_else(tmp_path):
    place = tmp_path / "usr/share/doc/made"
    for name in (
        "html/index.html", "html/de/index.html", "manual.fr.txt", "guide.pdf", "README.Debian.gz", "copyright", "logo.png", "pt-br/a.md",
    ):  # fmt: skip
        (place / name).parent.mkdir(parents=True, exist_ok=True)
        (place / name).write_bytes(b"words")
    (tmp_path / "etc").mkdir()
    (tmp_path / "etc/note.txt").write_text("words")
    taken = {str(path.relative_to(place)) for path in _chosen(tmp_path, Source("made", "manual"))}
    assert taken == {"html/index.html", "guide.pdf", "README.Debian.gz"}


def test_no_source_is_a_collection_that_is_measured_on():
    from bench.open_documents import CHOSEN_ON, MEASURED, TRANSLATIONS

    measured = {collection.package for collection in (*MEASURED, CHOSEN_ON, *TRANSLATIONS.values())}
    assert len({source.package for source in SOURCES}) == len(SOURCES) >= 40
    assert not measured & {source.package for source in SOURCES}
