# SPDX-License-Identifier: GPL-3.0-or-later
"""Languages that are read, told apart and, most of them, stemmed; questions are not asked in them yet."""

from redlantern.text.languages.record import Language
from redlantern.translation import marked

PORTUGUESE = Language("pt", marked("Portuguese"), stemmer="portuguese")
SWEDISH = Language("sv", marked("Swedish"), stemmer="swedish")
DANISH = Language("da", marked("Danish"), stemmer="danish", has_ordinal_point=True)
NORWEGIAN = Language("no", marked("Norwegian"), stemmer="norwegian", has_ordinal_point=True)
FINNISH = Language("fi", marked("Finnish"), stemmer="finnish", has_ordinal_point=True)
POLISH = Language("pl", marked("Polish"), has_ordinal_point=True)
CZECH = Language("cs", marked("Czech"), has_ordinal_point=True)
HUNGARIAN = Language("hu", marked("Hungarian"), stemmer="hungarian", has_ordinal_point=True)
ROMANIAN = Language("ro", marked("Romanian"), stemmer="romanian")
RUSSIAN = Language("ru", marked("Russian"), stemmer="russian")
TURKISH = Language("tr", marked("Turkish"), stemmer="turkish", has_ordinal_point=True)

OTHERS = (
    PORTUGUESE, SWEDISH, DANISH, NORWEGIAN, FINNISH, POLISH, CZECH, HUNGARIAN, ROMANIAN, RUSSIAN, TURKISH,
)  # fmt: skip
