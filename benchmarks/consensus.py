"""consensus: what analysts expected of many companies at many month ends,
against the same in pandas.
"""

import numpy as np
import pandas as pd

from benchmarks.timing import Result, best_of
from wise_ledger.core.estimates.consensus import Basis, consensus
from wise_ledger.core.estimates.contributions import Actuals, Contributions, target
from wise_ledger.core.market.factors import Factors
from wise_ledger.core.time.instants import DAY

SIZES = {"small": (40, 24, 20), "full": (500, 120, 20)}  # companies, month ends, contributors
BOUND = 10.0  # times pandas, the goal
_FIRST = 16_000
_STATISTICS = ("mean", "median", "high", "low", "stdev", "count")


def run(size: str) -> list[Result]:
    """Ours and pandas; every answer of every company and date compared."""
    companies, dates, houses = SIZES[size]
    rng = np.random.default_rng(3)
    years = dates // 12 + 1
    each = 4  # contributions of a house to a year
    rows = companies * years * houses * each
    company = np.repeat(np.arange(companies), years * houses * each)
    year = np.tile(np.repeat(np.arange(years), houses * each), companies)
    house = np.tile(np.repeat(np.arange(houses), each), companies * years)
    end = _FIRST + 365 * (year + 1)
    at = (end - rng.integers(10, 400, rows)) * DAY + rng.integers(0, DAY, rows)
    value = np.round(rng.lognormal(0, 0.2, rows), 3)
    keys = target(company, end)
    actual_keys = np.unique(keys)
    announced = (_FIRST + 365 * (np.tile(np.arange(years), companies) + 1) + 45) * DAY
    nothing = np.full(len(actual_keys), -1, np.int16)
    actuals = Actuals.of(actual_keys, announced, np.ones(len(actual_keys)), nothing)
    cutoffs = (_FIRST + 30 * np.arange(1, dates + 1)) * DAY
    ends = _FIRST + 365 * (np.searchsorted(announced[:years], cutoffs, "right") + 1)
    cells = np.repeat(np.arange(companies), dates)
    asked, when = target(cells, np.tile(ends, companies)), np.tile(cutoffs, companies)
    basis = Basis(Factors.of(()), np.empty(0, np.int64), 0, lambda source, *_: np.ones(len(source)))
    no_currency = np.full(len(asked), -1)

    # What does not depend on a date is laid out once, on both sides: here by
    # target, there by publication.
    of = Contributions.of(keys, house, at, value, np.full(rows, -1, np.int16), actuals)

    def ours() -> dict[str, np.ndarray]:
        return consensus(of, basis, asked, when, no_currency, _STATISTICS).values

    frame = pd.DataFrame({"key": keys, "house": house, "at": at, "value": value}).sort_values("at")
    seconds, found = best_of(3, ours)
    in_pandas, expected = best_of(
        1, lambda: _in_pandas(frame, asked.reshape(companies, dates), cutoffs)
    )
    equal = all(
        np.allclose(found[n].reshape(companies, dates), expected[n], equal_nan=True)
        for n in _STATISTICS
    )
    name = f"{rows:,} contributions, {companies} x {dates}"
    return [
        Result("consensus", size, f"Wise Ledger, {name}", seconds, 1.0, equal),
        Result(
            "consensus",
            size,
            f"pandas ({BOUND:g} x are aimed at)",
            in_pandas,
            in_pandas / seconds,
            equal,
        ),
    ]


def _in_pandas(
    frame: pd.DataFrame, asked: np.ndarray, cutoffs: np.ndarray
) -> dict[str, np.ndarray]:
    """Date by date: the last of each contributor that is not too old,
    then the statistics of each company.
    """
    out = {n: np.full(asked.shape, np.nan) for n in _STATISTICS}
    for d, cutoff in enumerate(cutoffs.tolist()):
        now = frame[(frame["at"] <= cutoff) & frame["key"].isin(asked[:, d])]
        last = now.groupby(["key", "house"], sort=False).tail(1)
        last = last[cutoff // DAY - last["at"] // DAY <= 120]
        of = last.groupby("key")["value"].agg(["mean", "median", "max", "min", "std", "count"])
        of = of.rename(columns={"max": "high", "min": "low", "std": "stdev"}).reindex(asked[:, d])
        for n in _STATISTICS:
            out[n][:, d] = of[n].to_numpy(float)
    return out
