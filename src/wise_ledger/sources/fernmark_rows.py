"""Fernmark's rows and filings, turned into records:
what is missing or garbled is named with its place.
"""

from collections.abc import Sequence
from datetime import UTC, date, datetime, timedelta
from decimal import Decimal
from functools import lru_cache
from math import isfinite
from typing import Any, NamedTuple, Self

from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.fiscal.labels import Period, implied_end
from wise_ledger.core.money.currencies import is_currency
from wise_ledger.core.records.coded import Coded
from wise_ledger.core.records.figures import Figures
from wise_ledger.core.records.records import (
    CONSOLIDATED,
    AttributeRecord,
    CompanyRecord,
    DocumentRecord,
    IdentifierRecord,
    ListingRecord,
    MemberRecord,
    RateRecord,
    SecurityRecord,
    SplitRecord,
    VenueRecord,
)
from wise_ledger.core.time.instants import assumed_publication, end_of_day
from wise_ledger.sources.amounts import in_units, in_units_whole
from wise_ledger.sources.errors import bad_figure, damaged
from wise_ledger.sources.exactjson import read_json
from wise_ledger.sources.mapping import TagMapping
from wise_ledger.sources.protocol import FilingRecord

TITLE = "Fernmark Data"
_ATTRIBUTES = (
    "country",
    "currency",
    "industry",
    "template",
    "fiscal_year_end",
    "seat",
    "website",
    "description",
)
_NONE = object()  # a figure that says no begin
Stands = tuple[str, int, str]  # the filing, which figure of it, and its tag
_FAR = 31  # days between a period's end and the month end that its label implies, at most


def company_of(row: dict[str, Any]) -> CompanyRecord:
    """A company with its attributes, names, identifiers, securities and listings."""
    where = f"{TITLE} company {row.get('key')}"
    try:
        since = date.fromisoformat(row["since"])
        changes = [(c["attribute"], c["value"], _span_of(c)) for c in row.get("changes") or ()]
        attributes = [AttributeRecord(name, value, begin) for name, value, (begin, _) in changes]
        for name in _ATTRIBUTES:
            own = max(
                [since, *(until + timedelta(days=1) for n, _, (_, until) in changes if n == name)]
            )
            attributes.append(AttributeRecord(name, str(row[name]), own))
        former = [
            (n["name"], date.fromisoformat(n["from"]), date.fromisoformat(n["to"]))
            for n in row["names"]
        ]
        attributes += [AttributeRecord("name", name, begin) for name, begin, _ in former]
        named_since = max([since, *(until + timedelta(days=1) for _, _, until in former)])
        attributes += [
            AttributeRecord("name", row["name"], named_since),
            AttributeRecord("active", "yes", since),
        ]
        if row["ended"] is not None:
            after = date.fromisoformat(row["ended"]) + timedelta(days=1)
            attributes += [
                AttributeRecord("active", "no", after),
                AttributeRecord("end_cause", row["cause"], after),
            ]
        securities = tuple(_security(s) for s in row["securities"])
        identifiers = tuple(_identifier(i) for i in row["identifiers"])
        return CompanyRecord(row["key"], row["name"], tuple(attributes), identifiers, securities)
    except (KeyError, TypeError, ValueError) as error:
        raise damaged(where, row, f"the company lacks or garbles {error}") from None


def rates_of(row: dict[str, Any]) -> list[RateRecord]:
    """The rates of a day, for one unit of the base."""
    try:
        day, rates = date.fromisoformat(row["date"]), dict(row["rates"])
        found = [
            RateRecord(str(row["base"]), quote, day, float(rate)) for quote, rate in rates.items()
        ]
    except (KeyError, TypeError, ValueError) as error:
        raise damaged(
            f"{TITLE} /v1/rates", row, f"the rates of a day lack or garble {error}"
        ) from None
    for record in found:
        if not (
            isfinite(record.rate)
            and record.rate > 0
            and is_currency(record.base)
            and is_currency(record.quote)
        ):
            raise damaged(f"{TITLE} /v1/rates", row, f"{record.quote} of {record.day} is no rate")
    return found


def venue_of(row: dict[str, Any]) -> VenueRecord:
    """A venue as it is described."""
    try:
        texts = [str(row[name]) for name in ("mic", "name", "country", "time_zone", "close")]
        return VenueRecord(*texts, date.fromisoformat(row["since"]))
    except (KeyError, TypeError, ValueError) as error:
        raise damaged(f"{TITLE} /v1/venues", row, f"the venue lacks or garbles {error}") from None


def _span_of(row: dict[str, Any]) -> tuple[date, date]:
    return date.fromisoformat(row["from"]), date.fromisoformat(row["to"])


