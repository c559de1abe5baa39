"""Everything that names a company: identifiers, securities, listings and names,
each with its span of dates.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import TypeVar

from wise_ledger.core.identity.nameindex import NameIndex
from wise_ledger.core.identity.symbols import symbol_key

FOREVER = 10_000_000
K = TypeVar("K")
V = TypeVar("V")


@dataclass(frozen=True, slots=True)
class Stretch:
    """From a day to a day, both included."""

    since: int = -FOREVER
    until: int = FOREVER

    def holds(self, day: int) -> bool:
        """Whether the day is inside."""
        return self.since <= day <= self.until


@dataclass(frozen=True, slots=True)
class IdentifierSpan:
    """A value of a scheme that named a company, or one of its securities, for a stretch."""

    scheme: str
    value: str
    company: int
    security: int | None
    span: Stretch


@dataclass(frozen=True, slots=True)
class NameSpan:
    """A name that a company bore."""

    name: str
    company: int
    span: Stretch


@dataclass(frozen=True, slots=True)
class Security:
    """An instrument; `type` is ordinary, preference, depositary_receipt, fund, unit or warrant."""

    number: int
    company: int
    type: str
    title: str = ""
    ratio: float | None = None


@dataclass(frozen=True, slots=True)
class Listing:
    """A security traded at a venue under a symbol."""

    number: int
    security: int
    symbol: str
    mic: str
    currency: str
    span: Stretch
    primary: bool = False


@dataclass(frozen=True, slots=True)
class Venue:
    """Where securities trade, from a day on; `close` is HH:MM of its own clock, `words` what it is
    also called.
    """

    mic: str
    name: str
    country: str
    time_zone: str
    close: str
    words: tuple[str, ...] = ()
    since: int = -FOREVER


@dataclass(frozen=True, slots=True)
class Ending:
    """A stretch in which a company was not active any more, and why."""

    span: Stretch
    cause: str | None = None


@dataclass(frozen=True, slots=True)
class Activity:
    """A company's life: where it is at home, and when it was not active."""

    country: str | None = None
    endings: tuple[Ending, ...] = ()

    def ending(self, day: int) -> Ending | None:
        """The one that a day is in; None where the company is active then."""
        return next((e for e in self.endings if e.span.holds(day)), None)


@dataclass(eq=False)
class Universe:
    """All companies (by number) and all that names them."""

    activity: Sequence[Activity]
    identifiers: Sequence[IdentifierSpan] = ()
    names: Sequence[NameSpan] = ()
    securities: Sequence[Security] = ()
    listings: Sequence[Listing] = ()
    venue_countries: dict[str, str] = field(default_factory=dict)
    # as somebody described or named them, by MIC, in order of the days from which that holds
    venues: Mapping[str, Sequence[Venue]] = field(default_factory=dict)

    @cached_property
    def by_value(self) -> dict[tuple[str, str], list[IdentifierSpan]]:
        """Identifiers by scheme and value."""
        return _grouped(((i.scheme, i.value), i) for i in self.identifiers)

    @cached_property
    def by_symbol(self) -> dict[str, list[Listing]]:
        """Listings by their symbol in one spelling, the earliest first."""
        found = _grouped((symbol_key(x.symbol), x) for x in self.listings)
        return {k: sorted(v, key=lambda x: x.span.since) for k, v in found.items()}

    @cached_property
    def security(self) -> dict[int, Security]:
        """Securities by number."""
        return {s.number: s for s in self.securities}

    @cached_property
    def securities_of(self) -> dict[int, list[Security]]:
        """Securities by company."""
        return _grouped((s.company, s) for s in self.securities)

    @cached_property
    def listings_of(self) -> dict[int, list[Listing]]:
        """Listings by security."""
        return _grouped((x.security, x) for x in self.listings)

    @cached_property
    def identifiers_of(self) -> dict[int, list[IdentifierSpan]]:
        """Identifiers by company."""
        return _grouped((i.company, i) for i in self.identifiers)

    @cached_property
    def names_of(self) -> dict[int, list[NameSpan]]:
        """Names by company, in order of time."""
        found = _grouped((n.company, n) for n in self.names)
        return {k: sorted(v, key=lambda n: n.span.since) for k, v in found.items()}

    @cached_property
    def name_index(self) -> NameIndex:
        """Every name ever borne, to be searched by likeness."""
        return NameIndex([n.name for n in self.names])

    @cached_property
    def places(self) -> Mapping[str, str]:
        """What a symbol may be given with, in capitals,
        to the venue (MIC) or country that is meant.
        """
        own = {x.mic for x in self.listings} | set(self.venue_countries.values())
        every = [v for versions in self.venues.values() for v in versions]
        called = {_word(w): v.mic for v in every for w in (v.name, *v.words) if w}
        return {**called, **{place: place for place in own}}

    def place(self, text: str | None) -> str | None:
        """The venue or country that a word means; what none is called by stays as it is."""
        return None if text is None else self.places.get(_word(text), _word(text))

    def begun(self, company: int, day: int) -> bool:
        """Whether anything that names a company holds since a day or longer (T9); of one that
        nothing but its own id names that is so.
        """
        spans = [n.span for n in self.names_of.get(company, [])]
        spans += [i.span for i in self.identifiers_of.get(company, []) if i.scheme != "company"]
        spans += [
            x.span
            for s in self.securities_of.get(company, [])
            for x in self.listings_of.get(s.number, [])
        ]
        return not spans or min(s.since for s in spans) <= day

    def name(self, company: int, day: int) -> str | None:
        """The company's name on a day; before its first, that one; after its last, that one."""
        borne = self.names_of.get(company, [])
        if not borne:
            return None
        return next((n.name for n in reversed(borne) if n.span.since <= day), borne[0].name)

    def venue(self, mic: str, day: int) -> Venue | None:
        """A venue as described on a day; before its first description, that one."""
        return described(self.venues.get(mic, ()), day)

    def company_of(self, listing: Listing) -> int:
        """The company whose security is listed."""
        return self.security[listing.security].company


def described(versions: Sequence[Venue], day: int) -> Venue | None:
    """The version of a venue that holds on a day, before the first that one; None of none."""
    found = next((v for v in reversed(versions) if v.since <= day), None)
    return found or next(iter(versions), None)


def _word(text: str) -> str:
    """What a venue is called, in one spelling: without the separator before a suffix,
    capitals, single blanks.
    """
    return " ".join(text.upper().lstrip(".-/:@_ ").split())


def _grouped(pairs: Iterable[tuple[K, V]]) -> dict[K, list[V]]:
    out: dict[K, list[V]] = {}
    for key, value in pairs:
        out.setdefault(key, []).append(value)
    return out


def of_company(universe: Universe, company: int, day: int, types: Iterable[str]) -> list[Listing]:
    """The listings of a company's securities of some types on a day, the primary ones first."""
    wanted = set(types)
    found = [
        listing
        for security in universe.securities_of.get(company, [])
        if security.type in wanted
        for listing in universe.listings_of.get(security.number, [])
        if listing.span.holds(day)
    ]
    return sorted(
        found,
        key=lambda x: (not x.primary, universe.security[x.security].type != "ordinary", x.number),
    )
