"""Made-up companies by the thousand, and their names and codes as people get them wrong."""

import random
from dataclasses import dataclass
from datetime import date

from stdnum import cusip, isin
from stdnum.gb import sedol
from stdnum.iso7064 import mod_97_10

from wise_ledger.core.identity.universe import (
    Activity,
    Ending,
    IdentifierSpan,
    Listing,
    NameSpan,
    Security,
    Stretch,
    Universe,
)
from wise_ledger.core.time.periods import day

_ONSETS = "b br c ch cl d dr f fl g gr h j k kl l m n p pr qu r s sh sk sl st t tr v w wh y z"
_VOWELS = "a e i o u ai ea oa ou ow"
_CODAS = "ck ld ll m mp n nd ng nt r rd rk rn rth sk ss st t th x"
_ENDINGS = "bury by combe dale den field ford gate ham hurst ley mere more pool stow ton wick worth"
_TRADES = """
Foundry Glass Paper Textiles Shipping Dairy Timber Salt Chemicals Instruments Stores Insurance Bank Railway Power
Quarries Tools Optics Brewery Pharmaceuticals Technology Holdings Industries International Engineering Electric
Properties Resources Steel Systems Telecommunications Transport Utilities Works Manufacturing Products Services
"""
_FORMS = [
    "plc",
    "Ltd",
    "Limited",
    "Inc",
    "Inc.",
    "Corp",
    "Corporation",
    "AG",
    "GmbH",
    "S.A.",
    "N.V.",
    "SpA",
    "AB",
    "K.K.",
    "Oyj",
]
_SHORT = {
    "International": "Intl", "Manufacturing": "Mfg", "Technology": "Tech", "Holdings": "Hldgs", "Industries": "Inds",
    "Engineering": "Eng", "Electric": "Elec", "Properties": "Props", "Resources": "Res", "Systems": "Sys",
    "Telecommunications": "Telecom", "Products": "Prods", "Services": "Svcs", "Chemicals": "Chem", "Works": "Wks",
    "Instruments": "Instr", "Stores": "Strs", "Insurance": "Ins", "Railway": "Rly", "Utilities": "Util",
    "Pharmaceuticals": "Pharma",
}  # fmt: skip
_ACCENTS = str.maketrans("aeioucn", "áéíöüçñ")


@dataclass(frozen=True)
class Term:
    """A term as typed, the company that was meant, and how it was made."""

    text: str
    company: int
    kind: str


def _word(rng: random.Random) -> str:
    onsets, vowels, codas = _ONSETS.split(), _VOWELS.split(), _CODAS.split()
    core = "".join(
        rng.choice(onsets) + rng.choice(vowels) + rng.choice(codas)
        for _ in range(rng.choice((1, 1, 2)))
    )
    return (core + rng.choice((*_ENDINGS.split(), "", ""))).capitalize()


def _name(rng: random.Random, seen: set[str]) -> str:
    while True:
        first = [_word(rng)] + ([_word(rng)] if rng.random() < 0.35 else [])
        joint = [" & ".join(first)] if len(first) == 2 and rng.random() < 0.3 else first
        trade = rng.sample(_TRADES.split(), rng.choice((1, 1, 2)))
        name = " ".join([*joint, *trade])
        if name not in seen:
            seen.add(name)
            return name


def _digits(rng: random.Random, count: int) -> str:
    return "".join(rng.choice("0123456789") for _ in range(count))


