"""What Ostrin Statistics publishes: its flows of data, their dimensions with codes,
when and how it revises them.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from wise_ledger.standins import economy
from wise_ledger.standins.economy import AREAS, CURRENCIES, MONTHS, drawn

Numbers = NDArray[np.float64]
ADJUSTED = {"SA": "seasonally adjusted", "NSA": "not adjusted"}
FREQUENCIES = {"D": "Daily", "W": "Weekly", "M": "Monthly", "Q": "Quarterly", "A": "Annual"}
BRANCHES = {
    "TOTAL": "All branches",
    "A": "Farming",
    "B": "Mining",
    "C": "Manufacturing",
    "D": "Energy",
    "F": "Building",
    "G": "Trade",
    "H": "Transport",
    "J": "Information",
    "K": "Finance",
}
INDUSTRIES = {
    "C": "Manufacturing",
    "10": "Food",
    "13": "Textiles",
    "17": "Paper",
    "20": "Chemicals",
    "21": "Remedies",
    "23": "Glass and ceramics",
    "24": "Metals",
    "26": "Electronics",
    "28": "Machinery",
    "29": "Vehicles",
    "35": "Electricity and gas",
}
GROUPS = {
    "00": "All items",
    "01": "Food",
    "02": "Drink and tobacco",
    "03": "Clothing",
    "04": "Housing",
    "05": "Furnishing",
    "06": "Health",
    "07": "Transport",
    "09": "Recreation",
    "CORE": "All items without food and energy",
}
PRODUCTS = {
    "TOTAL": "All goods",
    "FOOD": "Food",
    "RAW": "Raw materials",
    "FUEL": "Fuels",
    "CHEM": "Chemicals",
    "MACH": "Machinery",
    "CARS": "Vehicles",
    "CONS": "Consumer goods",
    "OTHER": "Other goods",
}
Key = tuple[str, ...]


@dataclass(frozen=True)
class Dimension:
    """A dimension of a flow: its id, what it means, and its codes with their names."""

    id: str
    title: str
    codes: Mapping[str, str]


@dataclass(frozen=True)
class Flow:
    """A flow of data. `values(key)` gives what is true, by month or by the days of the flow.

    First released `lag` days after a period, then again after each of `again` days, before which it
    is off by so much (`off`, a share of its spread); `bases` are the days of release from which on
    an index has another base, and its year.
    """

    id: str
    title: str
    subject: str
    frequency: str
    dimensions: tuple[Dimension, ...]
    values: Callable[[Key], Numbers]
    keys: tuple[Key, ...]
    unit: Callable[[Key], str]
    lag: int
    again: tuple[int, ...] = ()
    off: tuple[float, ...] = (0.0,)
    bases: tuple[tuple[str, int], ...] = ()
    decimals: int = 1
    power: int = 0  # of ten, that values are stated in
    # the day after which a series is published no more
    ended: Mapping[Key, str] = field(default_factory=dict)


SUBJECTS = {
    "ACCOUNTS": "National accounts", "PRICES": "Prices", "LABOUR": "Labour", "INDUSTRY": "Industry and retail",
    "TRADE": "Trade with abroad", "HOUSING": "Housing", "MONEY": "Money and interest", "SURVEYS": "Surveys",
}  # fmt: skip
_AREA = Dimension("REF_AREA", "Area", AREAS)
_ADJ = Dimension("ADJUSTMENT", "Adjustment", ADJUSTED)


def _freq(letter: str) -> Dimension:
    return Dimension("FREQ", "Frequency", {letter: FREQUENCIES[letter]})


def _season(name: str, size: float) -> Numbers:
    """What a month of the year adds, the mean of a year being nought."""
    months = drawn(f"season {name}").normal(0, size, 12)
    return np.tile(months - months.mean(), MONTHS // 12)


def _grown(name: str, yearly: float, swing: Numbers, noise: float) -> Numbers:
    """An index that grows, swings and trembles; 100 at first."""
    months = np.arange(MONTHS)
    return np.asarray(
        100 * np.exp(yearly / 12 * months + swing + drawn(name).normal(0, noise, MONTHS))
    )


def _output(key: Key) -> Numbers:
    _, area, branch, measure = key
    swing = 0.02 * (
        economy.cycle(area) if branch == "TOTAL" else economy.branch_cycle(area, branch)
    )
    volume = _grown(
        f"output {area} {branch}", drawn(f"trend {branch}").uniform(0.008, 0.028), swing, 0.001
    )
    if measure == "VOLUME":
        return volume
    prices = np.cumprod(1 + economy.inflation(area) / 12)
    share = 1.0 if branch == "TOTAL" else drawn(f"size {branch}").uniform(0.03, 0.2)
    size = {"XA": 41_000.0, "XB": 36_500.0, "XC": 6_100_000.0}[area]
    return np.asarray(volume * prices / 100 * share * size)


def _consumer_prices(key: Key) -> Numbers:
    _, area, group = key
    extra = 0.0 if group == "00" else drawn(f"group {group}").normal(0, 0.008)
    noise = 0.0006 if group in ("00", "CORE") else 0.003
    index = np.cumprod(1 + (economy.inflation(area) + extra) / 12)
    season = 0.0 if group == "CORE" else _season(f"cpi {group}", 0.002)
    return np.asarray(
        100 * index * np.exp(season + drawn(f"cpi {area} {group}").normal(0, noise, MONTHS))
    )


def _producer_prices(key: Key) -> Numbers:
    _, area, branch = key
    swing = 0.03 * np.roll(economy.branch_cycle(area, branch), 3)
    return np.cumprod(1 + economy.inflation(area) / 12) * _grown(
        f"ppi {area} {branch}", 0.0, swing, 0.002
    )


def _labour(key: Key) -> Numbers:
    _, area, measure, adjusted = key
    late = np.roll(economy.cycle(area), 4)
    season = 0.0 if adjusted == "SA" else 1.0
    if measure == "UNEMPLOYMENT":
        level = {"XA": 5.2, "XB": 7.4, "XC": 3.1}[area]
        return np.maximum(0.8, level - 1.3 * late + season * 3 * _season(f"jobless {area}", 0.06))
    growth, swing = (0.006, 0.008) if measure == "EMPLOYMENT" else (0.026, 0.004)
    size = {"XA": 148.0, "XB": 117.0, "XC": 92.0}[area] if measure == "EMPLOYMENT" else 1.0
    index = _grown(
        f"labour {area} {measure}", growth, swing * late + season * _season(measure, 0.006), 0.0008
    )
    return np.asarray(size * index)


def _production(key: Key) -> Numbers:
    _, area, branch, adjusted = key
    season = 0.0 if adjusted == "SA" else _season(f"production {branch}", 0.05)
    swing = 0.05 * economy.branch_cycle(area, branch) + season
    return _grown(
        f"production {area} {branch}", drawn(f"trend {branch}").uniform(-0.01, 0.025), swing, 0.006
    )


def _trade(key: Key) -> Numbers:
    _, area, flow, product = key
    share = 1.0 if product == "TOTAL" else drawn(f"product {product}").uniform(0.05, 0.2)
    size = {"XA": 92.0, "XB": 88.0, "XC": 13_500.0}[area]
    swing = 0.07 * economy.branch_cycle(area, product) + _season(f"trade {product}", 0.04)
    return size * share * _grown(f"trade {area} {flow} {product}", 0.035, swing, 0.02)


def _houses(key: Key) -> Numbers:
    _, region, adjusted = key
    season = 0.0 if adjusted == "SA" else _season("houses", 0.006)
    return np.asarray(100 * np.exp(economy.house_prices()[int(region[1:]) - 1] + season))


def _confidence(key: Key) -> Numbers:
    _, area, survey = key
    ahead = np.roll(economy.cycle(area), -4)
    return np.asarray(50 + 6 * ahead + drawn(f"survey {area} {survey}").normal(0, 1.2, MONTHS))


def _retail(key: Key) -> Numbers:
    _, area, kind = key
    own = "CLOTHING" if kind == "APPAREL" else kind  # one series under two names
    swing = 0.02 * economy.cycle(area) + _season(f"retail {own}", 0.06)
    return _grown(f"retail {area} {own}", 0.02, swing, 0.008)


def _money(key: Key) -> Numbers:
    _, area, aggregate = key
    size = {"XA": 9_000.0, "XB": 8_200.0, "XC": 1_050_000.0}[area] * {
        "M1": 0.3,
        "M2": 0.7,
        "M3": 1.0,
    }[aggregate]
    return size / 100 * _grown(f"money {area} {aggregate}", 0.05, 0.01 * economy.cycle(area), 0.002)


def _interest(key: Key) -> Numbers:
    """By day: the policy rate of the month, and what a longer term adds."""
    _, area, term = key
    rate = economy.policy_rate(area)
    years = {"POLICY": 0.0, "3M": 0.25, "2Y": 2.0, "10Y": 10.0}[term]
    ahead = np.convolve(np.pad(rate, (0, 23), "edge"), np.full(24, 1 / 24), "valid")
    weight = min(1.0, years / 4)
    monthly = (
        (1 - weight) * rate
        + weight * ahead
        + 0.12 * years
        - (0.0 if years < 3 else 0.15 * economy.cycle(area))
    )
    return np.asarray(monthly)


def _claims(key: Key) -> Numbers:
    _, area = key
    return {"XA": 210.0, "XB": 160.0, "XC": 45.0}[area] * np.exp(-0.28 * economy.cycle(area))


def _keys(*dimensions: Mapping[str, str]) -> tuple[Key, ...]:
    out: list[Key] = [()]
    for codes in dimensions:
        out = [(*key, code) for key in out for code in codes]
    return tuple(out)


def _all(
    letter: str, *dimensions: Dimension
) -> dict[str, tuple[Dimension, ...] | tuple[Key, ...] | str]:
    """What a flow is made of: its dimensions, and a key of every combination of codes."""
    every = (_freq(letter), *dimensions)
    return {"frequency": letter, "dimensions": every, "keys": _keys(*(d.codes for d in every))}


_INDEX = lambda _: "INDEX"  # noqa: E731
_TERMS = {"POLICY": "Central bank", "3M": "3 months", "2Y": "2 years", "10Y": "10 years"}
_MEASURES = {
    "UNEMPLOYMENT": "Unemployment rate",
    "EMPLOYMENT": "Employed persons",
    "WAGES": "Wages",
}
_SURVEYED = {
    "IND": "Industry",
    "CON": "Consumers",
    "BLD": "Building",
    "RET": "Retail",
    "SRV": "Services",
}
_AGGREGATES = {"M1": "Cash and deposits on demand", "M2": "with savings", "M3": "with funds"}
_SHOPS = {"TOTAL": "All shops", "FOOD": "Food", "CLOTHING": "Clothing and shoes",
          "APPAREL": "Apparel (now Clothing and shoes)", "HOME": "Household goods"}  # fmt: skip
_PLACES = {f"R{n + 1:02d}": name for n, name in enumerate(economy.REGIONS)}
_LABOUR_UNITS = {"UNEMPLOYMENT": "PERCENT", "EMPLOYMENT": "PERSONS", "WAGES": "INDEX"}

FLOWS: tuple[Flow, ...] = (
    Flow("OUTPUT", "Output", "ACCOUNTS", values=_output, lag=45, again=(30, 60, 300, 665, 1030),
         off=(0.6, 0.4, 0.3, 0.2, 0.1, 0.0), bases=(("2000-01-01", 2000), ("2012-03-15", 2010), ("2019-09-16", 2015)),
         decimals=1, unit=lambda k: "INDEX" if k[3] == "VOLUME" else CURRENCIES[k[1]], power=6,
         **_all("Q", _AREA, Dimension("BRANCH", "Branch", BRANCHES),
                Dimension("MEASURE", "Measure", {"VOLUME": "volume", "VALUE": "current prices"}))),
    Flow("CONSUMER_PRICES", "Consumer prices", "PRICES", values=_consumer_prices, lag=15, again=(28,), off=(0.03, 0.0),
         bases=(("2000-01-01", 2000), ("2007-02-15", 2005), ("2016-02-15", 2015)), decimals=2, unit=_INDEX,
         **_all("M", _AREA, Dimension("ITEM_GROUP", "Group of goods", GROUPS))),
    Flow("PRODUCER_PRICES", "Producer prices", "PRICES", values=_producer_prices, lag=22, again=(61,), off=(0.1, 0.0),
         bases=(("2000-01-01", 2000), ("2012-05-21", 2010)), decimals=1, unit=_INDEX,
         **_all("M", _AREA, Dimension("BRANCH", "Branch", dict(list(INDUSTRIES.items())[:9])))),
    Flow("LABOUR_MARKET", "Labour market", "LABOUR", values=_labour, lag=32, again=(30, 330), off=(0.25, 0.1, 0.0),
         bases=(("2000-01-01", 2000), ("2013-02-04", 2010)), decimals=1, unit=lambda k: _LABOUR_UNITS[k[2]],
         **_all("M", _AREA, Dimension("MEASURE", "Measure", _MEASURES), _ADJ)),
    Flow("INTEREST_RATES", "Interest rates", "MONEY", values=_interest, lag=0, decimals=2, unit=lambda k: "PERCENT",
         **_all("D", _AREA, Dimension("TERM", "Term", _TERMS))),
    Flow("PRODUCTION", "Industrial production", "INDUSTRY", values=_production, lag=40, again=(30, 360),
         off=(0.5, 0.25, 0.0), bases=(("2000-01-01", 2000), ("2012-03-14", 2010), ("2019-03-14", 2015)),
         decimals=1, unit=_INDEX,
         ended={("M", "XB", "13", "SA"): "2019-12-31", ("M", "XB", "13", "NSA"): "2019-12-31"},
         **_all("M", _AREA, Dimension("BRANCH", "Branch", INDUSTRIES), _ADJ)),
    Flow("FOREIGN_TRADE", "Foreign trade", "TRADE", values=_trade, lag=38, again=(30, 300), off=(0.2, 0.1, 0.0),
         decimals=1, unit=lambda k: CURRENCIES[k[1]], power=6,
         **_all("M", _AREA, Dimension("DIRECTION", "Direction", {"X": "exports", "M": "imports"}),
                Dimension("PRODUCT", "Goods", PRODUCTS))),
    Flow("HOUSE_PRICES", "House prices", "HOUSING", values=_houses, lag=50, again=(31, 92), off=(0.08, 0.04, 0.0),
         bases=(("2000-01-01", 2000), ("2013-05-20", 2010)), decimals=2, unit=_INDEX,
         **_all("M", Dimension("REGION", "Region", _PLACES), _ADJ)),
    Flow("JOBLESS_CLAIMS", "New claims of the jobless", "LABOUR", values=_claims, lag=5, again=(7,), off=(0.05, 0.0),
         decimals=1, unit=lambda k: "PERSONS", power=3, **_all("W", _AREA)),
    Flow("CONFIDENCE", "Confidence", "SURVEYS", values=_confidence, lag=-2, decimals=1, unit=lambda k: "BALANCE",
         **_all("M", _AREA, Dimension("SURVEY", "Who is asked", _SURVEYED))),
    Flow("RETAIL_SALES", "Retail sales", "INDUSTRY", values=_retail, lag=28, again=(30,), off=(0.25, 0.0),
         bases=(("2000-01-01", 2000), ("2012-06-28", 2010)), decimals=1, unit=_INDEX,
         ended={("M", area, "APPAREL"): "2018-03-31" for area in AREAS},
         **_all("M", _AREA, Dimension("SHOP", "Kind of shop", _SHOPS))),
    Flow("MONEY_STOCK", "Money stock", "MONEY", values=_money, lag=27, again=(30,), off=(0.05, 0.0), decimals=1,
         unit=lambda k: CURRENCIES[k[1]], power=9,
         **_all("M", _AREA, Dimension("AGGREGATE", "Aggregate", _AGGREGATES))),
)  # fmt: skip
