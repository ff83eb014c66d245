"""The small words of a question's language: those without content, and those that point to an earlier question.

English, and the languages of Western Europe that have stems here. Which language a question is in is told by its small words
themselves: a question is too short for a language model of letters.
"""

import re
from dataclasses import dataclass
from functools import lru_cache


@dataclass(frozen=True)
class SmallWords:
    """The small words of one language.

    `function` carry no content; `openers` begin what goes on from an earlier question ("and", "what about"); `pointers` are pronouns;
    `persons` those of them that mean a person; `determined` is what a pronoun further on in the same question may mean ("the
    Trust").
    """

    code: str
    function: frozenset[str]
    openers: re.Pattern[str]
    pointers: re.Pattern[str]
    persons: re.Pattern[str]
    determined: re.Pattern[str]


def _words(text: str) -> frozenset[str]:
    return frozenset(text.split())


def _begins(pattern: str) -> re.Pattern[str]:
    return re.compile(rf"^(?:{pattern})\b", re.IGNORECASE)


def _anywhere(pattern: str) -> re.Pattern[str]:
    return re.compile(rf"\b(?:{pattern})\b", re.IGNORECASE)


def _determined(articles: str) -> re.Pattern[str]:
    """An article with its noun, or a name: a capital that does not begin the question."""
    return re.compile(rf"\b(?i:{articles})\s+\w|['’]s\b|(?<=[a-zà-ÿ,;] )[A-ZÀ-Þ]\w")


