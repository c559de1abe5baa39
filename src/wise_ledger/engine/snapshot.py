"""One state of the ledger, as everything that is asked of it sees it."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from wise_ledger.core.dated.attributes import Attributes
from wise_ledger.core.errors import NotFound, Problem
from wise_ledger.core.identity.matching import Matcher, Policy
from wise_ledger.core.identity.universe import FOREVER, Listing, Universe
from wise_ledger.core.nearest import nearest
from wise_ledger.core.time.instants import DAY
from wise_ledger.engine.identity import ANY_TYPE, Identity
from wise_ledger.engine.view import EngineView
from wise_ledger.store.naming import Decision


@dataclass(frozen=True, eq=False)
class Snapshot:
    """One state of the ledger: everything up to `batch`."""

    batch: int
    view: EngineView
    attributes: Attributes
    ids: list[str]
    decisions: tuple[Decision, ...]
    source_names: tuple[str, ...]
    identity: Callable[[], "Identity"]

    @property
    def universe(self) -> Universe:
        """All that names companies."""
        return self.identity().universe

    @property
    def security_ids(self) -> list[str]:
        """Ids of securities by number."""
        return self.identity().security_ids

    @property
    def listing_ids(self) -> list[str]:
        """Ids of listings by number."""
        return self.identity().listing_ids

    @cached_property
    def listing(self) -> dict[int, Listing]:
        """Listings by number."""
        return {x.number: x for x in self.universe.listings}

    def number(self, company: str, cutoff: int | None = None) -> int:
        """The number of the company that an id, a symbol or any identifier
        names; raises `NotFound`.

        On the day of the cut-off, else, and without one, whom it named last.
        """
        days = [FOREVER - 1] if cutoff is None else [cutoff // DAY, FOREVER - 1]
        policy = Policy(ANY_TYPE, ever=True)
        for today in days:
            found = Matcher(self.universe, today, policy, (*self.source_names, "company")).match(
                company
            )
            if found.chosen is not None and (found.scheme != "name" or found.chosen.score == 1.0):
                return found.chosen.company
        likely = [c.company for c in found.candidates] or []
        symbols = [f"{x.symbol}@{x.mic}" for x in self.universe.listings]
        near = [s for c in likely if (s := self.symbol(c, FOREVER * DAY))] or nearest(
            company.upper(), symbols
        )
        mend = (
            f"did you mean {', '.join(near)}?"
            if near
            else "give an id, SYMBOL@MIC or another identifier"
        )
        raise NotFound(Problem("company", company, "no single company is named by this", mend))

    def name(self, company: int, cutoff: int) -> str:
        """The company's name as known at an instant (T9); before it was known
        by name, the first one recorded.
        """
        return (
            self.attributes.of(company, "name", cutoff)
            or self._first_names.get(company)
            or self.ids[company]
        )

    def names(self, companies: Sequence[int], cutoff: int) -> list[str]:
        """The names of many companies, as `name` gives them."""
        found = self.attributes.read(
            "name", np.array(companies, np.int64), np.array([cutoff], np.int64)
        )
        latest = found.value[:, 0].tolist()
        return [
            n or self._first_names.get(c) or self.ids[c]
            for n, c in zip(latest, companies, strict=True)
        ]

    @cached_property
    def _first_names(self) -> dict[int, str]:
        return {a.company: a.value for a in reversed(self.attributes.versions("name"))}

    def newest_name(self, company: int) -> str:
        """What the company is called last."""
        return self.name(company, FOREVER * DAY)

    def symbol(self, company: int, cutoff: int) -> str | None:
        """The symbol and venue of the company's primary listing on a day,
        or of its last one before.
        """
        today = cutoff // DAY
        found = [
            listing
            for security in self.universe.securities_of.get(company, [])
            if security.type == "ordinary"
            for listing in self.universe.listings_of.get(security.number, [])
            if listing.span.since <= today
        ]
        best = max(
            found, key=lambda x: (x.span.holds(today), x.primary, x.span.since), default=None
        )
        return f"{best.symbol}@{best.mic}" if best else None

    def label(self, company: int, end: int, cutoff: int) -> str:
        """The fiscal label of a period end as known at an instant (F5): its quarter,
        at the year end the year.
        """
        return self.view.calendar.label(company, end, cutoff)

    def target_label(self, company: int, end: int, cutoff: int, months: int) -> str:
        """What a period that is estimated is called as known at an instant."""
        return self.view.calendar.target_label(company, end, cutoff, months)
