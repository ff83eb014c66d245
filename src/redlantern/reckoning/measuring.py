# SPDX-License-Identifier: GPL-3.0-or-later
"""Which column a question wants counted, added up or compared, and which says what row it is."""

import re

from redlantern.reckoning.candidates import Account, stems_of
from redlantern.reckoning.operation_words import DURATIONS, OFTEN
from redlantern.reckoning.plan import Condition, Operation, Pick, PlanError
from redlantern.reckoning.values import NUMERIC, ORDERED
from redlantern.reckoning.vocabulary import GENERIC, PEOPLE, like, speaks_of_money
from redlantern.reckoning.wishes import Wish
from redlantern.text.quantities import units_in
from redlantern.text.stems import stem
from redlantern.translation import tr

_SUMMED: frozenset[Operation] = frozenset({"sum", "mean", "median"})
_LEAST_SCORE = 0.5
"""A column for which less than this speaks was hardly meant."""
_UNIT_PRICE = frozenset(map(stem, "unit each per rate price einzelpreis unitaire unitario preis prix precio".split()))
_ASKED_ROW = re.compile(r"\b(?:which|what|whose|welche\w*|quel\w*|qué|cuál)\s+(\w+)(?:\s+(\w+))?", re.IGNORECASE)
_LISTED = re.compile(
    r"^\W*(?:(?:list|show|name|give)(?: me)?|liste|nenne|zeige?)?\s*"
    r"(?:all|alle|toutes les|tous les|todas las|todos los)\s+(?:the\s+)?(\w+)",
    re.IGNORECASE,
)
_ASKED_DAY = re.compile(
    r"\b(?:when|(?:which|what) (?:days?|dates?)|wann|quand|cuándo|(?:welche\w*|quels?) (?:tage?n?|jours?))\b",
    re.IGNORECASE,
)
_ASKED_PERSON = re.compile(r"\b(?:who|whom|wer|qui|quién)\b", re.IGNORECASE)
_EACH = re.compile(r"\b(?:per|each|every|by|je|pro|par|por)\s+([^\W\d_]+)", re.IGNORECASE)
_MOST_OF = re.compile(r"(?:most|fewest|meisten|wenigsten)\s+([^\W\d_]+)", re.IGNORECASE)
_MOST = re.compile(r"\b(?:most|fewest|least|meisten|wenigsten)\b", re.IGNORECASE)


def measured_column(account: Account) -> int:
    """The column that is added up or compared.

    Raises
    ------
    PlanError
        If none can be meant.
    """
    candidate, wish = account.candidate, account.wish
    wanted = NUMERIC if wish.operation in _SUMMED else ORDERED
    best, best_score = -1, 0.0
    for index, column in enumerate(account.table.columns):
        if wish.operation == "distinct":
            score = _distinct_score(account, index)
        elif column.kind in wanted:
            score = _score(account, index, n_possible=sum(other.kind in wanted for other in account.table.columns))
        else:
            continue
        if score > best_score:
            best, best_score = index, score
    if best < 0:
        raise PlanError("No column is meant.")
    names = candidate.names[best]
    account.is_named = bool(account.stems & names)
    account.is_strained = best_score < _LEAST_SCORE
    account.use(names | stems_of(wish.noun) if wish.operation == "distinct" else names)
    if not account.is_named:
        account.use(like(names) | (like(PEOPLE) if candidate.names_people(best) else frozenset()))
    return best


def _score(account: Account, index: int, n_possible: int) -> float:
    """How much speaks for a column: its name, what goes with its name, its kind, its unit."""
    wish, column, names = account.wish, account.table.columns[index], account.candidate.names[index]
    stems, alike = account.stems, like(names)
    hints = frozenset(map(stem, wish.hints))
    score = 2.0 * len(stems & names) + 1.0 * bool(stems & alike)
    score += 1.5 * bool(hints & alike) + 1.2 * (bool(column.unit) and column.unit in wish.hints)
    score += 1.5 * any(column.unit and column.unit in units_in(word.text) for word in account.words)
    if wish.kinds:
        score += 0.8 if column.kind in wish.kinds else -0.5
    if column.kind == "money":
        # Of unit price and total the total is the likelier: what the row comes to.
        score += 0.7 * speaks_of_money(stems) + 0.3 * bool(names & like(frozenset({"total"})))
        score -= 0.2 * bool(names & _UNIT_PRICE)
    if n_possible == 1:
        score += 0.3
    is_of_kind = column.kind in NUMERIC and not (wish.kinds and column.kind not in wish.kinds)
    return score + 0.1 * (is_of_kind and wish.operation != "difference")


def _distinct_score(account: Account, index: int) -> float:
    noun, names = stems_of(account.wish.noun), account.candidate.names[index]
    is_of_people = bool(noun & like(PEOPLE)) and account.candidate.names_people(index)
    return 2.0 * bool(noun & names) + 1.0 * bool(noun & like(names)) + 0.5 * is_of_people


def counted_column(account: Account, conditions: list[Condition]) -> int:
    """Of "how many skins": the column that holds them as numbers; -1 where rows are counted.

    Adds a condition where they are one of several units in it.
    """
    candidate, noun = account.candidate, stems_of(account.wish.noun)
    if any(noun & names for names in candidate.names):
        account.use(noun)
    units = units_in(account.wish.noun)
    for index, column in enumerate(account.table.columns):
        if column.kind not in NUMERIC:
            continue
        if (noun & candidate.names[index]) or (units and column.unit == units[0]):
            account.use(noun)
            account.is_named = bool(noun & candidate.names[index])
            return index
        of_unit = sorted({row.values[index].unit for row in account.table.items} - {""})
        wanted = next((unit for unit in of_unit if unit in units or stem(unit.casefold()) in noun), "")
        if wanted and not column.unit:
            account.use(noun)
            conditions.append(Condition(column.name, "in unit", (wanted,)))
            return index
    if not _is_row_noun(account, noun):
        said = tr("No row is called “{noun}”: the rows in which it stands were counted.")
        account.doubts.append(said.format(noun=account.wish.noun))
    return -1


