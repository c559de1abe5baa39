"""The dates of a panel as people write them: dates, a range with a frequency,
trading days of a venue.
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.errors import bad_input
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.time.periods import as_date, day
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.work.dates import read_date

FREQUENCIES = ("daily", "weekly", "monthly", "quarterly", "yearly", "trading")
MOST_DATES = 20_000
_MEND = "write a date, or a range such as 2015-01-01/2024-12-31 monthly"
_MONTHS = {"monthly": 1, "quarterly": 3, "yearly": 12}
Days = NDArray[np.int64]


def read_dates(snapshot: Snapshot, viewpoint: Viewpoint, asked: Sequence[str]) -> Days:
    """The days asked for, ascending, each once; raises `BadInput`.

    `2015-01-01/2024-12-31 monthly` are the last days of the months that end within the range, both
    ends included; `daily` its weekdays, `weekly` its Fridays, `trading ZALD` the days on which a
    venue traded.
    """
    if not asked:
        raise bad_input("dates", "", "no date is asked for", _MEND)
    found = np.unique(np.concatenate([_read(snapshot, viewpoint, text) for text in asked]))
    if not len(found):
        raise bad_input("dates", "; ".join(asked)[:80], "no such day lies in the range", "widen it")
    if len(found) > MOST_DATES:
        raise bad_input(
            "dates",
            len(found),
            f"these are more than {MOST_DATES:,} dates",
            "ask for fewer at once",
        )
    return found


def _read(snapshot: Snapshot, viewpoint: Viewpoint, text: str) -> Days:
    begin, slash, rest = text.strip().partition("/")
    if not slash:
        return np.array([day(read_date(begin, "dates"))], np.int64)
    words = rest.split()
    if not words:
        raise bad_input("dates", text, "the range has no end", _MEND)
    first, last = day(read_date(begin.strip(), "dates")), day(read_date(words[0], "dates"))
    if last < first:
        raise bad_input(
            "dates", text, "the range ends before it begins", f"write {words[0]}/{begin.strip()}"
        )
    frequency = words[1].lower() if len(words) > 1 else ""
    if frequency not in FREQUENCIES:
        problem = f"{frequency} is no frequency" if frequency else "the range has no frequency"
        mend = mend_for(frequency, FREQUENCIES) if frequency else ""
        raise bad_input("dates", text, problem, mend or f"add one of {', '.join(FREQUENCIES)}")
    if frequency == "trading":
        found = _trading(snapshot, viewpoint, words[2:], text)
        return np.asarray(found[(found >= first) & (found <= last)])
    if len(words) > 2:
        raise bad_input("dates", text, f"{words[2]} has no meaning here", _MEND)
    if frequency in _MONTHS:
        step = _MONTHS[frequency]
        months = np.arange((as_date(first).year - 1970) * 12, (as_date(last).year + 1 - 1970) * 12)
        ends = (months[months % step == step - 1] + 1).astype("M8[M]").astype("M8[D]").astype(
            np.int64
        ) - 1
        return np.asarray(ends[(ends >= first) & (ends <= last)])
    days = np.arange(first, last + 1)
    weekday = (days + 3) % 7  # 1970-01-01 was a Thursday
    return np.asarray(days[weekday == 4] if frequency == "weekly" else days[weekday < 5])


def _trading(snapshot: Snapshot, viewpoint: Viewpoint, words: Sequence[str], text: str) -> Days:
    """The days on which any listing of a venue has a price, as known."""
    venues = sorted({x.mic for x in snapshot.universe.listings})
    mic = words[0].upper() if words else ""
    if mic not in venues or len(words) > 1:
        problem = f"there is no venue {mic}" if mic else "trading days are those of a venue"
        raise bad_input(
            "dates",
            text,
            problem,
            mend_for(mic, venues),
        )
    numbers = np.array([x.number for x in snapshot.universe.listings if x.mic == mic], np.int64)
    rows = snapshot.view.market.prices.rows
    own = np.isin(rows["listing"], numbers) & (rows["known_at"] <= viewpoint.cutoff)
    return np.unique(rows["date"][own].astype(np.int64))
