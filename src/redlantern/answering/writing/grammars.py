# SPDX-License-Identifier: GPL-3.0-or-later
"""Grammars (GBNF) that hold what a language model writes to a form in which every claim names the line it stands on."""

import json
from collections.abc import Iterator, Sequence

from redlantern.answering.writing.claims import OWN_MARK

MOST_CLAIMS = 3
_MOST_STRETCHES = 4
BEST_LINES = 2
# A stretch may end before these: what follows adds to it. Never before "unless" or "except", which take away.
_ADDING_WORDS = frozenset("and or but which who because as so while when".split())
_TAKING_WORDS = frozenset(
    "unless except excepting provided however otherwise nevertheless notwithstanding save".split()
)


_SHORTEST_STRETCH = 3
_MOST_WORDS = 90
"""More than an answer's tokens allow: a model that may not begin another word goes on in the last one."""


def sentence_grammar(n_lines: int, most: int = MOST_CLAIMS) -> str:
    """Write the grammar (GBNF) of at most `most` free sentences, each ending in the number of one of the lines."""
    return (
        f'root ::= claim (" " claim){{0,{most - 1}}}\n'
        'claim ::= [^\\[\\]\\n ] [^\\[\\]\\n]{8,240} " [" number "]"\n'
        f"number ::= {' | '.join(_literal(str(number)) for number in range(1, n_lines + 1))}\n"
    )


def prose_grammar(most: int, least_words: int = 1) -> str:
    """Write the grammar (GBNF) of at most `most` lines of prose of so many words at least, without brackets, which are for call-marks.

    Where a sentence is from is found by checking it: a model that is held to name its source after each sentence names it in
    the midst of one ("In [1]"), or goes on where it would have stopped. One of several words does not begin with a digit: "41 boats"
    would be it already, and a model that may not stop yet goes on with anything.
    """
    first = "[^\\[\\]\\n #…`0-9] [^\\[\\]\\n #…`]{0,39}" if least_words > 1 else "word"
    return (
        f'root ::= line ("\\n" line){{0,{most - 1}}}\n'
        f'line ::= {first} (" " word){{{least_words - 1},{_MOST_WORDS}}}\n'
        "word ::= [^\\[\\]\\n #…`]{1,40}\n"
    )


def words_grammar(most: int) -> str:
    """Write the grammar (GBNF) of at most `most` words on one line, without brackets of any kind: those set words aside in a question."""
    return f'root ::= word (" " word){{0,{most - 1}}}\nword ::= [^\\[\\]\\n #…()]{{1,30}}\n'


def stretch_grammar(
    lines: Sequence[str], *, begins: Sequence[int] = (0, 1), must: Sequence[int] = (), least: Sequence[int] = ()
) -> str:
    """Write the grammar (GBNF) that holds an answer to stretches of these lines.

    The first claim is from one of the lines that `begins` numbers (from 0), by
    default the two best: they are right more often than a small model's choice among
    all. Up to two more may follow, from other lines in their order; those that
    `must` numbers have to be said. A stretch begins where its line begins and ends with it,
    or earlier where a clause ends, but not within the first words of which `least` says how many they are in each line.
    """
    rules = _rules(lines, least)
    answers = []
    for first in (number for number in begins if number < len(lines)):
        others = [number for number in range(min(_MOST_STRETCHES, len(lines))) if number != first]
        parts = [f"plain{first}"]
        for other in others:
            may_be_left_out = other not in must
            parts.append(f'(" " plain{other}){"?" if may_be_left_out else ""}')
        answers.append(" ".join(parts))
    return "\n".join([f"root ::= {' | '.join(answers)}", *rules]) + "\n"


def every_line_grammar(lines: Sequence[str], least: Sequence[int] = ()) -> str:
    """Write the grammar (GBNF) that says all of these lines in their order, each whole or ending where a clause ends."""
    rules = _rules(lines, least)
    said = ' " " '.join(f"plain{number}" for number in range(len(lines)))
    return "\n".join([f"root ::= {said}", *rules]) + "\n"


def free_draft_grammar(n_lines: int, most: int) -> str:
    """Write the grammar (GBNF) of at most `most` free sentences, each ending in the number of a line or as the model's own."""
    return sentence_grammar(n_lines, most).replace("number ::=", f'number ::= "{OWN_MARK}" |')


def _rules(lines: Sequence[str], least: Sequence[int]) -> list[str]:
    bounds = least or [0] * len(lines)
    return [
        rule
        for number, (line, n_least) in enumerate(zip(lines, bounds, strict=True))
        for rule in _line_rules(number, line.split(), n_least)
    ]


def _line_rules(number: int, words: Sequence[str], n_least: int) -> Iterator[str]:
    """Rules for one line: what may stand from each word on, and the claim that ends in the line's number."""
    last = len(words) - 1
    # What takes away is said, too: no stretch ends before the last of it.
    earliest = max(
        [_SHORTEST_STRETCH, n_least - 1, *(at for at, word in enumerate(words) if _bare(word) in _TAKING_WORDS)]
    )
    for at, word in enumerate(words):
        if at == last:
            yield f"from{number}x{at} ::= {_literal(word)}"
            continue
        may_end = word.endswith((",", ";", ":", ".")) or words[at + 1].casefold() in _ADDING_WORDS
        going_on = f'" " from{number}x{at + 1}'
        yield f"from{number}x{at} ::= {_literal(word)} ({going_on}){'?' if may_end and at >= earliest else ''}"
    yield f'plain{number} ::= from{number}x0 " [{number + 1}]"'


def _bare(word: str) -> str:
    return word.strip(",;:.()").casefold()


def _literal(word: str) -> str:
    # GBNF and JSON quote strings alike.
    return json.dumps(word, ensure_ascii=False)
