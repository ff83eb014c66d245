# SPDX-License-Identifier: GPL-3.0-or-later
"""English."""

from redlantern.text.languages.record import Language, anywhere, begins, determined_by, words
from redlantern.translation import marked

ENGLISH = Language(
    "en",
    marked("English"),
    stemmer="",
    decimal_mark=".",
    abbreviations=words(
        "mr mrs ms dr prof st no nos art arts sec secs cl fig figs vol p pp ed eds e.g i.e etc vs cf approx ca dept inc ltd co "
        "jr sr rev hon messrs al ref para paras tel ext min max jan feb mar apr jun jul aug sept sep oct nov dec n.b a.m p.m"
    ),
    function_words=words(
        "a an the and or but if of to in on at by for from with without into onto upon as is are was were be been being am do "
        "does did done has have had having will would shall should can could may might must no not nor so than that this these "
        "those there here it its he she we they them their his her him us our you your i me my what which who whom whose when "
        "where why how much many often any some all each per about under over between during before after again then "
        "because since much above below also only own same such very just too out up down off"
    ),
    openers=begins("and|but|or|so|then|also|what about|how about|why not|and what|which one|the same"),
    pointers=anywhere(
        "it|its|they|them|their|he|she|him|his|her|hers|this|these|those|that|there|then|the same|one|ones|the other|"
        "the former|the latter|such"
    ),
    persons=anywhere("he|she|him|his|her|hers"),
    determined=determined_by("the|a|an|each|every|any|all|no|our|my|your"),
    month_names="january february march april may june july august september october november december",
    months="january|february|march|april|may|june|july|august|september|october|november|december",
    number_words="one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|fifteen|twenty|thirty|forty|fifty|hundred|thousand",
    asks_about="What is said about {}?",
)
