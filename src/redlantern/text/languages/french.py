# SPDX-License-Identifier: GPL-3.0-or-later
"""French."""

from redlantern.text.languages.record import Language, anywhere, begins, determined_by, words
from redlantern.translation import marked

FRENCH = Language(
    "fr",
    marked("French"),
    stemmer="french",
    decimal_mark=",",
    abbreviations=words("m mme mlle"),
    function_words=words(
        "le la les l un une des du de d et ou mais si que qui quoi dont où à au aux en dans sur sous par pour avec sans entre vers chez "
        "depuis pendant avant après est sont était étaient être été a ont avait avaient avoir sera seront peut peuvent doit doivent "
        "faut fait font je j tu il elle on nous vous ils elles me m te t se s lui leur leurs y ce cet cette ces c cela ça mon ma mes "
        "ton ta tes son sa ses notre nos votre vos quel quelle quels quelles quand comment combien pourquoi ne n pas plus non très "
        "aussi alors donc puis ici là même tout toute tous toutes qu est-ce"
    ),
    openers=begins("et|mais|ou|alors|donc|puis|aussi|qu['’]en est-il|pourquoi pas"),
    pointers=anywhere(
        "il|elle|ils|elles|lui|leur|leurs|celui|celle|ceux|celles|cela|ça|ce dernier|cette dernière|y|en|son|sa|ses|le même|la même"
    ),
    persons=anywhere("il|elle|lui|son|sa|ses"),
    determined=determined_by("le|la|les|un|une|des|du|chaque|aucun|aucune|notre|votre"),
    telling_words=words("coûte coûtent"),
    linking_word="et",
    openings=(
        ("date", "quand|depuis quand|jusqu['’]à quand|à quelle date|en quelle année|quel jour"),
        ("name", "qui|à qui|par qui|avec qui|de qui"),
        ("sum", "combien coûte|combien coûtent|quel est le (?:prix|montant|coût)"),
        ("number", "combien|quelle est la (?:longueur|hauteur|durée|taille)"),
        ("reason", "pourquoi"),
        ("place", "où|d['’]où"),
    ),
    month_names="janvier février mars avril mai juin juillet août septembre octobre novembre décembre",
    months=r"janvier|février|mars|avril|juin|juillet|août|septembre|octobre|novembre|décembre",
    time_units=r"jours?|semaines?|mois|ans|années?|heures?",
    number_words=r"deux|trois|quatre|cinq|six|sept|huit|neuf|dix|douze|cent|mille",
    asks_about="Que dit-on ici de : {} ?",
)
