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
    """Where securities trade; `close` is HH:MM of its own clock, `words` what it is also called."""

    mic: str
    name: str
    country: str
    time_zone: str
    close: str
    words: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Activity:
    """A company's life: active from a day until a day, and how that ended."""

    country: str | None = None
    span: Stretch = Stretch()
    cause: str | None = None


@dataclass(eq=False)
class Universe:
    """All companies (by number) and all that names them."""

    activity: Sequence[Activity]
    identifiers: Sequence[IdentifierSpan] = ()
    names: Sequence[NameSpan] = ()
    securities: Sequence[Security] = ()
    listings: Sequence[Listing] = ()
    venue_countries: dict[str, str] = field(default_factory=dict)
    # those that somebody described or named, by MIC
    venues: Mapping[str, Venue] = field(default_factory=dict)

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
        called = {_word(w): v.mic for v in self.venues.values() for w in (v.name, *v.words) if w}
        return {**called, **{place: place for place in own}}

    def place(self, text: str | None) -> str | None:
        """The venue or country that a word means; what none is called by stays as it is."""
        return None if text is None else self.places.get(_word(text), _word(text))

    def name(self, company: int, day: int) -> str | None:
        """The company's name on a day; before its first, that one; after its last, that one."""
        borne = self.names_of.get(company, [])
        if not borne:
            return None
        return next((n.name for n in reversed(borne) if n.span.since <= day), borne[0].name)

    def company_of(self, listing: Listing) -> int:
        """The company whose security is listed."""
        return self.security[listing.security].company


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
