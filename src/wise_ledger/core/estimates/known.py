"""Estimates of a state of the ledger, out of their rows and of the figures of statements."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.estimates.contributions import (
    FOREVER,
    MAX_AGE,
    QUARTER,
    YEAR,
    Actuals,
    Contributions,
    taken_over,
    target,
)
from wise_ledger.core.estimates.estimates import Measure
from wise_ledger.core.records.columnkinds import ACTUALS, ANNOUNCEMENTS, CONSENSUS, ESTIMATES
from wise_ledger.core.records.columns import RecordColumns, missing
from wise_ledger.core.time.periods import nominal_end
from wise_ledger.core.timelines.keys import State
from wise_ledger.core.timelines.timeline import Timeline

FORMS = {YEAR: "fy", QUARTER: "q"}
# What everybody estimates (E1): a figure of these announces its period, whoever expected it or not.
ALWAYS = ("diluted_eps", "revenue", "ebitda", "net_income")
_POWER = {"money_per_share": -1}


def _none(kind: Any) -> RecordColumns:
    return RecordColumns.of(kind, batch=np.empty(0, np.int32))


@dataclass(frozen=True, eq=False)
class EstimateRows:
    """Rows up to a batch: contributions, actuals, consensus as supplied, expected announcements.

    `codes` are the items' by number, `houses` the names of contributors, `sources` those of
    sources.
    """

    estimates: RecordColumns = field(default_factory=lambda: _none(ESTIMATES))
    actuals: RecordColumns = field(default_factory=lambda: _none(ACTUALS))
    supplied: RecordColumns = field(default_factory=lambda: _none(CONSENSUS))
    expected: RecordColumns = field(default_factory=lambda: _none(ANNOUNCEMENTS))
    codes: Mapping[int, str] = field(default_factory=dict)
    houses: Sequence[str] = ()
    sources: Sequence[str] = ()

    def number(self, measure: str) -> int:
        """The number of a measure's item, -1 where nothing is kept of it."""
        return next((number for number, code in self.codes.items() if code == measure), -1)

    def only(self, measure: str, company: int | None = None) -> "EstimateRows":
        """The contributions and actuals of one measure, and of one company where it is named."""

        def own(rows: RecordColumns) -> RecordColumns:
            mine = rows["measure"] == self.number(measure)
            return rows.where(mine if company is None else mine & (rows["company"] == company))

        return replace(self, estimates=own(self.estimates), actuals=own(self.actuals))


def measures_of(
    rows: EstimateRows,
    units: Mapping[str, str],
    figures: Callable[[str, str], Timeline],
    max_age: int = MAX_AGE,
) -> dict[str, Measure]:
    """The measures that everybody estimates, and those that a row is of, each since then (T9);
    `units` of items, `figures` gives an item's timeline of a form.
    """
    out = {}
    asked = [rows.estimates["measure"], rows.actuals["measure"]]
    codes = {code: rows.number(code) for code in ALWAYS if code in units}
    codes |= {rows.codes[n]: n for n in np.unique(np.concatenate(asked)).tolist()}
    for code, number in codes.items():
        contributions, actuals = {}, {}
        for kind, form in FORMS.items():
            own = rows.actuals.where(
                (rows.actuals["measure"] == number) & (rows.actuals["period_kind"] == kind)
            )
            given = Actuals.of(period_keys(own), own["known_at"], own["value"], _currency(own))
            reported = figures(code, form)
            there = reported.state == State.VALUE
            known = (
                reported.key[there],
                reported.at[there],
                reported.value[there],
                reported.currency[there],
            )
            actuals[kind] = taken_over(given, Actuals.of(*known))
            part = rows.estimates
            part = part.where((part["measure"] == number) & (part["period_kind"] == kind))
            keys, houses = period_keys(part), part["contributor"].astype(np.int64)
            contributions[kind] = Contributions.of(
                keys,
                houses,
                part["known_at"],
                part["value"],
                _currency(part),
                actuals[kind],
                max_age,
            )
        since = 0 if code in ALWAYS else _first_known(rows, number)
        out[code] = Measure(contributions, actuals, _POWER.get(units[code], 0), since)
    return out


def _first_known(rows: EstimateRows, number: int) -> int:
    """The instant at which a measure's first row was known."""
    parts = (rows.estimates, rows.actuals)
    return min(int(p["known_at"][p["measure"] == number].min(initial=FOREVER)) for p in parts)


def period_keys(rows: RecordColumns) -> NDArray[np.int64]:
    """The key of each row's company and period, by its nominal end (E1, F2)."""
    return target(
        rows["company"].astype(np.int64), nominal_end(rows["period_end"]).astype(np.int64)
    )


def _currency(rows: RecordColumns) -> NDArray[np.int16]:
    return np.where(missing(rows["currency"]), -1, rows["currency"]).astype(np.int16)