def _until(row: dict[str, Any]) -> date | None:
    return None if row["to"] is None else date.fromisoformat(row["to"])


def _plain(number: Any) -> float | None:
    """A weight or ratio as the ledger keeps it: given again it must be the
    same number, not its exact decimal.
    """
    return None if number is None else float(number)


def _security(row: dict[str, Any]) -> SecurityRecord:
    listings = tuple(
        ListingRecord(
            x["symbol"],
            x["mic"],
            x["currency"],
            date.fromisoformat(x["from"]),
            _until(x),
            x["primary"],
        )
        for x in row["listings"]
    )
    splits = tuple(_split(x) for x in row.get("splits") or ())
    return SecurityRecord(
        row["key"], row["type"], row["title"], _plain(row["ratio"]), listings, splits
    )


def _split(row: dict[str, Any]) -> SplitRecord:
    announced = row.get("announced")
    published = None if announced is None else datetime.fromisoformat(announced).astimezone(UTC)
    ratio = float(row["ratio"])
    if not (isfinite(ratio) and ratio > 0):
        raise ValueError(f"a split of {row['ratio']}")
    return SplitRecord(date.fromisoformat(row["ex_date"]), ratio, published)


def _identifier(row: dict[str, Any]) -> IdentifierRecord:
    since = date.fromisoformat(row["from"])
    return IdentifierRecord(row["scheme"], row["value"], since, _until(row), row["security"])


def member_of(row: dict[str, Any]) -> MemberRecord:
    """A company's stay on a list."""
    try:
        return MemberRecord(
            row["company"], date.fromisoformat(row["from"]), _until(row), _plain(row.get("weight"))
        )
    except (KeyError, TypeError, ValueError) as error:
        raise damaged(f"{TITLE} list member", row, f"the row lacks or garbles {error}") from None


def read_filing(
    mapping: TagMapping, key: str, raw: bytes, year_end: int, template: str | None
) -> FilingRecord:
    """A filing's raw bytes read by a mapping; tags without an item are listed, not dropped."""
    where = f"{TITLE} filing {key}"
    try:
        body = read_json(raw)
    except (ValueError, RecursionError) as error:
        raise damaged(where, raw[:80], f"the filing is no whole JSON ({error})") from None
    try:
        published = _published(body)
        document = DocumentRecord(
            key, body["title"], body["kind"], "application/json", raw, published
        )
        rows, currency, fiscal_period = body["figures"], body["currency"], body.get("fiscal_period")
        declared = implied_end(fiscal_period or "", year_end)
        columns = _Columns.of(rows, body["scale"])
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        raise damaged(where, body, f"the filing lacks or garbles {error}") from None
    if (wrong := columns.garbled()) is not None:
        raise damaged(where, rows[wrong], "a figure has no tag, or a scale that is no whole number")
    if not isinstance(currency, str):
        raise damaged(where, currency, "the currency is no text")
    ends = _days(where, columns.end, columns)
    last = max(ends.values(), default=None)
    rules = _rules(mapping, template, currency)
    unmapped = [tag for tag in columns.tag if rules[tag] is None]
    if unmapped:
        columns = columns.at([n for n, tag in enumerate(columns.tag) if rules[tag] is not None])
    meant = [rule for tag in columns.tag if (rule := rules[tag]) is not None]
    begins = {_NONE: None, **_days(where, columns.begin, columns)}
    period_start = [begins[text] for text in columns.begin]
    period_end = [ends[text] for text in columns.end]
    powers = [scale + rule.power for scale, rule in zip(columns.scale, meant, strict=True)]
    near = {
        end: end == last and declared is not None and abs((declared - end).days) <= _FAR
        for end in ends.values()
    }
    count = len(meant)
    figures = Figures(
        item=Coded.of([rule.item for rule in meant]),
        period_start=Coded.of(period_start),
        period_end=Coded.of(period_end),
        value=_values(where, columns, powers, meant),
        reported=["" if amount is None else str(amount) for amount in columns.amount],
        scale=Coded.of(powers),
        unit=Coded.of([rule.unit for rule in meant]),
        published_at=Coded.of(
            [published] * count if published else _assumed(period_start, period_end, year_end)
        ),
        place=[f"/figures/{n}" for n in columns.place],
        assumed=Coded.same(published is None, count),
        basis=Coded.same(CONSOLIDATED, count),
        fiscal_period=Coded.same(fiscal_period, count),
        declared_end=Coded.of([declared if near[end] else None for end in period_end]),
        share_basis_date=Coded.same(None, count),
    )
    return FilingRecord(document, figures, tuple(unmapped))


