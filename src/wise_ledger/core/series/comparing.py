"""Many series side by side: correlation, distance from the group's mean and its half-life,
who leads and who lags.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.arithmetic import mean

Numbers = NDArray[np.float64]
LEAST = 8  # pairs that a correlation needs
MOST_LAGS = 36


@dataclass(frozen=True, eq=False)
class Comparison:
    """What a grid of series shows; of each series down, NaN where too little is there.

    `correlation` is of one with another (Pearson, over the periods that both have); `distance` its
    last value less the group's mean; `half_life` the periods in which half of such a distance is
    gone, from a first-order regression of the distance on the one before it; `lead` by how many
    periods it goes before the others, negative where behind; `lead_correlation` the correlation
    with the mean of the others there, `by_lag` that at every one of `lags`.
    """

    correlation: Numbers
    distance: Numbers
    half_life: Numbers
    lead: Numbers
    lead_correlation: Numbers
    by_lag: Numbers
    lags: NDArray[np.int64]
    mean: Numbers  # of the group, by period


def compare(levels: Numbers, changes: Numbers, lags: int) -> Comparison:
    """Compare series (down) over periods (across), NaN where nothing is there.

    Distances are taken of `levels`, correlations and leads of `changes`. A distance whose
    regression does not return has no half-life. Cross-correlation by lag as in any textbook of time
    series.

    >>> wave = np.sin(np.arange(60) / 5)
    >>> found = compare(np.stack([wave[2:], wave[:-2]]), np.stack([wave[2:], wave[:-2]]), 4)
    >>> found.lead.tolist()
    [2.0, -2.0]
    """
    correlation = correlations(changes, changes)
    with np.errstate(all="ignore"):
        average = mean(levels)
        away = levels - average
    steps = np.arange(-lags, lags + 1)
    others = _mean_of_others(changes)
    by_lag = np.stack([_rowwise(*_shifted(changes, others, int(k))) for k in steps], axis=1)
    filled = np.where(np.isnan(by_lag), -np.inf, by_lag)
    # Of equals the nearest to no lag at all.
    order = np.argsort(np.abs(steps), kind="stable")
    best = order[np.argmax(np.round(filled[:, order], 12), axis=1)]
    none = ~np.isfinite(filled).any(axis=1) if filled.size else np.ones(len(changes), np.bool_)
    row = np.arange(len(changes))
    return Comparison(
        correlation,
        _last(away),
        np.array([_half_life(row_) for row_ in away]),
        np.where(none, np.nan, steps[best].astype(np.float64)),
        np.where(none, np.nan, by_lag[row, best]),
        by_lag,
        steps,
        average,
    )


def correlations(a: Numbers, b: Numbers) -> Numbers:
    """The correlation of every row of one grid with every row of another,
    each over what both have.
    """
    there_a, there_b = (~np.isnan(a)).astype(np.float64), (~np.isnan(b)).astype(np.float64)
    za, zb = np.nan_to_num(a - _centre(a)), np.nan_to_num(b - _centre(b))
    count = there_a @ there_b.T
    sum_a, sum_b = za @ there_b.T, there_a @ zb.T
    with np.errstate(all="ignore"):
        across = za @ zb.T - sum_a * sum_b / count
        own_a = (za * za) @ there_b.T - sum_a**2 / count
        own_b = there_a @ (zb * zb).T - sum_b**2 / count
        found = across / np.sqrt(own_a * own_b)
    flat = (own_a <= 1e-24 * np.maximum(count, 1)) | (own_b <= 1e-24 * np.maximum(count, 1))
    return np.where((count < LEAST) | flat, np.nan, np.clip(found, -1.0, 1.0))


def _rowwise(a: Numbers, b: Numbers) -> Numbers:
    """The correlation of each row with the same row of another grid."""
    both = ~np.isnan(a) & ~np.isnan(b)
    count = both.sum(axis=1)
    with np.errstate(all="ignore"):
        za, zb = (
            np.where(both, x - mean(np.where(both, x, np.nan), axis=1)[:, None], 0) for x in (a, b)
        )
        found = (za * zb).sum(axis=1) / np.sqrt((za * za).sum(axis=1) * (zb * zb).sum(axis=1))
    return np.where(count < LEAST, np.nan, found)


def _shifted(own: Numbers, others: Numbers, lead: int) -> tuple[Numbers, Numbers]:
    """Each row beside what the others did so many periods later (before, where negative)."""
    if lead >= 0:
        return own[:, : own.shape[1] - lead], others[:, lead:]
    return own[:, -lead:], others[:, :lead]


def _centre(values: Numbers) -> Numbers:
    return np.asarray(mean(values, axis=1)[:, None])


def _mean_of_others(values: Numbers) -> Numbers:
    there = ~np.isnan(values)
    with np.errstate(all="ignore"):
        least = np.fmin.reduce(values, axis=0)
        above = np.where(there, values - least, 0.0)
        found = least + (above.sum(axis=0) - above) / (there.sum(axis=0) - there)
    return np.where(np.isfinite(found), found, np.nan)


def _last(values: Numbers) -> Numbers:
    out = np.full(len(values), np.nan)
    for n, row in enumerate(values):
        if (there := np.flatnonzero(~np.isnan(row))).size:
            out[n] = row[there[-1]]
    return out


def _half_life(away: Numbers) -> float:
    """ln 0.5 / ln rho of away[t] = a + rho away[t-1]; NaN unless 0 < rho < 1."""
    then, now = away[:-1], away[1:]
    both = ~np.isnan(then) & ~np.isnan(now)
    if both.sum() < LEAST:
        return float("nan")
    x, y = then[both] - mean(then[both]), now[both] - mean(now[both])
    spread = float((x * x).sum())
    rho = float((x * y).sum()) / spread if spread > 0 else 0.0
    return float(np.log(0.5) / np.log(rho)) if 0 < rho < 1 else float("nan")
