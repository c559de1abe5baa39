"""One declaration a kind of dated record: its columns and their types,
what makes two the same, what it changes.

The table of the ledger, writing a batch, the checks at the door, files and their templates, and
what has to be formed again walk these declarations. A record is a frozen dataclass with the fields
by their names; figures, of which there are millions, have a writer of their own.
"""

from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime
from typing import Any

from wise_ledger.core.errors import Problem
from wise_ledger.core.records import fields as types
from wise_ledger.core.records.codes import CODES
from wise_ledger.core.records.fields import FieldType, Found
from wise_ledger.core.records.recordkind import Field, RecordKind, Reference, Touches
from wise_ledger.core.records.records import (
    AttributeRecord,
    DelistingRecord,
    DividendRecord,
    IdentifierRecord,
    KeptRecord,
    ListingRecord,
    MarketVerdictRecord,
    MemberRecord,
    RateRecord,
    ReceiptRatioRecord,
    SeriesAttributeRecord,
    SharesRecord,
    SplitRecord,
    VenueRecord,
    VenueWordRecord,
)
from wise_ledger.core.time.instants import end_of_day

_FAR = 1000  # new shares for one, or old ones
_RATE = "write how many of the quote currency one of the base buys, such as 1.08"
_RATIO = "write new shares for each old one: 4 for a 4-for-1 split, 0.1 where ten become one"


def _in_order(record: Any, _now: datetime) -> Found:
    since, until = record.valid_from, record.valid_to
    if until is not None and until < since:
        yield Problem("to", str(until), f"it is before {since}", "swap the two dates, or mend one")


def _stay(record: MemberRecord, _now: datetime) -> Found:
    # A stay that was taken back on its first day ends the day before it.
    until = record.valid_to
    if until is not None and until + types.SKEW < record.valid_from:
        yield Problem(
            "to", str(until), f"it is before {record.valid_from}", "swap the two dates, or mend one"
        )


def _attribute(record: AttributeRecord, _now: datetime) -> Found:
    if record.name in CODES and not CODES[record.name][0](record.value):
        yield Problem(
            record.name, record.value, f"there is no such {record.name}", CODES[record.name][1]
        )


def _two_currencies(record: RateRecord, _now: datetime) -> Found:
    if record.base == record.quote:
        yield Problem(
            "quote", record.quote, "a currency has no rate to itself", "name another currency"
        )


def _ratio(record: SplitRecord, _now: datetime) -> Found:
    if record.ratio is None:
        return
    if not 1 / _FAR <= record.ratio <= _FAR or record.ratio == 1:
        yield Problem("ratio", f"{record.ratio:g}", "this is no ratio of a split", _RATIO)


def _paid_in_a_currency(record: DividendRecord, _now: datetime) -> Found:
    if record.amount is not None and record.currency is None:
        yield Problem(
            "currency", "", "an amount needs its currency", "write the three capitals of ISO 4217"
        )


def _known_at_its_end(record: AttributeRecord) -> AttributeRecord:
    if record.published_at is not None:
        return record
    return replace(record, published_at=end_of_day(record.valid_from))


_MAY_BE_EMPTY = frozenset({"website", "description", "seat"})
_VALUE = FieldType(
    "text",
    lambda at, value, _: types.of_text(at, value, empty=at in _MAY_BE_EMPTY),
    types.TEXT.read,
)
_VALUE_OR_NOTHING = FieldType(
    "text", lambda at, value, _: types.of_text(at, value, empty=True), types.TEXT.read
)
_COMPANY = Reference("company", "companies", example="EXW@ZALD")
_SOURCE = Reference("source", "sources")

