# SPDX-License-Identifier: GPL-3.0-or-later
"""A brief: gathered, ordered, kept, exported in each form and read by another reader, verified by a colleague, erased."""

import io
import json
import sys
import tempfile
import zipfile
from dataclasses import replace

import docx
import jsonschema
import lxml.etree
import lxml.html
import pypdf
import pytest
from odf import teletype, text
from odf.opendocument import load

from redlantern.answering.question.understanding import Question
from redlantern.answering.sheet import Claim
from redlantern.application import briefs
from redlantern.application.briefs import EmptyBriefError
from redlantern.brief.citations import NoCitationsError, citations_from, schema
from redlantern.brief.gathering import clause_of, entry_of_claim, entry_of_figure, entry_of_line
from redlantern.brief.rendering import STYLES, render
from redlantern.brief.values import Brief, BriefEntry
from redlantern.brief.verifying import verify
from redlantern.brief.writing.forms import FORMS, write
from redlantern.brief.writing.pdf import NoPdfError, _fetcher
from redlantern.collection.upkeep.documents import erase_documents, remnants
from redlantern.commands.line import run
from redlantern.progress import Cancel, silent
from tests.conftest import stored_passage
from tests.reckoning.test_put_right import parts as parts

WET = "At what relative humidity in the loft shall work cease?"


def undated(citation):
    return "", ""


@pytest.fixture
def found(engine):
    """The sheet of a question on the contract."""
    *_, done = engine.ask(Question(WET), Cancel())
    return done.sheet


@pytest.fixture
def brief(engine, found):
    """A brief with a heading, own words, a claim and a line."""
    line = found.found_lines[0].citation
    claim = Claim("Work stops above 70 per cent <b>.", "partly supported", (line,))
    made = briefs.gather(engine, [entry_of_claim(claim, undated, WET), entry_of_line(line, undated)])
    made = made.with_entries(
        BriefEntry(0, "heading", "Humidity"), BriefEntry(0, "own", "First thought.\nSecond | thought.")
    )
    return briefs.keep_brief(engine, made.moved(3, -2))


def test_what_is_gathered_keeps_its_words_place_and_hash_and_is_ordered(engine, brief, found):
    line = found.found_lines[0].citation
    [kept] = briefs.briefs(engine)
    assert kept == brief and [entry.kind for entry in kept.entries] == ["heading", "claim", "line", "own"]
    [quote] = kept.quotes
    assert (quote.text, quote.page_number, quote.start, quote.end) == (
        line.text,
        line.page_number,
        line.start,
        line.end,
    )
    assert quote.sha256 == line.document_key.split("/")[0] and len(quote.sha256) == 64
    assert [entry.entry_id for entry in kept.ordered([4, 2]).entries] == [4, 2, 3, 1]
    assert [entry.entry_id for entry in kept.entries] == [3, 1, 2, 4]
    assert [entry.entry_id for entry in kept.moved(3, 9).entries] == [1, 2, 4, 3]
    assert kept.without(2).quotes == (quote,) and kept.without(1).without(2).quotes == ()
    briefs.delete_brief(engine, kept.brief_id)
    assert briefs.briefs(engine) == []


@pytest.mark.parametrize("style", ["marks", "numbers"])
def test_each_form_is_read_by_another_reader_with_the_two_voices_apart(engine, brief, tmp_path, style):
    words = brief.quotes[0].words
    cited = "CON p.1" if style == "marks" else "1"
    for ending in ("docx", "odt", "html", "md"):
        target = tmp_path / f"brief.{ending}"
        beside = briefs.export(engine, brief, target, style, with_pages=True)
        assert beside.name == f"brief.{ending}.citations.json"
        raw = target.read_bytes()
        assert target.stat().st_mode & 0o777 == 0o600
        if ending == "docx":
            document = docx.Document(io.BytesIO(raw))
            quote = next(each for each in document.paragraphs if each.text == f"{words} [{cited}]")
            assert quote.style.name == "Quote" and quote.runs[0].font.name == "Liberation Serif"
            said = "\n".join(each.text for each in document.paragraphs)
        elif ending == "odt":
            document = load(io.BytesIO(raw))
            said = "\n".join(teletype.extractText(each) for each in document.getElementsByType(text.P))
        elif ending == "html":
            tree = lxml.html.fromstring(raw.decode())
            assert tree.xpath("//blockquote")[0].text_content() == f"{words} [{cited}]"
            assert tree.xpath("//div[@class='page']//mark")[0].text_content() == brief.quotes[0].text
            assert not tree.xpath("//@src | //@href | //script | //b")
            said = tree.text_content()
        else:
            said = raw.decode()
            assert f"> {words} \\[{cited}\\]".replace("\\[", " [").replace("\\]", "]").replace(
                "  [", " ["
            ) in said.replace("\\", "")
            assert "<b>" not in said.replace("\\<", "")
        assert "Second" in said and f"{cited}; partly borne out" in said.replace("\\", "")
        assert f"SHA-256 {brief.quotes[0].sha256}" in said
    assert zipfile.is_zipfile(tmp_path / "brief.docx")


