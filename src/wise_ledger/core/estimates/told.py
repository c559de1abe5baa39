"""What is told of a company's estimates: its periods, who is in a consensus and who is not, and how it walked."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import CODES
from wise_ledger.core.estimates.consensus import STATISTICS, consensus
from wise_ledger.core.estimates.contributions import FOREVER, QUARTER, YEAR, Contributions, target
from wise_ledger.core.estimates.estimates import Estimates, Measure
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.timelines.keys import key_company, key_end

Whole = NDArray[np.int64]


@dataclass(frozen=True)
class Announced:
    """What was announced of a period and when, beside what was expected the instant before; in one currency."""

    company: int
    kind: int  # months
    end: int
    at: int
    actual: float | None
    expected: dict[str, float | None]  # mean, median, high, low, stdev, count
    amount: float | None
    relative: float | None
    deviations: float | None
    currency: int


@dataclass(frozen=True)
class Expectation:
    """The consensus for a period of one company as known at a cut-off, and what was announced of it by then."""

    kind: int
    end: int
    values: dict[str, float | None]
    reasons: dict[str, str | None]
    announced: Announced | None


@dataclass(frozen=True)
class Opinion:
    """A contributor's last word on a period by a cut-off: `state` says whether it counts, else why it does not."""

    contributor: int
    value: float | None
    currency: int
    at: int
    state: str  # in, withdrawn, too old, after the actual, no rate


def _number(value: float) -> float | None:
    return None if np.isnan(value) else float(value)


def expectations(
    of: Estimates, measure: str, company: int, cutoff: int, currency: int, kinds: tuple[int, ...] = (YEAR, QUARTER)
) -> list[Expectation]:
    """Every period of a company that anybody had contributed to by a cut-off, the newest first."""
    found = of.measures.get(measure)
    if found is None:
        return []
    out = []
    for kind in kinds:
        contributions = found.contributions[kind]
        own = (key_company(contributions.key) == company) & (contributions.at <= cutoff)
        keys = np.unique(contributions.key[own])[::-1]
        if not len(keys):
            continue
        at, into = np.full(len(keys), cutoff), np.full(len(keys), currency)
        told = consensus(contributions, of.basis(found.power), keys, at, into)
        rows = found.actuals[kind].rows(keys)
        known = (rows >= 0) & (np.append(found.actuals[kind].announced, FOREVER)[rows] <= cutoff)
        announced = iter(announcements_at(of, found, kind, keys[known], cutoff, currency))
        columns = {name: told.of(name) for name in STATISTICS}
        for n in range(len(keys)):
            values = {name: None if why[n] else _number(value[n]) for name, (value, why) in columns.items()}
            reasons = {name: CODES[why[n]] for name, (_, why) in columns.items()}
            end = int(key_end(keys[n : n + 1])[0])
            out.append(Expectation(kind, end, values, reasons, next(announced) if known[n] else None))
    return sorted(out, key=lambda e: (-e.end, e.kind))


def announcements_at(
    of: Estimates, measure: Measure, kind: int, keys: Whole, cutoff: int, currency: int
) -> list[Announced]:
    """What was announced of periods by a cut-off, beside what was expected the instant before (E4)."""
    if not len(keys):
        return []
    actuals, basis = measure.actuals[kind], of.basis(measure.power)
    rows, at = actuals.rows(keys), np.full(len(keys), cutoff)
    announced, company = actuals.announced[rows], key_company(keys)
    value, source = actuals.value(rows, at)
    value = value * basis.factor(company, announced, at)
    into = np.full(len(keys), currency)
    move = (source != into) & (source >= 0) & (currency >= 0)
    if move.any():
        value[move] *= basis.rate_on(source[move].astype(np.int64), into[move], announced[move] // DAY, at[move])
    names = ("mean", "median", "high", "low", "stdev", "count")
    found = consensus(measure.contributions[kind], basis, keys, announced - 1, into, names)
    factor = basis.factor(company, announced - 1, at)
    out = []
    for n in range(len(keys)):
        expected = {name: _number(found.values[name][n] * (1 if name == "count" else factor[n])) for name in names}
        actual, mean, spread = _number(value[n]), expected["mean"], expected["stdev"]
        amount = None if actual is None or mean is None else actual - mean
        out.append(
            Announced(
                int(company[n]), kind, int(key_end(keys[n : n + 1])[0]), int(announced[n]), actual, expected, amount,
                amount / abs(mean) if amount is not None and mean else None,
                amount / spread if amount is not None and spread else None,
                currency,
            )
        )  # fmt: skip
    return out


def announced_between(
    of: Estimates, measure: str, companies: set[int], first: int, last: int, currency_of: dict[int, int]
) -> list[Announced]:
    """What companies announced from an instant to another, both included, in the order of the announcements."""
    found = of.measures.get(measure)
    out: list[Announced] = []
    for kind in (YEAR, QUARTER) if found is not None else ():
        assert found is not None
        actuals = found.actuals[kind]
        within = (actuals.announced >= first) & (actuals.announced <= last)
        keys = actuals.key[within]
        for company in np.unique(key_company(keys)).tolist():
            if company in companies:
                own = keys[key_company(keys) == company]
                out += announcements_at(of, found, kind, own, last, currency_of[company])
    # Of companies that nobody expected anything of there is nothing to tell.
    return sorted((a for a in out if a.expected["count"]), key=lambda a: (a.at, a.company, a.kind))


def opinions(
    of: Estimates, measure: str, kind: int, company: int, end: int, cutoff: int, currency: int
) -> list[Opinion]:
    """The last word of every contributor on a period by a cut-off, those that count first."""
    found = of.measures.get(measure)
    if found is None:
        return []
    contributions: Contributions = found.contributions[kind]
    key = target(np.array([company]), np.array([end]))
    own = np.flatnonzero((contributions.key == key[0]) & (contributions.at <= cutoff))
    last = {int(contributions.contributor[row]): row for row in own.tolist()}
    basis, out = of.basis(found.power), []
    for house, row in last.items():
        one, at = np.array([company]), np.array([cutoff])
        value = contributions.value[row] * basis.factor(one, contributions.at[row : row + 1], at)[0]
        source = int(contributions.currency[row])
        state = "in"
        if np.isnan(value):
            state = "withdrawn"
        elif contributions.until[row] <= cutoff:
            state = "too old"
        elif source != currency >= 0:
            days = contributions.at[row : row + 1] // DAY
            value *= basis.rate_on(np.array([source]), np.array([currency]), days, at)[0]
            state = "no rate" if np.isnan(value) else "in"
        out.append(Opinion(house, _number(float(value)), currency, int(contributions.at[row]), state))
    return sorted(out, key=lambda o: (o.state != "in", -(o.value or 0.0)))


def walk(
    of: Estimates, measure: str, kind: int, company: int, end: int, instants: Whole, currency: int
) -> dict[str, list[float | None]]:
    """The statistics of one period's consensus at each of some instants."""
    found = of.measures.get(measure)
    if found is None:
        return {}
    keys = np.repeat(target(np.array([company]), np.array([end])), len(instants))
    told = consensus(found.contributions[kind], of.basis(found.power), keys, instants, np.full(len(keys), currency))
    return {name: [None if why[n] else _number(value[n]) for n in range(len(instants))]
            for name, (value, why) in ((s, told.of(s)) for s in STATISTICS)}  # fmt: skip
