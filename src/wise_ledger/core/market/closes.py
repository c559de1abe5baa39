"""When venues close: a price of a day is known since then (T9)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, time
from typing import Self
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.identity.universe import Listing, Venue
from wise_ledger.core.time.instants import DAY, micros
from wise_ledger.core.time.periods import as_date


@dataclass(frozen=True, eq=False)
class Closes:
    """The venue of each listing, and each venue's zone and hour."""

    venue: NDArray[np.int64]  # by listing; of a listing that is not known the number after the last
    # by venue: zone and HH:MM, None where nobody described it
    hours: tuple[tuple[str, str] | None, ...]

    @classmethod
    def of(cls, listings: Sequence[Listing], venues: Mapping[str, Venue]) -> Self:
        """Those of listings, at venues by MIC."""
        mics = sorted({x.mic for x in listings})
        number = {mic: n for n, mic in enumerate(mics)}
        venue = np.full(max((x.number for x in listings), default=-1) + 1, len(mics), np.int64)
        for x in listings:
            venue[x.number] = number[x.mic]
        described = [venues.get(mic) for mic in mics]
        return cls(
            venue,
            (*((v.time_zone, v.close) if v and v.time_zone else None for v in described), None),
        )

    def at(self, listings: NDArray[np.int32], days: NDArray[np.int64]) -> NDArray[np.int64]:
        """The instant at which each listing's venue closes on a day;
        of one not described the end of the day, UTC.
        """
        out = (days + 1) * DAY - 1
        there = (listings >= 0) & (listings < len(self.venue))
        venue = np.full(len(listings), len(self.hours) - 1, np.int64)
        venue[there] = self.venue[listings[there]]
        for n, hours in enumerate(self.hours):
            own = venue == n
            if hours is None or not own.any():
                continue
            zone, close = ZoneInfo(hours[0]), time.fromisoformat(hours[1])
            first = int(days[own].min())
            span = range(first, int(days[own].max()) + 1)
            known = np.array(
                [micros(datetime.combine(as_date(d), close, zone)) for d in span], np.int64
            )
            out[own] = known[days[own] - first]
        return out
