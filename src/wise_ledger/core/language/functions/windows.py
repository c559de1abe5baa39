"""Functions over a window of samples: now, a step before, two steps before … below the span."""

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values, all_marks, common_currency
from wise_ledger.core.arithmetic import decimal, mean
from wise_ledger.core.language.functions.function import Function, Reckon, Samples, Second, Wants

Times = NDArray[np.float64]


def over(parts: Sequence[Values], reckon: Reckon, years: float, least: int) -> Values:
    """One result a cell out of its samples, which lie so many years apart.

    `incomplete` where fewer than half of them are there, or fewer than `least`; where there is none
    at all, the reason of the one of now.
    """
    there = np.stack([p.there for p in parts])
    samples = np.where(there, np.stack([p.value.astype(np.float64) for p in parts]), np.nan)
    count = there.sum(axis=0)
    with np.errstate(all="ignore"):
        times = -np.arange(len(parts), dtype=np.float64) * years
        value = np.where(count > 0, reckon(np.where(count > 0, samples, 0.0), times), np.nan)
    few = (2 * count < len(parts)) | (count < least)
    reason = np.where(
        count == 0,
        parts[0].reason,
        np.where(few, np.uint8(Reason.INCOMPLETE), np.uint8(Reason.NONE)),
    )
    shown = [
        Values(p.value, p.reason, np.where(p.there, p.marks, 0).astype(np.uint8), p.currency)
        for p in parts
    ]
    currency, clash = common_currency([_counted(p) for p in parts])
    out = Values(value, reason.astype(np.uint8), all_marks(shown), currency)
    return out.missing_where(clash, Reason.NO_RATE).finite()


def _counted(part: Values) -> Values:
    """Only samples that are there have a currency."""
    return Values(
        part.value,
        part.reason,
        part.marks,
        np.where(part.there, part.currency, -1).astype(np.int16),
    )


def _median(samples: Samples, _times: Times) -> NDArray[Any]:
    found = np.nanmedian(samples, axis=0)
    return decimal(found, 2 * np.abs(found))


def _deviation(samples: Samples, _times: Times) -> NDArray[Any]:
    away = samples - mean(samples)
    return np.asarray(
        np.sqrt(np.nansum(away * away, axis=0) / ((~np.isnan(samples)).sum(axis=0) - 1))
    )


def _slope(samples: Samples, times: Times) -> NDArray[Any]:
    """Least squares over time, per year."""
    at = np.where(np.isnan(samples), np.nan, times.reshape(-1, *[1] * (samples.ndim - 1)))
    away = at - mean(at)
    return np.asarray(
        np.nansum(away * (samples - mean(samples)), axis=0) / np.nansum(away * away, axis=0)
    )


def _window(name: str, meaning: str, reckon: Reckon, least: int = 1) -> Function:
    return Function(
        name,
        f"{name}(x, span)",
        meaning,
        lambda parts, years: over(parts, reckon, years, least),
        Wants.WINDOW,
        second=Second.SPAN,
        samples=least,
        window=reckon,
    )


WINDOWS = (
    _window("mean", "the mean over the span", lambda s, _: mean(s)),
    _window("median", "the median over the span", _median),
    _window("stdev", "the standard deviation over the span, n - 1", _deviation, 2),
    _window("lowest", "the lowest over the span", lambda s, _: np.nanmin(s, axis=0)),
    _window("highest", "the highest over the span", lambda s, _: np.nanmax(s, axis=0)),
    _window("slope", "the trend over the span: least squares, a year", _slope, 2),
)
