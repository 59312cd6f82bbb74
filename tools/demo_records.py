"""The made-up records of the demo, from one seed."""

from __future__ import annotations

import random
from typing import Any

Record = dict[str, Any]

NAMES = [
    "Fontalba",
    "Morenna",
    "Tresella",
    "Vallune",
    "Pian Corvo",
    "Croda Mesa",
    "Lago Sordo",
    "Sella Fosca",
    "Ombriva",
    "Casera Nuda",
    "Monte Pialo",
    "Rocca Tinda",
    "Valserra",
    "Brunata",
    "Colle Muto",
    "Punta Sarnia",
    "Alpe Ghiara",
    "Cima Dorse",
    "Prato Lungo",
    "Bocca Fredda",
    "Malga Orsena",
    "Sasso Quadro",
    "Fienile Rosso",
    "Conca Lieta",
    "Passo Verna",
    "Torre Asca",
    "Nido Alto",
    "Forca Sottile",
    "Campo Ruvio",
    "Stella Marra",
    "Ponte Selvo",
    "Crestalta",
    "Gola Nera",
    "Piz Amarel",
    "Val Tonda",
    "Spina Grigia",
    "Larice Solo",
    "Costa Breve",
    "Busa Lontana",
    "Dosso Chiaro",
    "Trono Basso",
    "Cengia Lena",
    "Rivo Gelo",
    "Masi Perdu",
    "Balma Tersa",
    "Salto Corvin",
    "Volta Piana",
]
LONG_NAME = "Rifugetto della Cresta di Sopra e delle Tre Fontane Vecchie"
REGIONS = ["Val Corva", "Alta Brenva", "Lastra", "Sorda", "Pian di Mezzo"]
FIRST = ["Ilva", "Toma", "Nerea", "Osk", "Brida", "Jorin", "Selma", "Duri", "Flavia", "Men"]
LAST = ["Rauth", "Calder", "Bezzo", "Tinner", "Orlek", "Sottas", "Muralt", "Pedrun"]
OPENINGS = [
    "A stone hut under the north rib, with a stove and a spring.",
    "A low house of larch beside the upper lake.",
    "On the flat shoulder, three hours from the last road.",
    "Rebuilt after the slide; the old door still hangs in the hall.",
    "Two floors, one long table, and a bench that faces the evening.",
    "The highest of the chain. No water after September.",
]
MORE = [
    "The path comes in from the west and is marked with white stones.",
    "Blankets are there; bring a sheet and your own light.",
    "In the morning the ridge throws its shadow far into the valley.",
    "Boots stay in the porch, poles hang from the beam.",
    "When the wind turns south, close the shutters on the lake side.",
    "Soup is served until eight, bread is baked on Saturdays.",
]
ROOMS = ["North bunk", "South bunk", "Attic", "Annex", "Corner room", "Stable loft"]
ROUTES = [
    "Traverse of the Three Springs",
    "Crow's Ladder",
    "Evening Shoulder",
    "Salt Path",
    "Old Smugglers' Steps",
    "Round of the Deaf Lake",
    "Larch and Stone",
    "High Chain",
    "Winter Line",
    "Shepherds' Way",
    "White Stones",
    "Long Table",
]
GRADES = ["easy", "steady", "hard", "roped"]


def make_huts(chance: random.Random) -> list[Record]:
    """48 huts: some fields empty, one very long name."""
    names = [*NAMES, LONG_NAME]
    huts: list[Record] = []
    taken: set[str] = set()
    for number, name in enumerate(names):
        key = _short(name, taken)
        beds = chance.choice([8, 12, 16, 20, 24, 32])
        about = " ".join([chance.choice(OPENINGS), *chance.sample(MORE, chance.randint(1, 4))])
        huts.append(
            {
                "id": key,
                "name": name,
                "region": REGIONS[number % len(REGIONS)],
                "altitude": None if number in (7, 30) else 10 * chance.randint(145, 289),
                "beds": beds,
                "free": min(beds, chance.choice([0, 1, 2, 3, 4, 6, 8, 9, 11, 14])),
                "photo": None if number in (3, 19, 33) else f"pictures/{key}.png",
                "about": None if number % 6 == 4 else about,
                "warden": f"{chance.choice(FIRST)} {chance.choice(LAST)}",
                "spring": chance.random() < 0.6,
                "phone": f"0555 {chance.randint(100, 999)} {chance.randint(10, 99)}",
                "web": None if number % 5 == 2 else f"https://cresta.example/{key}",
            }
        )
    huts[1].update(altitude=1875, region="Val Corva", free=14, beds=20)
    return huts


