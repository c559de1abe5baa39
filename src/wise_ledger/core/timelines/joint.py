"""Several figures side by side: at which ends all of them are there,
and when that became so (F11).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.timelines.keys import Instants, Keys, Rows, State, company_starts, key_company
from wise_ledger.core.timelines.merge import gather, merge
from wise_ledger.core.timelines.moves import Moves
from wise_ledger.core.timelines.timeline import Timeline

FormName = tuple[str, str, bool]  # item code, form, first reported


@dataclass(frozen=True, eq=False)
class Joint:
    """Rows like a timeline's; `rows` holds the row of each figure that stands then,
    counted within its company.

    The state is VALUE where all have a value, WITHDRAWN where any is withdrawn at that end, else
    ABSENT.
    """

    key: Keys
    at: Instants
    state: NDArray[np.int8]
    rows: tuple[Rows, ...]

    @classmethod
    def of(cls, timelines: Sequence[Timeline]) -> Self:
        """Lay the timelines of an expression's inputs side by side."""
        merged = merge(timelines)
        states = [
            gather(t.state, r, State.ABSENT) for t, r in zip(timelines, merged.rows, strict=True)
        ]
        values = np.logical_and.reduce([s == State.VALUE for s in states])
        withdrawn = np.logical_or.reduce([s == State.WITHDRAWN for s in states])
        state = np.where(
            values, State.VALUE, np.where(withdrawn, State.WITHDRAWN, State.ABSENT)
        ).astype(np.int8)
        # Rows from before all inputs were there say nothing: what is left falls back
        # only where a figure fell away.
        there = np.maximum.accumulate(np.where(state != State.ABSENT, np.arange(len(state)), -1))
        kept = np.flatnonzero(there >= np.searchsorted(merged.key, merged.key, "left"))
        key, company = merged.key[kept], key_company(merged.key[kept])
        own = [
            np.where(r[kept] < 0, -1, r[kept] - company_starts(t.key, company))
            for t, r in zip(timelines, merged.rows, strict=True)
        ]
        return cls(key, merged.at[kept], state[kept], tuple(own))

    @cached_property
    def moves(self) -> Moves:
        """The moves of the newest end at which all are there."""
        return Moves.of(self.key, self.at, self.state)
