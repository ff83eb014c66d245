# SPDX-License-Identifier: GPL-3.0-or-later
"""Words that change what a sentence says: opposites, words of strength and of doubt, and forms that stems do not join."""

import re

from redlantern.text.stems import STOP_WORDS, stem
from redlantern.text.tokens import tokens

NEGATIONS = frozenset("not no never none nor neither cannot without nobody nothing lack lacks lacked lacking".split())

_OPPOSITES = (
    "above/below over/under before/after more/less more/fewer most/least rise/fall rise/drop increase/decrease increase/reduce "
    "grow/shrink higher/lower high/low upper/lower raise/lower open/close open/shut early/late earlier/later left/right "
    "north/south east/west inside/outside indoors/outdoors accept/refuse accept/reject grant/refuse approve/refuse approve/reject "
    "allow/forbid permit/forbid permit/prohibit buy/sell borrow/lend win/lose start/stop start/end begin/end begin/finish "
    "include/exclude arrive/leave arrive/depart enter/leave admit/deny confirm/deny agree/disagree first/last "
    "minimum/maximum longer/shorter long/short larger/smaller large/small bigger/smaller wider/narrower wet/dry hot/cold "
    "warm/cold heavy/light morning/evening day/night winter/summer spring/autumn old/new older/newer oldest/newest front/back "
    "top/bottom import/export debit/credit income/expense profit/loss present/absent pass/fail full/empty true/false "
    "plaintiff/defendant buyer/seller landlord/tenant lender/borrower employer/employee strengthen/weaken add/remove "
    "lawful/unlawful valid/invalid known/unknown safe/unsafe paid/unpaid signed/unsigned possible/impossible clockwise/anticlockwise"
)
_IRREGULAR = (
    "leave:left see:saw,seen pay:paid lend:lent send:sent rise:rose,risen fall:fell,fallen give:gave,given take:took,taken "
    "keep:kept hold:held write:wrote,written come:came go:went,gone find:found make:made say:said tell:told buy:bought "
    "sell:sold bring:brought think:thought know:knew,known begin:began,begun break:broke,broken choose:chose,chosen "
    "drive:drove,driven eat:ate,eaten get:got,gotten grow:grew,grown hear:heard lead:led lose:lost meet:met run:ran "
    "sit:sat speak:spoke,spoken spend:spent stand:stood steal:stole,stolen swear:swore,sworn teach:taught throw:threw,thrown "
    "understand:understood wear:wore,worn win:won build:built feel:felt mean:meant lay:laid lie:lay,lain draw:drew,drawn "
    "foot:feet person:people child:children man:men woman:women"
)
_BASE = {
    form: base
    for base, forms in (part.split(":") for part in _IRREGULAR.split())
    for form in forms.split(",")
    if form != "lay"
}

LIGHT = frozenset(
    stem(word)
    for word in "state say said amount happen occur require need make place concern following case there according apply give "
    "given set namely regard relate mention".split()
)
"""Stems that a sentence may be worded with and that say nothing of their own."""
ROW_LIGHT = frozenset(
    stem(word) for word in "cost pay paid bill read show record list measure amount total each".split()
)
"""Those that the row of a table may be worded with besides."""

LEADING_OVER = frozenset(
    stem(word)
    for word in "least though although thus also even often usually then instead however therefore hence moreover".split()
)
"""Stems of words that may begin a clause and are nobody of whom something is said."""

# Titles, and what stands for something named before.
_NAMELESS = frozenset("mr mrs ms dr prof professor miss sir one ones".split())

_CERTAIN = "certainly definitely undoubtedly proves proven guaranteed guarantees"