def _short(name: str, taken: set[str]) -> str:
    letters = "".join(letter for letter in name.lower() if letter.isalpha())
    key = next(
        made
        for made in (
            letters[:3],
            letters[:2] + letters[-1],
            *(f"{letters[:3]}{n}" for n in range(2, 9)),
        )
        if made not in taken
    )
    taken.add(key)
    return key


def make_rooms(chance: random.Random, huts: list[Record]) -> list[Record]:
    """131 rooms with whole-number keys from 0: key 0 is a key."""
    counts = [2] * len(huts)
    while sum(counts) < 131:
        at = chance.randrange(len(counts))
        counts[at] = min(len(ROOMS), counts[at] + 1)
    rooms: list[Record] = []
    for hut, count in zip(huts, counts, strict=True):
        for name in ROOMS[:count]:
            beds = chance.choice([2, 4, 6, 8])
            rooms.append(
                {
                    "id": len(rooms),
                    "hut": hut["id"],
                    "name": name,
                    "beds": beds,
                    "price": chance.choice([18.5, 22.0, 26.0, 31.5]),
                    "window": chance.choice(["valley", "ridge", "lake", None]),
                }
            )
    return rooms


def make_routes(chance: random.Random) -> list[Record]:
    """12 routes."""
    return [
        {
            "id": f"r{number + 1:02}",
            "name": name,
            "grade": GRADES[number % len(GRADES)],
            "days": 1 + number % 4,
            "note": None if number % 3 == 1 else chance.choice(MORE),
        }
        for number, name in enumerate(ROUTES)
    ]


def make_legs(chance: random.Random, routes: list[Record], huts: list[Record]) -> list[Record]:
    """The legs of each route, each ending at a hut."""
    legs: list[Record] = []
    for route in routes:
        for number, hut in enumerate(chance.sample(huts, 2 + route["days"]), start=1):
            legs.append(
                {
                    "id": f"{route['id']}-{number}",
                    "route": route["id"],
                    "number": number,
                    "hut": hut["id"],
                    "hut_name": hut["name"],
                    "hours": chance.choice([2.5, 3.0, 3.5, 4.0, 5.5]),
                    "climb": 10 * chance.randint(12, 118),
                }
            )
    return legs


def make_stays(chance: random.Random, huts: list[Record]) -> list[Record]:
    """64 stays with whole-number keys from 0: a third has arrived, some say nothing more."""
    return [
        {
            "id": number,
            "guest": f"{chance.choice(FIRST)} {chance.choice(LAST)}",
            "hut": huts[chance.randrange(len(huts))]["id"],
            "begins": f"2027-0{chance.randint(6, 9)}-{chance.randint(1, 28):02}",
            "nights": chance.choice([1, 1, 2, 2, 3, 4, 7]),
            "people": chance.choice([1, 2, 2, 3, 4, 6]),
            "arrived": number % 3 == 1,
            "note": chance.choice(WISHES) if number % 4 == 0 else None,
        }
        for number in range(64)
    ]


WISHES = [
    "Comes late, by the lake path.",
    "Needs the lower bunk.",
    "Two dogs, both quiet.",
    "Vegetarian soup, please.",
]
NOTICES = [
    "The spring is dry; carry water from the saddle.",
    "The ladder below the hut is new and a little further east.",
    "Closed for a feast of the valley from noon.",
    "Snow on the upper path until midday.",
]


def make_regions() -> list[Record]:
    """The regions, by name."""
    letters = ["C", "B", "L", "S", "P"]
    return [{"id": name, "short": letter} for name, letter in zip(REGIONS, letters, strict=True)]


def make_notices(chance: random.Random, huts: list[Record]) -> list[Record]:
    """30 notices of the wardens, each with its day."""
    return [
        {
            "id": number,
            "hut": huts[(number * 5) % len(huts)]["id"],
            "day": f"2027-0{chance.randint(6, 9)}-{chance.randint(1, 28):02}",
            "text": chance.choice(NOTICES),
        }
        for number in range(30)
    ]
