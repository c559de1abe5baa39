"""Several figures side by side: at which ends all of them are there, and when that became so (F11)."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.facts.keys import Instants, Keys, Rows, State
from wise_ledger.core.facts.moves import Moves
from wise_ledger.core.facts.timeline import Timeline, gather, merge

FormName = tuple[str, str, bool]  # item code, form, first reported


@dataclass(frozen=True, eq=False)
class Joint:
    """Rows like a timeline's; `rows` holds the row of each figure that stands then.

    The state is VALUE where all have a value, WITHDRAWN where any is withdrawn at that end, else ABSENT.
    """

    key: Keys
    at: Instants
    state: NDArray[np.int8]
    rows: tuple[Rows, ...]

    @classmethod
    def of(cls, timelines: Sequence[Timeline]) -> Self:
        """Lay the timelines of an expression's inputs side by side."""
        merged = merge(timelines)
        states = [gather(t.state, r, State.ABSENT) for t, r in zip(timelines, merged.rows, strict=True)]
        values = np.logical_and.reduce([s == State.VALUE for s in states])
        withdrawn = np.logical_or.reduce([s == State.WITHDRAWN for s in states])
        state = np.where(values, State.VALUE, np.where(withdrawn, State.WITHDRAWN, State.ABSENT))
        return cls(merged.key, merged.at, state.astype(np.int8), merged.rows)

    @cached_property
    def moves(self) -> Moves:
        """The moves of the newest end at which all are there."""
        return Moves.of(self.key, self.at, self.state)
