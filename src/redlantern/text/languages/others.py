# SPDX-License-Identifier: GPL-3.0-or-later
"""Languages that are read, told apart and, most of them, stemmed; questions are not asked in them yet."""

from redlantern.text.languages.record import Language

PORTUGUESE = Language("pt", "Portuguese", stemmer="portuguese")
SWEDISH = Language("sv", "Swedish", stemmer="swedish")
DANISH = Language("da", "Danish", stemmer="danish", has_ordinal_point=True)
NORWEGIAN = Language("no", "Norwegian", stemmer="norwegian", has_ordinal_point=True)
FINNISH = Language("fi", "Finnish", stemmer="finnish", has_ordinal_point=True)
POLISH = Language("pl", "Polish", has_ordinal_point=True)
CZECH = Language("cs", "Czech", has_ordinal_point=True)
HUNGARIAN = Language("hu", "Hungarian", stemmer="hungarian", has_ordinal_point=True)
ROMANIAN = Language("ro", "Romanian", stemmer="romanian")
RUSSIAN = Language("ru", "Russian", stemmer="russian")
TURKISH = Language("tr", "Turkish", stemmer="turkish", has_ordinal_point=True)

OTHERS = (
    PORTUGUESE, SWEDISH, DANISH, NORWEGIAN, FINNISH, POLISH, CZECH, HUNGARIAN, ROMANIAN, RUSSIAN, TURKISH,
)  # fmt: skip