def test_footnotes_are_the_formats_own_and_each_quote_has_one(engine, brief, tmp_path):
    """The quote is cited by a claim first, in whose footnote its words stand; the line that follows leads to that footnote."""
    words, title = brief.quotes[0].words, brief.quotes[0].title
    note = f"CON p.1: {title}, page 1: “{words}”"
    for ending in ("docx", "odt", "html", "md", "pdf"):
        briefs.export(engine, brief, tmp_path / f"brief.{ending}", "footnotes")
    raw = (tmp_path / "brief.docx").read_bytes()
    document = docx.Document(io.BytesIO(raw))
    assert [each.text for each in document.paragraphs if each.text.startswith(words)] == [f"{words} [note 1]"]
    [part] = [each.target_part for each in document.part.rels.values() if each.reltype.endswith("/footnotes")]
    footnotes = lxml.etree.fromstring(part.blob)
    assert [str(each) for each in footnotes.xpath("//*[local-name()='t']/text()")] == [f" {note}"]
    led = document.element.xpath("//w:footnoteReference/@w:id")
    assert led == footnotes.xpath("//*[local-name()='footnote' and not(@*[local-name()='type'])]/@*[local-name()='id']")
    [footnote] = load(tmp_path / "brief.odt").getElementsByType(text.Note)
    assert teletype.extractText(footnote) == f"1{note}"
    page = lxml.html.fromstring((tmp_path / "brief.html").read_text(encoding="utf-8"))
    assert page.get_element_by_id("note1").text_content() == f"1. {note}"
    assert sorted(page.xpath("//@href")) == ["#note1", "#to1"]
    assert f"[^1]: CON p.1: {title}" in (tmp_path / "brief.md").read_text(encoding="utf-8")
    assert f"CON p.1: {title}, page 1" in pypdf.PdfReader(tmp_path / "brief.pdf").pages[0].extract_text()


def test_a_pdf_is_tagged_and_has_bookmarks_and_fetches_nothing(engine, brief, tmp_path):
    briefs.export(engine, brief, tmp_path / "brief.pdf", "marks", with_pages=True)
    read = pypdf.PdfReader(tmp_path / "brief.pdf")
    catalogue = read.trailer["/Root"]
    assert catalogue["/MarkInfo"]["/Marked"] and catalogue["/Lang"] == "en"
    assert read.metadata.title == brief.name
    marks = [each.title for each in levelled(read.outline)]
    assert marks[:5] == [brief.name, "Humidity", "Citations", "Documents cited", "Cited pages"]
    assert {"/H1", "/H2", "/P", "/BlockQuote"} <= tags(catalogue["/StructTreeRoot"])
    assert {font.split("+")[1].split("-")[0] for font in fonts_of(read)} == {"Source"}
    with pytest.raises(ValueError, match="nothing is fetched"):
        _fetcher().fetch("file:///etc/passwd")


def test_hostile_words_end_no_format_and_reach_nothing(engine, brief, tmp_path, monkeypatch):
    """Signs that no XML holds, markup, and halves of signs, in words, mark and title; nothing of them is left where fonts are laid."""
    monkeypatch.setenv("TMPDIR", str(tmp_path / "between"))
    monkeypatch.setattr(tempfile, "tempdir", None)
    (tmp_path / "between").mkdir()
    bad = 'a\x00<img src="file:///etc/passwd">\ud800]]></style>\u202e'
    quote = replace(brief.quotes[0], text=bad, call_mark=bad, title=bad, clause=bad)
    made = replace(brief, name=bad, entries=(BriefEntry(1, "claim", bad, (quote,)), BriefEntry(2, "own", bad)))
    for style in STYLES:
        for form in FORMS:
            content = write(render(made, style), form)
            assert content and b"root:" not in content
    page = lxml.html.fromstring(write(render(made, "footnotes"), "html").decode())
    assert not page.xpath("//img | //script") and len(page.xpath("//style")) == 1
    assert list((tmp_path / "between").iterdir()) == []


