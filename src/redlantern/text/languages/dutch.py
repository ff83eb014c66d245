# SPDX-License-Identifier: GPL-3.0-or-later
"""Dutch."""

from redlantern.text.languages.record import Language, anywhere, begins, determined_by, words
from redlantern.translation import marked

DUTCH = Language(
    "nl",
    marked("Dutch"),
    stemmer="dutch",
    decimal_mark=",",
    function_words=words(
        "de het een en of maar als dan dat die deze dit wat wie welk welke wanneer waar waarom hoe hoeveel in op aan bij met zonder "
        "voor van naar tot uit over onder tussen tijdens na door om te is zijn was waren worden wordt werd werden heeft hebben had "
        "hadden kan kunnen kon mag mogen moet moeten zal zullen zou ik jij je hij zij ze we wij u hem haar hun ons mijn jouw er hier "
        "daar toen ook nog al niet geen zeer per elke elk alle"
    ),
    openers=begins("en|maar|of|dan|ook|hoe zit het met|waarom niet"),
    pointers=anywhere("hij|zij|ze|hem|haar|hun|hen|het|dit|dat|deze|die|daar|ervan|ervoor|erin|daarvan|daarvoor|diens"),
    persons=anywhere("hij|hem|haar"),
    determined=determined_by("de|het|een|elke|elk|geen|onze"),
    telling_words=words("kost kosten"),
    linking_word="en",
    openings=(
        ("date", "wanneer|sinds wanneer|tot wanneer|op welke dag|in welk jaar"),
        ("name", "wie|van wie|met wie|aan wie"),
        ("sum", "wat kost|wat kosten|hoe duur|hoeveel kost|hoeveel kosten"),
        ("number", "hoeveel|hoe (?:lang|hoog|groot|ver|vaak|oud|zwaar|breed|diep)"),
        ("reason", "waarom"),
        ("place", "waar|waarheen"),
    ),
    month_names="januari februari maart april mei juni juli augustus september oktober november december",
    months=r"januari|februari|maart|mei|augustus",
    time_units=r"dagen?|weken|maanden?|jaren?|uur",
    number_words=r"twee|drie|vijf|zes|zeven|negen|tien|honderd|duizend",
    asks_about="Wat staat hier over {}?",
)
