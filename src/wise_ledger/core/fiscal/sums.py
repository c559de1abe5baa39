"""Balances that are the sum of others where nobody reports them, such as total debt:
of one source at a time (T5).
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.fiscal.forming import combine
from wise_ledger.core.time.periods import ABSENT
from wise_ledger.core.timelines.keys import key_company
from wise_ledger.core.timelines.merge import by_source, coalesce
from wise_ledger.core.timelines.shares import first_values
from wise_ledger.core.timelines.timeline import Timeline
from wise_ledger.core.timelines.versions import Reported

PartsOf = Callable[[int], Sequence[Timeline]]
RankOf = Callable[[int, NDArray[np.int64]], NDArray[np.int16]]


def summed(
    reported: Reported,
    sources: Iterable[int],
    parts_of: PartsOf,
    rank_of: RankOf,
    form: str,
    *,
    first: bool = False,
) -> Timeline:
    """A balance as its first source reports it,
    else as the first source that has all its parts adds up to.

    `parts_of` gives the parts as a source (number) has them, keyed as the sum is; `rank_of` the
    place of a source in the order of preference of each company. Neither asks which facts there
    are, or what is published later would say which source gives an earlier figure (T9). Parts in
    different currencies are not added.
    """
    made = [(s, _added(parts_of(s), form, first)) for s in sources]
    ranked = [(rank_of(s, key_company(t.key)), t) for s, t in made if len(t)]
    ranks = sorted(
        {*reported.ranks, *(rank for own, _ in ranked for rank in np.unique(own).tolist())}
    )
    formed = [coalesce([t.take(own == rank) for own, t in ranked]) for rank in ranks]
    return by_source([reported.of(rank, 0, first=first) for rank in ranks], formed)


def _added(parts: Sequence[Timeline], form: str, first: bool) -> Timeline:
    made = combine(form, 0, [(1, 0, part) for part in parts])
    made = replace(made, start=np.full(len(made), ABSENT, np.int32))
    return first_values(made) if first else made
