# SPDX-License-Identifier: GPL-3.0-or-later
"""Two worlds of made-up tables and their questions: one to tune rules on, one to measure with; other subjects, other wordings.

The figures are worked out here from the numbers that the tables were made with, by
plain Python, never by the program that is measured.
"""

import datetime as dt
import random
from collections.abc import Callable
from dataclasses import replace
from decimal import Decimal
from pathlib import Path

from bench.tables.maker import ENGLISH, FRENCH, GERMAN, GOODS, OR, PEOPLE, Made, Maker, TableQuestion, World
from bench.tables.many import forms, mails, minutes, offers, slides


def make(folder: Path, world: World) -> Made:
    """Write all documents of a world; gives its questions."""
    maker = Maker(folder, world, random.Random(f"tables of {world}"))
    questions: Made = []
    for kind in KINDS:
        questions += kind(maker)
    several = [replace(question, question=words) for question in questions for words in question.question.split(OR)]
    return several + _outside(maker)


def invoices(maker: Maker) -> Made:
    """Invoices in four layouts and three locales: twelve documents."""
    headers = {
        0: (
            ["Pos.", "Description", "Quantity", "Unit price EUR", "Total EUR"],
            ["Net", "Value added tax 20 %", "Payable"],
        ),
        1: (["Item", "Qty", "Price each", "Amount"], ["Subtotal", "VAT 20 %", "Total due"]),
        2: (
            ["Pos.", "Bezeichnung", "Menge", "Einzelpreis EUR", "Gesamt EUR"],
            ["Nettobetrag", "zzgl. MwSt. 20 %", "Rechnungsbetrag"],
        ),
        3: (["N°", "Désignation", "Quantité", "Prix unitaire", "Montant"], ["Total HT", "TVA 20 %", "Total TTC"]),
    }
    endings = [".pdf", ".docx", ".html", ".borderless.pdf"]
    made: Made = []
    for number in range(12):
        layout = number % 4
        style = GERMAN if layout == 2 else FRENCH if layout == 3 else (ENGLISH, GERMAN)[number // 4 % 2]
        reference = f"{maker.say('TS', 'HK')}-{maker.chance.randint(1000, 9999)}"
        names, sums = headers[layout]
        goods = maker.chance.sample(GOODS[maker.world].split("|"), maker.chance.randint(4, 8))
        rows, totals = [names], []
        for position, item in enumerate(goods, start=1):
            quantity, price = maker.chance.randint(2, 60), Decimal(maker.chance.randint(80, 40000)) / 100
            totals.append(quantity * price)
            cells = [item, str(quantity), style.money(price), style.money(quantity * price)]
            rows.append(cells if layout == 1 else [str(position), *cells])
        net = sum(totals, Decimal(0))
        tax = round(net * Decimal("0.2"), 2)
        for label, amount in zip(sums, (net, tax, net + tax), strict=True):
            rows.append(["", *[""] * (len(names) - 2), style.money(amount)])
            rows[-1][0 if layout == 1 else 1] = label
        maker.write(
            f"invoices/{reference}{endings[number % 4]}", f"Invoice {reference}", rows, is_ruled=number % 4 != 3
        )
        top = max(totals)
        made += [
            TableQuestion(
                maker.say(
                    f"Which item on invoice {reference} is the dearest?",
                    f"What is the most expensive item of invoice {reference}?",
                ),
                "invoices",
                "other words",
                top,
                frozenset({goods[totals.index(top)]}),
                (style.money(top),),
            ),
            TableQuestion(
                maker.say(
                    f"What is the total of invoice {reference}?", f"How much does invoice {reference} come to in all?"
                ),
                "invoices",
                "other words",
                net + tax,
                cells=(style.money(net + tax),),
            ),
            TableQuestion(
                maker.say(
                    f"How many items does invoice {reference} have?", f"How many line items are on invoice {reference}?"
                ),
                "invoices",
                "same words",
                Decimal(len(goods)),
                n_rows=len(goods),
            ),
        ]
    return made


def price_lists(maker: Maker) -> Made:
    """Workbooks of articles with categories and prices."""
    made: Made = []
    categories = {"tuning": ["timber", "metal", "textile"], "measured": ["dry goods", "chilled", "household"]}[
        maker.world
    ]
    for number, name in enumerate(maker.say("north|south|harbour", "spring|summer|autumn").split("|")):
        articles = [f"{item} {size}" for item in GOODS[maker.world].split("|") for size in ("small", "large")]
        rows = [["Article", "Category", "Price EUR"]]
        drawn = [
            (article, maker.chance.choice(categories), Decimal(maker.chance.randint(100, 9000)) / 100)
            for article in articles
        ]
        rows += [[article, category, f"{price:.2f}"] for article, category, price in drawn]
        maker.write(f"prices/{name} price list.xlsx", f"{name.title()} price list", rows)
        category = categories[number]
        inside = [(article, price) for article, kind, price in drawn if kind == category]
        low = min(price for _, price in inside)
        limit = maker.chance.randint(20, 60)
        above = [price for _, _, price in drawn if price > limit]
        made += [
            TableQuestion(
                maker.say(
                    (
                        f"What is the cheapest {category} article in the {name} price list? ||"
                        f" Which {category} article is the cheapest in the {name} price list?"
                    ),
                    f"Which {category} article of the {name} price list costs least?",
                ),
                "price lists",
                "other words",
                low,
                frozenset(article for article, price in inside if price == low),
                (f"{low:.2f}",),
            ),
            TableQuestion(
                maker.say(
                    f"How many articles of the {name} price list cost more than {limit} EUR?",
                    f"How many articles in the {name} price list have a price above {limit} EUR?",
                ),
                "price lists",
                "same words",
                Decimal(len(above)),
                n_rows=len(above),
            ),
            TableQuestion(
                maker.say(
                    f"How many {category} articles are on the {name} price list?",
                    f"Number of {category} articles in the {name} price list",
                ),
                "price lists",
                "same words",
                Decimal(len(inside)),
                n_rows=len(inside),
            ),
        ]
    return made


def log(maker: Maker) -> Made:
    """One log of 20,000 readings."""
    sensors = {"tuning": ["hold", "deck", "engine"], "measured": ["freezer", "pantry", "larder"]}[maker.world]
    rows, drawn = [["Date", "Time", "Sensor", "Temperature °C"]], []
    moment = dt.datetime(2025, 1, 1)
    for _ in range(20_000):
        sensor, value = maker.chance.choice(sensors), Decimal(maker.chance.randint(-300, 450)) / 10
        drawn.append((moment, sensor, value))
        rows.append([f"{moment:%d.%m.%Y}", f"{moment:%H:%M}", sensor, f"{value}"])
        moment += dt.timedelta(minutes=23)
    title = maker.say("Temperature log of the ship", "Temperature log of the stores")
    maker.write("logs/temperature log.csv", title, rows)
    month = [(sensor, value) for at, sensor, value in drawn if at.month == 5 and at.year == 2025]
    top = max(value for sensor, value in month if sensor == sensors[0])
    cold = [value for _, sensor, value in drawn if sensor == sensors[1] and value < -20]
    return [
        TableQuestion(
            maker.say(
                f"What was the highest temperature in the {sensors[0]} in May 2025?",
                f"What was the highest {sensors[0]} temperature in May 2025 according to the log?",
            ),
            "logs",
            "same words",
            top,
            cells=(f"{top}",) * sum(value == top and sensor == sensors[0] for sensor, value in month),
        ),
        TableQuestion(
            maker.say(
                f"How often was it below -20 °C in the {sensors[1]} according to the temperature log?",
                f"How many readings of the {sensors[1]} were below -20 °C?",
            ),
            "logs",
            "other words",
            Decimal(len(cold)),
            n_rows=len(cold),
        ),
        TableQuestion(
            maker.say(
                f"How many readings are there for the {sensors[2]} in the temperature log?",
                f"How many entries does the temperature log have for the {sensors[2]}?",
            ),
            "logs",
            "same words",
            Decimal(sum(sensor == sensors[2] for _, sensor, _ in drawn)),
            n_rows=sum(sensor == sensors[2] for _, sensor, _ in drawn),
        ),
    ]


def rosters(maker: Maker) -> Made:
    """Who worked when, and how long."""
    made: Made = []
    people = PEOPLE[maker.world]
    weeks = maker.say("week 12|week 13|week 14", "week 31|week 32|week 33").split("|")
    for week, ending in zip(weeks, (".docx", ".md", ".html"), strict=True):
        rows, drawn = [["Name", "Day", "Place", "Hours"]], []
        for day in range(1, 6):
            for person in maker.chance.sample(people, 4):
                hours = Decimal(maker.chance.randint(6, 20)) / 2
                place = maker.chance.choice(maker.say("yard|dock", "kitchen|ward").split("|"))
                drawn.append((person, place, hours))
                rows.append([person, f"{day + 2:02d}.08.2026", place, f"{hours:.1f}"])
        maker.write(f"rosters/roster {week}{ending}", f"Roster of {week}", rows)
        by_person = {person: sum((hours for who, _, hours in drawn if who == person), Decimal(0)) for person in people}
        top, person = max(by_person.values()), people[1]
        place = maker.say("dock", "ward")
        made += [
            TableQuestion(
                maker.say(
                    (
                        f"How many hours did {person} work in {week}? || How long did {person} work in {week} in total? ||"
                        f" What do the hours of {person} in {week} come to?"
                    ),
                    f"How many hours did {person} have in the roster of {week}?",
                ),
                "rosters",
                "same words",
                by_person[person],
                cells=tuple(f"{hours:.1f}" for who, _, hours in drawn if who == person),
            ),
            TableQuestion(
                maker.say(
                    (
                        f"Who worked the most hours in {week}? || Who put in the most hours in {week}? ||"
                        f" Who was longest at work in {week}? || Which person has the most hours in the roster of {week}?"
                    ),
                    f"Who worked longest in {week} all in all?",
                ),
                "rosters",
                "other words",
                top,
                frozenset(who for who, hours in by_person.items() if hours == top),
                tuple(f"{hours:.1f}" for who, _, hours in drawn if by_person[who] == top),
            ),
            TableQuestion(
                maker.say(
                    (
                        f"How many hours were worked on the {place} in {week}? || How many hours fell on the {place} in {week}? ||"
                        f" Sum of the hours on the {place} in {week}"
                    ),
                    f"Total hours on the {place} in the roster of {week}",
                ),
                "rosters",
                "same words",
                sum((hours for _, where, hours in drawn if where == place), Decimal(0)),
                cells=tuple(f"{hours:.1f}" for _, where, hours in drawn if where == place),
            ),
        ]
    return made


def statements(maker: Maker) -> Made:
    """Bank statements as a German bank gives them."""
    made: Made = []
    payees = {
        "tuning": ["Holzhandel Nord", "Stadtwerke", "Reederei Lund"],
        "measured": ["Grosshandel Weber", "Wasserverband", "Molkerei Sieg"],
    }[maker.world]
    for month in maker.say("1|2|3", "4|5|6").split("|"):
        rows, drawn = [["Buchungstag", "Empfänger", "Verwendungszweck", "Betrag EUR"]], []
        for day in sorted(maker.chance.sample(range(1, 28), 14)):
            payee, amount = maker.chance.choice(payees), -Decimal(maker.chance.randint(1000, 300000)) / 100
            drawn.append((payee, amount))
            rows.append(
                [
                    f"{day:02d}.{int(month):02d}.2026",
                    payee,
                    f"Rechnung {maker.chance.randint(100, 999)}",
                    GERMAN.money(amount),
                ]
            )
        name = f"statement 2026-{int(month):02d}"
        maker.write(f"bank/{name}.csv", name, rows)
        payee = payees[0]
        inside = [amount for who, amount in drawn if who == payee]
        made += [
            TableQuestion(
                maker.say(
                    f"How much was paid to {payee} in total in {name}?",
                    f"What do the payments to {payee} in {name} add up to?",
                ),
                "statements",
                "other words",
                sum(inside, Decimal(0)),
                cells=tuple(map(GERMAN.money, inside)),
            ),
            TableQuestion(
                maker.say(
                    f"How many payments to {payee} are there in {name}?", f"How often was {payee} paid in {name}?"
                ),
                "statements",
                "other words",
                Decimal(len(inside)),
                n_rows=len(inside),
            ),
            TableQuestion(
                maker.say(f"Wie viele Buchungen hat {name}?", f"How many entries are in {name}?"),
                "statements",
                "same words",
                Decimal(len(drawn)),
                n_rows=len(drawn),
            ),
        ]
    return made


def series(maker: Maker) -> Made:
    """Series of measurements over several pages."""
    made: Made = []
    for place, ending in zip(
        maker.say("well A|well B|well C", "boiler 1|boiler 2|boiler 3").split("|"),
        (".pdf", ".borderless.pdf", ".xlsx"),
        strict=True,
    ):
        rows, drawn = [["Date", "pH", "Pressure bar", "Read by"]], []
        for day in range(90):
            moment = dt.date(2026, 1, 5) + dt.timedelta(days=day)
            acidity, pressure = (
                Decimal(maker.chance.randint(60, 85)) / 10,
                Decimal(maker.chance.randint(100, 990)) / 100,
            )
            drawn.append((moment, acidity, pressure))
            rows.append(
                [f"{moment:%d.%m.%Y}", f"{acidity:.1f}", f"{pressure:.2f}", maker.chance.choice(PEOPLE[maker.world])]
            )
        maker.write(f"series/{place}{ending}", f"Measurements of {place}", rows, is_ruled="borderless" not in ending)
        february = [(moment, pressure) for moment, _, pressure in drawn if moment.month == 2]
        top = max(pressure for _, pressure in february)
        days = frozenset(f"{moment:%d.%m.%Y}" for moment, pressure in february if pressure == top)
        acid = [moment for moment, acidity, _ in drawn if acidity < Decimal("6.5")]
        made += [
            TableQuestion(
                maker.say(
                    (
                        f"On which day in February was the pressure of {place} highest? ||"
                        f" When was the pressure of {place} highest in February? ||"
                        f" What day in February had the highest pressure of {place}?"
                    ),
                    f"When in February did {place} have its greatest pressure?",
                ),
                "series",
                "same words",
                top,
                days,
                (f"{top:.2f}",) * len(days),
            ),
            TableQuestion(
                maker.say(
                    (
                        f"How many readings of {place} had a pH below 6.5? || How often was the pH of {place} below 6.5? ||"
                        f" How many days had a pH under 6.5 for {place}?"
                    ),
                    f"On how many days was the pH of {place} under 6.5?",
                ),
                "series",
                "same words",
                Decimal(len(acid)),
                n_rows=len(acid),
            ),
            TableQuestion(
                maker.say(
                    (
                        f"What was the mean pressure of {place} in February? || average pressure of {place} in February ||"
                        f" What was the pressure of {place} in February on average?"
                    ),
                    f"What was the pressure of {place} on average in February?",
                ),
                "series",
                "other words",
                round(sum((pressure for _, pressure in february), Decimal(0)) / len(february), 3),
                n_rows=len(february),
            ),
        ]
    return made


def schedules(maker: Maker) -> Made:
    """Schedules of works."""
    made: Made = []
    tasks = maker.say(
        "scrape hull|fit keel|rig mast|paint deck|test pumps|lay wiring",
        "strip floor|lay tiles|fit ovens|test drains|hang doors|paint walls",
    ).split("|")
    for name, ending in zip(
        maker.say("slip 1|slip 2|slip 3", "east wing|west wing|cellar").split("|"),
        (".pdf", ".docx", ".html"),
        strict=True,
    ):
        rows, drawn = [["Code", "Task", "Starts", "Ends", "Days"]], []
        start = dt.date(2026, 3, 2)
        for number, task in enumerate(tasks, start=1):
            days = maker.chance.randint(3, 40)
            drawn.append((task, start, days))
            rows.append(
                [f"W{number:02d}", task, f"{start:%d.%m.%Y}", f"{start + dt.timedelta(days=days):%d.%m.%Y}", str(days)]
            )
            start += dt.timedelta(days=maker.chance.randint(4, 12))
        maker.write(f"schedules/schedule {name}{ending}", f"Schedule of works, {name}", rows)
        top = max(days for _, _, days in drawn)
        late = [task for task, begin, _ in drawn if begin > dt.date(2026, 3, 20)]
        made += [
            TableQuestion(
                maker.say(
                    f"Which task of the schedule {name} takes longest? || Which task takes the most days in the schedule {name}?",
                    f"What is the longest task in the schedule of the {name}?",
                ),
                "schedules",
                "other words",
                Decimal(top),
                frozenset(task for task, _, days in drawn if days == top),
                (str(top),) * sum(days == top for _, _, days in drawn),
            ),
            TableQuestion(
                maker.say(
                    f"Which tasks of the schedule {name} start after 20 March 2026?",
                    f"List the tasks in the schedule of the {name} that start after 20.03.2026",
                ),
                "schedules",
                "same words",
                names=frozenset(late),
                n_rows=len(late),
            ),
            TableQuestion(
                maker.say(
                    f"How many days do all tasks of the schedule {name} take in total?",
                    f"How many days do the tasks of the {name} schedule add up to?",
                ),
                "schedules",
                "same words",
                Decimal(sum(days for _, _, days in drawn)),
                cells=tuple(str(days) for _, _, days in drawn),
            ),
        ]
    return made


def registers(maker: Maker) -> Made:
    """Registers of claims, some of them not yet settled."""
    made: Made = []
    for name, ending in zip(
        maker.say("2023|2024|2025", "red|green|blue").split("|"), (".html", ".csv", ".pdf"), strict=True
    ):
        rows, drawn = [["File no.", "Party", "Filed on", "Fee GBP", "Settled on"]], []
        for number in range(1, 15):
            filed, fee = (
                dt.date(2026, 1, 1) + dt.timedelta(days=maker.chance.randint(0, 150)),
                Decimal(maker.chance.randint(2000, 90000)) / 100,
            )
            is_settled = maker.chance.random() < 0.7
            file_number = f"{name[:1].upper()}{number:03d}"
            drawn.append((file_number, filed, fee, is_settled))
            settled = f"{filed + dt.timedelta(days=30):%d %B %Y}" if is_settled else ""
            rows.append(
                [
                    file_number,
                    maker.chance.choice(PEOPLE[maker.world]),
                    f"{filed:%d %B %Y}",
                    ENGLISH.money(fee),
                    settled,
                ]
            )
        maker.write(f"registers/{name} register{ending}", f"The {name} register of claims", rows)
        is_open = [number for number, _, _, is_settled in drawn if not is_settled]
        early = [fee for _, filed, fee, _ in drawn if filed < dt.date(2026, 3, 1)]
        made += [
            TableQuestion(
                maker.say(
                    (
                        f"Which files of the {name} register are not settled? ||"
                        f" Which files of the {name} register have not been settled yet? ||"
                        f" Which files in the {name} register were never settled?"
                    ),
                    f"Which claims in the {name} register are unsettled?",
                ),
                "registers",
                "same words",
                names=frozenset(is_open),
                n_rows=len(is_open),
            ),
            TableQuestion(
                maker.say(
                    (
                        f"What is the sum of the fees in the {name} register filed before 1 March 2026? ||"
                        f" Total fees of the {name} register filed before 1 March 2026 ||"
                        f" How much do the fees of the files in the {name} register filed before 1.3.2026 add up to?"
                    ),
                    f"What do the fees of the {name} register filed before 1 March 2026 come to?",
                ),
                "registers",
                "same words",
                sum(early, Decimal(0)),
                cells=tuple(map(ENGLISH.money, early)),
            ),
            TableQuestion(
                maker.say(
                    (
                        f"How many files are in the {name} register? || How many entries does the {name} register have? ||"
                        f" Number of files in the {name} register"
                    ),
                    f"How many claims does the {name} register list?",
                ),
                "registers",
                "other words",
                Decimal(len(drawn)),
                n_rows=len(drawn),
            ),
        ]
    return made


def inventories(maker: Maker) -> Made:
    """Inventories that go on over pages, without lines between the cells."""
    made: Made = []
    for name in maker.say("store 1|store 2", "larder|linen room").split("|"):
        rows, drawn = [["No.", "Part", "Pieces", "Weight", "Shelf"]], []
        for number in range(1, 71):
            part = f"{maker.chance.choice(GOODS[maker.world].split('|'))} {number}"
            pieces, weight, shelf = (
                maker.chance.randint(1, 40),
                maker.chance.randint(1, 90),
                maker.chance.choice(["top", "middle", "bottom"]),
            )
            drawn.append((part, pieces, weight, shelf))
            rows.append([f"{number:03d}", part, str(pieces), f"{weight} kg", shelf])
        maker.write(f"inventories/inventory {name}.pdf", f"Inventory of {name}", rows, is_ruled=False, rows_a_page=28)
        top = max(weight for _, _, weight, _ in drawn)
        bottom = [pieces for _, pieces, _, shelf in drawn if shelf == "bottom"]
        made += [
            TableQuestion(
                maker.say(
                    f"What is the heaviest part in the inventory of {name}? || Which part in the inventory of {name} is the heaviest?",
                    f"Which part of the {name} inventory weighs the most?",
                ),
                "inventories",
                "other words",
                Decimal(top),
                frozenset(part for part, _, weight, _ in drawn if weight == top),
                (f"{top} kg",) * sum(weight == top for _, _, weight, _ in drawn),
            ),
            TableQuestion(
                maker.say(
                    f"How many pieces are on the bottom shelf in the inventory of {name}?",
                    f"How many pieces does the inventory of the {name} have on the bottom shelf?",
                ),
                "inventories",
                "same words",
                Decimal(sum(bottom)),
                n_rows=len(bottom),
            ),
        ]
    return made


def scans(maker: Maker) -> Made:
    """Small tables on scanned pages."""
    made: Made = []
    for name in maker.say("pump test|crane test", "water bill|gas bill").split("|"):
        unit = maker.say("run", "quarter")
        amounts = [maker.chance.randint(120, 980) for _ in range(5)]
        rows = [
            ["Period", "Amount EUR"],
            *[[f"{unit} {number}", f"{amount}.00"] for number, amount in enumerate(amounts, start=1)],
        ]
        maker.write(f"scans/{name}.scan.pdf", name.title(), rows)
        made += [
            TableQuestion(
                maker.say(
                    f"What is the sum of the amounts of the {name}?", f"What do the amounts of the {name} add up to?"
                ),
                "scans",
                "same words",
                Decimal(sum(amounts)),
                cells=tuple(f"{amount}.00" for amount in amounts),
            ),
            TableQuestion(
                maker.say(
                    f"What was the highest amount of the {name}?", f"Which period of the {name} had the largest amount?"
                ),
                "scans",
                "same words",
                Decimal(max(amounts)),
                cells=(f"{max(amounts)}.00",),
            ),
        ]
    return made


def _outside(maker: Maker) -> Made:
    """Questions that the tables do not answer, and questions that are none of tables."""
    people = PEOPLE[maker.world]
    without = [
        f"How many hours did {people[0]} work on the cathedral roof?",
        "What is the heaviest locomotive?",
        "What was the highest wind speed in May 2025?",
        "How many employees have a driving licence?",
        "What is the total of all donations?",
        "Which ship carried the most passengers?",
        "How many windows were broken?",
        "What is the average rent of the flats?",
        f"How much did {people[2]} pay for the carpet?",
        "What was the lowest tide in April?",
        "How many visitors came in June?",
        "What is the most expensive hotel?",
        "How many kilometres were driven in total?",
        "Which school has the fewest pupils?",
        "What is the sum of the fines?",
        "How many times did the alarm ring?",
        "What was the highest snow depth in January?",
        "How many litres of wine were sold?",
        "What share of the votes was invalid?",
        "Which doctor treated the most patients?",
    ]
    plain = [
        "Who wrote this?",
        "Why was the measurement made?",
        "What does pH mean?",
        f"Where does {people[1]} live?",
        "Is the work finished?",
        "What is a roster?",
        "How do I read the register?",
        "What happened afterwards?",
        "What was agreed about the delivery?",
        "Who is responsible for the schedule?",
        "Which rules apply to claims?",
        "Why is the price list made?",
        "What are the steps of the test?",
        "Who signed the invoice?",
        "What colour is the pump?",
        "Which bank keeps the account?",
        "How should complaints be handled?",
        "Where are the originals kept?",
        "What is the difference between net and gross?",
        "When will the work be inspected?",
    ]
    return [
        *(TableQuestion(question, "outside", "no answer") for question in without),
        *(TableQuestion(question, "outside", "no table") for question in plain),
    ]


KINDS: tuple[Callable[[Maker], Made], ...] = (
    invoices,
    price_lists,
    log,
    rosters,
    statements,
    series,
    schedules,
    registers,
    inventories,
    scans,
    forms,
    offers,
    minutes,
    mails,
    slides,
)