ATTRIBUTES = RecordKind(
    "attributes",
    (
        _COMPANY,
        Field("name", types.TEXT, example="industry"),
        Field("value", _VALUE, example="25"),
        Field("valid_from", types.DAY, example="2012-01-01"),
        Field("published_at", types.INSTANT, example="2012-01-01T00:00:00Z"),
        _SOURCE,
    ),
    ("company", "source"),
    AttributeRecord,
    touches=Touches.COMPANY,
    forming=("name", ("fiscal_year_end", "fiscal_year_named_by", "template")),
    check=_attribute,
    complete=_known_at_its_end,
    where=lambda record, name: record.name if name == "value" else f"{record.name}, {name}",
)
IDENTIFIERS = RecordKind(
    "identifiers",
    (
        _COMPANY,
        Field("scheme", types.TEXT, example="register"),
        Field("value", types.TEXT, example="W-0001"),
        Field("valid_from", types.DAY, example="2012-01-01"),
        Field("valid_to", types.DAY, needed=False),
        Reference("security", "securities", needed=False),
        _SOURCE,
    ),
    ("company", "source"),
    IdentifierRecord,
    check=_in_order,
    where=lambda record, name: (
        record.scheme if name == "value" and isinstance(record.scheme, str) else name
    ),
)
LISTINGS = RecordKind(
    "listings",
    (
        Reference("security", "securities"),
        Field("symbol", types.TEXT, example="EXW"),
        Field("mic", types.MIC, example="ZALD"),
        Field("currency", types.CURRENCY, example="USD"),
        Field("valid_from", types.DAY, example="2012-01-01"),
        Field("valid_to", types.DAY, needed=False),
        Field("primary", types.FLAG, needed=False, example="yes", column="main"),
        _SOURCE,
    ),
    ("security", "source"),
    ListingRecord,
    touches=Touches.COMPANY,  # the main security of a company may become another
    check=_in_order,
)
MEMBERS = RecordKind(
    "members",
    (
        Reference("list", "lists", example="my-list"),
        _COMPANY,
        Field("valid_from", types.DAY, example="2020-01-01"),
        Field("valid_to", types.DAY, needed=False),
        Field("weight", types.NUMBER, needed=False, example="0.05"),
        _SOURCE,
    ),
    ("list",),
    MemberRecord,
    same=("list", "company", "valid_from"),
    check=_stay,
)
RATES = RecordKind(
    "rates",
    (
        _SOURCE,
        Field("base", types.CURRENCY, example="EUR"),
        Field("quote", types.CURRENCY, example="USD"),
        Field("date", types.PAST_DAY, example="2024-03-28", attribute="day"),
        Field("rate", types.POSITIVE, example="1.0811", mend=_RATE),
        Field("published_at", types.INSTANT, needed=False, example="2024-03-28T15:00:00Z"),
    ),
    ("source",),
    RateRecord,
    same=("source", "base", "quote", "date"),
    touches=Touches.RATES,
    check=_two_currencies,
)
SPLITS = RecordKind(
    "splits",
    (
        Reference("security", "securities", example="EXW@ZALD"),
        Field("ex_date", types.DAY, example="2023-06-05"),
        Field("ratio", types.POSITIVE, needed=False, example="4", mend=_RATIO),
        Field("published_at", types.INSTANT, needed=False, example="2023-05-08T06:00:00Z"),
        _SOURCE,
    ),
    ("security", "source"),
    SplitRecord,
    same=("security", "source", "ex_date"),
    touches=Touches.COMPANY,
    check=_ratio,
)
DIVIDENDS = RecordKind(
    "dividends",
    (
        Reference("security", "securities", example="EXW@ZALD"),
        Field("ex_date", types.DAY, example="2023-06-05"),
        Field("amount", types.POSITIVE, needed=False, example="0.42"),
        Field("currency", types.CURRENCY, needed=False, example="USD"),
        Field("kind", types.DIVIDEND_KIND, example="ordinary"),
        Field("published_at", types.INSTANT, needed=False, example="2023-05-08T06:00:00Z"),
        _SOURCE,
    ),
    ("security", "source"),
    DividendRecord,
    same=("security", "source", "ex_date", "kind"),
    check=_paid_in_a_currency,
)
DELISTINGS = RecordKind(
    "delistings",
    (
        Reference("listing", "listings", example="EXW@ZALD"),
        Field("date", types.PAST_DAY, example="2023-06-05", attribute="day"),
        Field("cause", types.TEXT, example="bankruptcy"),
        Field("final_return", types.LOSS_AT_WORST, needed=False, example="-0.85"),
        Field("published_at", types.INSTANT, needed=False, example="2023-06-05T16:00:00Z"),
        _SOURCE,
    ),
    ("listing", "source"),
    DelistingRecord,
    same=("listing", "source"),
)
SHARES = RecordKind(
    "shares",
    (
        Reference("security", "securities", example="EXW@ZALD"),
        Field("date", types.PAST_DAY, example="2023-06-30", attribute="day"),
        Field("shares_outstanding", types.POSITIVE, example="48000000"),
        Field("published_at", types.INSTANT, needed=False, example="2023-08-15T07:00:00Z"),
        _SOURCE,
    ),
    ("security", "source"),
    SharesRecord,
    same=("security", "source", "date"),
)

