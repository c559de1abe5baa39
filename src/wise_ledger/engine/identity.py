"""What names companies, as of a batch: read from the ledger,
and what their listings say of them.
"""

from collections import Counter, defaultdict
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from sqlalchemy import Connection

from wise_ledger.core.dated.attributes import Attributes, DerivedAttribute
from wise_ledger.core.dated.series import DatedSeries
from wise_ledger.core.identity.universe import (
    FOREVER,
    Activity,
    Ending,
    IdentifierSpan,
    Listing,
    NameSpan,
    Security,
    Stretch,
    Universe,
    of_company,
)  # fmt: skip
from wise_ledger.core.time.instants import DAY
from wise_ledger.store import naming

ANY_TYPE = frozenset({"ordinary", "preference", "depositary_receipt", "fund", "unit", "warrant"})


@dataclass(frozen=True, eq=False)
class Identity:
    """What names companies, and of what their listings are, read by day."""

    universe: Universe
    security_ids: list[str]
    listing_ids: list[str]

    @cached_property
    def derived(self) -> dict[str, DerivedAttribute]:
        """Attributes that are not stated of the company itself: those of its primary listing."""
        return {
            "venue": _by_listing(self.universe, lambda listing, _: listing.mic),
            "security_type": _by_listing(self.universe, lambda _, security: security.type),
        }


def read_identity(
    connection: Connection, ids: list[str], attributes: Attributes, batch: int
) -> Identity:
    """What names companies by a batch, out of their ids and attributes."""
    security_ids, listing_ids = naming.ids_of(connection)
    return Identity(_universe(connection, ids, attributes, batch), security_ids, listing_ids)


def _universe(
    connection: Connection, ids: list[str], attributes: Attributes, batch: int
) -> Universe:
    """All that names companies, out of attributes, identifiers, securities and listings."""
    names, by_company = [], attributes.by_company("name")
    for company, versions in by_company.items():
        for i, a in enumerate(versions):
            until = versions[i + 1].valid_from - 1 if i + 1 < len(versions) else FOREVER
            names.append(NameSpan(a.value, company, Stretch(a.valid_from, until)))
    countries, endings = attributes.by_company("country"), _endings(attributes)
    activity = [
        Activity(countries[n][-1].value if n in countries else None, tuple(endings.get(n, ())))
        for n in range(len(ids))
    ]
    identifiers = naming.all_identifiers(connection, batch)
    # A company's own id names it too, like any identifier.
    identifiers += [IdentifierSpan("company", id_, n, None, Stretch()) for n, id_ in enumerate(ids)]
    listings = naming.all_listings(connection, batch)
    securities = naming.all_securities(connection, batch)
    company_of = {s.number: s.company for s in securities}
    home: dict[str, Counter[str]] = defaultdict(Counter)
    for listing in listings:
        country = activity[company_of[listing.security]].country
        if listing.primary and country:
            home[listing.mic][country] += 1
    venues = naming.all_venues(connection, batch)
    # Of a venue that nobody described: where most companies are that are at home there.
    countries_of = {mic: counts.most_common(1)[0][0] for mic, counts in home.items()}
    countries_of |= {mic: of[-1].country for mic, of in venues.items() if of[-1].country}
    return Universe(activity, identifiers, names, securities, listings, countries_of, venues)


def _endings(attributes: Attributes) -> dict[int, list[Ending]]:
    """When companies were not active, as it was known on each day, in order."""
    steps, versions = attributes.steps("active"), attributes.versions("active")
    days, last = (steps.at // DAY).tolist(), len(steps.entity) - 1
    out: dict[int, list[Ending]] = {}
    for n, (company, row) in enumerate(zip(steps.entity.tolist(), steps.row.tolist(), strict=True)):
        if versions[row].value != "no":
            continue
        until = days[n + 1] - 1 if n < last and steps.entity[n + 1] == company else FOREVER
        cause = attributes.of(company, "end_cause", (days[n] + 1) * DAY - 1)
        out.setdefault(company, []).append(Ending(Stretch(days[n], until), cause))
    return out


def _by_listing(universe: Universe, read: Callable[[Listing, Security], str]) -> DerivedAttribute:
    """Something of the listing that stands for each company,
    by the days on which that became another one.
    """
    rows, words = [], []
    for company, securities in universe.securities_of.items():
        spans = [x.span for s in securities for x in universe.listings_of.get(s.number, [])]
        for since in sorted(
            {s.since for s in spans} | {s.until + 1 for s in spans if s.until < FOREVER}
        ):
            rows.append((company, since, since * DAY))
            words.append(_primary(universe, company, since, read) or "")
    return DerivedAttribute(DatedSeries.of(rows), np.array([*words, ""], object))


def _primary(
    universe: Universe, company: int, today: int, read: Callable[[Listing, Security], str]
) -> str | None:
    """Something of the listing that stands for a company on a day."""
    found = of_company(universe, company, today, ANY_TYPE)
    return read(found[0], universe.security[found[0].security]) if found else None
