"""Fernmark's rows and filings, turned into records: what is missing or garbled is told with its place."""

from datetime import UTC, date, datetime, timedelta
from decimal import Decimal
from functools import lru_cache
from math import isfinite
from typing import Any, NamedTuple

from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.fiscal.labels import Period, implied_end
from wise_ledger.core.money.currencies import is_currency
from wise_ledger.core.records.records import (
    CONSOLIDATED,
    AttributeRecord,
    CompanyRecord,
    DocumentRecord,
    FactRecord,
    IdentifierRecord,
    ListingRecord,
    MemberRecord,
    RateRecord,
    SecurityRecord,
    SplitRecord,
    VenueRecord,
)
from wise_ledger.core.time.instants import assumed_publication, end_of_day
from wise_ledger.sources.amounts import in_units
from wise_ledger.sources.errors import bad_figure, damaged
from wise_ledger.sources.mapping import TagMapping
from wise_ledger.sources.protocol import FilingRecord

TITLE = "Fernmark Data"
_ATTRIBUTES = ("country", "currency", "industry", "template", "fiscal_year_end", "seat", "website", "description")
_FAR = 31  # days between a period's end and the month end that its label implies, at most


def company_of(row: dict[str, Any]) -> CompanyRecord:
    """A company with its attributes, names, identifiers, securities and listings."""
    where = f"{TITLE} company {row.get('key')}"
    try:
        since = date.fromisoformat(row["since"])
        changes = [(c["attribute"], c["value"], _span_of(c)) for c in row.get("changes") or ()]
        attributes = [AttributeRecord(name, value, begin) for name, value, (begin, _) in changes]
        for name in _ATTRIBUTES:
            own = max([since, *(until + timedelta(days=1) for n, _, (_, until) in changes if n == name)])
            attributes.append(AttributeRecord(name, str(row[name]), own))
        former = [(n["name"], date.fromisoformat(n["from"]), date.fromisoformat(n["to"])) for n in row["names"]]
        attributes += [AttributeRecord("name", name, begin) for name, begin, _ in former]
        named_since = max([since, *(until + timedelta(days=1) for _, _, until in former)])
        attributes += [AttributeRecord("name", row["name"], named_since), AttributeRecord("active", "yes", since)]
        if row["ended"] is not None:
            after = date.fromisoformat(row["ended"]) + timedelta(days=1)
            attributes += [AttributeRecord("active", "no", after), AttributeRecord("end_cause", row["cause"], after)]
        securities = tuple(_security(s) for s in row["securities"])
        identifiers = tuple(_identifier(i) for i in row["identifiers"])
        return CompanyRecord(row["key"], row["name"], tuple(attributes), identifiers, securities)
    except (KeyError, TypeError, ValueError) as error:
        raise damaged(where, row, f"the company lacks or garbles {error}") from None


def rates_of(row: dict[str, Any]) -> list[RateRecord]:
    """The rates of a day, for one unit of the base."""
    try:
        day, told = date.fromisoformat(row["date"]), dict(row["rates"])
        found = [RateRecord(str(row["base"]), quote, day, float(rate)) for quote, rate in told.items()]
    except (KeyError, TypeError, ValueError) as error:
        raise damaged(f"{TITLE} /v1/rates", row, f"the rates of a day lack or garble {error}") from None
    for record in found:
        if not (isfinite(record.rate) and record.rate > 0 and is_currency(record.base) and is_currency(record.quote)):
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
    """A weight or ratio as the ledger keeps it: told again it must be the same number, not its exact decimal."""
    return None if number is None else float(number)


def _security(row: dict[str, Any]) -> SecurityRecord:
    listings = tuple(
        ListingRecord(x["symbol"], x["mic"], x["currency"], date.fromisoformat(x["from"]), _until(x), x["primary"])
        for x in row["listings"]
    )
    splits = tuple(_split(x) for x in row.get("splits") or ())
    return SecurityRecord(row["key"], row["type"], row["title"], _plain(row["ratio"]), listings, splits)


def _split(row: dict[str, Any]) -> SplitRecord:
    told = row.get("announced")
    published = None if told is None else datetime.fromisoformat(told).astimezone(UTC)
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
        return MemberRecord(row["company"], date.fromisoformat(row["from"]), _until(row), _plain(row.get("weight")))
    except (KeyError, TypeError, ValueError) as error:
        raise damaged(f"{TITLE} list member", row, f"the row lacks or garbles {error}") from None


def filing_of(
    key: str, raw: bytes, body: Any, year_end: int, template: str | None, mapping: TagMapping
) -> FilingRecord:
    """A filing read by a mapping; tags without an item are told, not dropped."""
    where = f"{TITLE} filing {key}"
    try:
        published = _published(body)
        document = DocumentRecord(key, body["title"], body["kind"], "application/json", raw, published)
        figures, currency, scale = body["figures"], body["currency"], body["scale"]
        declared = implied_end(body.get("fiscal_period") or "", year_end)
        for figure in figures:
            if not isinstance(figure["tag"], str) or not isinstance(figure.get("scale", scale), int):
                raise damaged(where, figure, "a figure has no tag, or a scale that is no whole number")
            _ = figure["amount"]  # every figure has one, be it null
        ends = [_day(f.get("to") or f["at"], (where, n, f["tag"])) for n, f in enumerate(figures)]
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        raise damaged(where, body, f"the filing lacks or garbles {error}") from None
    if not isinstance(currency, str):
        raise damaged(where, currency, "the currency is no text")
    last, fiscal_period = max(ends, default=None), body.get("fiscal_period")
    rules = _rules(mapping, template, currency)
    announced: dict[tuple[date | None, date], tuple[datetime, date | None]] = {}
    facts, unmapped = [], []
    for place, (figure, end) in enumerate(zip(figures, ends, strict=True)):
        rule = rules[figure["tag"]]
        if rule is None:
            unmapped.append(figure["tag"])
            continue
        where_it_stands = (where, place, figure["tag"])
        start = _day(figure["from"], where_it_stands) if "from" in figure else None
        if (start, end) not in announced:
            own = declared is not None and end == last and abs((declared - end).days) <= _FAR
            at = published or assumed_publication(end, Period(start, end).span, end.month == year_end)
            announced[start, end] = at, declared if own else None
        public, declared_end = announced[start, end]
        power = figure.get("scale", scale) + rule.power
        amount = figure["amount"]
        facts.append(
            FactRecord(
                rule.item,
                start,
                end,
                _value(amount, power, rule.sign, where_it_stands),
                "" if amount is None else str(amount),
                power,
                rule.unit,
                public,
                f"/figures/{place}",
                published is None,
                CONSOLIDATED,
                fiscal_period,
                declared_end,
            )
        )
    return FilingRecord(document, tuple(facts), tuple(unmapped))


class _Rule(NamedTuple):
    """What a tag means in a filing: the item, its unit, and what to do with the amount."""

    item: str
    unit: str
    power: int
    sign: int


class _Rules(dict[str, _Rule | None]):
    """The rules of a mapping for the filings of a template in a currency, each made when first asked for."""

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


Stands = tuple[str, int, str]  # the filing, which figure of it, and its tag


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
