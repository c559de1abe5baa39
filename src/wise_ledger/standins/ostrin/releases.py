"""Every release of every observation: what was said of a period, when, on which base."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time

import numpy as np
from numpy.typing import NDArray

from wise_ledger.standins.economy import FIRST_YEAR, MONTHS, drawn
from wise_ledger.standins.ostrin.flows import FLOWS, Flow

Whole = NDArray[np.int64]
_DAY = 86_400_000_000
_EPOCH = date(1970, 1, 1)
_AT = 9 * 3_600_000_000  # of the day, when statistics are released
_FIX = 16 * 3_600_000_000  # and interest rates


@dataclass(frozen=True, eq=False)
class FlowReleases:
    """The releases of a flow, in order of time: of the key `keys[series]`,
    for a period as it is written.
    """

    flow: Flow
    series: Whole
    period: Whole
    at: Whole
    value: NDArray[np.float64]
    base: Whole  # a year, 0 where it is no index
    labels: list[str]  # of periods


Releases = Mapping[str, FlowReleases]


def make_releases(flows: Sequence[Flow] = FLOWS) -> Releases:
    """All that will ever be released of some flows;
    the app gives only what is public by its clock.
    """
    return {flow.id: _of_flow(flow) for flow in flows}


def _day(on: date) -> int:
    return (on - _EPOCH).days


def _month_starts(step: int) -> Whole:
    months = np.arange(0, MONTHS + 1, step) + (FIRST_YEAR - 1970) * 12
    return np.asarray(months.astype("M8[M]").astype("M8[D]").astype(np.int64))


def _periods(flow: Flow) -> tuple[Whole, list[str]]:
    """The last day of every period, and how it is written."""
    if flow.frequency in "MQ":
        edges = _month_starts(1 if flow.frequency == "M" else 3)
        starts = [_EPOCH.fromordinal(_EPOCH.toordinal() + int(d)) for d in edges[:-1]]
        if flow.frequency == "M":
            return edges[1:] - 1, [f"{d.year}-{d.month:02d}" for d in starts]
        return edges[1:] - 1, [f"{d.year}-Q{(d.month + 2) // 3}" for d in starts]
    first, last = _day(date(FIRST_YEAR, 1, 3)), _day(date(FIRST_YEAR + MONTHS // 12, 1, 1))
    days = np.arange(first, last)
    if flow.frequency == "D":
        days = days[(days + 3) % 7 < 5]
        days = days[~np.isin(days, _holidays())]
        return days, [str(np.datetime64(int(d), "D")) for d in days]
    sundays = days[(days + 3) % 7 == 6]
    weeks = [(_EPOCH.fromordinal(_EPOCH.toordinal() + int(d))).isocalendar() for d in sundays]
    return sundays, [f"{w.year}-W{w.week:02d}" for w in weeks]


def _holidays() -> Whole:
    years = range(FIRST_YEAR, FIRST_YEAR + MONTHS // 12)
    return np.array(
        [_day(date(y, *d)) for y in years for d in ((1, 1), (12, 25), (12, 26))], np.int64
    )


def _true(flow: Flow, ends: Whole) -> NDArray[np.float64]:
    """What is true of each series (down) in each period."""
    monthly = np.stack([flow.values(key) for key in flow.keys])
    if flow.frequency == "M":
        return monthly
    if flow.frequency == "Q":
        of_quarter = monthly.reshape(len(monthly), -1, 3)
        amounts = np.array([flow.unit(k) != "INDEX" for k in flow.keys])
        return np.where(amounts[:, None], of_quarter.sum(axis=2), of_quarter.mean(axis=2))
    middle = _month_starts(1)[:-1] + 14
    out = np.stack([np.interp(ends, middle, row) for row in monthly])
    shake = {"D": 0.035, "W": 0.05}[flow.frequency]
    for n, key in enumerate(flow.keys):
        wander = drawn(f"days {flow.id} {key}").normal(size=len(ends))
        out[n] += shake * wander if flow.frequency == "D" else out[n] * shake * wander
        if key[-1] == "POLICY":
            out[n] = np.round(np.interp(ends, middle, monthly[n]) * 4) / 4
    return out


def _of_flow(flow: Flow) -> FlowReleases:
    ends, labels = _periods(flow)
    true = _true(flow, ends)
    count, periods = true.shape
    chances = drawn(f"releases {flow.id}")
    spread = (
        np.abs(np.diff(true, axis=1)).mean(axis=1)
        if flow.frequency in "MQ"
        else np.abs(true).mean(axis=1) * 0.2
    )
    days = np.cumsum(np.array([flow.lag, *np.diff((0, *flow.again))]))[:, None] + ends[None, :]
    weekday = (days + 3) % 7
    if flow.frequency != "D":  # nothing is released at a weekend
        days = days + (7 - weekday) * (weekday > 4)
    error = np.cumsum(chances.normal(size=(len(flow.off), count, periods)), axis=0)
    off = np.array(flow.off)[:, None, None] * error
    published = true[None] + off * spread[None, :, None]
    at_hour = _FIX if flow.frequency == "D" else _AT
    at = days * _DAY + at_hour
    turns = [
        (int(np.datetime64(on).astype(np.int64)) * _DAY + _AT, year) for on, year in flow.bases
    ]
    index = np.array([flow.unit(k) == "INDEX" for k in flow.keys])
    parts: list[tuple[Whole, Whole, Whole, NDArray[np.float64]]] = []
    for stage in range(len(published)):
        which, period = np.meshgrid(np.arange(count), np.arange(periods), indexing="ij")
        parts.append(
            (
                which.ravel(),
                period.ravel(),
                np.broadcast_to(at[stage], (count, periods)).ravel(),
                published[stage].ravel(),
            )
        )
    for turn, _ in turns[1:]:  # all that was out by then comes out again on the new base
        stage = (at <= turn).sum(axis=0) - 1
        which, period = np.meshgrid(
            np.flatnonzero(index), np.flatnonzero(stage >= 0), indexing="ij"
        )
        again = published[stage[period], which, period] * (
            1 + 0.0004 * (period - period.max()) / 12
        )
        parts.append((which.ravel(), period.ravel(), np.full(which.size, turn), again.ravel()))
    series, period, moment, value = (np.concatenate([p[n] for p in parts]) for n in range(4))
    base = np.zeros(len(series), np.int64)
    for turn, year in turns:
        base[(moment >= turn) & index[series]] = year
    years = np.array([int(label[:4]) for label in labels])
    for year in {y for _, y in turns}:
        level = true[:, years == year].mean(axis=1)
        own = base == year
        value[own] = value[own] / level[series[own]] * 100
    value = np.round(value, flow.decimals)
    for key, on in flow.ended.items():
        gone = (series == flow.keys.index(key)) & (ends[period] > _day(date.fromisoformat(on)))
        series, period, moment, value, base = (
            c[~gone] for c in (series, period, moment, value, base)
        )
    order = np.lexsort((moment, period, series))
    series, period, moment, value, base = (c[order] for c in (series, period, moment, value, base))
    new = np.ones(len(series), np.bool_)  # what says the same again is no release
    new[1:] = ~(
        (series[1:] == series[:-1])
        & (period[1:] == period[:-1])
        & (value[1:] == value[:-1])
        & (base[1:] == base[:-1])
    )
    return FlowReleases(flow, series[new], period[new], moment[new], value[new], base[new], labels)


def micros(moment: datetime) -> int:
    """An instant as releases count it."""
    return int((moment - datetime.combine(_EPOCH, time.min, UTC)).total_seconds() * 1e6)
