"""Many series compared: how they move together, how far each is from their mean,
who leads and who lags.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.errors import bad_input
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.series.comparing import LEAST, MOST_LAGS, Comparison, compare
from wise_ledger.core.series.periods import Frequency, label
from wise_ledger.core.series.steps import Change, in_words, is_fraction, read_steps
from wise_ledger.work.desk import Desk
from wise_ledger.work.seriesreading import Shown, Wanted, read_sheet

MOST_COMPARED = 200
_CHANGES = ("log growth on the period before", "change on the period before")


@dataclass(frozen=True, eq=False)
class Compared:
    """Series side by side over one stretch of periods: `levels` series down
    and periods across, NaN where none is.

    `changes` says in words of what correlations and leads are; `spread_to` is the key that was
    taken from all.
    """

    series: tuple[Shown, ...]
    frequency: Frequency
    periods: tuple[str, ...]
    levels: NDArray[np.float64]
    found: Comparison
    head: str
    percent: bool
    changes: str
    spread_to: str | None
    batch: int


def compare_series(
    desk: Desk,
    viewpoint: Viewpoint,
    wanted: Sequence[Wanted],
    *,
    steps: Sequence[str] = (),
    changes: str | None = None,
    spread_to: str | None = None,
    start: str | None = None,
    end: str | None = None,
    lags: int = 12,
) -> Compared:
    """Compare series of one frequency; raises `BadInput`.

    What is compared stands after `steps`. Correlations and leads are of `changes` of it: without
    that, of the growth of a level above zero, of the plain change of anything else, of what is a
    change already as it stands.
    """
    sheet = read_sheet(desk, viewpoint, wanted, steps=steps, start=start, end=end)
    shown = sheet.series
    if not 2 <= len(shown) <= MOST_COMPARED:
        mend = (
            "name more, or a wildcard key"
            if len(shown) < 2
            else f"narrow the key: at most {MOST_COMPARED} at once"
        )
        raise bad_input("series", len(shown), "several series are compared", mend)
    if not 0 <= lags <= MOST_LAGS:
        raise bad_input(
            "lags",
            lags,
            f"leads are looked for within {MOST_LAGS} periods",
            f"write at most {MOST_LAGS}",
        )
    frequencies = sorted({s.line.frequency for s in shown})
    if len(frequencies) > 1:
        words = " and ".join(f.adverb for f in frequencies)
        mend = f"bring them to one, by a step such as {frequencies[0].adverb} mean"
        raise bad_input("series", words, "the series are of several frequencies", mend)
    periods, levels = _grid(shown, frequencies[0])
    if spread_to is not None:
        keys = [s.about.key for s in shown]
        if spread_to not in keys:
            raise bad_input(
                "spread_to",
                spread_to,
                "it is none of the series compared",
                mend_for(spread_to, keys),
            )
        levels = levels - levels[keys.index(spread_to)]
    if len(periods) < LEAST:
        raise bad_input(
            "start",
            start or "",
            f"these are {len(periods)} periods",
            f"compare {LEAST} at the least",
        )
    moves, words = _moves(levels, frequencies[0], periods, steps, changes)
    found = compare(levels, moves, min(lags, max(0, len(periods) - LEAST - 1)))
    labels = tuple(label(frequencies[0], int(p)) for p in periods)
    head, percent = in_words(read_steps(steps)), is_fraction(read_steps(steps))
    return Compared(
        shown, frequencies[0], labels, levels, found, head, percent, words, spread_to, sheet.batch
    )


def _grid(
    shown: Sequence[Shown], frequency: Frequency
) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """All periods of the series, and their values: series down, periods across."""
    periods = np.unique(np.concatenate([s.line.period for s in shown]))
    if frequency is not Frequency.D and len(periods):
        periods = np.arange(periods[0], periods[-1] + 1)
    out = np.full((len(shown), len(periods)), np.nan)
    for row, series in zip(out, shown, strict=True):
        row[np.searchsorted(periods, series.line.period)] = series.line.value
    return periods, out


def _moves(
    levels: NDArray[np.float64],
    frequency: Frequency,
    periods: NDArray[np.int64],
    steps: Sequence[str],
    asked: str | None,
) -> tuple[NDArray[np.float64], str]:
    """What correlations are of, and that in words."""
    if asked is None and any(isinstance(step, Change) for step in read_steps(steps)):
        return levels, "as they stand"
    positive = bool((levels[~np.isnan(levels)] > 0).all())
    words = asked or _CHANGES[0 if positive else 1]
    (step,) = read_steps([words])[:1] or (None,)
    if not isinstance(step, Change):
        raise bad_input("changes", words, "this is no change", f"write {_CHANGES[0]}")
    back = step.periods or frequency.in_a_year
    out = np.full(levels.shape, np.nan)
    if back >= levels.shape[1]:
        return out, step.words
    with np.errstate(all="ignore"):
        now, then = levels[:, back:], levels[:, :-back]
        if step.as_ == "amount":
            out[:, back:] = now - then
        else:
            ratio = np.where((then > 0) & (now > 0), now / then, np.nan)
            out[:, back:] = np.log(ratio) if step.as_ == "log" else ratio - 1
    return out, step.words
