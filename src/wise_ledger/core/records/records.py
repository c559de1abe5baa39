"""What a source says, before the ledger has it: documents, facts, attributes,
identifiers, membership.
"""

import hashlib
from dataclasses import dataclass
from datetime import date, datetime
from functools import cached_property
from typing import NamedTuple

CONSOLIDATED = "consolidated"  # the basis of the figures of a company as a whole


@dataclass(frozen=True)
class DocumentRecord:
    """What a source published at an instant, with its raw bytes;
    `key` is the source's own name for it.
    """

    key: str
    title: str
    kind: str
    media_type: str
    content: bytes
    published_at: datetime | None

    @cached_property
    def sha256(self) -> str:
        """The address of the raw bytes."""
        return hashlib.sha256(self.content).hexdigest()


class FactRecord(NamedTuple):
    """One figure; `value` is in units, None withdraws (T6).

    `reported` and `scale` keep what was written (M1).

    Millions are made: a named tuple, the cheapest value that does not change.
    """

    item: str
    period_start: date | None
    period_end: date
    value: float | None
    reported: str
    scale: int
    unit: str
    published_at: datetime
    place: str
    assumed: bool = False
    basis: str = CONSOLIDATED
    fiscal_period: str | None = None
    declared_end: date | None = None
    # on whose shares a per-share value or share count is stated (M3)
    share_basis_date: date | None = None


@dataclass(frozen=True, slots=True)
class RateRecord:
    """Units of `quote` for one `base` (ISO 4217) on a day;
    without `published_at` known at its end (T9).
    """

    base: str
    quote: str
    day: date
    rate: float
    published_at: datetime | None = None


@dataclass(frozen=True)
class AttributeRecord:
    """From `valid_from` on the attribute has this value; without `published_at`,
    known at that day's end (T9).
    """

    name: str
    value: str
    valid_from: date
    published_at: datetime | None = None


@dataclass(frozen=True)
class IdentifierRecord:
    """A scheme and a value that named the company from a date to a date, both included."""

    scheme: str
    value: str
    valid_from: date
    valid_to: date | None = None
    security_key: str | None = None  # of what, if not of the company itself


@dataclass(frozen=True)
class ListingRecord:
    """A security traded at a venue under a symbol, both dates included."""

    symbol: str
    mic: str
    currency: str
    valid_from: date
    valid_to: date | None = None
    primary: bool = False


@dataclass(frozen=True)
class SplitRecord:
    """`ratio` new shares for each old one from `ex_date` on, none where it was taken back.

    Without `published_at` it is known when its ex-date begins (T9).
    """

    ex_date: date
    ratio: float | None = None
    published_at: datetime | None = None


@dataclass(frozen=True, slots=True)
class DividendRecord:
    """What a share is paid that was held before `ex_date`; without an amount it was taken back.

    Without `published_at` it is known when its ex-date begins (T9).
    """

    ex_date: date
    amount: float | None
    currency: str | None
    kind: str
    published_at: datetime | None = None


@dataclass(frozen=True, slots=True)
class DelistingRecord:
    """A listing's last day, why it ended,
    and the return after its last close where that is known.
    """

    day: date
    cause: str
    final_return: float | None = None
    published_at: datetime | None = None


@dataclass(frozen=True, slots=True)
class SharesRecord:
    """Shares outstanding of a security on a day, on the share basis of that day."""

    day: date
    shares_outstanding: float
    published_at: datetime | None = None


@dataclass(frozen=True)
class SecurityRecord:
    """An instrument; `key` is the source's own,
    `ratio` of a receipt is how many ordinary shares it stands for.

    A ratio that is another than the one before holds from `ratio_from` on, from the day it is
    recorded without.
    """

    key: str
    type: str
    title: str
    ratio: float | None
    listings: tuple[ListingRecord, ...]
    splits: tuple[SplitRecord, ...] = ()
    ratio_from: date | None = None


@dataclass(frozen=True)
class CompanyRecord:
    """A company as its source describes it; `key` is the source's own."""

    key: str
    name: str
    attributes: tuple[AttributeRecord, ...]
    identifiers: tuple[IdentifierRecord, ...]
    securities: tuple[SecurityRecord, ...] = ()


@dataclass(frozen=True)
class ReceiptRatioRecord:
    """From a day on one receipt stands for so many ordinary shares;
    known that day unless published.
    """

    valid_from: date
    ratio: float
    published_at: datetime | None = None


@dataclass(frozen=True)
class SeriesAttributeRecord:
    """What is said of an economic series: its title, unit, area, and more;
    public from an instant on.
    """

    name: str
    value: str
    published_at: datetime


@dataclass(frozen=True)
class KeptRecord:
    """Something that people keep under a name, such as a measure: its content is JSON;
    a later one replaces it.
    """

    name: str
    title: str
    description: str
    content: str
    archived: bool
    who: str


@dataclass(frozen=True)
class VenueRecord:
    """What a venue is called from a date on, where it is,
    and when it closes (HH:MM of its own clock).
    """

    mic: str
    name: str
    country: str
    time_zone: str
    close: str
    valid_from: date


@dataclass(frozen=True)
class MarketVerdictRecord:
    """What a person says of a price, level or rate that a check keeps out of
    use (Q2); the last word counts.

    `subject` is the id of a listing, the name of a list, or a pair of currencies such as EUR/USD.
    """

    kind: str
    subject: str
    day: date
    accepted: bool
    who: str
    why: str


@dataclass(frozen=True)
class VenueWordRecord:
    """What people also call a venue, such as the suffix of its symbols;
    without a venue the word is taken back.
    """

    word: str
    mic: str | None
    who: str


@dataclass(frozen=True)
class MemberRecord:
    """A company's stay on a list, both ends included."""

    company_key: str
    valid_from: date
    valid_to: date | None = None
    weight: float | None = None


@dataclass(frozen=True)
class ListRecord:
    """A list: of members with their stays, or kept by a rule."""

    name: str
    title: str
    members: tuple[MemberRecord, ...]
    rule: str | None = None


@dataclass(frozen=True)
class TagMeaning:
    """A source's tag means an item; its amounts are turned by `sign`, moved
    by `power` of ten, of `unit` if given.

    `template` narrows it to companies of that template; the narrower meaning goes before the
    general one.
    """

    tag: str
    item: str
    sign: int = 1
    power: int = 0
    unit: str | None = None
    template: str | None = None