VENUES = RecordKind(
    "venues",
    (
        Field("mic", types.MIC, example="ZALD"),
        Field("name", types.TEXT, example="Aldmoor Exchange"),
        Field("country", types.COUNTRY, example="XA"),
        Field("time_zone", types.ZONE, example="Etc/GMT+1"),
        Field("close", types.TIME, example="17:30"),
        Field("valid_from", types.DAY, example="2012-01-01"),
        _SOURCE,
    ),
    ("source",),
    VenueRecord,
    same=("source", "mic", "valid_from"),
)
VENUE_WORDS = RecordKind(
    "venue_words",
    (
        Field("word", types.TEXT, example=".ALD"),
        Field("mic", types.MIC, needed=False, example="ZALD"),
        Field("who", types.TEXT, example="ada"),
    ),
    (),
    VenueWordRecord,
    same=("word",),
)
MARKET_VERDICTS = RecordKind(
    "market_verdicts",
    (
        Field("kind", types.TEXT, example="prices"),
        Field("subject", types.TEXT, example="EXW@ZALD"),
        Field("date", types.DAY, example="2024-03-28", attribute="day"),
        Field("accepted", types.FLAG, example="yes"),
        Field("who", types.TEXT, example="ada"),
        Field("why", types.TEXT, example="a consolidation, hundred to one"),
    ),
    (),
    MarketVerdictRecord,
    same=("kind", "subject", "date"),
    touches=Touches.RATES,  # one on a rate
)

RECEIPT_RATIOS = RecordKind(
    "receipt_ratios",
    (
        Reference("security", "securities", example="EXWR@ZCAL"),
        Field("valid_from", types.DAY, example="2023-06-05"),
        Field(
            "ratio",
            types.POSITIVE,
            example="2",
            mend="write how many ordinary shares one receipt stands for",
        ),
        Field("published_at", types.INSTANT, needed=False, example="2023-05-08T06:00:00Z"),
        _SOURCE,
    ),
    ("security", "source"),
    ReceiptRatioRecord,
    same=("security", "source", "valid_from"),
)
SERIES_ATTRIBUTES = RecordKind(
    "series_attributes",
    (
        Reference("series", "series", example="OUTPUT/Q.XA.TOTAL.SA"),
        Field("name", types.SERIES_WORD, example="title"),
        Field("value", types.TEXT, example="Output of all branches, Aldmoor, volume"),
        Field("published_at", types.INSTANT, example="2012-01-01T00:00:00Z"),
        _SOURCE,
    ),
    ("source",),
    SeriesAttributeRecord,
    same=("series", "source", "name", "published_at"),
)


def _kept(table: str, name: str, title: str, description: str) -> RecordKind:
    """Something that people keep under a name, with all its versions."""
    columns = (
        Field("name", types.TEXT, example=name),
        Field("title", types.TEXT, example=title),
        Field("description", _VALUE_OR_NOTHING, example=description),
        Field("content", types.LONG_TEXT, example="{}"),
        Field("archived", types.FLAG, example="no"),
        Field("who", types.TEXT, example="ada"),
    )
    return RecordKind(table, columns, (), KeptRecord, same=("name",))


SERIES_SHEETS = _kept(
    "series_sheets", "inflation", "Inflation of three economies", "Consumer prices"
)
MEASURES = _kept("measures", "cash_margin", "Cash margin", "Operating cash flow over revenue")
QUESTIONS = _kept(
    "questions", "profitable-few", "Profitable few", "Margins of the first look, month by month"
)

_ALL = (
    ATTRIBUTES, IDENTIFIERS, LISTINGS, MEMBERS, RATES, SPLITS, VENUES, VENUE_WORDS, DIVIDENDS, DELISTINGS, SHARES,
    MARKET_VERDICTS, SERIES_ATTRIBUTES, SERIES_SHEETS, RECEIPT_RATIOS, MEASURES, QUESTIONS,
)  # fmt: skip
KINDS: Mapping[str, RecordKind] = {kind.name: kind for kind in _ALL}