ENGLISH = SmallWords(
    "en",
    _words(
        "a an the and or but if of to in on at by for from with without into onto upon as is are was were be been being am do "
        "does did done has have had having will would shall should can could may might must no not nor so than that this these "
        "those there here it its he she we they them their his her him us our you your i me my what which who whom whose when "
        "where why how much many often any some all each per about under over between during before after again then "
        "because since much above below also only own same such very just too out up down off"
    ),
    _begins("and|but|or|so|then|also|what about|how about|why not|and what|which one|the same"),
    _anywhere(
        "it|its|they|them|their|he|she|him|his|her|hers|this|these|those|that|there|then|the same|one|ones|the other|"
        "the former|the latter|such"
    ),
    _anywhere("he|she|him|his|her|hers"),
    _determined("the|a|an|each|every|any|all|no|our|my|your"),
)
_GERMAN = SmallWords(
    "de",
    _words(
        "der die das den dem des ein eine einen einem einer eines kein keine keinen keinem keiner und oder aber denn wenn als wie "
        "ob dass weil in im an am auf aus bei beim bis durch für gegen mit nach ohne seit über um unter von vom vor zu zum zur "
        "zwischen ist sind war waren sein gewesen bin bist wird werden wurde wurden worden hat haben hatte hatten habe kann können "
        "konnte darf dürfen durfte muss müssen musste soll sollen sollte will wollen wollte mag möchte ich du er sie es wir ihr man "
        "mich mir dich dir ihn ihm uns euch ihnen mein meine meinen dein deine sein seine seinen seiner ihre ihren ihrem ihrer unser "
        "unsere dieser diese dieses diesen diesem jener jene jenes was wer wen wem wessen welcher welche welches welchen welchem wann "
        "wo wohin woher warum weshalb wieso wozu womit wofür woran worin worüber viel viele vielen wieviel lange hoch oft sehr auch "
        "nur noch schon nicht nichts da dort hier dann so also etwa gibt gab es heißt heisst nun denn doch je pro sich"
    ),
    _begins("und|aber|oder|dann|also|auch|was ist mit|wie ist es mit|wie sieht es mit|warum nicht|ebenso"),
    _anywhere(
        "er|sie|es|ihn|ihm|ihr|ihre|ihren|ihrem|ihrer|ihnen|sein|seine|seinen|seinem|seiner|dies|dieser|diese|dieses|diesen|diesem|"
        "jener|jene|jenes|dort|da|dann|davon|dafür|daran|darin|damit|darüber|dabei|dazu|dagegen|deren|dessen|derselbe|dieselbe|dasselbe"
    ),
    _anywhere("er|ihn|ihm|sein|seine|seinen|seinem|seiner"),
    # Every German noun has a capital, so only one with its article counts.
    re.compile(
        r"\b(?:der|die|das|den|dem|des|ein|eine|einen|einem|einer|jeder|jede|jedes|kein|keine|alle|unser|unsere)\s+\w",
        re.IGNORECASE,
    ),
)
_FRENCH = SmallWords(
    "fr",
    _words(
        "le la les l un une des du de d et ou mais si que qui quoi dont où à au aux en dans sur sous par pour avec sans entre vers chez "
        "depuis pendant avant après est sont était étaient être été a ont avait avaient avoir sera seront peut peuvent doit doivent "
        "faut fait font je j tu il elle on nous vous ils elles me m te t se s lui leur leurs y ce cet cette ces c cela ça mon ma mes "
        "ton ta tes son sa ses notre nos votre vos quel quelle quels quelles quand comment combien pourquoi ne n pas plus non très "
        "aussi alors donc puis ici là même tout toute tous toutes qu est-ce"
    ),
    _begins("et|mais|ou|alors|donc|puis|aussi|qu['’]en est-il|pourquoi pas"),
    _anywhere(
        "il|elle|ils|elles|lui|leur|leurs|celui|celle|ceux|celles|cela|ça|ce dernier|cette dernière|y|en|son|sa|ses|le même|la même"
    ),
    _anywhere("il|elle|lui|son|sa|ses"),
    _determined("le|la|les|un|une|des|du|chaque|aucun|aucune|notre|votre"),
)
_SPANISH = SmallWords(
    "es",
    _words(
        "el la los las un una unos unas de del a al en con sin por para sobre entre hasta desde durante antes después y e o u pero si "
        "que qué quien quién quienes quiénes cual cuál cuales cuáles cuando cuándo donde dónde como cómo cuanto cuánto cuanta cuánta "
        "cuantos cuántos cuantas cuántas es son era eran ser sido fue fueron está están estaba ha han había haber hay puede pueden "
        "debe deben tiene tienen yo tú él ella ello nosotros ellos ellas me te se lo le les nos su sus mi mis este esta estos estas "
        "ese esa eso esos esas aquel aquella no ni muy más también ya porque"
    ),
    _begins("y|pero|o|entonces|también|qué hay de|por qué no"),
    _anywhere("él|ella|ello|ellos|ellas|lo|le|les|su|sus|este|esta|esto|estos|estas|ese|esa|eso|esos|esas|allí|ahí"),
    _anywhere("él|ella|le|su|sus"),
    _determined("el|la|los|las|un|una|cada|ningún|ninguna|nuestro|nuestra"),
)
_ITALIAN = SmallWords(
    "it",
    _words(
        "il lo la i gli le l un uno una di del dello della dei degli delle d a al allo alla ai agli alle da dal dallo dalla in nel "
        "nello nella nei nelle con su sul sulla per tra fra e ed o ma se che chi cui quale quali quando dove come quanto quanta quanti "
        "quante perché è sono era erano essere stato stata fu ha hanno aveva avere può possono deve devono io tu lui lei noi voi loro "
        "mi ti si ci vi lo gli ne suo sua suoi sue questo questa questi queste quello quella quelli non più molto anche già così"
    ),
    _begins("e|ma|o|allora|anche|e per|perché no"),
    _anywhere("lui|lei|esso|essa|loro|lo|gli|ne|suo|sua|suoi|sue|questo|questa|questi|queste|quello|quella|ciò"),
    _anywhere("lui|lei|gli|suo|sua|suoi|sue"),
    _determined("il|lo|la|i|gli|le|un|uno|una|ogni|nessun|nessuna|nostro|nostra"),
)
_DUTCH = SmallWords(
    "nl",
    _words(
        "de het een en of maar als dan dat die deze dit wat wie welk welke wanneer waar waarom hoe hoeveel in op aan bij met zonder "
        "voor van naar tot uit over onder tussen tijdens na door om te is zijn was waren worden wordt werd werden heeft hebben had "
        "hadden kan kunnen kon mag mogen moet moeten zal zullen zou ik jij je hij zij ze we wij u hem haar hun ons mijn jouw er hier "
        "daar toen ook nog al niet geen zeer per elke elk alle"
    ),
    _begins("en|maar|of|dan|ook|hoe zit het met|waarom niet"),
    _anywhere("hij|zij|ze|hem|haar|hun|hen|het|dit|dat|deze|die|daar|ervan|ervoor|erin|daarvan|daarvoor|diens"),
    _anywhere("hij|hem|haar"),
    _determined("de|het|een|elke|elk|geen|onze"),
)
_LANGUAGES = (ENGLISH, _GERMAN, _FRENCH, _SPANISH, _ITALIAN, _DUTCH)
_WORD = re.compile(r"[^\W\d_]+")


# Words of those languages that are words of English with content, too: "war in Holland" is no German.
_ALSO_ENGLISH = _words(
    "war die hat man den mag am des an also so van door met dan men come pour sur son sa dos sin con per no me la le et us her hem "
    "hun over under of as had is in at to on do mi i a e o y d c l m n t s"
)
# They carry content, and tell the language where hardly anything else does: "Was kostet die Reparatur?"
_TELLING = {
    "de": _words("kostet kosten beträgt steht gehört zahlt bekommt"), "fr": _words("coûte coûtent"), "es": _words("cuesta cuestan"),
    "it": _words("costa costano"), "nl": _words("kost kosten"),
}  # fmt: skip


@lru_cache(maxsize=4096)
def small_words_of(question: str) -> SmallWords:
    """The small words of the language that most of a question's small words belong to; English where that is not told."""
    words = _WORD.findall(question.casefold())

    def share(one: SmallWords) -> int:
        told = one.function | _TELLING.get(one.code, frozenset())
        if one is not ENGLISH and not any(
            word in told and word not in ENGLISH.function and word not in _ALSO_ENGLISH for word in words
        ):
            return 0
        return sum(word in told for word in words)

    # The first of equals, so English unless another has more.
    return max(_LANGUAGES, key=share)


def is_small_word(word: str) -> bool:
    """Whether a word is one of the small words of any of these languages."""
    return any(word.casefold() in one.function for one in _LANGUAGES)
