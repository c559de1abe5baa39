"""Reading what names companies: identifiers, securities, listings,
and what people decided of terms.
"""

from dataclasses import dataclass, replace
from typing import Any

from sqlalchemy import Connection, Row, select

from wise_ledger.core.identity.universe import (
    FOREVER,
    IdentifierSpan,
    Listing,
    Security,
    Stretch,
    Venue,
)
from wise_ledger.store.tables import (
    batches,
    decisions,
    identifiers,
    listings,
    securities,
    venue_words,
    venues,
)


@dataclass(frozen=True)
class Decision:
    """What a person said a term means; without a company an earlier word was taken back."""

    term: str
    company: int | None
    who: str
    why: str
    batch: int
    recorded_at: int


def _stretch(since: int, until: int | None) -> Stretch:
    return Stretch(since, FOREVER if until is None else until)


def all_identifiers(connection: Connection, batch: int) -> list[IdentifierSpan]:
    """Every identifier up to a batch; of one given again with another end the later word counts."""
    query = select(identifiers).where(identifiers.c.batch <= batch).order_by(identifiers.c.id)
    newest = {(r.scheme, r.value, r.company, r.valid_from): r for r in connection.execute(query)}
    return [
        IdentifierSpan(r.scheme, r.value, r.company, r.security, _stretch(r.valid_from, r.valid_to))
        for r in newest.values()
    ]


def all_securities(connection: Connection, batch: int) -> list[Security]:
    """Every security up to a batch."""
    query = select(securities).where(securities.c.batch <= batch).order_by(securities.c.number)
    return [
        Security(r.number, r.company, r.type, r.title, r.ratio) for r in connection.execute(query)
    ]


def all_listings(connection: Connection, batch: int) -> list[Listing]:
    """Every listing up to a batch; of one given again with another end the later word counts."""
    query = select(listings).where(listings.c.batch <= batch).order_by(listings.c.number)
    versions: dict[tuple[int, str, str, int], list[Row[Any]]] = {}
    for row in connection.execute(query):
        versions.setdefault((row.security, row.symbol, row.mic, row.valid_from), []).append(row)
    # It keeps the number by which it was first known: prices are kept under it.
    return [
        Listing(
            first.number,
            r.security,
            r.symbol,
            r.mic,
            r.currency,
            _stretch(r.valid_from, r.valid_to),
            r.main,
        )
        for first, r in ((rows[0], rows[-1]) for rows in versions.values())
    ]


def all_venues(connection: Connection, batch: int) -> dict[str, tuple[Venue, ...]]:
    """Every venue that was described or named up to a batch, by MIC, in order of time:
    from each day on as the first source that describes it by then says last.
    """
    query = select(venues).where(venues.c.batch <= batch)
    rows: dict[str, list[Row[Any]]] = {}
    for r in connection.execute(query.order_by(venues.c.valid_from, venues.c.id)):
        rows.setdefault(r.mic, []).append(r)
    found: dict[str, tuple[Venue, ...]] = {}
    for mic, own in rows.items():
        versions = []
        for day in sorted({r.valid_from for r in own}):
            begun = [r for r in own if r.valid_from <= day]
            r = [r for r in begun if r.source == min(b.source for b in begun)][-1]
            versions.append(Venue(mic, r.name, r.country, r.time_zone, r.close, since=day))
        found[mic] = tuple(versions)
    words: dict[str, str | None] = {}
    for r in connection.execute(
        select(venue_words).where(venue_words.c.batch <= batch).order_by(venue_words.c.id)
    ):
        words[r.word] = r.mic
    for mic in {m for m in words.values() if m is not None}:
        own = tuple(sorted(w for w, m in words.items() if m == mic))
        versions = found.get(mic, (Venue(mic, "", "", "", ""),))
        found[mic] = tuple(replace(v, words=own) for v in versions)
    return found


def ids_of(connection: Connection) -> tuple[list[str], list[str]]:
    """Ids of securities and of listings, by number."""
    both = []
    for table in (securities, listings):
        both.append([r.id for r in connection.execute(select(table.c.id).order_by(table.c.number))])
    return both[0], both[1]


def all_decisions(connection: Connection, batch: int) -> list[Decision]:
    """Every decision up to a batch, in order."""
    query = (
        select(decisions, batches.c.recorded_at)
        .join_from(decisions, batches)
        .where(decisions.c.batch <= batch)
        .order_by(decisions.c.id)
    )
    return [
        Decision(r.term, r.company, r.who, r.why, r.batch, r.recorded_at)
        for r in connection.execute(query)
    ]
