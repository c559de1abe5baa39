"""A statement's amounts in one currency: flows at the mean of their period,
balances at their end (M2).
"""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.catalogue.items import Nature
from wise_ledger.core.money.currencies import NO_CURRENCY, currency_code
from wise_ledger.core.money.rates import at_rate, last_day
from wise_ledger.core.statements.sheet import Grid, Sheet

Part = tuple[Grid, int | slice]  # of a grid one row, or all
Numbers = NDArray[np.float64]


class Money:
    """Converts cells of a sheet's grid by its rates, as known at a cut-off (microseconds)."""

    def __init__(self, sheet: Sheet, cutoff: int, currency: str | None) -> None:
        self._rates = sheet.rates
        self._cutoff = cutoff
        self._last = int(last_day(np.array([cutoff]))[0])
        self._flow = np.array([i.nature is Nature.FLOW for i in sheet.items], np.bool_)
        self._asked = NO_CURRENCY if currency is None else currency_code(currency)

    def whole(self, grid: Grid) -> Grid:
        """All amounts in the currency asked for; `no_rate` where there is none."""
        if self._asked == NO_CURRENCY:
            return grid
        money = (grid.currency != NO_CURRENCY) & (grid.reason == 0)
        target = np.full(grid.value.shape, self._asked, np.int16)
        rate = self._rate(grid, slice(None), money & (grid.currency != target), target)
        value = at_rate(grid.value, rate)
        lacks = money & np.isnan(value)
        return replace(
            grid,
            value=value,
            reason=np.where(lacks, np.uint8(Reason.NO_RATE), grid.reason),
            currency=np.where(money, target, grid.currency),
        )

    def together(self, now: Part, base: Part) -> tuple[Numbers, Numbers, NDArray[np.bool_]]:
        """Two figures that meet in a ratio, and where there is no rate for that.

        In one currency they meet in it; else each is converted first, into the one asked for, or
        into that of the first of them.
        """
        (a, b), (x, y) = (
            [getattr(grid, name)[rows] for grid, rows in (now, base)]
            for name in ("currency", "value")
        )
        clash = (a != b) & (a != NO_CURRENCY) & (b != NO_CURRENCY)
        clash &= (now[0].reason[now[1]] == 0) & (base[0].reason[base[1]] == 0)
        if not clash.any():
            return x, y, clash
        target = a if self._asked == NO_CURRENCY else np.full(a.shape, self._asked, np.int16)
        first, second = (self._rate(*part, clash, target) for part in (now, base))
        x, y = at_rate(x, first), at_rate(y, second)
        return x, y, clash & (np.isnan(x) | np.isnan(y))

    def _rate(
        self, grid: Grid, rows: int | slice, where: NDArray[np.bool_], target: NDArray[np.int16]
    ) -> Numbers:
        """The rate of each cell of a part of the grid, 1 where nothing is asked,
        NaN where there is none.
        """
        out = np.ones(where.shape)
        if not where.any():
            return out
        shape = grid.value.shape
        flow = np.broadcast_to(self._flow[:, None], shape)[rows]
        end = np.minimum(
            np.broadcast_to(grid.ends[None, :], shape)[rows].astype(np.int64), self._last
        )
        source, table = grid.currency[rows], self._rates()
        for mine, mean in ((where & flow, True), (where & ~flow, False)):
            if mine.any():
                start = grid.start[rows][mine].astype(np.int64)
                at = np.full(len(start), self._cutoff)
                found = (
                    table.mean(source[mine], target[mine], start, end[mine], at)
                    if mean
                    else table.on(source[mine], target[mine], end[mine], at)
                )
                out[mine] = found
        return out
