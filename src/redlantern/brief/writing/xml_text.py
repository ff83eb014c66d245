# SPDX-License-Identifier: GPL-3.0-or-later
"""Text for formats that are XML within."""

import re

_NOT_IN_XML = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ud800-\udfff\ufffe\uffff]")


def xml_text(text: str) -> str:
    """The text without what XML cannot hold."""
    return _NOT_IN_XML.sub("", text)
