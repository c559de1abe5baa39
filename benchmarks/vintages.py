"""vintages: many series as known on many month ends, out of a million observations,
against the same in pandas.
"""

import numpy as np
import pandas as pd

from benchmarks.timing import Result, best_of
from wise_ledger.core.records.columnkinds import SERIES
from wise_ledger.core.records.columns import RecordColumns
from wise_ledger.core.series.periods import Frequency, code_of
from wise_ledger.core.series.vintages import Vintages
from wise_ledger.core.time.instants import DAY

# series, months, month ends, releases of a month
SIZES = {"small": (10, 60, 24, 4), "full": (40, 300, 120, 84)}
BOUND = 10.0  # times pandas, the goal


def run(size: str) -> list[Result]:
    """Every period of every series as known on every month end; ours and
    pandas, all cells compared.
    """
    series, months, dates, releases = SIZES[size]
    rng = np.random.default_rng(11)
    first = 240  # January 1990
    rows = series * months * releases
    which = np.repeat(np.arange(series), months * releases)
    month = np.tile(np.repeat(np.arange(months), releases), series)
    codes = np.array([code_of(Frequency.M, first + m) for m in range(months)])
    ends = codes // 8
    nth = np.tile(np.arange(releases), series * months)
    known = (ends[month] + 40 + 30 * nth + rng.integers(0, 20, rows)) * DAY
    value = np.round(100 + rng.normal(size=rows), 3)
    columns = RecordColumns.of(
        SERIES, series=which, period=codes[month], value=value, released_at=known, known_at=known
    )
    vintages = Vintages.of(columns)
    cutoffs = (ends[-dates:] + 1) * DAY - 1

    def ours() -> np.ndarray:
        out = np.empty((series, months, dates))
        for n in range(series):
            grid = vintages.grid(n, cutoffs)[1]
            out[n] = np.where(grid >= 0, vintages.value[grid], np.nan)
        return out

    frame = pd.DataFrame(
        {"series": which, "month": month, "known": known, "value": value}
    ).sort_values("known")
    seconds, found = best_of(5, ours)
    in_pandas, expected = best_of(1, lambda: _in_pandas(frame, cutoffs, series, months))
    equal = bool(np.array_equal(found, expected, equal_nan=True))
    name = f"{rows:,} observations, {series} series x {dates} month ends"
    return [
        Result("vintages", size, f"Wise Ledger, {name}", seconds, 1.0, equal),
        Result(
            "vintages",
            size,
            f"pandas ({BOUND:g} x are aimed at)",
            in_pandas,
            in_pandas / seconds,
            equal,
        ),
    ]


def _in_pandas(frame: pd.DataFrame, cutoffs: np.ndarray, series: int, months: int) -> np.ndarray:
    """Date by date: the last release of each series and month."""
    out = np.full((series, months, len(cutoffs)), np.nan)
    for d, cutoff in enumerate(cutoffs.tolist()):
        last = (
            frame[frame["known"] <= cutoff].groupby(["series", "month"], sort=False)["value"].last()
        )
        out[last.index.get_level_values(0), last.index.get_level_values(1), d] = last.to_numpy()
    return out
