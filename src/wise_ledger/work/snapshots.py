"""The ledger at one batch, read once and kept between questions."""

import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import Any, TypeVar

from sqlalchemy import Connection

from wise_ledger.core.errors import Problem, bad_input
from wise_ledger.core.facts.attributes import Attribute, Attributes
from wise_ledger.core.facts.columns import FactColumns
from wise_ledger.core.facts.items import ITEMS
from wise_ledger.core.facts.preference import Preference
from wise_ledger.core.identity.matching import Matcher, Policy
from wise_ledger.core.identity.universe import (
    FOREVER,
    Activity,
    IdentifierSpan,
    Listing,
    NameSpan,
    Security,
    Stretch,
    Universe,
    of_company,
)
from wise_ledger.core.market.rates import RateTable, rate_table
from wise_ledger.core.measures.view import LedgerView
from wise_ledger.core.nearest import nearest
from wise_ledger.store import examining, naming, reading
from wise_ledger.store.columncache import ColumnCache
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.naming import Decision
from wise_ledger.work import NotFound

_KEPT = 4
T = TypeVar("T")
_DAY = 86_400_000_000
ANY_TYPE = frozenset({"ordinary", "preference", "depositary_receipt", "fund", "unit", "warrant"})


@dataclass(frozen=True, eq=False)
class Snapshot:
    """One state of the ledger: everything up to `batch`."""

    batch: int
    view: LedgerView
    attributes: Attributes
    ids: list[str]
    universe: Universe
    decisions: tuple[Decision, ...]
    source_names: tuple[str, ...]
    security_ids: list[str]
    listing_ids: list[str]

    @cached_property
    def listing(self) -> dict[int, Listing]:
        """Listings by number."""
        return {x.number: x for x in self.universe.listings}

    def number(self, company: str) -> int:
        """The number of the company that an id, a symbol or any identifier names today; raises `NotFound`."""
        policy = Policy(ANY_TYPE, ever=True)
        found = Matcher(self.universe, FOREVER - 1, policy, (*self.source_names, "company")).match(company)
        if found.chosen is not None and (found.scheme != "name" or found.chosen.score == 1.0):
            return found.chosen.company
        likely = [c.company for c in found.candidates] or []
        symbols = [f"{x.symbol}@{x.mic}" for x in self.universe.listings]
        near = [s for c in likely if (s := self.symbol(c, FOREVER * _DAY))] or nearest(company.upper(), symbols)
        mend = f"did you mean {', '.join(near)}?" if near else "give an id, SYMBOL@MIC or another identifier"
        raise NotFound(Problem("company", company, "no single company is named by this", mend))

    def name(self, company: int, cutoff: int) -> str:
        """The company's name as known at an instant; before it was known by name, the first one it had."""
        return self.universe.name(company, cutoff // _DAY) or self.ids[company]

    def newest_name(self, company: int) -> str:
        """What the company is called last."""
        return self.name(company, FOREVER * _DAY)

    def symbol(self, company: int, cutoff: int) -> str | None:
        """The symbol and venue of the company's primary listing on a day, or of its last one before."""
        today = cutoff // _DAY
        found = [
            listing
            for security in self.universe.securities_of.get(company, [])
            if security.type == "ordinary"
            for listing in self.universe.listings_of.get(security.number, [])
            if listing.span.since <= today
        ]
        best = max(found, key=lambda x: (x.span.holds(today), x.primary, x.span.since), default=None)
        return f"{best.symbol}@{best.mic}" if best else None

    def label(self, company: int, end: int) -> str:
        """The fiscal label of a period end (F5): the quarter it ends, at the year end the year."""
        return self.view.calendar.label(company, end)


class Snapshots:
    """Snapshots of a ledger by batch; a few of the newest are kept. Safe for many threads."""

    def __init__(self, ledger: Ledger, columns: Path) -> None:
        self._ledger = ledger
        self._cache = ColumnCache(columns)
        self._lock = threading.RLock()
        self._made: tuple[int, dict[str, Any]] = (-1, {})
        self._kept_rates = (0, RateTable.empty())
        self._kept: OrderedDict[tuple[int, bool], Snapshot] = OrderedDict()

    def at(self, recorded_by: int | None = None, *, with_assumed: bool = True) -> Snapshot:
        """The ledger as recorded by a batch (T7), by default the newest."""
        last = self._ledger.last_batch()
        if recorded_by is not None and not 0 <= recorded_by <= last:
            raise bad_input("recorded_by", recorded_by, "there is no such batch", f"the newest is {last}")
        batch = last if recorded_by is None else recorded_by
        with self._lock:
            key = (batch, with_assumed)
            if key not in self._kept:
                self._kept[key] = self._read(batch, with_assumed)
            self._kept.move_to_end(key)
            while len(self._kept) > _KEPT:
                self._kept.popitem(last=False)
            return self._kept[key]

    def once(self, name: str, make: Callable[[], T]) -> T:
        """Something that is the same until the next batch: made once, kept under a name."""
        last = self._ledger.last_batch()
        with self._lock:
            if self._made[0] != last:
                self._made = (last, {})
            kept = self._made[1]
        if name not in kept:
            kept[name] = make()
        found: T = kept[name]
        return found

    def _read(self, batch: int, with_assumed: bool) -> Snapshot:
        with self._ledger.database.read() as connection:
            ids = reading.company_ids(connection)
            attributes = Attributes(reading.said_attributes(connection), batch)
            names = tuple(reading.source_names(connection))
            universe = _universe(connection, ids, attributes, batch)
            security_ids, listing_ids = naming.ids_of(connection)
            decisions = tuple(naming.all_decisions(connection, batch))
            preference = Preference(reading.source_orders(connection, batch, names), len(names))
            flagged = examining.flagged(connection, batch)
            quarantined = examining.quarantined(connection, batch)
            splits = reading.splits(connection, batch)
            share_bases = reading.share_bases(connection, batch) if splits else {}
            items = {**ITEMS, **reading.registered_items(connection, batch)}
        view = LedgerView(
            companies=len(ids),
            columns=lambda item: self._columns(item, batch),
            attributes=attributes,
            sources=tuple(range(len(names))),
            recorded_by=batch,
            with_assumed=with_assumed,
            quarantined=quarantined,
            flagged=flagged,
            preference=preference,
            items=items,
            splits=splits,
            share_bases=share_bases,
            told_rates=lambda: self._rates(batch),
            derived={
                "venue": lambda n, today: _primary(universe, n, today, lambda x, _: x.mic),
                "security_type": lambda n, today: _primary(universe, n, today, lambda _, s: s.type),
            },
        )
        return Snapshot(batch, view, attributes, ids, universe, decisions, names, security_ids, listing_ids)

    def _rates(self, batch: int) -> RateTable:
        """The rates as recorded by a batch, kept until another batch brings some."""
        with self._lock, self._ledger.database.read() as connection:
            newest = reading.newest_rates(connection, batch)
            if self._kept_rates[0] != newest:
                self._kept_rates = (newest, rate_table(reading.rates(connection, batch)))
            return self._kept_rates[1]

    def _columns(self, item: str, batch: int) -> FactColumns:
        with self._lock, self._ledger.database.read() as connection:
            return self._cache.columns(connection, item, batch)


def _primary(universe: Universe, company: int, today: int, read: Callable[[Listing, Security], str]) -> str | None:
    """Something of the listing that stands for a company on a day."""
    found = of_company(universe, company, today, ANY_TYPE)
    return read(found[0], universe.security[found[0].security]) if found else None


def _universe(connection: Connection, ids: list[str], attributes: Attributes, batch: int) -> Universe:
    """All that names companies, out of attributes, identifiers, securities and listings."""
    names, by_company = [], _said_by_company(attributes, "name")
    for company, said in by_company.items():
        for i, a in enumerate(said):
            until = said[i + 1].valid_from - 1 if i + 1 < len(said) else FOREVER
            names.append(NameSpan(a.value, company, Stretch(a.valid_from, until)))
    countries, lives = _said_by_company(attributes, "country"), _said_by_company(attributes, "active")
    causes = _said_by_company(attributes, "end_cause")
    activity = []
    for number in range(len(ids)):
        life = lives.get(number, [])
        ended = life[-1].valid_from - 1 if life and life[-1].value == "no" else FOREVER
        country = countries[number][-1].value if number in countries else None
        cause = causes[number][-1].value if number in causes and ended != FOREVER else None
        activity.append(Activity(country, Stretch(-FOREVER, ended), cause))
    identifiers = naming.all_identifiers(connection, batch)
    # A company's own id names it too, like any identifier.
    identifiers += [IdentifierSpan("company", id_, n, None, Stretch()) for n, id_ in enumerate(ids)]
    listings = naming.all_listings(connection, batch)
    securities = naming.all_securities(connection, batch)
    company_of = {s.number: s.company for s in securities}
    home: dict[str, str] = {}
    for listing in listings:
        country = activity[company_of[listing.security]].country
        if listing.primary and country:
            home.setdefault(listing.mic, country)
    return Universe(activity, identifiers, names, securities, listings, home)


def _said_by_company(attributes: Attributes, name: str) -> dict[int, list[Attribute]]:
    out: dict[int, list[Attribute]] = {}
    for said in attributes.said(name):
        out.setdefault(said.company, []).append(said)
    return out
