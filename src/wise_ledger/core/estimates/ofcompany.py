"""A company's estimates: its periods, who is in a consensus and who is not, and how it walked."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import CODES, Reason
from wise_ledger.core.estimates.consensus import COUNTS, STATISTICS, consensus
from wise_ledger.core.estimates.contributions import (
    FOREVER,
    MAX_AGE,
    QUARTER,
    YEAR,
    counted_until,
    target,
    too_old_from,
)
from wise_ledger.core.estimates.estimates import Estimates, Measure
from wise_ledger.core.estimates.known import EstimateRows, period_keys
from wise_ledger.core.estimates.onesource import ENDED
from wise_ledger.core.estimates.surprises import surprises
from wise_ledger.core.money.rates import amount_at, at_rate
from wise_ledger.core.timelines.keys import key_company, key_end

Whole = NDArray[np.int64]
Numbers = NDArray[np.float64]
STATES = (
    "in",
    "no rate",
    "too old",
    "withdrawn",
    "another source goes first",
    "after the actual",
    "replaced",
)


@dataclass(frozen=True)
class Announced:
    """What was announced of a period and when, beside what was expected the
    instant before; in one currency.
    """

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
    actual_reason: str | None
    expected_reason: str | None
    reason: str | None  # why there is no surprise, as an amount or a fraction

    def shown_in(self, currency: int, rate: float) -> "Announced":
        """In another currency at a rate (NaN: there is none); fractions stay (M2)."""
        actual, amount = times(self.actual, rate), times(self.amount, rate)
        expected = _amounts(self.expected, rate)
        return replace(
            self,
            actual=actual,
            expected=expected,
            amount=amount,
            currency=currency,
            actual_reason=self.actual_reason or _no_rate(actual),
            expected_reason=self.expected_reason or _no_rate(expected["mean"]),
            reason=self.reason or _no_rate(amount),
        )


@dataclass(frozen=True)
class Expectation:
    """The consensus for a period of one company as known at a cut-off,
    and what was announced of it by then.
    """

    kind: int
    end: int
    values: dict[str, float | None]
    reasons: dict[str, str | None]
    announced: Announced | None

    def shown_in(self, currency: int, rate: float) -> "Expectation":
        """In another currency at a rate; `no_rate` where there is none (NaN)."""
        values = _amounts(self.values, rate)
        reasons = {n: why or _no_rate(values[n]) for n, why in self.reasons.items()}
        announced = self.announced and self.announced.shown_in(currency, rate)
        return replace(self, values=values, reasons=reasons, announced=announced)


@dataclass(frozen=True)
class Opinion:
    """A contribution to a period by a cut-off: `state` says whether it
    counts, else why it does not.
    """

    contributor: int
    value: float | None
    currency: int
    at: int
    state: str  # one of `STATES`

    def shown_in(self, currency: int, rate: float) -> "Opinion":
        """In another currency at a rate; without a value where there is none (NaN)."""
        return replace(self, value=times(self.value, rate), currency=currency)


@dataclass(frozen=True)
class Supplied:
    """A consensus as a source supplied it at an instant."""

    source: int
    at: int
    values: dict[str, float | None]  # mean, median, high, low, stdev, count

    def shown_in(self, rate: float) -> "Supplied":
        """In another currency at a rate."""
        return replace(self, values=_amounts(self.values, rate))


def times(value: float | None, rate: float) -> float | None:
    """An amount at a rate; none where there is none (NaN)."""
    return None if value is None else number(amount_at(value, rate))


def _no_rate(value: float | None) -> str | None:
    """Why there is no value, where nothing but a rate lacks."""
    return Reason.NO_RATE.code if value is None else None


def _amounts(values: dict[str, float | None], rate: float) -> dict[str, float | None]:
    """Statistics at a rate; numbers of contributors stay."""
    return {n: v if n in COUNTS else times(v, rate) for n, v in values.items()}


def number(value: float) -> float | None:
    """A number; none where it is NaN."""
    return None if np.isnan(value) else float(value)


def expectations(
    of: Estimates,
    measure: str,
    company: int,
    cutoff: int,
    currency: int,
    kinds: tuple[int, ...] = (YEAR, QUARTER),
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
        agreed = consensus(contributions, of.basis(found.power), keys, at, into)
        rows = found.actuals[kind].rows(keys)
        known = (rows >= 0) & (np.append(found.actuals[kind].announced, FOREVER)[rows] <= cutoff)
        announced = iter(announcements_at(of, found, kind, keys[known], cutoff, currency))
        columns = {name: agreed.of(name) for name in STATISTICS}
        for n in range(len(keys)):
            values = {
                name: None if why[n] else number(value[n]) for name, (value, why) in columns.items()
            }
            reasons = {name: CODES[why[n]] for name, (_, why) in columns.items()}
            end = int(key_end(keys[n : n + 1])[0])
            out.append(
                Expectation(kind, end, values, reasons, next(announced) if known[n] else None)
            )
    return sorted(out, key=lambda e: (-e.end, e.kind))


def announcements_at(
    of: Estimates, measure: Measure, kind: int, keys: Whole, cutoff: int, currency: int
) -> list[Announced]:
    """What was announced of periods by a cut-off,
    beside what was expected the instant before (E4).
    """
    if not len(keys):
        return []
    actuals, contributions = measure.actuals[kind], measure.contributions[kind]
    names = ("mean", "median", "high", "low", "stdev", "count")
    found = surprises(
        actuals,
        contributions,
        of.basis(measure.power),
        keys,
        actuals.rows(keys),
        np.full(len(keys), cutoff),
        np.full(len(keys), currency),
        names,
    )
    (amount, _), (relative, reason), (deviations, _) = map(
        found.of, ("amount", "relative", "deviations")
    )
    return [
        Announced(
            int(key_company(keys[n : n + 1])[0]),
            kind,
            int(key_end(keys[n : n + 1])[0]),
            int(found.announced[n]),
            number(found.actual[n]),
            {name: number(found.expected[name][n]) for name in names},
            number(amount[n]),
            number(relative[n]),
            number(deviations[n]),
            currency,
            CODES[found.actual_reason[n]],
            CODES[found.expected_reason[n]],
            CODES[reason[n]],
        )
        for n in range(len(keys))
    ]


def announced_between(
    of: Estimates,
    measure: str,
    companies: set[int],
    first: int,
    last: int,
    currency_of: dict[int, int],
) -> list[Announced]:
    """What companies announced from an instant to another, both included,
    in the order of the announcements.
    """
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
    # Of companies that nobody expected anything of there is nothing to show.
    return sorted((a for a in out if a.expected["count"]), key=lambda a: (a.at, a.company, a.kind))


def opinions(
    of: Estimates,
    rows: EstimateRows,
    measure: str,
    kind: int,
    company: int,
    end: int,
    cutoff: int,
    currency: int,
    max_age: int = MAX_AGE,
) -> list[Opinion]:
    """All that was contributed to a period by a cut-off: what counts first,
    then what does not any more, and why.
    """
    found, part = of.measures.get(measure), rows.estimates
    if found is None:
        return []
    key = target(np.array([company]), np.array([end]))
    own = np.flatnonzero((part["measure"] == rows.number(measure)) & (part["company"] == company))
    part = part.where(own[(part["period_kind"][own] == kind) & (part["known_at"][own] <= cutoff)])
    part = part.where(period_keys(part) == key[0])
    part = part.where(np.lexsort((np.arange(len(part)), part["known_at"], part["contributor"])))
    at, whole = part["known_at"], np.full(len(part), cutoff)
    source = part["currency"].astype(np.int64)
    into = np.full(len(part), currency)
    value = of.basis(found.power).brought(
        np.full(len(part), company), part["value"], source, into, at, whole
    )
    row = int(found.actuals[kind].rows(key)[0])
    announced = int(found.actuals[kind].announced[row]) if row >= 0 else FOREVER
    late = at >= int(counted_until(np.array([announced if announced <= cutoff else FOREVER]))[0])
    followed = np.zeros(len(part), np.bool_)
    followed[:-1] = (part["contributor"][1:] == part["contributor"][:-1]) & ~late[1:]
    old = too_old_from(at, max_age) <= min(cutoff, announced)
    states = np.select(
        [late, followed, part["source"] == ENDED, np.isnan(part["value"]), old, np.isnan(value)],
        [
            "after the actual",
            "replaced",
            "another source goes first",
            "withdrawn",
            "too old",
            "no rate",
        ],
        "in",
    )
    out = [
        Opinion(
            int(part["contributor"][n]),
            number(float(value[n])),
            currency,
            int(at[n]),
            str(states[n]),
        )
        for n in range(len(part))
    ]
    return sorted(out, key=lambda o: (STATES.index(o.state), -o.at))


def supplied(
    of: Estimates,
    rows: EstimateRows,
    measure: str,
    kind: int,
    company: int,
    end: int,
    cutoff: int,
    currency: int,
) -> list[Supplied]:
    """What each source last supplied of a period's consensus by a cut-off (E5),
    on its share basis, in a currency.
    """
    found, part = of.measures.get(measure), rows.supplied
    own = np.flatnonzero((part["measure"] == rows.number(measure)) & (part["company"] == company))
    part = part.where(own[(part["period_kind"][own] == kind) & (part["known_at"][own] <= cutoff)])
    key = target(np.array([company]), np.array([end]))[0]
    part = part.where(period_keys(part) == key)
    order = np.lexsort((np.arange(len(part)), part["known_at"], part["source"]))
    last = {int(part["source"][n]): n for n in order.tolist()}
    basis = of.basis(0 if found is None else found.power)
    out = []
    for source, n in last.items():
        if np.isnan(part["mean"][n]):
            continue
        one, at = np.array([company]), part["known_at"][n : n + 1]
        values: dict[str, float | None] = {"count": number(float(part["count"][n]))}
        for name in ("mean", "median", "high", "low", "stdev"):
            given = part[name][n : n + 1]
            there = part["currency"][n : n + 1].astype(np.int64)
            agreed = basis.brought(one, given, there, np.array([currency]), at, np.array([cutoff]))
            values[name] = number(float(agreed[0]))
        out.append(Supplied(source, int(at[0]), values))
    return sorted(out, key=lambda s: -s.at)


@dataclass(frozen=True)
class Mean:
    """The mean of a period's contributions, how many they are, and why there is none."""

    value: float | None = None
    count: float | None = None
    reason: str | None = Reason.NO_ESTIMATES.code

    def shown_in(self, rate: float) -> "Mean":
        """In another currency at a rate."""
        value = times(self.value, rate)
        return replace(self, value=value, reason=self.reason or _no_rate(value))