class _Columns(NamedTuple):
    """The figures of a filing as they are written, column by column."""

    tag: list[Any]
    amount: list[Any]
    scale: list[Any]
    begin: list[Any]  # _NONE of a balance
    end: list[Any]
    place: Sequence[int]

    @classmethod
    def of(cls, figures: list[dict[str, Any]], scale: Any) -> Self:
        return cls(
            [f["tag"] for f in figures],
            [f["amount"] for f in figures],  # every figure has one, be it null
            [f.get("scale", scale) for f in figures],
            [f.get("from", _NONE) for f in figures],
            [f.get("to") or f["at"] for f in figures],
            range(len(figures)),
        )

    def garbled(self) -> int | None:
        """The first figure whose tag is no text or whose scale is no whole number."""
        if {*map(type, self.tag)} <= {str} and {*map(type, self.scale)} <= {int}:
            return None
        both = enumerate(zip(self.tag, self.scale, strict=True))
        return next(
            (n for n, (t, s) in both if not isinstance(t, str) or not isinstance(s, int)), None
        )

    def at(self, places: list[int]) -> Self:
        """Only the figures at these places."""
        return self._make([column[n] for n in places] for column in self)

    def stands(self, where: str, n: int) -> Stands:
        """Where a figure stands, for words."""
        return where, self.place[n], self.tag[n]


def _days(where: str, texts: list[Any], columns: _Columns) -> dict[Any, date]:
    """The date of each text, read once."""
    days: dict[Any, date] = {}
    for n, text in enumerate(texts):
        if text is not _NONE and (type(text) is not str or text not in days):
            days[text] = _day(text, columns.stands(where, n))
    return days


def _assumed(starts: list[date | None], ends: list[date], year_end: int) -> list[datetime]:
    """When figures are taken to have become public where nothing says it (T4)."""
    periods = list(zip(starts, ends, strict=True))
    at = {
        (s, e): assumed_publication(e, Period(s, e).span, e.month == year_end)
        for s, e in set(periods)
    }
    return [at[period] for period in periods]


def _values(
    where: str, columns: _Columns, powers: list[int], rules: "list[_Rule]"
) -> Sequence[float | None]:
    """In units; a figure that is taken back has no amount (T6)."""
    signs = [rule.sign for rule in rules]
    if (whole := in_units_whole(columns.amount, powers, signs)) is not None:
        return whole
    triples = enumerate(zip(columns.amount, powers, signs, strict=True))
    return [_value(a, power, sign, columns.stands(where, n)) for n, (a, power, sign) in triples]


class _Rule(NamedTuple):
    """What a tag means in a filing: the item, its unit, and what to do with the amount."""

    item: str
    unit: str
    power: int
    sign: int


class _Rules(dict[str, _Rule | None]):
    """The rules of a mapping for the filings of a template in a currency,
    each made when first asked for.
    """

    def __init__(self, mapping: TagMapping, template: str | None, currency: str) -> None:
        super().__init__()
        self._mapping = mapping
        self._template = template
        self._units = {"money": currency, "money_per_share": f"{currency}/shares"}

    def __missing__(self, tag: str) -> _Rule | None:
        meaning = self._mapping.rule(tag, self._template)
        if meaning is None:
            return None  # tags without an item may be any number: none is kept
        item = ITEMS[meaning.item]
        unit = meaning.unit or self._units.get(item.unit, item.unit)
        self[tag] = found = _Rule(item.code, unit, meaning.power, meaning.sign)
        return found


_rules = lru_cache(256)(_Rules)


def _published(body: dict[str, Any]) -> datetime | None:
    """The publication instant: given as such, as a day (T2), or not at all (T4)."""
    if text := body.get("published_at"):
        return datetime.fromisoformat(text).astimezone(UTC)
    if text := body.get("published_on"):
        return end_of_day(date.fromisoformat(text))
    return None


_read_day = lru_cache(4096)(date.fromisoformat)  # a filing says the same few dates over and over


def _in_words(stands: Stands) -> str:
    where, place, tag = stands
    return f"{where}, figure {place + 1} ({tag})"


def _day(text: str, stands: Stands) -> date:
    try:
        return _read_day(text)
    except (TypeError, ValueError):
        raise bad_figure(_in_words(stands), text, "this is no date") from None


def _value(amount: Any, scale: int, sign: int, stands: Stands) -> float | None:
    """In units; a figure that is taken back has no amount (T6)."""
    if amount is None:
        return None
    if isinstance(amount, bool) or not isinstance(amount, int | Decimal):
        raise bad_figure(_in_words(stands), amount, "this is no number")
    try:
        return in_units(amount, scale, sign)
    except ValueError as error:
        raise bad_figure(_in_words(stands), amount, str(error)) from None
