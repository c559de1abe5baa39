"""When companies are expected to announce their next periods, as known at a cut-off."""

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from wise_ledger.core.estimates.contributions import QUARTER, YEAR, target
from wise_ledger.core.estimates.estimates import NOTHING, Estimates
from wise_ledger.core.estimates.known import period_keys
from wise_ledger.core.records.columns import RecordColumns, missing
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import shift_months
from wise_ledger.core.timelines.keys import key_end

LATE = 60  # days after which nobody waits for an announcement any more
_SAME_WEEKDAY = 364


@dataclass(frozen=True)
class ExpectedAnnouncement:
    """A period that is not announced, and the instant at which it is expected to be.

    `stated` where a source says so; else it is expected 364 days after the same period of the year
    before.
    """

    company: int
    kind: int  # months
    end: int
    at: int
    stated: bool


def expected_announcements(
    of: Estimates, rows: RecordColumns, companies: Collection[int], cutoff: int
) -> list[ExpectedAnnouncement]:
    """What each company is expected to announce after a cut-off, or was
    before and has not, for `LATE` days.

    Of a source's rows about a period the last one known counts, also the one that takes the others
    back. A year and a quarter that end together are announced together: the year is reported.
    """
    found = _stated(rows, companies, cutoff)
    members = np.array(sorted(companies), np.int64)
    for kind in (YEAR, QUARTER):
        ends = of.period(kind, 1, members, np.array([cutoff]))[:, 0]
        before = shift_months(np.where(ends == NOTHING, 0, ends).astype(np.int32), -12).astype(
            np.int64
        )
        last = of.announced_at(kind, target(members, before))
        for n in np.flatnonzero((ends != NOTHING) & (last <= cutoff)).tolist():
            key = int(members[n]), kind, int(ends[n])
            if key not in found:
                found[key] = ExpectedAnnouncement(*key, int(last[n]) + _SAME_WEEKDAY * DAY, False)
    known = [e for e in found.values() if e is not None and e.at >= cutoff - LATE * DAY]
    waiting = []
    for kind in (YEAR, QUARTER):
        own = [e for e in known if e.kind == kind]
        keys = target(
            np.array([e.company for e in own], np.int64), np.array([e.end for e in own], np.int64)
        )
        at = of.announced_at(kind, keys).tolist() if own else []
        waiting += [e for e, announced in zip(own, at, strict=True) if announced > cutoff]
    years = {(company, end) for company, kind, end in found if kind == YEAR}
    left = [e for e in waiting if e.kind == YEAR or (e.company, e.end) not in years]
    return sorted(left, key=lambda e: (e.at, e.company, e.end))


def _stated(
    rows: RecordColumns, companies: Collection[int], cutoff: int
) -> dict[tuple[int, int, int], ExpectedAnnouncement | None]:
    """What sources say, by company, kind and end; None where the last word takes it back."""
    rows = rows.where((rows["known_at"] <= cutoff) & np.isin(rows["company"], sorted(companies)))
    rows = rows.where(np.argsort(rows["known_at"], kind="stable"))
    ends = key_end(period_keys(rows))
    found: dict[tuple[int, int, int], ExpectedAnnouncement | None] = {}
    absent = missing(rows["expected_at"])
    for n in range(len(rows)):
        key = int(rows["company"][n]), int(rows["period_kind"][n]), int(ends[n])
        found[key] = (
            None if absent[n] else ExpectedAnnouncement(*key, int(rows["expected_at"][n]), True)
        )
    return found