def consensus_of(
    of: Estimates,
    measure: str,
    periods: Sequence[tuple[int, int, int]],
    cutoff: int,
    currency_of: dict[int, int],
) -> list[Mean]:
    """The means of periods, each a company, kind and end, at a cut-off."""
    out = [Mean()] * len(periods)
    found = of.measures.get(measure)
    for kind in (YEAR, QUARTER) if found is not None else ():
        assert found is not None
        own = [n for n, period in enumerate(periods) if period[1] == kind]
        company = np.array([periods[n][0] for n in own], np.int64)
        keys = target(company, np.array([periods[n][2] for n in own], np.int64))
        into = np.array([currency_of[c] for c in company.tolist()], np.int64)
        at = np.full(len(own), cutoff)
        agreed = consensus(
            found.contributions[kind], of.basis(found.power), keys, at, into, ("mean", "count")
        )
        for place, n in enumerate(own):
            mean, count = (number(agreed.values[name][place]) for name in ("mean", "count"))
            out[n] = Mean(mean, count, CODES[agreed.reason[place]])
    return out


def walk(
    of: Estimates,
    measure: str,
    kind: int,
    company: int,
    end: int,
    instants: Whole,
    currency: int,
    rates: Numbers,
) -> tuple[dict[str, list[float | None]], list[str | None]]:
    """The statistics of one period's consensus at each of some instants, reckoned in a currency,
    amounts then at the rate of each instant; and why there is no mean.
    """
    found = of.measures.get(measure)
    if found is None:
        return {}, []
    keys = np.repeat(target(np.array([company]), np.array([end])), len(instants))
    agreed = consensus(
        found.contributions[kind],
        of.basis(found.power),
        keys,
        instants,
        np.full(len(keys), currency),
    )
    out, reasons = {}, [CODES[n] for n in agreed.reason.tolist()]
    for name in STATISTICS:
        value, why = agreed.of(name)
        shown = np.where(why == 0, value if name in COUNTS else at_rate(value, rates), np.nan)
        out[name] = [number(v) for v in shown.tolist()]
    lacks = [why or _no_rate(mean) for why, mean in zip(reasons, out["mean"], strict=True)]
    return out, lacks
