"""Companies, securities, listings and venues: to search, to count and to look at."""

from collections import Counter
from dataclasses import dataclass
from datetime import date

from wise_ledger.core.errors import NotFound, Problem, bad_input
from wise_ledger.core.identity.matching import Matcher, Policy
from wise_ledger.core.identity.universe import FOREVER, Venue
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.records import kinds
from wise_ledger.core.records.records import VenueWordRecord
from wise_ledger.core.time.instants import end_of_day, micros
from wise_ledger.core.time.periods import as_date, day
from wise_ledger.engine.identity import ANY_TYPE
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store import reading
from wise_ledger.store.ledger import Ledger
from wise_ledger.work.match import CompanyShown, ListingShown, dates, listing_shown, shown

__all__ = [
    "Snapshot",
    "call_venue",
    "company_page",
    "listings",
    "search",
    "securities",
    "venues",
]


@dataclass(frozen=True)
class Span:
    """A name, identifier or attribute value with its dates, both included; None where open."""

    kind: str
    value: str
    of: str | None
    valid_from: date | None
    valid_to: date | None


@dataclass(frozen=True)
class Holding:
    """What the ledger holds of an item for a company."""

    item: str
    facts: int
    first_period_end: date
    last_period_end: date
    last_published: date


@dataclass(frozen=True)
class CompanyPage:
    """All there is to know about a company, as known on a date."""

    company: CompanyShown
    known_on: date
    batch: int
    ended: date | None
    end_cause: str | None
    names: tuple[Span, ...]
    identifiers: tuple[Span, ...]
    attributes: tuple[Span, ...]
    listings: tuple[ListingShown, ...]
    holdings: tuple[Holding, ...]
    documents: tuple[reading.Document, ...]


@dataclass(frozen=True)
class VenueCount:
    """A venue with its listings and companies by security type on a day."""

    mic: str
    name: str | None
    country: str | None
    time_zone: str | None
    close: str | None
    also_called: tuple[str, ...]
    security_type: str
    listings: int
    companies: int


def search(
    snapshot: Snapshot,
    query: str,
    on: date,
    *,
    with_inactive: bool,
    country: str | None,
    limit: int,
    skip: int = 0,
) -> tuple[list[CompanyShown], int]:
    """Companies by name, symbol or identifier (all that were known by the day, without a query),
    by name; and how many there are in all.

    The first `limit` after `skip` of them.
    """
    today = day(on)
    matcher = Matcher(snapshot.universe, today, Policy(ANY_TYPE, ever=True), snapshot.source_names)
    if query.strip():
        found = matcher.match(query)
        ranked = [c for c in (found.chosen, *found.candidates) if c is not None]
        if found.scheme == "name":  # names with the very words come first
            ranked = [found.chosen] if found.chosen is not None else []
            ranked = [*ranked, *matcher.near(query, 25), *found.candidates]
            ranked = list({c.company: c for c in reversed(ranked)}.values())[::-1]
    else:
        numbers = sorted(
            (n for n in range(len(snapshot.ids)) if snapshot.universe.begun(n, today)),
            key=lambda n: snapshot.universe.name(n, today) or "",
        )
        ranked = [matcher.candidate(n, "") for n in numbers]
    kept = [shown(snapshot, c, today) for c in ranked]
    kept = [c for c in kept if (with_inactive or c.active) and country in (None, c.country)]
    return kept[skip : skip + limit], len(kept)


def company_page(ledger: Ledger, snapshot: Snapshot, company: str, on: date) -> CompanyPage:
    """The page of one company (any identifier); raises `NotFound`."""
    today, cutoff = day(on), micros(end_of_day(on))
    number = snapshot.number(company, cutoff)
    universe = snapshot.universe
    matcher = Matcher(
        universe, today, Policy(ANY_TYPE, all_listings=True, ever=True), snapshot.source_names
    )
    ending = universe.activity[number].ending(today)
    limits = snapshot.view.limits
    with ledger.database.read() as connection:
        held = reading.holdings(connection, number, cutoff, snapshot.batch, limits)
        documents = reading.documents_of(connection, number, cutoff, snapshot.batch, limits)
    listings = [
        listing_shown(snapshot, x.number, today)
        for s in universe.securities_of.get(number, [])
        for x in universe.listings_of.get(s.number, [])
        if x.span.since <= today
    ]
    return CompanyPage(
        company=shown(snapshot, matcher.candidate(number, ""), today),
        known_on=on,
        batch=snapshot.batch,
        ended=None if ending is None else as_date(ending.span.since - 1),
        end_cause=None if ending is None else ending.cause,
        names=tuple(
            Span("name", n.name, None, *dates(n.span, today))
            for n in universe.names_of.get(number, [])
            if n.span.since <= today
        ),
        identifiers=tuple(
            Span(
                i.scheme,
                i.value,
                None if i.security is None else snapshot.security_ids[i.security],
                *dates(i.span, today),
            )
            for i in universe.identifiers_of.get(number, [])
            if i.span.since <= today
        ),
        attributes=tuple(_attributes(snapshot, number, cutoff)),
        listings=tuple(sorted(listings, key=lambda x: (x.valid_from or date.min, x.symbol))),
        holdings=tuple(Holding(*h) for h in held),
        documents=tuple(documents),
    )


