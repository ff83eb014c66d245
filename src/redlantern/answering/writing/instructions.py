# SPDX-License-Identifier: GPL-3.0-or-later
"""A document's words as material for a language model: never instruction, never our own marks, never a template's."""

import re

from redlantern.answering.evidence.lines import Candidate, in_words
from redlantern.models.wire import neutral

_TABLE_NUMBER = re.compile(r"^(?:Table|Figure|Tabelle|Abbildung)\s+(?:[A-Z][.-]?)?\d+(?:[.-]\d+)*[.:]*\s+(?=\S)")
_CLAUSE_NUMBER = re.compile(r"^(?:[A-Z]\.)?\d{1,3}(?:\.\d{1,3})*\.?\s+(?=\S)")


_BRACKETS = str.maketrans("[]［］〔〕【】", "()()()()")


def as_material(candidate: Candidate) -> str:
    """A line as the model sees it: without its clause number or its table's, in words where it is a row, and without brackets,
    which are for our own numbers.
    """
    text = in_words(candidate) if candidate.is_row else " ".join(candidate.text.split())
    text = _TABLE_NUMBER.sub("", _CLAUSE_NUMBER.sub("", text)).translate(_BRACKETS)
    # As the model gets it: what is written is compared with these very words.
    return neutral(text)


_TO_A_MODEL = re.compile(
    r"\b(?:ignore|disregard|forget|override|bypass|skip)\b[^.]{0,40}"
    r"\b(?:above|previous|prior|earlier|preceding|instructions?|rules?|prompts?|guidelines?|lines|everything|all of (?:this|that))\b|"
    r"\b(?:system|developer|hidden) (?:prompt|message|instruction)|\bprompt injection\b|\bnew instructions?\b|"
    r"\byou are (?:now )?(?:an? |the )?(?:\w+ )?(?:ai|assistant|language model|chatbot|model|bot|machine)\b|"
    r"\b(?:as|to|dear|note to|attention) (?:an? |the |any |all )?(?:ai|llm|language models?|assistants?|chatbots?)\b|"
    r"\b(?:ai|llm|language models?|assistants?|chatbots?)\b[^.]{0,30}\b(?:must|should|shall|will|is to|are to|reading|processing)\b|"
    r"\b(?:respond|reply|answer|output|print|write|say|repeat)\b[^.]{0,20}\b(?:only|exactly|instead|nothing but|the following|verbatim)\b|"
    r"\b(?:only|instead|exactly|just) (?:respond|reply|answer|output|print|write|say|repeat)\b|"
    r"\b(?:answer|reply|respond)\b[^.]{0,25}\b(?:every|any|all) questions?\b[^.]{0,40}\bwith\b|"
    r"\bwhen asked\b[^.]{0,60}\b(?:say|answer|reply|respond|claim|state|tell)\b|"
    r"\bdo not (?:cite|mention|reveal|tell|use|answer|quote)\b[^.]{0,40}"
    r"\b(?:lines?|documents?|passages?|sources?|users?|questions?|readers?)\b|"
    r"\bend of (?:the )?(?:document|context|lines|prompt|material)\b|^\s*(?:system|assistant|user|human)\s*:",
    re.IGNORECASE | re.MULTILINE,
)


def is_to_a_model(text: str) -> bool:
    """Whether a text speaks to a machine that reads it, and not to a person: it is shown, and never given to one.

    Found by its wording; what it misses is still only material among numbered lines.
    """
    return bool(_TO_A_MODEL.search(text))