# In a claim, only where the cited words are as strong.
_STRONG: tuple[tuple[frozenset[str], frozenset[str]], ...] = tuple(
    (frozenset(strong.split()), frozenset(enough.split()))
    for strong, enough in (
        ("all every each everyone everybody always any", "all every each everyone everybody always any no none never"),
        ("only solely exclusively", "only solely exclusively alone but"),
        ("must obliged", "must shall has have need needs required obliged be mandatory"),
        ("fully completely entirely wholly whole full", "fully completely entirely wholly whole full all"),
        ("never ever", "never ever"),
        ("nobody none nothing", "nobody none nothing no"),
        ("exactly precisely", "exactly precisely"),
        (_CERTAIN, _CERTAIN),
        ("immediately", "immediately once forthwith"),
    )
)  # fmt: skip

# In the cited words, never left out of a claim.
_WEAK: tuple[frozenset[str], ...] = tuple(
    frozenset(words.split())
    for words in (
        "may might could possibly perhaps permitted allowed can",
        "probably likely apparently presumably seems seemed appears appeared",
        "some most many several few mostly mainly partly",
        "should ought recommended",
        "says said believes believed told tells wrote testified alleges alleged claims claimed thinks thought according states "
        "stated reports reported estimates estimated expects expected opinion suspects suspected assumes assumed reportedly "
        "supposedly view",
        "planned plans proposed proposes intends intended draft provisional wants wanted wishes wished hopes hoped",
        "only solely exclusively alone",
        "unless except provided if subject",
    )
)
CONDITIONS = _WEAK[-1]


def base_form(token: str) -> str:
    """The stem of a word, or of the word that it is an irregular form of."""
    return stem(_BASE.get(token, token))


def content(text: str) -> list[str]:
    """The words of a text that carry content, in order: no stop words, titles or numbers."""
    return [
        token
        for token in tokens(text)
        if token not in STOP_WORDS
        and token not in _NAMELESS
        and token not in NEGATIONS
        and not stem(token)[:1].isdigit()
    ]


_DOER, _DONE_TO, _NAMED_DONE_TO = re.compile(r"(?:er|or)s?$"), re.compile(r"(?:ee|ees|ed)$"), re.compile(r"ees?$")

_OPPOSITE_OF: dict[str, set[str]] = {}
for _pair in _OPPOSITES.split():
    _one, _other = map(base_form, _pair.split("/"))
    _OPPOSITE_OF.setdefault(_one, set()).add(_other)
    _OPPOSITE_OF.setdefault(_other, set()).add(_one)


def opposite_in(claim: str, cited: str) -> tuple[str, str] | None:
    """A word of the claim that the cited words lack while they have its opposite, and that opposite."""
    here = {base_form(token): token for token in tokens(cited)}
    for token in tokens(claim):
        mine = base_form(token)
        if mine in here:
            # Stems join who does it and to whom it is done: the employer and the employee.
            forms = [token for token in tokens(cited) if base_form(token) == mine]
            if _DOER.search(token) and all(map(_DONE_TO.search, forms)):
                return token, forms[0]
            if _NAMED_DONE_TO.search(token) and all(map(_DOER.search, forms)):
                return token, forms[0]
        else:
            found = [here[other] for other in _OPPOSITE_OF.get(mine, ()) if other in here]
            if found:
                return token, found[0]
    return None


def too_strong(claim: str, cited: str) -> str:
    """The word of a claim that is stronger than anything the cited words say; empty if none is."""
    said, here = tokens(claim), set(tokens(cited))
    for strong, enough in _STRONG:
        found = next((word for word in said if word in strong), "")
        if found and not here & enough:
            return found
    return ""


def left_out(claim: str, cited: str) -> str:
    """The word of doubt or condition of the cited words that a claim leaves out; empty if it keeps them all.

    A condition counts only where the claim says something of what comes before it.
    """
    said = tokens(claim)
    bases = {base_form(word) for word in content(claim)}
    before: set[str] = set()
    for word in tokens(cited):
        for group in _WEAK:
            is_free = group is CONDITIONS and not bases & before
            if word in group and not group & set(said) and not is_free:
                return word
        before.add(base_form(word))
    return ""
