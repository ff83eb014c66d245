# SPDX-License-Identifier: GPL-3.0-or-later
"""HTML, by lxml: the main text of a page with its headings, lists and tables, without menus and what surrounds it."""

import re
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from redlantern.reading import errors
from redlantern.reading.formats.text import decode
from redlantern.reading.material import Material
from redlantern.reading.setting import Piece, clean, set_pages, table_piece
from redlantern.reading.values import BlockKind, ReadFile

_DROPPED = {
    "script", "style", "noscript", "template", "svg", "math", "canvas", "iframe", "object", "embed", "nav", "aside", "button",
    "select", "textarea", "input", "dialog", "head", "menu", "audio", "video", "map",
}  # fmt: skip
_SURROUNDINGS = {"header", "footer", "form"}
_BLOCKS = {
    "p", "div", "section", "article", "main", "body", "ul", "ol", "dl", "table", "blockquote", "pre", "figure", "figcaption",
    "h1", "h2", "h3", "h4", "h5", "h6", "li", "dt", "dd", "address", "details", "summary", "hr", "center", "fieldset", "td", "tr",
    "tbody", "html", "header", "footer", "form", "caption",
}  # fmt: skip
_SURROUNDING_NAMES = re.compile(
    r"(?:^|[-_\s])(?:(?:doc|top|page|site|sub|main|side|bottom|foot|head)?nav(?:bar|igation|header|footer|links?|menu|list)?|"
    r"menu|breadcrumbs?|cookies?|consent|banner|sidebar|footer|share|social|related|advert|ads?|promo|newsletter|skip|"
    r"pagination|toolbar)(?:$|[-_\s])",
    re.IGNORECASE,
)
_SURROUNDING_ROLES = {"navigation", "banner", "contentinfo", "search", "complementary", "menu", "menubar", "dialog"}
_HIDDEN = re.compile(r"display\s*:\s*none|visibility\s*:\s*hidden", re.IGNORECASE)
_DECLARED = re.compile(rb"""<meta[^>]{0,200}charset\s*=\s*["']?\s*([A-Za-z0-9_-]{2,40})""", re.IGNORECASE)
_MOST_DEPTH = 200
_MENU_LINK_SHARE = 0.75


def read_html(material: Material) -> ReadFile:
    """Read a web page that was saved; nothing it names is fetched.

    Raises
    ------
    FileRefusedError
        If it holds no words.
    """
    root = parse(_decoded(material.read()))
    pieces = list(pieces_of(root))
    if not pieces:
        raise errors.no_text()
    return ReadFile(
        "html",
        title_of(root) or next((piece.text for piece in pieces if piece.kind == "heading"), "") or material.plain_name,
        set_pages(pieces),
        details=_details(root),
    )


def parse(text: str) -> Any:
    """Parse HTML that may be broken. Gives the root element."""
    from lxml import etree, html

    parser = html.HTMLParser(no_network=True, huge_tree=False, remove_comments=True, remove_pis=True, encoding="utf-8")
    try:
        root = html.document_fromstring(text.encode("utf-8", "replace") or b"<p></p>", parser=parser)
    except (etree.ParserError, etree.XMLSyntaxError, ValueError, AssertionError) as failure:
        raise errors.no_text() from failure
    return root


def title_of(root: Any) -> str:
    """The page's title, cut before the name of the site."""
    stated = root.find(".//title")
    return clean(stated.text_content())[:200] if stated is not None else ""


def pieces_of(root: Any) -> Iterator[Piece]:
    """Give the blocks of the main text in order."""
    main = _main(root)
    yield from (piece for piece in _block(main, 0) if piece.text)


def _decoded(raw: bytes) -> str:
    declared = _DECLARED.search(raw[:4096])
    if declared and not raw.startswith((b"\xef\xbb\xbf", b"\xff\xfe", b"\xfe\xff")):
        try:
            return raw.decode(declared.group(1).decode("ascii"))
        except (LookupError, UnicodeDecodeError):
            pass
    return decode(raw)


def _details(root: Any) -> dict[str, str]:
    named = {
        "author": "author",
        "date": "date",
        "article:published_time": "date",
        "dc.date": "date",
        "dc.creator": "author",
    }
    found: dict[str, str] = {}
    for meta in root.iter("meta"):
        name = str(meta.get("name") or meta.get("property") or "").lower()
        if name in named and meta.get("content"):
            found.setdefault(named[name], clean(str(meta.get("content")))[:200])
    return found


def _main(root: Any) -> Any:
    """The element that holds the main text: the one that the page calls so, else its body."""
    whole = len(clean(root.text_content()))
    for path in (".//main", ".//*[@role='main']", ".//article"):
        found = root.findall(path)
        if len(found) == 1 and len(clean(found[0].text_content())) > 0.3 * whole:
            return found[0]
    body = root.find("body")
    return body if body is not None else root


