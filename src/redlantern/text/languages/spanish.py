# SPDX-License-Identifier: GPL-3.0-or-later
"""Spanish."""

from redlantern.text.languages.record import Language, anywhere, begins, determined_by, words
from redlantern.translation import marked

SPANISH = Language(
    "es",
    marked("Spanish"),
    stemmer="spanish",
    decimal_mark=",",
    abbreviations=words("sr sra"),
    function_words=words(
        "el la los las un una unos unas de del a al en con sin por para sobre entre hasta desde durante antes después y e o u pero si "
        "que qué quien quién quienes quiénes cual cuál cuales cuáles cuando cuándo donde dónde como cómo cuanto cuánto cuanta cuánta "
        "cuantos cuántos cuantas cuántas es son era eran ser sido fue fueron está están estaba ha han había haber hay puede pueden "
        "debe deben tiene tienen yo tú él ella ello nosotros ellos ellas me te se lo le les nos su sus mi mis este esta estos estas "
        "ese esa eso esos esas aquel aquella no ni muy más también ya porque"
    ),
    openers=begins("y|pero|o|entonces|también|qué hay de|por qué no"),
    pointers=anywhere(
        "él|ella|ello|ellos|ellas|lo|le|les|su|sus|este|esta|esto|estos|estas|ese|esa|eso|esos|esas|allí|ahí"
    ),
    persons=anywhere("él|ella|le|su|sus"),
    determined=determined_by("el|la|los|las|un|una|cada|ningún|ninguna|nuestro|nuestra"),
    telling_words=words("cuesta cuestan"),
    linking_word="y",
    openings=(
        ("date", "cuándo|desde cuándo|hasta cuándo|en qué (?:fecha|año)|qué día"),
        ("name", "quién|quiénes|a quién|de quién|con quién"),
        ("sum", "cuánto cuesta|cuánto cuestan|cuál es el (?:precio|importe)"),
        ("number", "cuánt[oa]s?"),
        ("reason", "por qué"),
        ("place", "dónde|adónde|de dónde"),
    ),
    month_names="enero febrero marzo abril mayo junio julio agosto septiembre octubre noviembre diciembre",
    months=r"enero|febrero|marzo|abril|mayo|junio|julio|septiembre|octubre|noviembre|diciembre",
    time_units=r"días?|semanas?|mes(?:es)?|años?|horas?",
    number_words=r"dos|tres|cuatro|cinco|seis|siete|ocho|nueve|diez|cien|mil",
    asks_about="¿Qué se dice aquí de {}?",
)
