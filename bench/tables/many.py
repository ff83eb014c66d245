# SPDX-License-Identifier: GPL-3.0-or-later
"""Documents that are asked about together, and tables in mails and slides: forms, offers as lists of records, minutes."""

import datetime as dt
from decimal import Decimal

from bench.tables.maker import ENGLISH, GERMAN, GOODS, PEOPLE, Made, Maker, TableQuestion
from bench.tables.writers import write_prose

_ENDINGS = (".pdf", ".docx", ".html", ".md")


def forms(maker: Maker) -> Made:
    """Forms with labelled values, one document each."""
    kind, first, party, since, fee = {
        "tuning": ("permit", "Permit number", "Holder", "Issued on", "Charge"),
        "measured": ("complaint", "File", "Complainant", "Received on", "Refund"),
    }[maker.world]
    drawn: list[tuple[str, str, dt.date, Decimal]] = []
    for number in range(8):
        title = f"{kind.title()} {maker.say('P', 'C')}{maker.chance.randint(100, 999)}"
        person = PEOPLE[maker.world][number % 4]
        moment = dt.date(2026, 2, 1) + dt.timedelta(days=maker.chance.randint(0, 120))
        amount = Decimal(maker.chance.randint(1000, 90000)) / 100
        drawn.append((title, person, moment, amount))
        write_prose(
            maker.folder / f"forms/{title}{_ENDINGS[number % 4]}",
            title,
            [
                "Made up for this measurement.",
                f"{first}: {title.split()[-1]}",
                f"{party}: {person}",
                f"{since}: {moment.day} {moment:%B %Y}",
                f"{fee}: {ENGLISH.money(amount)} EUR",
                maker.say("The holder keeps this on board.", "The matter was passed on to the kitchen."),
            ],
        )
    limit = dt.date(2026, 4, 1)
    early = frozenset(title for title, _, moment, _ in drawn if moment < limit)
    amounts = [amount for *_, amount in drawn]
    top = max(amounts)
    person = PEOPLE[maker.world][1]
    of_person = frozenset(title for title, who, *_ in drawn if who == person)
    return [
        TableQuestion(
            maker.say(
                "Which permits were issued before 1 April 2026? || List all permits issued before 1.4.2026",
                "Which complaints were received before 1 April 2026?",
            ),
            "forms", "same words", Decimal(len(early)), early, n_rows=len(early),
        ),
        TableQuestion(
            maker.say(
                "What do the charges of all permits come to? || Sum of the charges on all permits",
                "What is the sum of the refunds of all complaints?",
            ),
            "forms", "same words", sum(amounts, Decimal(0)), n_rows=len(drawn),
        ),
        TableQuestion(
            maker.say(
                "Which permit has the highest charge? || Which of the permits cost the most?",
                "Which of the complaints has the largest refund?",
            ),
            "forms", "same words", top, frozenset(title for title, *_, amount in drawn if amount == top),
        ),
        TableQuestion(
            maker.say(
                f"How many permits does {person} hold? || How many of our permits are held by {person}?",
                f"How many of the complaints are from {person}?",
            ),
            "forms", "other words", Decimal(len(of_person)), of_person,
        ),
        TableQuestion(
            maker.say(f"Which permits does {person} have?", f"Which complaints were made by {person}?"),
            "forms", "other words", Decimal(len(of_person)), of_person,
        ),
    ]  # fmt: skip


def offers(maker: Maker) -> Made:
    """Offers that list their items as records in prose."""
    made: Made = []
    kind = maker.say("offer", "quotation")
    labels = maker.say("Item|Quantity|Price", "Product|Boxes|Cost").split("|")
    goods = GOODS[maker.world].replace(", ", " ").split("|")
    having: dict[str, list[str]] = {}
    for number in range(6):
        title = f"{kind.title()} {maker.say('A', 'Q')}-{maker.chance.randint(10, 99)}{number}"
        style = GERMAN if number % 2 else ENGLISH
        chosen = maker.chance.sample(goods, 4)
        having[title] = chosen
        prices = [Decimal(maker.chance.randint(500, 90000)) / 100 for _ in chosen]
        pieces = [maker.chance.randint(1, 30) for _ in chosen]
        lines = [
            f"{labels[0]}: {item}, {labels[1]}: {n}, {labels[2]}: {style.money(price)} EUR"
            for item, n, price in zip(chosen, pieces, prices, strict=True)
        ]
        write_prose(
            maker.folder / f"offers/{title}{_ENDINGS[number % 4]}", title, ["Made up for this measurement.", *lines]
        )
        if number >= 4:
            continue
        top = max(prices)
        made += [
            TableQuestion(
                maker.say(f"What is the dearest item of offer {title.split()[-1]}?",
                          f"Which product of quotation {title.split()[-1]} costs the most?"),
                "offers", "other words", top, frozenset({chosen[prices.index(top)]}), (f"{style.money(top)} EUR",),
            ),
            TableQuestion(
                maker.say(f"How many items does offer {title.split()[-1]} list?",
                          f"How many products are in quotation {title.split()[-1]}?"),
                "offers", "same words", Decimal(len(chosen)), n_rows=len(chosen),
            ),
        ]  # fmt: skip
    for wanted in (goods[0], goods[3]):
        titles = frozenset(title for title, items in having.items() if wanted in items)
        made.append(
            TableQuestion(
                maker.say(
                    f"Which offers include {wanted}? || How many offers include {wanted}?",
                    f"Which quotations contain {wanted}?",
                ),
                "offers", "other words", Decimal(len(titles)), titles,
            )
        )  # fmt: skip
    return made