def _is_row_noun(account: Account, noun: frozenset[str]) -> bool:
    """Whether rows are what is counted: by a column's name, the table's own, a general word, or a whole cell ("6 apprentices")."""
    candidate = account.candidate
    if noun & (GENERIC | candidate.about) or any(noun & names for names in candidate.names):
        return True
    columns = {index for word in noun for index in candidate.value_columns.get(word, ())}
    return any(stems_of(row.cells[index].text) <= noun for index in columns for row in account.table.items)


def counts_rows(account: Account) -> bool:
    """Whether "most" and "fewest" are of rows: of times, of entries, of what a column of words is named by ("most stops")."""
    if OFTEN in account.wish.hints:
        return True
    counted = _MOST_OF.match(account.question.text[account.wish.span[0] :])
    noun = stems_of(counted[1]) if counted else frozenset()
    if not noun:
        return False
    columns = zip(account.table.columns, account.candidate.names, strict=True)
    is_of_words = any(noun & names and column.kind in ("text", "identifier") for column, names in columns)
    if is_of_words:
        account.use(noun)
    return is_of_words or bool(noun & GENERIC)


def common_column(account: Account) -> int:
    """The column whose entries are to stand in every document: the one that the question names, else the one of persons.

    Raises
    ------
    PlanError
        If there is none.
    """
    for index, names in enumerate(account.candidate.names):
        if account.stems & like(names) and account.table.columns[index].kind == "text":
            account.use(like(names) | PEOPLE)
            account.is_named = True
            return index
    if _ASKED_PERSON.search(account.question.text):
        for index, column in enumerate(account.table.columns):
            if column.kind == "text" and account.candidate.names_people(index):
                account.use(PEOPLE)
                return index
    raise PlanError("No column is meant.")


def asked_nouns(text: str, wish: Wish) -> frozenset[str]:
    """The stems of what a question asks to be told of or counted: "which offers", "how many offers", "list all offers"."""
    found = [wish.noun]
    if wish.operation in ("largest", "smallest"):
        # "The heaviest parcel": a parcel is what is asked for.
        found += text[wish.span[1] :].split(maxsplit=1)[:1]
    for pattern in (_ASKED_ROW, _LISTED):
        match = pattern.search(text)
        found += [group for group in (match.groups() if match else ()) if group]
    return stems_of(" ".join(found))


def told_column(account: Account) -> int:
    """Of "what was the humidity on 17 March": the column that is asked for; -1 where the rows themselves are."""
    if account.wish in account.wishes.operations:
        return -1
    for index, names in enumerate(account.candidate.names):
        if account.stems & like(names) and account.table.columns[index].kind in NUMERIC:
            account.use(like(names))
            return index
    return -1


def label_column(account: Account, measured: int) -> int:
    """The column that says which row is meant: the one that the question asks for, else the first that tells rows apart."""
    text, columns, candidate = account.question.text, account.table.columns, account.candidate
    wanted = asked_nouns(text, account.wish)
    for index, names in enumerate(candidate.names):
        if index != measured and wanted & names:
            account.use(wanted & names)
            return index
    if _ASKED_DAY.search(text):
        for index, column in enumerate(columns):
            if column.kind == "date" and index != measured:
                account.use(like(frozenset({stem("when")})))
                return index
    if _ASKED_PERSON.search(text):
        for index, column in enumerate(columns):
            if column.kind == "text" and candidate.names_people(index):
                account.use(PEOPLE | like(candidate.names[index]))
                return index
        # Nobody is named in it: it does not say who.
        account.is_strained = True
    # A log is told by its days, a list by its first words, a ledger by its numbers.
    for kind in ("date",) if columns[0].kind == "date" else ("text", "identifier", "date"):
        for index, column in enumerate(columns):
            if index != measured and column.kind == kind:
                return index
    return -1


def grouping(account: Account, operation: Operation, column: int, label: int) -> tuple[str, Pick]:
    """The column to group by, and which group is wanted: for "who worked the most hours", where one person has several rows."""
    each = _EACH.search(account.question.text)
    wanted = stems_of(each[1]) if each else frozenset()
    for index, names in enumerate(account.candidate.names):
        if wanted & names and index != column:
            account.use(wanted)
            return account.column_name(index), ""
    if (operation != "largest" and operation != "smallest") or label < 0 or account.wish.n != 1:
        return "", ""
    if column < 0:
        return account.column_name(label), operation
    labels = [row.cells[label].text.strip() for row in account.table.items]
    # One name for many rows: a person, a place; not the few rows that happen to be called alike.
    has_many = account.table.columns[label].kind == "text" and 2 * len(set(labels)) <= len(labels)
    # Who worked longest did so in all; whose reading was highest had one.
    is_of_person = account.wish.kinds == DURATIONS and bool(_ASKED_PERSON.search(account.question.text))
    adds_up = column >= 0 and account.table.columns[column].kind == "duration"
    if has_many and ((is_of_person and adds_up) or _MOST.search(account.question.text[slice(*account.wish.span)])):
        return account.column_name(label), operation
    return "", ""