def _block(element: Any, depth: int, within: BlockKind = "paragraph") -> Iterator[Piece]:
    tag = element.tag
    if not isinstance(tag, str) or tag in _DROPPED or depth > _MOST_DEPTH or _is_surroundings(element):
        return
    if tag == "table" and _is_data(element):
        yield from _table(element)
        return
    if re.fullmatch(r"h[1-6]", tag):
        yield Piece("heading", clean(element.text_content())[:500], int(tag[1]))
        return
    if tag == "pre":
        yield from (Piece("paragraph", clean(line)) for line in element.text_content().split("\n"))
        return
    if tag == "dl" or (tag == "div" and element.xpath("boolean(./dt|./dd)")):
        yield from _definitions(element, depth)
        return
    kind: BlockKind = "caption" if tag in ("figcaption", "caption") else "list item" if tag in ("li", "dd") else within
    marker = _marker(element) if tag == "li" else ""
    gathered: list[str] = [element.text or ""]

    def flush() -> Iterator[Piece]:
        nonlocal marker
        text = clean("".join(gathered))
        gathered.clear()
        if text:
            yield Piece(kind, marker + text)
            marker = ""

    for child in element:
        if not isinstance(child.tag, str):
            pass
        elif child.tag == "br":
            # Lines set apart by hand mean something one by one: an address, a signature.
            yield from flush()
        elif (
            child.tag in _BLOCKS
            or child.tag in _DROPPED
            or child.xpath("boolean(.//p|.//table|.//div|.//li|.//h1|.//h2|.//h3)")
        ):
            yield from flush()
            yield from _block(child, depth + 1, kind)
        elif not _is_surroundings(child):
            gathered.append(child.text_content())
        gathered.append(child.tail or "")
    yield from flush()


def _definitions(listing: Any, depth: int) -> Iterator[Piece]:
    """A list of definitions, or a group of one: each begins with its terms, for by itself it does not say what it is of."""
    terms: list[str] = []
    yield Piece("paragraph", clean(listing.text or ""))
    for child in listing:
        pieces, loose = [piece for piece in _block(child, depth + 1) if piece.text], clean(child.tail or "")
        if child.tag == "dt":
            terms += [piece.text for piece in pieces]
            pieces = []
            if not loose:
                continue
        if (
            child.tag == "dd"
            and terms
            and pieces
            and pieces[0].kind == "list item"
            and not _begins_with_a_listing(child)
        ):
            pieces[0] = replace(pieces[0], text=f"{', '.join(terms).rstrip(':')}: {pieces[0].text}")
        else:
            yield from (Piece("paragraph", term) for term in terms)
        terms.clear()
        yield from (*pieces, Piece("paragraph", loose))
    yield from (Piece("paragraph", term) for term in terms)


def _begins_with_a_listing(element: Any) -> bool:
    """Whether no sentence comes before a list in it, or a table, or lines of program."""
    first = element.find("*")
    return first is not None and not (element.text or "").strip() and first.tag in ("dl", "ul", "ol", "table", "pre")


def _marker(item: Any) -> str:
    parent = item.getparent()
    if parent is not None and parent.tag == "ol":
        before = sum(1 for itersibling in item.itersiblings("li", preceding=True))
        start = str(parent.get("start") or "1")
        return f"{before + (int(start) if start.isdigit() and len(start) < 7 else 1)}. "
    return "• "


def _is_surroundings(element: Any) -> bool:
    """Whether an element is a menu, a banner and the like: by what it says it is, or because it is all links."""
    if (
        element.get("hidden") is not None
        or element.get("aria-hidden") == "true"
        or _HIDDEN.search(element.get("style") or "")
    ):
        return True
    if element.get("role") in _SURROUNDING_ROLES:
        return True
    tag = element.tag
    if tag in ("html", "body", "main", "article", "h1", "h2", "h3", "table", "p"):
        return False
    if tag in _SURROUNDINGS and not element.xpath("boolean(.//h1|.//p)"):
        return True
    if tag == "footer" and element.getparent() is not None and element.getparent().tag in ("body", "html"):
        return True
    names = f"{element.get('class') or ''} {element.get('id') or ''}"
    n_chars = len(clean(element.text_content())) if tag in ("ul", "ol", "div", "section") or names.strip() else 0
    # A name alone could hide the main text: what has long prose of its own is not surroundings.
    if _SURROUNDING_NAMES.search(names) and n_chars < 1500:
        return True
    links = element.findall(".//a")
    return (
        tag in ("ul", "ol", "div")
        and len(links) >= 3
        and sum(len(clean(link.text_content())) for link in links) > _MENU_LINK_SHARE * max(1, n_chars)
    )


def _is_data(table: Any) -> bool:
    """Whether a table holds data, and not the layout of a page."""
    if table.find(".//table") is not None or table.get("role") == "presentation":
        return False
    rows = table.xpath("./tr|./*/tr")
    widths = [len(row.xpath("./td|./th")) for row in rows]
    return max(widths, default=0) > 1 and not (len(rows) < 2 and table.find(".//p") is not None)


def _table(table: Any) -> Iterator[Piece]:
    caption = table.find("caption")
    if caption is not None:
        yield Piece("caption", clean(caption.text_content()))
    rows: list[list[str]] = []
    pending: dict[int, tuple[int, str]] = {}
    for row in table.xpath("./tr|./*/tr"):
        cells: list[str] = []
        for cell in row.xpath("./td|./th"):
            _fill(cells, pending)
            text = clean(cell.text_content())
            column = len(cells)
            cells.extend([text] + [""] * (_span(cell, "colspan") - 1))
            if _span(cell, "rowspan") > 1:
                # A cell over several rows holds for each of them, so that a row means something by itself.
                pending[column] = (_span(cell, "rowspan") - 1, text)
        _fill(cells, pending)
        rows.append(cells)
    yield table_piece(rows)


def _fill(cells: list[str], pending: dict[int, tuple[int, str]]) -> None:
    while len(cells) in pending:
        left, text = pending.pop(len(cells))
        if left > 1:
            pending[len(cells)] = (left - 1, text)
        cells.append(text)


def _span(cell: Any, name: str) -> int:
    value = str(cell.get(name) or "1")
    return max(1, min(200, int(value))) if value.isdigit() and len(value) < 6 else 1
