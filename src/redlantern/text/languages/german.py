# SPDX-License-Identifier: GPL-3.0-or-later
"""German."""

import re

from redlantern.text.languages.record import Language, anywhere, begins, words
from redlantern.translation import marked

GERMAN = Language(
    "de",
    marked("German"),
    stemmer="german",
    decimal_mark=",",
    has_ordinal_point=True,
    abbreviations=words("z.b d.h bzw nr abs str usw ggf bd hr fr"),
    function_words=words(
        "der die das den dem des ein eine einen einem einer eines kein keine keinen keinem keiner und oder aber denn wenn als wie "
        "ob dass weil in im an am auf aus bei beim bis durch für gegen mit nach ohne seit über um unter von vom vor zu zum zur "
        "zwischen ist sind war waren sein gewesen bin bist wird werden wurde wurden worden hat haben hatte hatten habe kann können "
        "konnte darf dürfen durfte muss müssen musste soll sollen sollte will wollen wollte mag möchte ich du er sie es wir ihr man "
        "mich mir dich dir ihn ihm uns euch ihnen mein meine meinen dein deine sein seine seinen seiner ihre ihren ihrem ihrer unser "
        "unsere dieser diese dieses diesen diesem jener jene jenes was wer wen wem wessen welcher welche welches welchen welchem wann "
        "wo wohin woher warum weshalb wieso wozu womit wofür woran worin worüber viel viele vielen wieviel lange hoch oft sehr auch "
        "nur noch schon nicht nichts da dort hier dann so also etwa gibt gab es heißt heisst nun denn doch je pro sich"
    ),
    openers=begins("und|aber|oder|dann|also|auch|was ist mit|wie ist es mit|wie sieht es mit|warum nicht|ebenso"),
    pointers=anywhere(
        "er|sie|es|ihn|ihm|ihr|ihre|ihren|ihrem|ihrer|ihnen|sein|seine|seinen|seinem|seiner|dies|dieser|diese|dieses|diesen|diesem|"
        "jener|jene|jenes|dort|da|dann|davon|dafür|daran|darin|damit|darüber|dabei|dazu|dagegen|deren|dessen|derselbe|dieselbe|dasselbe"
    ),
    persons=anywhere("er|ihn|ihm|sein|seine|seinen|seinem|seiner"),
    # Every German noun has a capital, so only one with its article counts.
    determined=re.compile(
        r"\b(?:der|die|das|den|dem|des|ein|eine|einen|einem|einer|jeder|jede|jedes|kein|keine|alle|unser|unsere)\s+\w",
        re.IGNORECASE,
    ),
    telling_words=words("kostet kosten beträgt steht gehört zahlt bekommt"),
    linking_word="und",
    openings=(
        ("date", "wann|(?:seit|bis|ab) wann|an welchem tag|in welchem jahr"),
        ("name", "wer|wem|wen|wessen|von wem|mit wem|an wen"),
        (
            "sum",
            "was kostet|was kosten|wie teuer|wie viel (?:geld|kostet|kosten)|wieviel (?:geld|kostet|kosten)",
        ),
        ("number", "wie viele|wieviele|wie (?:lang|lange|hoch|groß|gross|weit|oft|alt|schwer|breit|tief|viel)"),
        ("reason", "warum|weshalb|wieso"),
        ("place", "wo|wohin|woher"),
    ),
    month_names="januar februar märz april mai juni juli august september oktober november dezember",
    months=r"januar|jänner|februar|märz|mai|juni|juli|oktober|dezember",
    time_units=r"tage?n?|werktage?n?|wochen?|monate?n?|jahre?n?|uhr",
    number_words=r"ein|eine|zwei|drei|vier|fünf|sechs|sieben|acht|neun|zehn|elf|zwölf|hundert|tausend",
    asks_about="Was steht hier zu {}?",
)
