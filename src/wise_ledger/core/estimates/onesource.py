"""Of estimates of several sources those of the first that has a period by then (T5):
sources are never mixed.
"""

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.records.columns import RecordColumns
from wise_ledger.core.time.periods import nominal_end

Whole = NDArray[np.int64]
ENDED = -1  # in the place of a source: what stood until a source that goes before had the period
_NEVER = np.iinfo(np.int64).max


def of_first_source(rows: RecordColumns, rank: Whole, *, contributed: bool) -> RecordColumns:
    """The rows that count: of each company, measure and period those of the
    first source, once it has any.

    `rank` is the place of each row's source in the order of preference. What another source had
    before then stood until that instant: where it was `contributed`, a row without value ends each
    contribution, its source `ENDED`.
    """
    if not len(rows) or rank.min() == rank.max():
        return rows
    ends = nominal_end(rows["period_end"]).astype(np.int64)
    columns = (rows["measure"], rows["company"], rows["period_kind"], ends)
    _, group = np.unique(np.stack(columns, axis=1), axis=0, return_inverse=True)
    group, known = group.ravel(), rows["known_at"]
    ranks = int(rank.max()) + 1
    pairs, pair = np.unique(group * ranks + rank, return_inverse=True)
    first = np.full(len(pairs), _NEVER)
    np.minimum.at(first, pair, known)
    before = np.full(int(group.max()) + 1, _NEVER)  # since when a source that goes before has it
    since = np.empty(len(pairs), np.int64)
    for place in range(ranks):
        own = pairs % ranks == place
        of = pairs[own] // ranks
        since[own] = before[of]
        before[of] = np.minimum(before[of], first[own])
    until = since[pair]
    counts = known < until
    if not contributed:
        return rows.where(counts)
    ended = np.flatnonzero(counts & (until != _NEVER))
    # Each contribution ends whenever its source is passed: a contributor
    # may have had it from several.
    which = np.stack(
        (group[ended], rows["contributor"][ended].astype(np.int64), until[ended]), axis=1
    )
    one = ended[np.unique(which, axis=0, return_index=True)[1]] if len(ended) else ended
    over = rows.where(one).having(
        value=np.nan, known_at=until[one], published_at=until[one], source=ENDED
    )
    # What the source that goes before said at that very instant counts after the end.
    return RecordColumns.together(rows.kind, [over, rows.where(counts)])
