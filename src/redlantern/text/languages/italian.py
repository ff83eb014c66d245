# SPDX-License-Identifier: GPL-3.0-or-later
"""Italian."""

from redlantern.text.languages.record import Language, anywhere, begins, determined_by, words
from redlantern.translation import marked

ITALIAN = Language(
    "it",
    marked("Italian"),
    stemmer="italian",
    decimal_mark=",",
    abbreviations=words("sig"),
    function_words=words(
        "il lo la i gli le l un uno una di del dello della dei degli delle d a al allo alla ai agli alle da dal dallo dalla in nel "
        "nello nella nei nelle con su sul sulla per tra fra e ed o ma se che chi cui quale quali quando dove come quanto quanta quanti "
        "quante perché è sono era erano essere stato stata fu ha hanno aveva avere può possono deve devono io tu lui lei noi voi loro "
        "mi ti si ci vi lo gli ne suo sua suoi sue questo questa questi queste quello quella quelli non più molto anche già così"
    ),
    openers=begins("e|ma|o|allora|anche|e per|perché no"),
    pointers=anywhere(
        "lui|lei|esso|essa|loro|lo|gli|ne|suo|sua|suoi|sue|questo|questa|questi|queste|quello|quella|ciò"
    ),
    persons=anywhere("lui|lei|gli|suo|sua|suoi|sue"),
    determined=determined_by("il|lo|la|i|gli|le|un|uno|una|ogni|nessun|nessuna|nostro|nostra"),
    telling_words=words("costa costano"),
    linking_word="e",
    openings=(
        ("date", "quando|da quando|fino a quando|in che (?:data|anno)|che giorno"),
        ("name", "chi|a chi|di chi|con chi|da chi"),
        ("sum", "quanto costa|quanto costano|qual è (?:il prezzo|l['’]importo)"),
        ("number", "quant[oaie]"),
        ("reason", "perché"),
        ("place", "dove|da dove"),
    ),
    month_names="gennaio febbraio marzo aprile maggio giugno luglio agosto settembre ottobre novembre dicembre",
    months=r"gennaio|febbraio|aprile|maggio|giugno|luglio|settembre|ottobre|dicembre",
    time_units=r"giorn[oi]|settiman[ae]|mes[ei]|ann[oi]|or[ae]",
    number_words=r"due|tre|quattro|cinque|sei|sette|otto|nove|dieci|cento",
    asks_about="Che cosa si dice qui di {}?",
)
