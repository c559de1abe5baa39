"""Where in time companies are looked at: all of them at the same cut-offs,
or each at instants of its own.
"""

from dataclasses import dataclass
from functools import cached_property
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.dated.series import DatedSeries
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.timelines.asof import newest_each, newest_row
from wise_ledger.core.timelines.keys import Instants, Keys, Rows, company_starts, group_starts
from wise_ledger.core.timelines.moves import Moves

Shape = tuple[int, int]
Truths = NDArray[np.bool_]


class Places(Protocol):
    """Cells of a shape, each a company and an instant."""

    @property
    def shape(self) -> Shape:
        """The shape of what is read here."""

    @property
    def company(self) -> Rows:
        """The company of each cell, cells in one row."""

    @property
    def at(self) -> Instants:
        """The instant of each cell, cells in one row."""

    @property
    def days(self) -> NDArray[np.int64]:
        """The day of each cell, of a shape that goes with `shape`."""

    @property
    def name(self) -> bytes:
        """Differs from that of other places made of the same ones by `those`."""

    def newest(self, moves: Moves, key: Keys) -> Rows:
        """The row of the greatest end that is there in each cell,
        by moves worked out of rows with these keys.
        """

    def starts(self, key: Keys) -> Rows:
        """Where the rows of each cell's company begin among sorted keys,
        of a shape that goes with `shape`.
        """

    def read(self, series: DatedSeries) -> Rows:
        """The row of a series that counts in each cell; -1 where nothing is known."""

    def those(self, where: Truths) -> "tuple[Places, tuple[Any, ...]]":
        """Places that have at least the cells chosen, and the index of theirs among these."""


@dataclass(frozen=True, eq=False)
class Grid:
    """Companies `members` (down) at ascending `cutoffs` (across);
    `companies` is how many there are in all.
    """

    members: Rows
    cutoffs: Instants
    companies: int

    @property
    def shape(self) -> Shape:
        """Members x cut-offs."""
        return len(self.members), len(self.cutoffs)

    @cached_property
    def company(self) -> Rows:
        """The company of each cell, cells in one row."""
        return np.repeat(self.members, len(self.cutoffs))

    @cached_property
    def at(self) -> Instants:
        """The cut-off of each cell, cells in one row."""
        return np.tile(self.cutoffs, len(self.members))

    @property
    def days(self) -> NDArray[np.int64]:
        """The day of each cut-off, (1, cut-offs)."""
        return (self.cutoffs // DAY).astype(np.int64)[None, :]

    @property
    def name(self) -> bytes:
        """The cut-offs."""
        return self.cutoffs.tobytes()

    @cached_property
    def _everybody(self) -> bool:
        return bool(
            len(self.members) == self.companies
            and (self.members == np.arange(self.companies)).all()
        )

    def newest(self, moves: Moves, key: Keys) -> Rows:
        """The row of the greatest end that is there in each cell."""
        found = newest_row(moves, key, self.companies, self.cutoffs)
        return found if self._everybody else found[self.members]

    def starts(self, key: Keys) -> Rows:
        """Where the rows of each member begin among sorted keys, (members, 1)."""
        return company_starts(key, self.members)[:, None]

    def read(self, series: DatedSeries) -> Rows:
        """The row of a series that counts in each cell."""
        return series.read(self.members, self.cutoffs)

    def those(self, where: Truths) -> "tuple[Grid, tuple[Any, ...]]":
        """The cut-offs at which anybody is chosen."""
        at = np.flatnonzero(where.any(axis=0))
        return Grid(self.members, self.cutoffs[at], self.companies), (slice(None), at)


@dataclass(frozen=True, eq=False)
class Points:
    """Each company at instants of its own, in order of company and instant: (points, 1)."""

    company: Rows
    at: Instants

    @property
    def shape(self) -> Shape:
        """Points x 1."""
        return len(self.company), 1

    @property
    def days(self) -> NDArray[np.int64]:
        """The day of each point, (points, 1)."""
        return (self.at // DAY)[:, None]

    @property
    def name(self) -> bytes:
        """The points."""
        return self.company.tobytes() + self.at.tobytes()

    @cached_property
    def _runs(self) -> tuple[Rows, Rows]:
        """The companies, each once, and the place of each point's among them."""
        begins = group_starts(self.company)
        return self.company[begins], np.cumsum(begins) - 1

    def newest(self, moves: Moves, key: Keys) -> Rows:
        """The row of the greatest end that is there at each point."""
        return newest_each(moves, key, self.company, self.at)[:, None]

    def starts(self, key: Keys) -> Rows:
        """Where the rows of each point's company begin among sorted keys, (points, 1)."""
        companies, run = self._runs
        return company_starts(key, companies)[run][:, None]

    def read(self, series: DatedSeries) -> Rows:
        """The row of a series that counts at each point."""
        return series.each(self.company, self.at)[:, None]

    def those(self, where: Truths) -> "tuple[Points, tuple[Any, ...]]":
        """The points chosen."""
        rows = np.flatnonzero(where)
        return Points(self.company[rows], self.at[rows]), (rows,)
