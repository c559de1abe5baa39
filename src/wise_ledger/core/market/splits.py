"""Splits: per-share values and share counts on the share basis of the cut-off (M3)."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.facts.keys import State, group_ends, key_company, make_keys

if TYPE_CHECKING:
    from wise_ledger.core.facts.timeline import Timeline

DAY = 86_400_000_000
ROUNDING = 0.005  # share of a value by which one told after a split may differ from the same one told before
_POWER = {"money_per_share": -1, "shares": 1}


@dataclass(frozen=True)
class Split:
    """`ratio` new shares for each old one of a company, traded from `ex_date` (days) on; counts from `at` on.

    `at` (microseconds) is when it is both public and in force: without a publication the end of the ex-date (T9).
    """

    company: int
    ex_date: int
    ratio: float
    at: int


def in_force(ex_date: int, published: int | None) -> int:
    """From which instant a split counts."""
    return (ex_date + 1) * DAY - 1 if published is None else max(published, ex_date * DAY)


class ShareBasis:
    """How figures of one kind move with the splits of their companies.

    A row of a timeline is on the share basis of its own instant. From the instant of a split on, `moved` adds a row
    with the figure on the new basis, so that quarters and sums are formed from figures of one basis, and a shifted
    figure needs no thought.
    """

    def __init__(self, events: Iterable[tuple[int, int, int, float]], stated: Mapping[int, int] | None = None) -> None:
        """`events` are (company, ex-date, instant, factor by which its figures are multiplied).

        `stated` are facts with the day on whose shares their source tells them; others are on those of their
        publication.
        """
        self._stated = stated or {}
        rows = sorted(events, key=lambda e: (e[0], e[2]))
        self._company = np.array([r[0] for r in rows], np.int64)
        self._ex = np.array([r[1] for r in rows], np.int64)
        self._at = np.array([r[2] for r in rows], np.int64)
        self._factor = np.array([r[3] for r in rows])
        product, running, last = [], 1.0, None
        for company, _, _, factor in rows:
            running = factor if company != last else running * factor
            last = company
            product.append(running)
        self._product = np.array(product)
        self._place = _placed(self._company, self._at)

    @classmethod
    def of(cls, splits: Sequence[Split], unit: str, stated: Mapping[int, int] | None = None) -> "ShareBasis | None":
        """For items of a unit; None where its figures do not move."""
        power = _POWER.get(unit)
        found = [(s.company, s.ex_date, s.at, s.ratio**power) for s in splits] if power else []
        return cls(found, stated) if found else None

    @classmethod
    def of_rows(
        cls, splits: Sequence[Split], company: int, units: Sequence[str], stated: Mapping[int, int] | None = None
    ) -> "ShareBasis | None":
        """For the rows of one company's sheet, which stand in the place of companies."""
        found = [
            (row, s.ex_date, s.at, s.ratio ** _POWER[unit])
            for row, unit in enumerate(units)
            if unit in _POWER
            for s in splits
            if s.company == company
        ]
        return cls(found, stated) if found else None

    def told(self, timeline: "Timeline") -> "Timeline":
        """Reported figures, each on the share basis of its own instant, whatever basis its source states."""
        if not self._stated or timeline.fact is None:
            return timeline
        value = timeline.value.copy()
        rows = np.flatnonzero(np.isin(timeline.fact, list(self._stated)))
        company, days = key_company(timeline.key[rows]), timeline.at[rows] // DAY
        for row, owner, day in zip(rows.tolist(), company.tolist(), days.tolist(), strict=True):
            stated = self._stated[int(timeline.fact[row])]
            for n in np.flatnonzero(self._company == owner).tolist():
                if stated < self._ex[n] <= day and self._at[n] <= timeline.at[row]:
                    value[row] *= self._factor[n]  # told after the split on the shares before it
                elif day < self._ex[n] <= stated:
                    value[row] /= self._factor[n]  # told ahead of the split on the shares after it
        return replace(timeline, value=value)

    def upto(self, company: NDArray[np.int64], at: NDArray[np.int64]) -> NDArray[np.float64]:
        """The product of the factors in force at each instant: values over it are comparable through time."""
        place = np.searchsorted(self._place, _placed(company, at), "right") - 1
        found = np.maximum(place, 0)
        return np.where((place >= 0) & (self._company[found] == company), self._product[found], 1.0)

    def moved(self, timeline: "Timeline") -> "Timeline":
        """With a row for every figure at the instant of each split that it was told before."""
        sources, instants, factors = [np.arange(len(timeline))], [timeline.at], [np.ones(len(timeline))]
        for company in np.unique(self._company).tolist():
            low, high = np.searchsorted(timeline.key, make_keys(np.array([company, company + 1]), _LEAST))
            if low == high:
                continue
            rows = np.arange(low, high)
            key, at, days = timeline.key[rows], timeline.at[rows], timeline.at[rows] // DAY
            following = np.append(np.where(key[1:] == key[:-1], at[1:], _NEVER), _NEVER)
            factor = np.ones(len(rows))
            for n in np.flatnonzero(self._company == company).tolist():
                before = (at <= self._at[n]) & (days < self._ex[n])
                factor = np.where(before, factor * self._factor[n], factor)
                stands = before & (following > self._at[n]) & (timeline.state[rows] == State.VALUE)
                sources.append(rows[stands])
                instants.append(np.full(int(stands.sum()), self._at[n]))
                factors.append(factor[stands])
        source, at, factor = np.concatenate(sources), np.concatenate(instants), np.concatenate(factors)
        order = np.lexsort((at, timeline.key[source]))
        chosen = timeline.take(source[order])
        out = replace(chosen, at=at[order], value=chosen.value * factor[order], basis=self)
        # Of two splits that became known at one instant the later row has both.
        return out.take(group_ends(out.key, out.at))


def _placed(company: NDArray[np.int64], at: NDArray[np.int64]) -> NDArray[np.int64]:
    """One sortable number for a company and an instant, to the millisecond."""
    return (company << 42) | np.maximum(at // 1000, 0)


_LEAST = np.array([-(1 << 20)] * 2, np.int32)
_NEVER = np.iinfo(np.int64).max