def test_without_the_libraries_that_lay_a_pdf_out_it_is_said_and_nothing_is_saved(engine, brief, tmp_path, monkeypatch):
    class Missing:
        def find_spec(self, name, path=None, target=None):
            if name.split(".")[0] == "weasyprint":
                raise OSError("cannot load library 'libpango-1.0-0'")

    for name in [name for name in sys.modules if name.split(".")[0] == "weasyprint"]:
        monkeypatch.delitem(sys.modules, name)
    monkeypatch.setattr(sys, "meta_path", [Missing(), *sys.meta_path])
    with pytest.raises(NoPdfError, match="Install the Debian packages libpango"):
        briefs.export(engine, brief, tmp_path / "brief.pdf", "marks")
    assert list(tmp_path.glob("brief.pdf*")) == []


def levelled(outline):
    return [mark for each in outline for mark in (levelled(each) if isinstance(each, list) else [each])]


def tags(branch):
    """The kinds of structure of a tagged PDF."""
    branch = branch.get_object()
    if not isinstance(branch, dict):
        return set()
    kids = branch.get("/K", [])
    kids = kids if isinstance(kids, list) else [kids]
    return {str(branch.get("/S"))}.union(*(tags(kid) for kid in kids))


def fonts_of(read):
    return {str(font.get_object()["/BaseFont"]) for page in read.pages for font in page["/Resources"]["/Font"].values()}


def test_a_citation_names_the_clause_that_it_stands_in(engine, found):
    line = found.found_lines[0].citation
    dated, clause = briefs.about(engine, line)
    assert dated.startswith("file of ") and clause
    made = briefs.gather(engine, [entry_of_line(line, lambda citation: briefs.about(engine, citation))])
    [_, paragraph] = briefs.rendered(engine, made, "titles", with_pages=False).body
    assert paragraph.cited == f"{line.title}, page 1, {clause}, {dated}"


@pytest.mark.parametrize(
    ("lines", "at", "clause"),
    [
        (["4.1 The Builder begins.", "He goes on.", "4.2 He ends."], 1, "clause 4.1"),
        (["4.1 The Builder begins.", "He goes on.", "4.2 He ends."], 2, "clause 4.2"),
        (["§ 5 The Builder begins.", "He goes on."], 1, "§ 5"),
        (["He paid 4.50 EUR.", "He goes on."], 1, "“Costs”"),
        (["4.50 EUR were paid."], 0, "clause 4.50"),
    ],
)
def test_the_nearest_number_before_is_the_clause_or_else_the_heading(lines, at, clause):
    passage = stored_passage(1, "Contract › Costs", lines)
    assert clause_of(passage, passage.lines[at][0]) == clause


def test_a_figure_takes_its_working_along(engine, parts):
    *_, done = engine.ask(Question("Sum up the column 2024 of the parts."), Cancel())
    made = briefs.gather(engine, [entry_of_figure(done.sheet.reckoning, undated)])
    [entry] = made.entries
    assert entry.rows[0] == ("Part", "2024", "Code") and ("elm", "30", "9") in entry.rows
    assert len(entry.quotes) == 3 and entry.support == "reckoned"
    whole = briefs.rendered(engine, made, "marks", with_pages=False)
    assert [paragraph.kind for paragraph in whole.body] == ["title", "figure", "table"]


def test_an_empty_brief_is_not_exported(engine, tmp_path):
    with pytest.raises(EmptyBriefError):
        briefs.export(engine, Brief("None"), tmp_path / "none.docx", "marks")
    assert not (tmp_path / "none.docx").exists()


def check(path, folder, readers):
    return verify(briefs.read_citations(path), folder, readers, report=silent, cancel=Cancel())


def test_a_colleague_verifies_and_finds_a_changed_word_an_exchanged_page_and_a_missing_file(
    engine, brief, folder, tmp_path, readers
):
    target = tmp_path / "out" / "brief.html"
    beside = briefs.export(engine, brief, target, "marks")
    form = json.loads(beside.read_text(encoding="utf-8"))
    jsonschema.validate(form, schema())
    assert [each.verdict for each in check(target, folder, readers)] == ["stands"]
    # Moved files are known by their hash.
    (folder / "elsewhere").mkdir()
    (folder / "contract.md").rename(folder / "elsewhere" / "renamed.md")
    assert [each.verdict for each in check(beside, folder, readers)] == ["stands"]

    def changed(**what):
        other = {**form, "citations": [{**form["citations"][0], **what}]}
        beside.write_text(json.dumps(other), encoding="utf-8")
        return check(target, folder, readers)[0]

    assert changed(words=form["citations"][0]["words"].replace("70", "75")).verdict == "not in the file"
    assert changed(start=0, end=5).verdict == "elsewhere on the page"
    assert changed(page=7).verdict == "on another page" and changed(page=7).page_number == 1
    beside.write_text(json.dumps(form), encoding="utf-8")
    renamed = folder / "elsewhere" / "renamed.md"
    renamed.write_text(renamed.read_text(encoding="utf-8") + "\n", encoding="utf-8")
    assert check(target, folder, readers)[0].verdict == "file missing"


