"""When venues close: a price of a day is known since then (T9)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, time
from typing import Self
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.identity.universe import Listing, Venue, described
from wise_ledger.core.time.instants import DAY, micros
from wise_ledger.core.time.periods import as_date

Days = NDArray[np.int64]


def closing(versions: Sequence[Venue], days: Days) -> Days:
    """The instant at which a venue closes on each day, as it is described for that day;
    the end of the day, UTC, where nobody says (T3).
    """
    unlike, place = np.unique(days, return_inverse=True)
    return np.array([_close(described(versions, d), d) for d in unlike.tolist()], np.int64)[place]


def _close(venue: Venue | None, day: int) -> int:
    if venue is None or not venue.time_zone:
        return (day + 1) * DAY - 1
    at = time.fromisoformat(venue.close)
    return micros(datetime.combine(as_date(day), at, ZoneInfo(venue.time_zone)))


@dataclass(frozen=True, eq=False)
class Closes:
    """The venue of each listing, and what venues are described as."""

    venue: Days  # by listing; of a listing that is not known the number after the last
    venues: tuple[Sequence[Venue], ...]

    @classmethod
    def of(cls, listings: Sequence[Listing], venues: Mapping[str, Sequence[Venue]]) -> Self:
        """Those of listings, at venues by MIC."""
        mics = sorted({x.mic for x in listings})
        number = {mic: n for n, mic in enumerate(mics)}
        venue = np.full(max((x.number for x in listings), default=-1) + 1, len(mics), np.int64)
        for x in listings:
            venue[x.number] = number[x.mic]
        return cls(venue, (*(venues.get(mic, ()) for mic in mics), ()))

    def at(self, listings: NDArray[np.int32], days: Days) -> Days:
        """The instant at which each listing's venue closes on a day;
        of one not described the end of the day, UTC.
        """
        out = np.empty(len(days), np.int64)
        there = (listings >= 0) & (listings < len(self.venue))
        venue = np.full(len(listings), len(self.venues) - 1, np.int64)
        venue[there] = self.venue[listings[there]]
        for n in np.unique(venue).tolist():
            own = venue == n
            out[own] = closing(self.venues[n], days[own])
        return out
