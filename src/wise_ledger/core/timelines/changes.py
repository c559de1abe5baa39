"""Figures of one item that read differently from the version before:
what was restated or taken back (T5, T6).
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.records.facts import FactColumns

Rows = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Changes:
    """Rows of facts, one entry a change: what it is, what it was, its first version,
    the last one by the cut-off.
    """

    now: Rows
    before: Rows
    original: Rows
    latest: Rows

    @classmethod
    def of(
        cls, facts: FactColumns, since: int, until: int, companies: NDArray[np.int64] | None = None
    ) -> "Changes":
        """What was published between two instants (microseconds, both included),
        of some companies or of all.

        Versions are followed within one source, company, item and period.
        """
        known = facts.at <= until
        if companies is not None:
            known &= np.isin(facts.company, companies)
        rows = np.flatnonzero(known)
        columns = [getattr(facts, name)[rows] for name in ("company", "source", "end", "start")]
        order = np.lexsort(
            (facts.position[rows], facts.batch[rows], facts.at[rows], *columns[::-1])
        )
        rows = rows[order]
        starts = np.ones(len(rows), np.bool_)
        if len(rows):
            starts[1:] = np.logical_or.reduce([c[order][1:] != c[order][:-1] for c in columns])
        begin = np.maximum.accumulate(np.where(starts, np.arange(len(rows)), 0))
        ends = np.append(np.flatnonzero(starts)[1:], len(rows)) - 1
        end = ends[np.cumsum(starts) - 1]
        value = facts.value[rows]
        differs = np.zeros(len(rows), np.bool_)
        both = np.isnan(value[1:]) & np.isnan(value[:-1])
        differs[1:] = ~starts[1:] & ~both & (value[1:] != value[:-1])
        found = np.flatnonzero(differs & (facts.at[rows] >= since))
        return cls(rows[found], rows[found - 1], rows[begin[found]], rows[end[found]])
