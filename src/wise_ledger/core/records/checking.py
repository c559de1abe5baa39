"""The one door for values: every record is looked at here before the ledger keeps it, from whatever source it comes.

A record that does not pass is refused with its problem and stops nothing else.
"""

import math
import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from datetime import date, datetime, timedelta
from typing import Any, TypeVar

import numpy as np

from wise_ledger.core.catalogue.items import ALL_TEMPLATES
from wise_ledger.core.errors import Problem
from wise_ledger.core.identity.industries import DIVISIONS
from wise_ledger.core.money.currencies import is_currency
from wise_ledger.core.records.records import (
    AttributeRecord,
    FactRecord,
    IdentifierRecord,
    ListingRecord,
    MemberRecord,
    RateRecord,
    SplitRecord,
)

FIRST_YEAR, LAST_YEAR = 1900, 2200
LARGEST = 1e20  # of any figure in units, weight or ratio
LONGEST = 4_000  # characters of a text
SKEW = timedelta(days=1)  # that clocks and time zones may differ by
_MIC = re.compile(r"[A-Z0-9]{4}")
_UNREADABLE = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ud800-\udfff]")
R = TypeVar("R")

Found = Iterator[Problem]


def _text(at: str, value: Any, *, empty: bool = False) -> Found:
    if not isinstance(value, str):
        yield Problem(at, repr(value)[:80], "this is no text", "write a text")
    elif _UNREADABLE.search(value):
        shown = value.encode("ascii", "backslashreplace").decode()[:80]
        yield Problem(at, shown, "it holds characters that cannot be read", "take them out")
    elif not value.strip() and not empty:
        yield Problem(at, value, "the text is empty", "write one")
    elif len(value) > LONGEST:
        yield Problem(at, value[:40], f"the text has {len(value)} characters", f"keep it to {LONGEST}")


def _day(at: str, value: date | None) -> Found:
    if value is not None and not FIRST_YEAR <= value.year <= LAST_YEAR:
        yield Problem(at, str(value), f"the year is not between {FIRST_YEAR} and {LAST_YEAR}", "mend the date")


def _span(since: date, until: date | None) -> Found:
    yield from _day("from", since)
    yield from _day("to", until)
    if until is not None and until < since:
        yield Problem("to", str(until), f"it is before {since}", "swap the two dates, or mend one")


def _instant(at: str, value: datetime | None, now: datetime | None) -> Found:
    if value is None:
        return
    if value.tzinfo is None:
        yield Problem(at, str(value), "an instant needs its time zone", "write it, such as Z for UTC")
        return
    yield from _day(at, value.date())
    if now is not None and value > now + SKEW:
        yield Problem(at, value.isoformat(), "it is in the future", "mend the instant, or the clock")


def _number(at: str, value: float | None, *, above: float | None = None) -> Found:
    if value is None:
        return
    if not math.isfinite(value) or abs(value) > LARGEST:
        yield Problem(at, str(value), "no figure can be so large, or it is no number", "mend the number or its scale")
    elif above is not None and value <= above:
        yield Problem(at, str(value), f"it is not above {above:g}", "mend the number")


def all_pass(records: Sequence[FactRecord], now: datetime) -> bool:
    """Whether no figure has a problem, in one look at all: millions pass here. Where it says no, `of_fact` says why."""
    try:
        values = {type(r.value) for r in records}
        if not values <= {float, int, type(None)}:
            return False
        numbers = np.array([0.0 if r.value is None else r.value for r in records], np.float64)
        days = {d for r in records for d in (r.period_start, r.declared_end, r.share_basis_date)} - {None}
        days |= {r.period_end for r in records}
        reported = {r.published_at for r in records if not r.assumed}
        assumed = {r.published_at for r in records if r.assumed}
        texts = [*{r.unit for r in records}, *{r.basis for r in records}]
        texts += [r.reported for r in records]
        texts += [r.place for r in records]
        return (
            bool((np.abs(numbers) <= LARGEST).all())
            and all(type(d) is date and FIRST_YEAR <= d.year <= LAST_YEAR for d in days)
            and all(at.tzinfo is not None and FIRST_YEAR <= at.year <= LAST_YEAR for at in reported | assumed)
            and all(at <= now for at in reported)
            and all(unit.strip() for unit in {r.unit for r in records})
            and max(map(len, texts), default=0) < LONGEST
            and not _UNREADABLE.search("".join(texts))
        )
    except (AttributeError, TypeError, OverflowError):
        return False