def make_universe(companies: int, seed: int) -> Universe:
    """Companies with a name, an ISIN, an LEI and a SEDOL or CUSIP each, one listing,
    some of them no longer active.
    """
    rng = random.Random(seed)
    seen: set[str] = set()
    names, identifiers, securities, listings, activity = [], [], [], [], []
    symbols: set[str] = set()
    for number in range(companies):
        name = f"{_name(rng, seen)} {rng.choice(_FORMS)}"
        country, mic = rng.choice((("XA", "ZALD"), ("XB", "ZBRE"), ("XC", "ZCAL")))
        endings: tuple[Ending, ...] = ()
        if rng.random() >= 0.85:
            since = day(date(rng.randint(2012, 2022), 7, 1))
            endings = (Ending(Stretch(since), "merged"),)
        activity.append(Activity(country, endings))
        names.append(NameSpan(name, number, Stretch()))
        national = _digits(rng, 8)
        codes = {
            "isin": isin.from_natid(country, national + cusip.calc_check_digit(national)),
            "lei": _lei(_digits(rng, 18)),
            rng.choice(("sedol", "cusip")): "",
        }
        code = _digits(rng, 6)
        if "sedol" in codes:
            codes["sedol"] = code + sedol.calc_check_digit(code)
        else:
            codes["cusip"] = national + cusip.calc_check_digit(national)
        identifiers += [IdentifierSpan(s, v, number, None, Stretch()) for s, v in codes.items()]
        securities.append(Security(number, number, "ordinary"))
        symbol = ""
        while not symbol or symbol in symbols:
            symbol = "".join(
                rng.choice("ABCDEFGHIJKLMNOPQRSTUVWXYZ") for _ in range(rng.choice((3, 4, 4, 5)))
            )
        symbols.add(symbol)
        listings.append(Listing(number, number, symbol, mic, "USD", Stretch(), True))
    venues = {"ZALD": "XA", "ZBRE": "XB", "ZCAL": "XC"}
    return Universe(activity, identifiers, names, securities, listings, venues)


def _lei(body: str) -> str:
    return body + mod_97_10.calc_check_digits(body)


def slip(name: str, rng: random.Random) -> tuple[str, str]:
    """A name as somebody else would write it, and what was done to it."""
    words = name.split()
    core, form = words[:-1], words[-1]
    kind = rng.choice(
        ("form", "letters", "short", "accents", "dropped", "brackets", "and", "case", "joined")
    )
    if kind == "form":
        form = rng.choice([*_FORMS, "", "", "Co., Ltd."])
    elif kind == "letters":
        at = max(range(len(core)), key=lambda i: len(core[i]))
        word = core[at]
        place = rng.randrange(1, len(word) - 2) if len(word) > 4 else 1
        turned = word[:place] + word[place + 1] + word[place] + word[place + 2 :]
        lost = word[:place] + word[place + 1 :]
        core[at] = rng.choice((turned, lost, word[:place] + word[place] + word[place:]))
    elif kind == "short":
        core = [_SHORT.get(w, w) for w in core]
    elif kind == "accents":
        core[0] = core[0][0] + core[0][1:].translate(_ACCENTS)
    elif kind == "dropped":
        core = core[:-1] if len(core) > 2 else core
        form = ""
    elif kind == "brackets":
        form += rng.choice((" (The)", " (formerly listed)", " [XA]", " - Class A", " Ord Shs"))
    elif kind == "and":
        core = [{"&": "and"}.get(w, w) for w in core]
    elif kind == "joined":
        core = [core[0], *core[1:]] if len(core) < 3 else [core[0] + core[1].lower(), *core[2:]]
    text = " ".join([*core, *([form] if form else [])])
    return (text.upper() if kind == "case" else text), kind


def name_terms(universe: Universe, count: int, seed: int) -> list[Term]:
    """Names with slips."""
    rng = random.Random(seed)
    out = []
    for _ in range(count):
        company = rng.randrange(len(universe.names))
        text, kind = slip(universe.names[company].name, rng)
        out.append(Term(text, company, kind))
    return out


def code_terms(universe: Universe, count: int, seed: int) -> list[Term]:
    """Codes and symbols as they are, in several spellings."""
    rng = random.Random(seed)
    out = []
    for _ in range(count):
        if rng.random() < 0.6:
            found = rng.choice(universe.identifiers)
            text = found.value if rng.random() < 0.7 else f"{found.scheme}:{found.value.lower()}"
            out.append(Term(text, found.company, found.scheme))
        else:
            listing = rng.choice(universe.listings)
            text = rng.choice(("{0}@{1}", "{0}.{1}", "{1}:{0}", "{0} {1}")).format(
                listing.symbol, listing.mic
            )
            out.append(Term(text, listing.security, "symbol"))
    return out
