"""The companies beside the named cast: drawn from made-up place names,
with every style of reporting among them.
"""

import random

from wise_ledger.standins.fernmark.cast import Cast

_PLACES = """
Abberlow Aldwick Amberscar Arkenhope Askrill Averdale Bexlow Birchanger Blaymoor Bramhope Brindley Burrowe Calderix
Carrowby Chelverne Clunbridge Coldwater Corvedale Cressing Cullerne Dallowgill Darrowby Dernholm Dovedon Drumlough
Easterlow Eddlestone Ellerbeck Elmscar Embleholt Ennervale Everleigh Farrowdon Felbrigg Fernlea Flaxholt Fossdyke
Galtrees Gildersome Glasdrum Goldhanger Greyrigg Halbeath Hartlemoor Haverscroft Helmsgate Hesketton Hollinwell
Holmrook Idlecombe Inverlaw Ivelchester Kelderton Kepwick Kielbrook Kirkmoor Knapdale Lamberlow Langrick Larkhope
Laverstone Leckonby Limber Lonsgarth Lowick Lydmarsh Maplegarth Mereside Middlerigg Millhope Morwick Muirsea
Nafferwell Neldreth Netherby Norrington Oakmere Ollerset Osmother Otterlaw Overscar Pennyfold Pickerlow Pitscar
Quarrendale Quernmoor Rainsbeck Ramsholt Redmarsh Ribbleby Risegate Rothmere Rushwick Sablewick Saltergate Scarrowhill
Selbeck Shapwick Silverholm Skelderby Snaizeholme Sollerby Spindleton Stanrigg Stelling Stourlow Swaledon Tarnbrook
Tathwell Tealby Thornholme Tinderlow Tolmarsh Trundle Ulverscar Umberleigh Uskerby Wadworth Wanderlow Wathgill
Welbourn Westerhope Whinfell Wickersley Winterburn Wolsty Wrayholt Yarrowdale Yeldersley Zelby
""".split()
_TRADES = {
    "10": "Foods", "11": "Brewing", "13": "Weaving", "15": "Leather", "16": "Timber", "17": "Paper", "20": "Chemicals",
    "21": "Remedies", "22": "Plastics", "23": "Cement", "24": "Metals", "25": "Ironworks", "26": "Instruments",
    "27": "Electrics", "28": "Machinery", "29": "Motors", "30": "Shipyards", "31": "Furniture", "35": "Power",
    "41": "Building", "46": "Trading", "47": "Stores", "49": "Haulage", "50": "Ferries", "55": "Hotels",
    "58": "Press", "61": "Telephone", "62": "Software", "64": "Bank", "65": "Assurance", "08": "Quarries",
}  # fmt: skip
_MARGIN = {
    "62": 0.24,
    "21": 0.22,
    "35": 0.2,
    "26": 0.19,
    "61": 0.18,
    "64": 0.3,
    "65": 0.12,
    "47": 0.05,
    "46": 0.04,
}
_COUNTRIES = (("XA", "USD", "ZALD", 1.0), ("XB", "EUR", "ZBRE", 1.0), ("XC", "JPY", "ZCAL", 100.0))
_ENDINGS = {
    "XA": ("plc", "Holdings plc", "Group", ""),
    "XB": ("AG", "S.A.", "N.V.", ""),
    "XC": ("K.K.", "Co.", ""),
}
_CAUSES = ("merger", "bankruptcy", "taken private", "merger", "liquidation")
COUNT, INACTIVE = 208, 34


def crowd(seed: int = 7) -> list[Cast]:
    """Two hundred and eight companies, thirty-four of which are no longer active;
    the same for the same seed.
    """
    rng = random.Random(f"{seed}:crowd")
    places = _PLACES[:]
    rng.shuffle(places)
    pairs = [(place, trade) for trade in _TRADES for place in places]
    rng.shuffle(pairs)
    used, symbols, out = dict.fromkeys(places, 0), set[str](), []
    while len(out) < COUNT:
        place, trade = pairs.pop()
        if used[place] >= 2 or (trade in ("64", "65") and rng.random() < 0.4):
            continue
        used[place] += 1
        out.append(_company(f"FM-{len(out) + 33:04d}", place, trade, symbols, rng))
    return out


def ends(casts: list[Cast], seed: int = 7) -> dict[str, tuple[str, str]]:
    """When and why some of them ceased to be active, by key."""
    rng = random.Random(f"{seed}:ends")
    chosen = rng.sample([c for c in casts if c.first_year < 2018], INACTIVE)
    return {
        c.key: (
            f"{rng.randint(c.first_year + 3, 2024)}-{rng.randint(1, 12):02d}-{rng.randint(1, 28):02d}",
            rng.choice(_CAUSES),
        )
        for c in sorted(chosen, key=lambda c: c.key)
    }


def _company(key: str, place: str, trade: str, symbols: set[str], rng: random.Random) -> Cast:
    country, currency, mic, scale = rng.choice(_COUNTRIES)
    ending = rng.choice(_ENDINGS[country])
    symbol = _symbol(place, _TRADES[trade], symbols)
    template = {"64": "bank", "65": "insurer"}.get(trade, "industrial")
    return Cast(
        key,
        f"{place} {_TRADES[trade]} {ending}".strip(),
        f"{symbol}@{mic}",
        country,
        currency,
        trade,
        round(rng.lognormvariate(6.3, 1.0) * scale, 1),
        round(max(0.02, rng.gauss(_MARGIN.get(trade, 0.11), 0.03)), 3),
        round(rng.gauss(0.04, 0.03), 3),
        rng.choices(("discrete", "cumulative", "both", "half"), (30, 30, 15, 25))[0],
        rng.choices((12, 3, 6, 9), (70, 12, 12, 6))[0],
        template,
        publishes=rng.choices(("instant", "date", "never"), (88, 9, 3))[0],
        lag=rng.choices((0, 40, 70), (92, 5, 3))[0],
        first_year=rng.choices((2012, rng.randint(2013, 2022)), (60, 40))[0],
        seat=place,
        crowd=True,
    )


def _symbol(place: str, trade: str, symbols: set[str]) -> str:
    letters = place.upper()
    for a in range(1, len(letters)):
        for b in range(a + 1, len(letters)):
            found = letters[0] + letters[a] + letters[b] + trade[0].upper()
            if found not in symbols:
                symbols.add(found)
                return found
    raise ValueError(f"no symbol is left for {place}")