def _attributes(snapshot: Snapshot, number: int, cutoff: int) -> list[Span]:
    out = []
    for name in (
        "country",
        "seat",
        "industry",
        "template",
        "currency",
        "fiscal_year_end",
        "website",
        "description",
    ):
        known = [a for a in snapshot.attributes.by_company(name).get(number, []) if a.at <= cutoff]
        out += [Span(name, a.value, None, as_date(a.valid_from), None) for a in known]
    return out


@dataclass(frozen=True)
class SecurityShown:
    """An instrument with its company and where it is listed."""

    id: str
    company: str
    name: str
    type: str
    title: str
    ratio: float | None
    listings: tuple[ListingShown, ...]


def securities(snapshot: Snapshot, on: date, security_type: str | None) -> list[SecurityShown]:
    """Every security, or those of a type, with the listings of a day."""
    universe, today = snapshot.universe, day(on)
    out = []
    for security in universe.securities:
        if security_type not in (None, security.type):
            continue
        every = universe.listings_of.get(security.number, [])
        if every and all(x.span.since > today for x in every):
            continue  # not one yet
        traded = [x for x in every if x.span.holds(today)]
        out.append(
            SecurityShown(
                snapshot.security_ids[security.number],
                snapshot.ids[security.company],
                universe.name(security.company, today) or snapshot.ids[security.company],
                security.type,
                security.title,
                security.ratio,
                tuple(listing_shown(snapshot, x.number, today) for x in traded),
            )
        )
    return sorted(out, key=lambda s: (s.name, s.type))


def venues(snapshot: Snapshot, on: date) -> list[VenueCount]:
    """Listings and companies at each venue by security type on a day."""
    universe, today = snapshot.universe, day(on)
    count: Counter[tuple[str, str]] = Counter()
    companies: dict[tuple[str, str], set[int]] = {}
    for listing in universe.listings:
        if listing.span.holds(today):
            key = (listing.mic, universe.security[listing.security].type)
            count[key] += 1
            companies.setdefault(key, set()).add(universe.company_of(listing))
    out = []
    for (mic, kind), n in sorted(count.items()):
        known = universe.venue(mic, today) or Venue(mic, "", "", "", "")
        about = (
            known.name or None,
            known.country or universe.venue_countries.get(mic),
            known.time_zone or None,
            known.close or None,
        )
        out.append(VenueCount(mic, *about, known.words, kind, n, len(companies[mic, kind])))
    return out


def call_venue(ledger: Ledger, snapshots: Snapshots, word: str, mic: str | None, who: str) -> int:
    """Teach what a venue is also called, such as the suffix of its symbols;
    without one the word is taken back.
    """
    universe, called = snapshots.at().universe, " ".join(word.split())
    mics = sorted({x.mic for x in universe.listings} | set(universe.venues))
    if not called or not who.strip():
        raise bad_input(
            "word" if not called else "who", "", "it is empty", "say what is taught, and by whom"
        )
    if mic is not None and mic not in mics:
        raise bad_input("mic", mic, "there is no such venue", mend_for(mic, mics))
    taught = {w for versions in universe.venues.values() for w in versions[-1].words}
    if mic is None and called not in taught:
        raise NotFound(
            Problem("word", called, "no venue is called so", "see what venues are called")
        )
    with ledger.batch("venue", f"{called} means {mic or 'nothing'}, says {who.strip()}") as batch:
        batch.add(kinds.VENUE_WORDS, [VenueWordRecord(called, mic, who.strip())])
    return ledger.last_batch()


def listings(
    snapshot: Snapshot, on: date | None, mic: str | None, security_type: str | None
) -> list[tuple[CompanyShown, ListingShown]]:
    """Listings with their companies: those of a day, or all there ever were,
    of a venue or a type.
    """
    universe = snapshot.universe
    today = FOREVER if on is None else day(on)
    matcher = Matcher(universe, today, Policy(ANY_TYPE, ever=True))
    out = []
    for listing in universe.listings:
        kind = universe.security[listing.security].type
        if on is not None and not listing.span.holds(today):
            continue
        if mic in (None, listing.mic) and security_type in (None, kind):
            number = universe.company_of(listing)
            seen = max(listing.span.since, 0) if on is None else today
            company = shown(snapshot, matcher.candidate(number, ""), seen)
            out.append((company, listing_shown(snapshot, listing.number, today)))
    return sorted(out, key=lambda row: (row[1].mic, row[1].symbol, row[1].valid_from or date.min))