def of_fact(record: FactRecord, now: datetime) -> Found:
    """Problems of a figure; one whose publication was assumed may lie ahead."""
    yield from _number("value", record.value)
    yield from _day("period_start", record.period_start)
    yield from _day("period_end", record.period_end)
    yield from _day("declared_end", record.declared_end)
    yield from _day("share_basis_date", record.share_basis_date)
    yield from _instant("published_at", record.published_at, None if record.assumed else now)
    yield from _text("unit", record.unit)
    for at in ("reported", "place", "basis"):
        yield from _text(at, getattr(record, at), empty=True)


def _month(value: str) -> bool:
    return value.isascii() and value.isdigit() and len(value) <= 2 and 1 <= int(value) <= 12


# Of attributes whose values are codes: what is asked of one, and how to write it.
CODES: Mapping[str, tuple[Callable[[str], bool], str]] = {
    "fiscal_year_end": (_month, "write the month as 1 to 12"),
    "fiscal_year_named_by": (lambda v: v in ("start", "end"), "write start or end"),
    "template": (lambda v: v in ALL_TEMPLATES, f"write {', '.join(sorted(ALL_TEMPLATES))}"),
    "currency": (is_currency, "write a code of ISO 4217, such as EUR"),
    "active": (lambda v: v in ("yes", "no"), "write yes or no"),
    "industry": (lambda v: v in DIVISIONS, "write a division of ISIC Rev. 4, such as 23"),
    "country": (lambda v: len(v) == 2 and v.isascii() and v.isalpha() and v.isupper(), "write two capitals: XA"),
}


def of_attribute(record: AttributeRecord, now: datetime) -> Found:
    """Problems of what is stated of a company."""
    wrong = list(_text(record.name, record.value, empty=record.name in ("website", "description", "seat")))
    yield from wrong
    yield from _day(f"{record.name}, valid_from", record.valid_from)
    yield from _instant(f"{record.name}, published_at", record.published_at, now)
    if not wrong and record.name in CODES and not CODES[record.name][0](record.value):
        yield Problem(record.name, record.value, f"there is no such {record.name}", CODES[record.name][1])


def of_identifier(record: IdentifierRecord, _now: datetime) -> Found:
    """Problems of an identifier."""
    yield from _text("scheme", record.scheme)
    yield from _text(record.scheme if isinstance(record.scheme, str) else "value", record.value)
    yield from _span(record.valid_from, record.valid_to)


def of_listing(record: ListingRecord, _now: datetime) -> Found:
    """Problems of a listing."""
    yield from _text("symbol", record.symbol)
    if not (isinstance(record.mic, str) and _MIC.fullmatch(record.mic)):
        yield Problem("mic", str(record.mic)[:80], "this is no code of a venue", "write four capitals (ISO 10383)")
    if not (isinstance(record.currency, str) and is_currency(record.currency)):
        yield Problem("currency", str(record.currency)[:80], "this is no currency", CODES["currency"][1])
    yield from _span(record.valid_from, record.valid_to)


def of_member(record: MemberRecord, _now: datetime) -> Found:
    """Problems of a stay on a list."""
    # A stay that was taken back on its first day ends the day before it.
    until = record.valid_to
    yield from _span(record.valid_from, until if until is None or until.year > LAST_YEAR else until + SKEW)
    yield from _number("weight", record.weight)


def of_rate(record: RateRecord, _now: datetime) -> Found:
    """Problems of a rate between two currencies."""
    for at, code in (("base", record.base), ("quote", record.quote)):
        if not (isinstance(code, str) and is_currency(code)):
            yield Problem(at, str(code)[:80], "this is no currency", CODES["currency"][1])
    yield from _day("date", record.day)
    yield from _number("rate", record.rate, above=0.0)


def of_split(record: SplitRecord, now: datetime) -> Found:
    """Problems of a split."""
    yield from _day("ex_date", record.ex_date)
    yield from _number("ratio", record.ratio, above=0.0)
    yield from _instant("published_at", record.published_at, now)


def passing(
    records: Iterable[R], problems_of: Callable[[R, datetime], Found], now: datetime
) -> tuple[list[R], list[Problem]]:
    """The records without a problem, in their order, and the first problem of each of the others."""
    good: list[R] = []
    wrong: list[Problem] = []
    for record in records:
        problem = next(problems_of(record, now), None)
        if problem is None:
            good.append(record)
        else:
            wrong.append(problem)
    return good, wrong


def in_words(problems: Sequence[Problem]) -> str:
    """Refused values in one sentence, the first ones named."""
    shown = "; ".join(f"{p.at} {p.value}: {p.problem}" for p in problems[:3])
    more = f"; and {len(problems) - 3} more" if len(problems) > 3 else ""
    return f"{len(problems)} {'value' if len(problems) == 1 else 'values'} refused: {shown}{more}"
