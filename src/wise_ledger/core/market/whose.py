"""Whose prices a company's are (M4): its main security, and of that its primary listing,
day by day.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.dated.series import DatedSeries
from wise_ledger.core.dated.versions import NEVER
from wise_ledger.core.identity.universe import FOREVER, Listing, Security, Stretch
from wise_ledger.core.money.currencies import NO_CURRENCY, currency_code
from wise_ledger.core.time.instants import DAY

Whole = NDArray[np.int64]
_RECEIPT, _ORDINARY = "depositary_receipt", "ordinary"
_BEFORE = -FOREVER * DAY  # anything was known


@dataclass(frozen=True)
class Delisting:
    """A listing ended on `day` with a return after its last close, NaN where that is not known.

    From `known` until `until` that is what is known of its end.
    """

    listing: int
    day: int
    final_return: float
    known: int
    until: int = NEVER


@dataclass(frozen=True, eq=False)
class Chosen:
    """Which listing stands for an entity, by day; -1 where none does yet."""

    series: DatedSeries
    listing: Whole  # of each row, and at last -1

    def read(self, entities: Whole, cutoffs: Whole) -> Whole:
        """The listing of each entity at each cut-off, (entities, cut-offs)."""
        return np.asarray(self.listing[self.series.read(entities, cutoffs)])

    def each(self, entities: Whole, cutoffs: Whole) -> Whole:
        """The listing of each entity at its own cut-off, both of one shape."""
        return np.asarray(self.listing[self.series.each(entities, cutoffs)])


@dataclass(frozen=True, eq=False)
class Listed:
    """Securities and listings by number,
    and which of them stand for a security or company on a day.
    """

    securities: Mapping[int, Security]
    listings: Mapping[int, Listing]
    ends: Mapping[int, Sequence[Delisting]]  # by listing: from the next day on it stands no more
    currency: NDArray[np.int16]  # by listing
    security: Whole  # by listing
    company: Whole  # by security
    # by security: ordinary shares that one receipt stands for at first, 1 for all else
    ratio: NDArray[np.float64]
    ratio_rows: DatedSeries  # when it became another, and which
    later_ratio: NDArray[np.float64]

    @classmethod
    def of(
        cls,
        securities: Sequence[Security],
        listings: Iterable[Listing],
        delistings: Iterable[Delisting] = (),
        ratios: Sequence[tuple[int, int, int, float]] = (),
    ) -> Self:
        """`ratios` of receipts that are others than the first: security, from which day, since when
        known, ratio.
        """
        by_number = {x.number: x for x in listings}
        ends: dict[int, list[Delisting]] = {}
        for d in delistings:
            ends.setdefault(d.listing, []).append(d)
        of_company = {s.number: s for s in securities}
        size, most = max(by_number, default=-1) + 1, max(of_company, default=-1) + 1
        currency, security = (
            np.full(size + 1, NO_CURRENCY, np.int16),
            np.full(size + 1, -1, np.int64),
        )
        for x in by_number.values():
            currency[x.number] = currency_code(x.currency)
            security[x.number] = x.security
        company, ratio = np.full(most + 1, -1, np.int64), np.ones(most + 1)
        for s in securities:
            company[s.number] = s.company
            if s.type == _RECEIPT and s.ratio:
                ratio[s.number] = s.ratio
        rows = DatedSeries.of((s, since, known) for s, since, known, _ in ratios)
        later = np.array([r for *_, r in ratios] or [np.nan], np.float64)
        return cls(of_company, by_number, ends, currency, security, company, ratio, rows, later)

    def ratio_at(self, listing: Whole, instants: Whole) -> NDArray[np.float64]:
        """The ordinary shares that one of each listing stands for at its instant:
        of a receipt its ratio, else 1.
        """
        security = self.security[listing]
        first = np.where(listing >= 0, self.ratio[security], 1.0)
        if not len(self.ratio_rows.entity):
            return first
        row = self.ratio_rows.each(security, np.broadcast_to(instants, security.shape))
        return np.where((listing >= 0) & (row >= 0), self.later_ratio[np.maximum(row, 0)], first)

    @cached_property
    def _of_security(self) -> dict[int, list[Listing]]:
        out: dict[int, list[Listing]] = {}
        for listing in self.listings.values():
            out.setdefault(listing.security, []).append(listing)
        return out

    @cached_property
    def of_securities(self) -> Chosen:
        """The primary listing of each security."""
        return _by_day(self._of_security, self.ends, _rank)

    @cached_property
    def of_companies(self) -> Chosen:
        """The primary listing of each company's main security:
        the ordinary one listed longest, else a receipt.
        """
        own: dict[int, list[Listing]] = {}
        for number, found in self._of_security.items():
            security = self.securities[number]
            if security.type in (_ORDINARY, _RECEIPT):
                own.setdefault(security.company, []).extend(found)
        first = {n: min(x.span.since for x in found) for n, found in self._of_security.items()}

        def rank(listing: Listing, day: int) -> tuple[object, ...]:
            ordinary = self.securities[listing.security].type == _ORDINARY
            stands = listing.span.holds(day)
            # Where a company has an ordinary security that stands, a receipt does not;
            # nor one that is gone for good.
            return (
                stands,
                ordinary,
                -first[listing.security],
                -listing.security,
                *_rank(listing, day),
            )

        return _by_day(own, self.ends, rank)

    @cached_property
    def main_ordinary(self) -> Whole:
        """The main ordinary security of each company, by number; -1 where it has none, and last."""
        return self._longest_listed(_ORDINARY)

    @cached_property
    def first_receipt(self) -> Whole:
        """The receipt of each company that was listed first, by number; -1 as above."""
        return self._longest_listed(_RECEIPT)

    def _longest_listed(self, type_: str) -> Whole:
        most = max((s.company for s in self.securities.values()), default=-1)
        out = np.full(most + 2, -1, np.int64)
        since: dict[int, tuple[int, int]] = {}
        for s in self.securities.values():
            if s.type != type_:
                continue
            begin = min(
                (x.span.since for x in self._of_security.get(s.number, [])), default=FOREVER
            )
            if s.company not in since or (begin, s.number) < since[s.company]:
                since[s.company] = (begin, s.number)
                out[s.company] = s.number
        return out


def _until(listing: Listing, ends: Sequence[Delisting], at: int) -> Listing:
    """The listing with its end as known at an instant."""
    known = [d.day for d in ends if d.known <= at < d.until]
    if not known or known[-1] >= listing.span.until:
        return listing
    return replace(listing, span=Stretch(listing.span.since, known[-1]))


def _rank(listing: Listing, day: int) -> tuple[object, ...]:
    """Of the listings of one security: those that stand, the one so marked,
    the earliest; of ended ones the last.
    """
    stands = listing.span.holds(day)
    return (
        stands,
        listing.primary if stands else listing.span.until,
        -listing.span.since,
        -listing.number,
    )


def _by_day(
    found: Mapping[int, Sequence[Listing]],
    ends: Mapping[int, Sequence[Delisting]],
    rank: Callable[[Listing, int], tuple[object, ...]],
) -> Chosen:
    """The listing of the highest rank on each day; again at each instant at which what is known
    of an end became another.
    """
    rows, chosen = [], []
    for entity, listings in found.items():
        own = [d for x in listings for d in ends.get(x.number, ())]
        learned = {_BEFORE, *(d.known for d in own), *(d.until for d in own if d.until != NEVER)}
        states = [
            (at, [_until(x, ends.get(x.number, ()), at) for x in listings])
            for at in sorted(learned)
        ]
        spans = [x.span for _, known in states for x in known]
        days = {s.since for s in spans} | {s.until + 1 for s in spans if s.until < FOREVER}
        for at, known in states:
            for day in sorted(days):
                begun = [x for x in known if x.span.since <= day]
                rows.append((entity, day, max(day * DAY, at)))
                chosen.append(max(begun, key=lambda x: rank(x, day)).number if begun else -1)
    return Chosen(DatedSeries.of(rows), np.array([*chosen, -1], np.int64))
