# SPDX-License-Identifier: GPL-3.0-or-later
"""The catalogues of the interface's words: what is to be translated is gathered from the source, and what was translated is compiled.

`python -m shipping.catalogues` brings every `redlantern.po` in src/redlantern/locale up to date, in the order of the source, and
writes the `.mo` beside it. A translation whose English changed is dropped, never guessed: what has none is shown in English.
"""

import ast
import io
import sys
from collections.abc import Iterator
from pathlib import Path

from babel.messages.catalog import Catalog
from babel.messages.catalog import Message as BabelMessage
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po, write_po

from redlantern import __version__
from redlantern.translation import DOMAIN, FOLDER, LANGUAGES

SOURCE = FOLDER.parent
Message = str | tuple[str, str]
"""Words to be translated; a pair is for one and for many."""
_WORDS = {"tr": (0,), "marked": (0,), "_setting": (1, 2, 5), "_choice": (1, 2)}
"""Which arguments of a call are words."""
_COUNTED = {"counted": 1, "noun": 1}


def messages(source: Path = SOURCE) -> dict[Message, str]:
    """All words of the interface, each with the module that it stands in first."""
    found: dict[Message, str] = {}
    for path in sorted(source.rglob("*.py")):
        for message in _of_module(ast.parse(path.read_text(encoding="utf-8"))):
            found.setdefault(message, str(path.relative_to(source)))
    # What is counted somewhere is the same message where it stands alone.
    counted = {message[0] for message in found if isinstance(message, tuple)}
    return {message: module for message, module in found.items() if message not in counted}


def _of_module(tree: ast.Module) -> Iterator[Message]:
    for node in ast.walk(tree):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name):
            name, words = node.func.id, [_said(each) for each in node.args]
            for at in _WORDS.get(name, ()):
                if at < len(words) and words[at]:
                    yield words[at]
            if name == "trn" and words[0] and words[1]:
                yield words[0], words[1]
            at = _COUNTED.get(name, len(words))
            if at < len(words) and words[at]:
                many = words[at + 1] if at + 1 < len(words) else ""
                yield words[at], many or words[at] + "s"


def _said(node: ast.expr) -> str:
    return node.value if isinstance(node, ast.Constant) and isinstance(node.value, str) else ""


def place_of(language: str) -> Path:
    """Where the catalogue of a language is kept."""
    return FOLDER / language / "LC_MESSAGES" / f"{DOMAIN}.po"


def read(language: str) -> Catalog:
    """The catalogue of a language as it is kept; empty where there is none yet."""
    place = place_of(language)
    if not place.is_file():
        return Catalog(language, DOMAIN)
    with place.open("rb") as file:
        return read_po(file, language, DOMAIN)


def brought_up_to_date(language: str) -> Catalog:
    """The catalogue of a language with all that is to be translated and nothing else."""
    kept, found = read(language), messages()
    made = Catalog(
        language,
        DOMAIN,
        project="Red Lantern",
        version=__version__,
        msgid_bugs_address="the makers of Red Lantern",
        last_translator="the makers of Red Lantern",
        language_team="the makers of Red Lantern",
        fuzzy=False,
        header_comment="# SPDX-License-Identifier: GPL-3.0-or-later",
    )
    # The same words at each making.
    made.creation_date = made.revision_date = kept.creation_date
    for message, module in found.items():
        before = kept.get(message if isinstance(message, str) else message[0])
        is_same = before is not None and before.id == message
        # Modules without line numbers: a line that moves changes no catalogue.
        made.add(message, before.string if is_same and before is not None else None, locations=[(module, 0)])
    return made


def is_translated(message: BabelMessage) -> bool:
    """Whether a message has its words, of one that is counted both."""
    said = message.string
    return bool(said) and all(said or ())


def as_po(catalogue: Catalog) -> bytes:
    """A catalogue as the file that people translate."""
    out = io.BytesIO()
    write_po(out, catalogue, width=120, omit_header=False, include_lineno=False)
    return out.getvalue()


def as_mo(catalogue: Catalog) -> bytes:
    """A catalogue as the program reads it."""
    out = io.BytesIO()
    write_mo(out, catalogue)
    return out.getvalue()


def main() -> int:
    """Write the catalogues of all languages but English, which stands in the source."""
    for language in LANGUAGES:
        if language == "en":
            continue
        catalogue, place = brought_up_to_date(language), place_of(language)
        place.parent.mkdir(parents=True, exist_ok=True)
        place.write_bytes(as_po(catalogue))
        place.with_suffix(".mo").write_bytes(as_mo(catalogue))
        lacking = sum(bool(each.id) and not is_translated(each) for each in catalogue)
        print(f"{LANGUAGES[language]}: {len(catalogue)} messages, {lacking} not translated")
    return 0


if __name__ == "__main__":
    sys.exit(main())
