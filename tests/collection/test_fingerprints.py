# SPDX-License-Identifier: GPL-3.0-or-later
import random

import pytest

from redlantern.collection.fingerprints import Version, alike, fingerprint, versions

WORDS = [f"word{number}" for number in range(400)]


def text(seed, n=300):
    return " ".join(random.Random(seed).choices(WORDS, k=n))


def stretches(words):
    return {tuple(words[at : at + 5]) for at in range(len(words) - 4)}


def test_the_same_text_is_alike_whatever_its_pages_and_case():
    whole = text(1)
    assert alike(fingerprint([whole]), fingerprint([whole.upper()])) == 1.0
    assert alike(fingerprint([whole[:900], whole[900:]]), fingerprint([whole])) > 0.9


def test_other_texts_are_not_alike_and_too_short_ones_never():
    assert alike(fingerprint([text(1)]), fingerprint([text(2)])) < 0.05
    assert fingerprint(["too short to tell"]) == b""
    assert alike(b"", b"") == 0.0


@pytest.mark.parametrize("seed", range(8))
def test_the_estimate_is_near_the_share_counted(seed):
    chance = random.Random(seed)
    before = text(seed).split()
    after = [("changed" if chance.random() < 0.02 * seed else word) for word in before]
    one, other = stretches(before), stretches(after)
    counted = len(one & other) / len(one | other)
    assert abs(alike(fingerprint([" ".join(before)]), fingerprint([" ".join(after)])) - counted) < 0.15


def test_near_versions_are_grouped_newest_first():
    first = text(1)
    second = first.replace("word7 ", "word8 ")
    marks = {1: fingerprint([first]), 2: fingerprint([text(5)]), 3: fingerprint([second]), 4: b""}
    assert versions(marks, [3, 4, 2, 1]) == {3: Version(1, 2, 3), 1: Version(2, 2, 3)}
    assert versions({}, []) == {}


def test_copies_and_versions_in_a_collection(make_engine, folder):
    from redlantern.progress import Cancel, silent

    long = "The survey of the loft. " + text(3)
    (folder / "survey.txt").write_text(long)
    (folder / "survey copy.txt").write_text(long)
    (folder / "survey new.txt").write_text(
        long.replace("loft", "attic") + " And one more sentence at the end of it all."
    )
    import os

    os.utime(folder / "survey.txt", (1_000_000_000, 1_000_000_000))
    os.utime(folder / "survey copy.txt", (1_000_000_000, 1_000_000_000))
    engine = make_engine()
    engine.collection.claim_writing()
    summary = engine.update([folder], report=silent, cancel=Cancel())
    assert (summary.read, summary.copies) == (4, 1)
    found = {one.path: one for one in engine.collection.documents()}
    assert len(found) == 4
    old = found["survey copy.txt"]
    assert old.copies == (str(folder / "survey.txt"),)
    places = engine.collection.versions()
    assert places[found["survey new.txt"].document_id].place == 1
    assert places[old.document_id] == Version(2, 2, found["survey new.txt"].document_id)
