"""Facts of one item as columns: what the as-of engine reads."""

from dataclasses import dataclass, fields
from typing import Any, Self

import numpy as np
from numpy.typing import NDArray

# One row a fact, in this order of columns; `batch` and `position` place it in the ledger (T5).
DTYPES: dict[str, type[np.generic]] = {
    "company": np.int32,  # company number
    "start": np.int32,  # period start, days; ABSENT for a balance
    "end": np.int32,  # period end as reported, days
    # month end implied by the source's own fiscal label (F2); ABSENT where none
    "declared_end": np.int32,
    "at": np.int64,  # publication instant, microseconds
    "batch": np.int32,
    "position": np.int32,
    "source": np.int16,  # source number
    "value": np.float64,  # in units; NaN withdraws (T6)
    "currency": np.int16,  # currency_code; NO_CURRENCY where the unit has none
    "assumed": np.bool_,  # publication date assumed (T4)
    "fact": np.int64,  # row id in the ledger
}


@dataclass(frozen=True, eq=False)
class FactColumns:
    """Facts of one item on one basis, any order;
    every column has one entry a fact (see `DTYPES`).
    """

    company: NDArray[np.int32]
    start: NDArray[np.int32]
    end: NDArray[np.int32]
    declared_end: NDArray[np.int32]
    at: NDArray[np.int64]
    batch: NDArray[np.int32]
    position: NDArray[np.int32]
    source: NDArray[np.int16]
    value: NDArray[np.float64]
    currency: NDArray[np.int16]
    assumed: NDArray[np.bool_]
    fact: NDArray[np.int64]

    @classmethod
    def of(cls, columns: dict[str, Any]) -> Self:
        """From sequences or arrays by name, brought to the right types."""
        return cls(**{name: np.asarray(columns[name], dtype) for name, dtype in DTYPES.items()})

    @classmethod
    def empty(cls) -> Self:
        """No fact at all."""
        return cls.of({name: [] for name in DTYPES})

    def __len__(self) -> int:
        return len(self.company)

    def of_several_currencies(self) -> NDArray[np.int64]:
        """The companies, ascending, whose figures stand in more than one currency."""
        pairs = (
            np.unique(
                self.company.astype(np.int64) << 16 | (self.currency.astype(np.int64) & 0xFFFF)
            )
            >> 16
        )
        return np.unique(pairs[1:][pairs[1:] == pairs[:-1]])

    def where(self, keep: NDArray[np.bool_] | NDArray[np.int64]) -> Self:
        """Only the rows marked true, or those of these numbers."""
        return type(self)(**{f.name: getattr(self, f.name)[keep] for f in fields(self)})

    def known(
        self, recorded_by: int | None, with_assumed: bool, out: NDArray[np.int64] | None = None
    ) -> Self:
        """Without batches after `recorded_by` (T7),
        if asked without assumed publication dates (T4), without `out`.

        `out` are the facts in quarantine (Q2), ascending.
        """
        keep = np.ones(len(self), np.bool_)
        if out is not None and len(out):
            keep &= ~np.isin(self.fact, out)
        if recorded_by is not None:
            keep &= self.batch <= recorded_by
        if not with_assumed:
            keep &= ~self.assumed
        return self if keep.all() else self.where(keep)
