"""Fernmark's rows and filings, turned into records: what is missing or garbled is told with its place."""

from datetime import UTC, date, datetime, timedelta
from decimal import Decimal
from functools import lru_cache
from math import isfinite
from typing import Any

from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.fiscal.labels import Period, implied_end
from wise_ledger.core.money.currencies import is_currency
from wise_ledger.core.records.records import (
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
)
from wise_ledger.core.time.instants import assumed_publication, end_of_day
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
        ends = [_day(f.get("to") or f["at"], where) for f in figures]
    except (KeyError, TypeError, ValueError, AttributeError) as error:
        raise damaged(where, body, f"the filing lacks or garbles {error}") from None
    if not isinstance(currency, str):
        raise damaged(where, currency, "the currency is no text")
    facts, unmapped = [], []
    spans: dict[tuple[date | None, date], int] = {}
    for place, (figure, end) in enumerate(zip(figures, ends, strict=True)):
        rule = mapping.rule(figure["tag"], template)
        if rule is None:
            unmapped.append(figure["tag"])
            continue
        item = ITEMS[rule.item]
        at = f"{where}, figure {place + 1} ({figure['tag']})"
        start = _day(figure["from"], at) if "from" in figure else None
        power = figure.get("scale", scale) + rule.power
        if (start, end) not in spans:
            spans[start, end] = Period(start, end).span
        span = spans[start, end]
        own = declared is not None and end == max(ends) and abs((declared - end).days) <= _FAR
        facts.append(
            FactRecord(
                item=item.code,
                period_start=start,
                period_end=end,
                value=_value(figure["amount"], power, rule.sign, at),
                reported="" if figure["amount"] is None else str(figure["amount"]),
                scale=power,
                unit=rule.unit
                or {"money": currency, "money_per_share": f"{currency}/shares"}.get(item.unit, item.unit),
                published_at=published or assumed_publication(end, span, end.month == year_end),
                assumed=published is None,
                place=f"/figures/{place}",
                fiscal_period=body.get("fiscal_period"),
                declared_end=declared if own else None,
            )
        )
    return FilingRecord(document, tuple(facts), tuple(unmapped))


def _published(body: dict[str, Any]) -> datetime | None:
    """The publication instant: given as such, as a day (T2), or not at all (T4)."""
    if text := body.get("published_at"):
        return datetime.fromisoformat(text).astimezone(UTC)
    if text := body.get("published_on"):
        return end_of_day(date.fromisoformat(text))
    return None


_read_day = lru_cache(4096)(date.fromisoformat)  # a filing says the same few dates over and over


def _day(text: str, at: str) -> date:
    try:
        return _read_day(text)
    except (TypeError, ValueError):
        raise bad_figure(at, text, "this is no date") from None


def _value(amount: Any, scale: int, sign: int, at: str) -> float | None:
    """In units; a figure that is taken back has no amount (T6)."""
    if amount is None:
        return None
    if isinstance(amount, bool) or not isinstance(amount, int | Decimal):
        raise bad_figure(at, amount, "this is no number")
    value = float(Decimal(amount).scaleb(scale)) * sign
    if not isfinite(value):
        raise bad_figure(at, amount, "the number is larger than any figure can be")
    return value