def minutes(maker: Maker) -> Made:
    """Minutes that say who was there."""
    people = [
        f"{title} {name}" for title, name in zip(("Ms.", "Mr.", "Dr.", "Mr.", "Ms."), PEOPLE[maker.world], strict=True)
    ]
    always = {people[0], people[3]}
    board = maker.say("crew", "kitchen")
    label = maker.say("Present", "Attendees")
    were: dict[str, list[str]] = {}
    for number, ordinal in enumerate(("first", "second", "third", "fourth")):
        there = [person for at, person in enumerate(people) if person in always or at != (1, 2, 4, 2)[number]]
        title = f"Minutes of the {ordinal} {board} meeting"
        were[title] = there
        write_prose(
            maker.folder / f"minutes/{ordinal} meeting{_ENDINGS[number]}",
            title,
            [
                f"{label}: {', '.join(there)}.",
                maker.say("The mast was talked about.", "The menu of the month was talked about."),
                f"Next meeting: {number + 3} May 2026.",
            ],
        )
    with_second = frozenset(title for title, there in were.items() if people[1] in there)
    return [
        TableQuestion(
            maker.say("Who was present at every meeting? || Who was present at all crew meetings? || Who came to each crew meeting?",
                      "Who attended all the kitchen meetings?"),
            "minutes", "other words", Decimal(2), frozenset(always),
        ),
        TableQuestion(
            maker.say(f"At which meetings was {people[1]} present? || Which meetings did {people[1]} attend? ||"
                      f" At how many of the crew meetings was {people[1]} present?",
                      f"How many of the meetings did {people[1]} attend?"),
            "minutes", "other words", Decimal(len(with_second)), with_second,
        ),
    ]  # fmt: skip


def mails(maker: Maker) -> Made:
    """Mails with a table in their text."""
    made: Made = []
    for name in maker.say("Rigging parts|Engine parts", "Fruit delivery|Linen delivery").split("|"):
        drawn = [
            (f"{maker.chance.randint(1000, 9999)}-{letter}", maker.chance.choice(("north gate", "south gate")),
             Decimal(maker.chance.randint(10, 400)) / 10)
            for letter in "KLMNOPQ"
        ]  # fmt: skip
        rows = [["Parcel", "Gate", "Weight kg"], *[[parcel, gate, f"{weight}"] for parcel, gate, weight in drawn]]
        maker.write(f"mails/{name}.eml", name, rows)
        top = max(weight for *_, weight in drawn)
        north = [weight for _, gate, weight in drawn if gate == "north gate"]
        made += [
            TableQuestion(
                maker.say(f"Which parcel of the mail {name} is the heaviest? || Name the weightiest parcel of the mail {name} ||"
                          f" the heaviest parcel in {name}",
                          f"What is the heaviest parcel in the mail about the {name.lower()}?"),
                "mails", "other words", top, frozenset(parcel for parcel, _, weight in drawn if weight == top),
            ),
            TableQuestion(
                maker.say(f"How many parcels came to the north gate with the {name.lower()}?",
                          f"How many parcels of the {name.lower()} are for the north gate?"),
                "mails", "same words", Decimal(len(north)), n_rows=len(north),
            ),
        ]  # fmt: skip
    return made


def slides(maker: Maker) -> Made:
    """Slides with a table."""
    made: Made = []
    for name in maker.say("Fares 2024|Fares 2025", "Sales spring|Sales autumn").split("|"):
        drawn = [
            (place, maker.chance.randint(100, 900), maker.chance.randint(10, 99))
            for place in maker.say("Pier|Quay|Lock|Basin|Mole", "Canteen|Bakery|Kiosk|Terrace|Hall").split("|")
        ]
        heads = maker.say("Landing|Passengers|Boats", "Outlet|Meals|Complaints").split("|")
        maker.write(f"slides/{name}.pptx", name, [heads, *[[place, str(n), str(m)] for place, n, m in drawn]])
        top = max(n for _, n, _ in drawn)
        made += [
            TableQuestion(
                maker.say(f"Which landing had the most passengers in {name}?",
                          f"Which outlet served the most meals according to {name}?"),
                "slides", "same words", Decimal(top), frozenset(place for place, n, _ in drawn if n == top),
            ),
            TableQuestion(
                maker.say(f"How many boats were there in all in {name}?",
                          f"How many meals were served altogether according to {name}?"),
                "slides", "same words",
                Decimal(sum(m if maker.world == "tuning" else n for _, n, m in drawn)),
            ),
        ]  # fmt: skip
    return made