def test_the_published_schema_is_the_one_of_the_form():
    from pathlib import Path

    published = Path(__file__).parents[2] / "docs" / "citations.schema.json"
    assert json.loads(published.read_text(encoding="utf-8")) == schema()


@pytest.mark.parametrize("content", [b"", b"{}", b"\xff", b'{"form": "other", "version": 1}'])
def test_what_is_no_list_of_citations_is_refused(content):
    with pytest.raises(NoCitationsError, match="holds no citations that can be checked"):
        citations_from("a.json", content)


def test_hostile_words_in_citations_steer_no_terminal_and_end_nothing(engine, brief, folder, tmp_path, capsys):
    target = tmp_path / "brief.md"
    form = json.loads(briefs.export(engine, brief, target, "marks").read_text(encoding="utf-8"))
    form["documents"][0].update(title="\x1b[2J\u202egone", mark="\x1b]0;x")
    form["citations"][0].update(words="\x1b[31mred", page=-(10**9), start=-5, end=10**12, part="../../etc")
    (tmp_path / "brief.md.citations.json").write_text(json.dumps(form), encoding="utf-8")
    assert run(["verify", str(target), str(folder)]) == 1
    said = capsys.readouterr().out
    assert "\x1b" not in said and "\u202e" not in said and "file not read" in said


def test_the_command_says_what_does_not_stand(engine, brief, folder, tmp_path, capsys):
    target = tmp_path / "brief.docx"
    briefs.export(engine, brief, target, "marks")
    assert run(["verify", str(target), str(folder)]) == 0
    assert capsys.readouterr().out == "1 citation of 1 stand on their pages.\n"
    (folder / "contract.md").unlink()
    assert run(["verify", str(target), str(folder), "--json"]) == 1
    assert json.loads(capsys.readouterr().out)[0]["verdict"] == "file missing"
    assert run(["verify", str(target), str(folder)]) == 1
    said = capsys.readouterr().out
    assert (
        said.startswith("0 citations of 1 stand on their pages.\n  1. CON p.1")
        and "it is not there, or was changed" in said
    )
    assert run(["verify", str(folder / "letters" / "key.txt"), str(folder)]) == 1
    assert run(["verify", str(target), str(tmp_path / "nowhere")]) == 2


def test_a_document_that_changed_is_said_and_its_words_are_offered_anew(engine, brief, folder):
    [now] = briefs.quotes_now(engine, brief).values()
    assert now.document is not None and not now.is_changed
    contract = folder / "contract.md"
    contract.write_text("# A word before\n\nNew.\n\n" + contract.read_text(encoding="utf-8"), encoding="utf-8")
    engine.update([folder], report=silent, cancel=Cancel())
    [now] = briefs.quotes_now(engine, brief).values()
    assert now.is_changed and now.offered is not None and now.offered.text == now.quote.text
    taken = briefs.take_offered(engine, brief)
    assert taken.quotes == (now.offered,) and [entry.kind for entry in taken.entries] == [
        entry.kind for entry in brief.entries
    ]
    contract.unlink()
    engine.update([folder], report=silent, cancel=Cancel())
    [gone] = briefs.quotes_now(engine, taken).values()
    assert gone.is_changed and gone.document is None
    # What was gathered stays, though its document is gone.
    assert briefs.keep_brief(engine, taken).quotes == taken.quotes


def test_nothing_of_an_erased_document_is_left_or_comes_back(engine, brief, found):
    contract = next(each for each in engine.collection.documents() if each.path == "contract.md")
    assert "A brief quotes it." in remnants(engine.collection, {contract.key})
    erase_documents(engine.collection, [contract])
    assert remnants(engine.collection, {contract.key}) == []
    [left] = briefs.briefs(engine)
    assert [entry.kind for entry in left.entries] == ["heading", "own"]
    again = briefs.gather(engine, [entry_of_line(found.found_lines[0].citation, undated)])
    assert again.quotes == ()


def test_five_hundred_citations_are_exported_whole(engine, found, tmp_path):
    line = entry_of_line(found.found_lines[0].citation, undated)
    quote = line.quotes[0]
    many = [
        replace(line, quotes=(replace(quote, start=number, end=number + 1, text=f"word {number}"),))
        for number in range(500)
    ]
    made = Brief("Many").with_entries(*many)
    for ending in ("docx", "odt", "pdf", "html", "md"):
        beside = briefs.export(engine, made, tmp_path / f"many.{ending}", "numbers")
        assert len(citations_from("x", beside.read_bytes()).citations) == 500
