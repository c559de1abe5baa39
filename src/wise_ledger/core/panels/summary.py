"""What a panel's columns are like: how much is filled, why the rest is missing,
how the values lie.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import CODES
from wise_ledger.core.panels.panel import Block, PanelColumn

QUANTILES = (0.0, 0.05, 0.25, 0.5, 0.75, 0.95, 1.0)
_SAMPLE = 200_000  # values of a column whose quantiles are looked at


@dataclass(frozen=True)
class Extreme:
    """The lowest or highest value of a column: company and date by their places."""

    company: int
    date: int
    value: float


@dataclass(frozen=True)
class ColumnSummary:
    """Of one column: cells, those filled, the others by reason; quantiles
    (least, 5, 25, 50, 75, 95 %, greatest).
    """

    name: str
    cells: int
    filled: int
    reasons: dict[str, int]
    quantiles: tuple[float, ...]  # empty for words
    lowest: Extreme | None
    highest: Extreme | None


@dataclass
class _Column:
    cells: int = 0
    filled: int = 0
    reasons: Counter[int] = field(default_factory=Counter)
    values: list[NDArray[np.float64]] = field(default_factory=list)
    lowest: Extreme | None = None
    highest: Extreme | None = None


class Summing:
    """Gathers the summary of a panel block by block."""

    def __init__(self, columns: Sequence[PanelColumn]) -> None:
        self._columns = columns
        self._of = [_Column() for _ in columns]
        self.rows = 0
        self.unknown: Counter[int] = Counter()  # why the condition was neither true nor false

    def add(self, block: Block) -> None:
        """Take in another block."""
        company, date = np.nonzero(block.rows)
        self.rows += len(company)
        self.unknown.update(_counted(block.unknown[block.unknown != 0]))
        for own, figures in zip(self._of, block.columns, strict=True):
            values = figures.values
            reason = values.reason[company, date]
            there = reason == 0
            own.cells += len(reason)
            own.filled += int(there.sum())
            own.reasons.update(_counted(reason[~there]))
            if values.value.dtype == object or not there.any():
                continue
            numbers = values.value[company, date][there].astype(np.float64)
            own.values.append(numbers[:: max(1, len(numbers) // _SAMPLE)])
            places = company[there], date[there]
            for name, at, better in (
                ("lowest", int(numbers.argmin()), np.less),
                ("highest", int(numbers.argmax()), np.greater),
            ):
                before = getattr(own, name)
                if before is None or better(numbers[at], before.value):
                    found = Extreme(
                        int(places[0][at]), block.first + int(places[1][at]), float(numbers[at])
                    )
                    setattr(own, name, found)

    def columns(self) -> tuple[ColumnSummary, ...]:
        """The summary of each column."""
        return tuple(
            ColumnSummary(
                column.name,
                own.cells,
                own.filled,
                {
                    str(CODES[n]): count
                    for n, count in sorted(own.reasons.items(), key=lambda r: -r[1])
                },
                tuple(np.quantile(np.concatenate(own.values), QUANTILES).tolist())
                if own.values
                else (),
                own.lowest,
                own.highest,
            )
            for column, own in zip(self._columns, self._of, strict=True)
        )


def _counted(reasons: NDArray[np.uint8]) -> dict[int, int]:
    count = np.bincount(reasons, minlength=1)
    return {n: int(count[n]) for n in np.flatnonzero(count).tolist()}
