"""Splits: per-share values and share counts on the share basis of the cut-off (M3)."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.dated.versions import NEVER
from wise_ledger.core.time.instants import DAY

# share of a value by which one stated after a split may differ from the same one stated before
ROUNDING = 0.005
_POWER = {"money_per_share": -1, "shares": 1}


@dataclass(frozen=True)
class Split:
    """`ratio` new shares for each old one of a company, traded from `ex_date` (days) on.

    It is public from the instant `known` on (microseconds): without a publication when its ex-date
    begins (T9).
    """

    company: int
    ex_date: int
    ratio: float
    known: int
    until: int = NEVER  # when another one took its place

    @property
    def counts_from(self) -> int:
        """The instant from which it counts: it is public, and traded."""
        return max(self.known, self.ex_date * DAY)


@dataclass(frozen=True, eq=False)
class ShareBasis:
    """How figures of one kind move with the splits of their companies:
    one entry a split in every column.

    `factor` is what a figure from before the split is multiplied by from the instant `at` on, when
    the split is both public (`known`) and in force. `stated` are facts whose source says on whose
    shares they are stated, with the day; others are on those of their publication.
    """

    company: NDArray[np.int64]
    ex_date: NDArray[np.int64]
    known: NDArray[np.int64]
    at: NDArray[np.int64]
    until: NDArray[np.int64]
    factor: NDArray[np.float64]
    stated: Mapping[int, int]

    @classmethod
    def of(
        cls, splits: Sequence[Split], unit: str, stated: Mapping[int, int] | None = None
    ) -> "ShareBasis | None":
        """For items of a unit; None where its figures do not move."""
        power = _POWER.get(unit)
        return cls._made([(s.company, s, power) for s in splits] if power else [], stated)

    @classmethod
    def of_rows(
        cls,
        splits: Sequence[Split],
        company: int,
        units: Sequence[str],
        stated: Mapping[int, int] | None = None,
    ) -> "ShareBasis | None":
        """For the rows of one company's sheet, which stand in the place of companies."""
        rows = [
            (row, s, _POWER[unit])
            for row, unit in enumerate(units)
            if unit in _POWER
            for s in splits
        ]
        return cls._made([r for r in rows if r[1].company == company], stated)

    @classmethod
    def together(cls, of_sheets: Sequence["ShareBasis | None"], rows: int) -> "ShareBasis | None":
        """Those of sheets of so many rows each, the rows of one sheet behind those of another."""
        found = [(n * rows, b) for n, b in enumerate(of_sheets) if b is not None]
        if not found:
            return None
        bases = [b for _, b in found]
        return cls(
            company=np.concatenate([b.company + first for first, b in found]),
            ex_date=np.concatenate([b.ex_date for b in bases]),
            known=np.concatenate([b.known for b in bases]),
            at=np.concatenate([b.at for b in bases]),
            until=np.concatenate([b.until for b in bases]),
            factor=np.concatenate([b.factor for b in bases]),
            stated={fact: day for b in bases for fact, day in b.stated.items()},
        )

    @classmethod
    def _made(
        cls, splits: Iterable[tuple[int, Split, int]], stated: Mapping[int, int] | None
    ) -> "ShareBasis | None":
        rows = sorted(
            (owner, s.counts_from, s.ex_date, s.known, s.until, s.ratio**power)
            for owner, s, power in splits
        )
        if not rows:
            return None
        company, at, ex_date, known, until = (
            np.array([r[n] for r in rows], np.int64) for n in range(5)
        )
        factor = np.array([r[5] for r in rows], np.float64)
        return cls(company, ex_date, known, at, until, factor, stated or {})

    @property
    def learned_late(self) -> list[int]:
        """The instants at which splits became public that were in force by then, ascending."""
        return sorted({int(known) for known in self.known[self.known > self.ex_date * DAY]})

    def as_if_known(self, by: int) -> "ShareBasis":
        """As it would be if the splits public by an instant had been public
        from their ex-date on.
        """
        begin = self.ex_date * DAY
        early = np.where(self.known <= by, np.minimum(self.known, begin), self.known)
        return replace(self, known=early, at=np.maximum(early, begin))

    def upto(self, company: NDArray[np.int64], at: NDArray[np.int64]) -> NDArray[np.float64]:
        """The product of the factors in force at each instant:
        values over it are comparable through time.
        """
        out = np.ones(len(company))
        for n in range(len(self.company)):
            in_force = (company == self.company[n]) & (at >= self.at[n]) & (at < self.until[n])
            out[in_force] *= self.factor[n]
        return out

    def moving(
        self, split: NDArray[np.int64], basis: NDArray[np.int64], at: NDArray[np.int64]
    ) -> NDArray[np.float64]:
        """What figures stated on the shares of the days `basis` are
        multiplied by at the instants `at`.

        `split` are the places of one company's splits. One in force moves what is stated on the
        shares before it; one that is announced only moves back what is stated ahead of it, on the
        shares after it.
        """
        out = np.ones(len(at))
        for n in split.tolist():
            out[(self.ex_date[n] > basis) & (self.at[n] <= at) & (at < self.until[n])] *= (
                self.factor[n]
            )
            ahead = (
                (self.ex_date[n] <= basis)
                & (self.known[n] <= at)
                & (at < min(self.at[n], self.until[n]))
            )
            out[ahead] /= self.factor[n]
        return out
