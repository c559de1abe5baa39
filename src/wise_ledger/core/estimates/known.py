"""Estimates of a state of the ledger, out of their rows and of the figures of statements."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.estimates.contributions import MAX_AGE, QUARTER, YEAR, Actuals, Contributions, taken_over, target
from wise_ledger.core.estimates.estimates import Measure
from wise_ledger.core.records.columnkinds import ACTUALS, ESTIMATES
from wise_ledger.core.records.columns import RecordColumns, missing
from wise_ledger.core.timelines.keys import State
from wise_ledger.core.timelines.timeline import Timeline

FORMS = {YEAR: "fy", QUARTER: "q"}
_POWER = {"money_per_share": -1}


def _none(kind: Any) -> RecordColumns:
    return RecordColumns.of(kind, batch=np.empty(0, np.int32))


@dataclass(frozen=True, eq=False)
class EstimateRows:
    """Rows of contributions and actuals up to a batch; `codes` are the items' by number, `houses` the contributors'."""

    estimates: RecordColumns = field(default_factory=lambda: _none(ESTIMATES))
    actuals: RecordColumns = field(default_factory=lambda: _none(ACTUALS))
    codes: Mapping[int, str] = field(default_factory=dict)
    houses: Sequence[str] = ()


def measures_of(
    rows: EstimateRows, units: Mapping[str, str], figures: Callable[[str, str], Timeline], max_age: int = MAX_AGE
) -> dict[str, Measure]:
    """The measures that anybody contributed to; `units` of items, `figures` gives an item's timeline of a form."""
    out = {}
    for number in np.unique(rows.estimates["measure"]).tolist():
        code = rows.codes[number]
        contributions, actuals = {}, {}
        for kind, form in FORMS.items():
            own = rows.actuals.where((rows.actuals["measure"] == number) & (rows.actuals["period_kind"] == kind))
            given = Actuals.of(_keys(own), own["known_at"], own["value"], _currency(own))
            reported = figures(code, form)
            there = reported.state == State.VALUE
            known = (reported.key[there], reported.at[there], reported.value[there], reported.currency[there])
            actuals[kind] = taken_over(given, Actuals.of(*known))
            part = rows.estimates
            part = part.where((part["measure"] == number) & (part["period_kind"] == kind))
            contributions[kind] = Contributions.of(
                _keys(part), part["contributor"].astype(np.int64), part["known_at"], part["value"], _currency(part),
                actuals[kind], max_age,
            )  # fmt: skip
        out[code] = Measure(contributions, actuals, _POWER.get(units[code], 0))
    return out


def _keys(rows: RecordColumns) -> NDArray[np.int64]:
    return target(rows["company"].astype(np.int64), rows["period_end"].astype(np.int64))


def _currency(rows: RecordColumns) -> NDArray[np.int16]:
    return np.where(missing(rows["currency"]), -1, rows["currency"]).astype(np.int16)
