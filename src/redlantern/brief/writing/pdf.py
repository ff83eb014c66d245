# SPDX-License-Identifier: GPL-3.0-or-later
"""As tagged PDF with bookmarks (PDF/UA-1, ISO 14289-1), laid out by WeasyPrint in the two shipped families of type."""

import gc
import html
from functools import cache
from importlib import resources
from typing import Any

from redlantern.brief.rendering import Note, Rendered
from redlantern.brief.writing.web import TINTS, as_html
from redlantern.errors import RedlanternError
from redlantern.translation import tr

_FACES = (
    ("Source Sans Pro", "SourceSansPro-Regular.ttf", 400, "normal"),
    ("Source Sans Pro", "SourceSansPro-Semibold.ttf", 600, "normal"),
    ("Source Sans Pro", "SourceSansPro-It.ttf", 400, "italic"),
    ("Source Serif Pro", "SourceSerifPro-Regular.ttf", 400, "normal"),
    ("Source Serif Pro", "SourceSerifPro-Semibold.ttf", 600, "normal"),
    ("Source Serif Pro", "SourceSerifPro-It.ttf", 400, "italic"),
)
_FONTS = "fonts:///"
# As letters to a court are set. WeasyPrint lays all notes of a page out anew for each one more, so fewer on a page are written sooner, too.
_STYLE = (
    "".join(
        f'@font-face{{font-family:"{family}";src:url({_FONTS}{name});font-weight:{weight};font-style:{slant}}}'
        for family, name, weight, slant in _FACES
    )
    + '@page{size:A4;margin:25mm 25mm 27mm;@bottom-right{content:counter(page) " / " counter(pages);font:8pt "Source Sans Pro"}}'
    'body{font:11pt/1.45 "Source Sans Pro"}'
    'blockquote,table,.page{font-family:"Source Serif Pro"}'
    "h1{font-size:17pt}h2{font-size:12pt}h3{font-size:10.5pt}h1,h2,h3,th{font-weight:600}h1,h2,h3{break-after:avoid}"
    '.note{float:footnote;margin-left:1.2em;font:8pt/1.3 "Source Sans Pro";color:#222}'
)


class NoPdfError(RedlanternError):
    """The system lacks what lays a PDF out."""

    def __str__(self) -> str:
        return tr(
            "A PDF cannot be made here, so nothing was saved: the system lacks Pango. Install the Debian packages "
            "libpango-1.0-0, libpangoft2-1.0-0 and libharfbuzz-subset0, or save in another format."
        )


def as_pdf(brief: Rendered) -> bytes:
    """The brief as PDF: footnotes at the foot of their page, headings as bookmarks."""
    return html_as_pdf(as_html(brief, note=_at_the_foot, style=TINTS))


def html_as_pdf(page: str) -> bytes:
    """HTML of ours as PDF. Nothing that it names is fetched, but the shipped fonts.

    Raises
    ------
    NoPdfError
    """
    try:
        return _laid_out(page)
    finally:
        # The laying out writes its fonts, without a word of the text, into a folder that goes with the last of its objects: now.
        gc.collect()


def _laid_out(page: str) -> bytes:
    # Imported when a PDF is made: it takes a while, and needs libraries of the system.
    try:
        import weasyprint
        from weasyprint.text.fonts import FontConfiguration
    except OSError as failure:
        raise NoPdfError from failure

    fonts = FontConfiguration()
    fetcher = _fetcher()
    style = weasyprint.CSS(string=_STYLE, url_fetcher=fetcher, font_config=fonts)
    written: bytes = weasyprint.HTML(string=page, url_fetcher=fetcher).write_pdf(
        stylesheets=[style], font_config=fonts, pdf_variant="pdf/ua-1"
    )
    return written


@cache
def _fetcher() -> Any:
    from weasyprint.urls import URLFetcher, URLFetcherResponse

    class Shipped(URLFetcher):  # type: ignore[misc]
        """Gives the shipped fonts, and nothing else."""

        def fetch(self, url: str, headers: Any = None) -> Any:
            name = url.removeprefix(_FONTS)
            if not url.startswith(_FONTS) or name not in {face[1] for face in _FACES}:
                raise ValueError("nothing is fetched for a PDF")
            content = (resources.files("redlantern") / "fonts" / name).read_bytes()
            return URLFetcherResponse(url, content, headers={"Content-Type": "font/ttf"})

    return Shipped()


def _at_the_foot(note: Note) -> str:
    return f'<span class="note">{html.escape(note.text)}</span>'
