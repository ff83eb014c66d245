# SPDX-License-Identifier: GPL-3.0-or-later
"""Words for what columns hold, beside the ones they are named by: "humidity" for RH, "how heavy" for Weight."""

from redlantern.reckoning.values import ValueKind
from redlantern.text.stems import stem

_ALIKE = (
    "rh humidity dampness moisture damp wet humid feuchte luftfeuchte humidité humedad",
    "qty quantity pieces amount count menge anzahl stück quantité cantidad unités unidades",
    "temp temperature degrees warmth temperatur température temperatura °c",
    "weight weigh weighs mass heavy kg kilograms kilos gewicht wiegt poids peso pesa",
    "date day days when datum tag jour fecha día begins starts",
    "name who person employee staff worker member people colleague mitarbeiter nom nombre",
    "distance kilometres kilometers km miles mileage far travelled driven strecke entfernung",
    "duration hours hrs long dauer stunden durée heures duración horas worked",
    "place location where room site ort lieu lugar stored store kept lie lies lay stand stands stood found",
    "description item article work goods position artikel bezeichnung beschreibung désignation leistung concepto descripción",
    "supplier vendor company firm seller lieferant fournisseur proveedor",
    "customer client buyer kunde cliente",
    "price cost fee rate charge preis kosten prix coût precio coste costs",
    "total sum amount betrag summe montant importe gesamt value worth",
    "paid payment settled bezahlt gezahlt payé pagado",
    "due deadline payable fällig échéance vencimiento",
    "remark note comment bemerkung anmerkung remarque observación",
    "reader read reading logged recorded observer",
    "speed gust wind velocity geschwindigkeit",
    "driver drove driven drive drives fahrer gefahren",
    "pressure pressures druck",
    "pages page seiten",
    "balance saldo solde",
    "debit withdrawal soll out spent expense ausgabe",
    "credit deposit haben in received income einnahme",
    "status state condition zustand stand",
    "month monat mois mes",
    "year jahr année año",
    "age old alter",
    "number no nr invoice-no nummer",
    "present attended attend came come attendance attendees participants anwesend teilnehmer présents asistentes",
)
_GROUPS = [frozenset(stem(word) for word in words.split()) for words in _ALIKE]
_MONEY_WORDS = frozenset(
    stem(word)
    for word in (
        "cost costs price prices paid pay pays charge charged charges expensive cheap fee fees spend spent earn earned worth money "
        "billed amount eur euro euros pounds dollars kosten kostet preis bezahlt betrag prix coût payé montant precio cuesta"
    ).split()
)
GENERIC = frozenset(
    stem(word)
    for word in (
        "item items line lines row rows entry entries position positions record records table list figure figures value values "
        "reading readings column total sum all altogether number thing things kind kinds one ones there different "
        "posten zeile zeilen eintrag einträge positionen tabelle liste article ligne lignes tableau línea líneas tabla "
        "made make makes take takes took get got gets does do hold holds held our your their "
        "contain contains include includes have has belong belongs come "
        "comes came "
        "high low big large deep wide great"
    ).split()
)
"""Words that say nothing of which rows or columns are meant."""
PEOPLE = frozenset(
    stem(word) for word in "who whom whose wer qui quién person employee worker driver reader read name".split()
)


def like(stems: frozenset[str]) -> frozenset[str]:
    """These stems and those of words that name the same kind of column."""
    return stems.union(*(group for group in _GROUPS if group & stems))


def speaks_of_money(stems: frozenset[str]) -> bool:
    """Whether words are about sums of money."""
    return bool(stems & _MONEY_WORDS)


def kind_of_unit(unit: str) -> ValueKind | None:
    """Of which kind a column is that holds such a unit; None without a unit."""
    if not unit:
        return None
    if unit in ("%", "per cent"):
        return "percentage"
    return "money" if unit in ("€", "$", "£", "EUR", "USD", "GBP", "CHF") else "quantity"
