"""The names an expression may use: items, fields and functions."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from wise_ledger.core.catalogue.items import ITEMS, Item
from wise_ledger.core.catalogue.measures import SHIPPED, Measure
from wise_ledger.core.language.units import NAMED, TEXT, TRUTH, Unit
from wise_ledger.core.nearest import nearest
from wise_ledger.core.records.limits import LIMITS
from wise_ledger.core.series.book import SeriesBook


@dataclass(frozen=True)
class Attribute:
    """Something said of a company that a rule may ask about: its unit,
    and the words a person reads and finds it by.
    """

    unit: Unit
    title: str
    meaning: str
    synonyms: tuple[str, ...] = ()


ATTRIBUTES: Mapping[str, Attribute] = {
    "country": Attribute(
        TEXT, "Country", "Where the company has its seat, ISO 3166.", ("domicile", "nation")
    ),
    "industry": Attribute(
        TEXT, "Industry", "The division of ISIC Rev. 4.", ("sector", "branch of trade", "activity")
    ),
    "template": Attribute(
        TEXT,
        "Template",
        "What its statements look like: industrial, bank or insurer.",
        ("kind of accounts",),
    ),
    "venue": Attribute(
        TEXT,
        "Venue",
        "Where its primary listing trades (ISO 10383).",
        ("exchange", "market", "mic"),
    ),
    "security_type": Attribute(
        TEXT,
        "Security type",
        "What its primary listing is: ordinary, preference …",
        ("share class",),
    ),
    "currency": Attribute(
        TEXT, "Currency", "The currency it reports in, ISO 4217.", ("reporting currency",)
    ),
    "active": Attribute(
        TRUTH, "Active", "Whether the company still exists as such.", ("alive", "listed", "status")
    ),
    "fiscal_year_end": Attribute(
        TEXT,
        "Fiscal year end",
        "The month its fiscal year ends in, 1 to 12.",
        ("year end", "closing month"),
    ),
}


_PER_SHARE, _MONEY = NAMED["money_per_share"], NAMED["money"]
MARKET: Mapping[str, Attribute] = {
    "close": Attribute(
        _PER_SHARE, "Close", "The last price of its primary listing, at most 10 days old, adjusted for splits.",
        ("price", "last price", "share price", "closing price", "quote"),
    ),
    "open": Attribute(_PER_SHARE, "Open", "The first price of the day of the close.", ("opening price",)),
    "high": Attribute(_PER_SHARE, "High", "The highest price of the day of the close.", ("day's high",)),
    "low": Attribute(_PER_SHARE, "Low", "The lowest price of the day of the close.", ("day's low",)),
    "volume": Attribute(
        NAMED["shares"], "Volume", "The shares traded on the day of the close, adjusted for splits.",
        ("turnover in shares", "shares traded"),
    ),
    "market_value": Attribute(
        _MONEY, "Market value", "Close times shares outstanding, over its ordinary classes of shares.",
        ("market capitalisation", "market capitalization", "market cap", "capitalisation"),
    ),
    "enterprise_value": Attribute(
        _MONEY, "Enterprise value",
        "Market value, debt, preferred equity and minority interests, less cash and short-term investments.",
        ("firm value", "value of the firm"),
    ),
    "dividend_12mo": Attribute(
        _PER_SHARE, "Dividends of a year", "Ordinary dividends a share with an ex-date in the 365 days to the date.",
        ("dividend", "dividends per share", "trailing dividend"),
    ),
    "high_52w": Attribute(
        _PER_SHARE, "High of a year", "The highest price in 365 days.", ("52 week high", "year high"),
    ),
    "low_52w": Attribute(
        _PER_SHARE, "Low of a year", "The lowest price in 365 days.", ("52 week low", "year low"),
    ),
}  # fmt: skip
FIELDS: Mapping[str, Attribute] = {**ATTRIBUTES, **MARKET}
# M5: beside the market value, each balance on one E; absence means zero for all but cash.
ENTERPRISE_VALUE = (
    "market_value + coalesce(short_term_debt, 0) + coalesce(long_term_debt, 0) + coalesce(preferred_equity, 0)"
    " + coalesce(minority_interests, 0) - cash_and_equivalents - coalesce(short_term_investments, 0)"
)


@dataclass(frozen=True)
class Vocabulary:
    """Items, fields and measures by name; functions are the same for all."""

    items: Mapping[str, Item]
    fields: Mapping[str, Unit]
    # codes of an attribute that the ledger has, with names
    values: Callable[[str], Mapping[str, str]] = lambda _: {}
    series: Callable[[], SeriesBook] = SeriesBook  # economic ones
    measures: Mapping[str, Measure] = field(default_factory=dict)
    stale_after: int = LIMITS["stale_after"].usual  # days, F12

    @property
    def names(self) -> list[str]:
        """Everything a name may be."""
        return [*self.items, *self.fields, *self.measures]

    def mend(self, name: str) -> str:
        """What to write in the place of an unknown name: what people also
        call so, else what is like it.
        """
        words = name.replace("_", " ").casefold()
        called = [
            of
            for of, synonyms in (
                *((code, item.synonyms) for code, item in self.items.items()),
                *((n, FIELDS[n].synonyms) for n in self.fields if n in FIELDS),
                *((n, (m.title, *m.synonyms)) for n, m in self.measures.items()),
            )
            if words in (s.casefold() for s in synonyms)
        ]
        if called:
            return f"did you mean {', '.join(called[:3])}?"
        near = nearest(name, self.names)
        return (
            f"did you mean {', '.join(near)}?"
            if near
            else "look for it in the catalogue, by any word"
        )


def vocabulary(
    items: Mapping[str, Item],
    values: Callable[[str], Mapping[str, str]] = lambda _: {},
    series: Callable[[], SeriesBook] = SeriesBook,
    measures: Mapping[str, Measure] = SHIPPED,
    stale_after: int = LIMITS["stale_after"].usual,
) -> Vocabulary:
    """The names an expression may use where these items exist, values of
    attributes, series and measures; and the days after which its figures are stale.
    """
    return Vocabulary(
        items,
        {name: attribute.unit for name, attribute in FIELDS.items()},
        values,
        series,
        measures,
        stale_after,
    )


STANDARD = vocabulary(ITEMS)
