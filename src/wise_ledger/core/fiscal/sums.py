"""Balances that are the sum of others where nobody reports them, such as total debt: of one source at a time (T5)."""

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from wise_ledger.core.fiscal.forming import combine
from wise_ledger.core.time.periods import ABSENT
from wise_ledger.core.timelines.keys import key_company
from wise_ledger.core.timelines.merge import by_source, coalesce
from wise_ledger.core.timelines.shares import first_values
from wise_ledger.core.timelines.timeline import Timeline
from wise_ledger.core.timelines.versions import Reported

PartOf = Callable[[int], Sequence[Timeline]]


def summed(reported: Reported, lead: Reported, parts_of: PartOf, form: str, *, first: bool = False) -> Timeline:
    """A balance as its first source reports it, else as the first source that has all its parts adds up to.

    `parts_of` gives the parts as a source (number) has them, keyed as the sum is; `lead` are the figures of one of
    them, by whose order of sources the sums are preferred. Parts in different currencies are not added.
    """
    ranks = sorted({*reported.ranks, *lead.ranks})
    made = {source: _added(parts_of(source), form, first) for source in lead.sources}
    formed = [
        coalesce([t.take(lead.rank_of(source, key_company(t.key)) == rank) for source, t in made.items()])
        for rank in ranks
    ]
    return by_source([reported.of(rank, 0, first=first) for rank in ranks], formed)


def _added(parts: Sequence[Timeline], form: str, first: bool) -> Timeline:
    made = combine(form, 0, [(1, 0, part) for part in parts])
    made = replace(made, start=np.full(len(made), ABSENT, np.int32))
    return first_values(made) if first else made
