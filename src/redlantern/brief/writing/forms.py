# SPDX-License-Identifier: GPL-3.0-or-later
"""A rendered brief as the file of a format."""

from collections.abc import Callable
from typing import Literal, get_args

from redlantern.brief.rendering import Rendered
from redlantern.brief.writing.markdown import as_markdown
from redlantern.brief.writing.opendocument import as_odt
from redlantern.brief.writing.pdf import as_pdf
from redlantern.brief.writing.web import as_html
from redlantern.brief.writing.word import as_docx

BriefForm = Literal["docx", "odt", "pdf", "html", "md"]
FORMS: tuple[BriefForm, ...] = get_args(BriefForm)


def write(brief: Rendered, form: BriefForm) -> bytes:
    """The file of a brief in a format."""
    writers: dict[BriefForm, Callable[[Rendered], bytes]] = {
        "docx": as_docx, "odt": as_odt, "pdf": as_pdf, "html": lambda each: as_html(each).encode("utf-8", "replace"),
        "md": lambda each: as_markdown(each).encode("utf-8", "replace"),
    }  # fmt: skip
    return writers[form](brief)
