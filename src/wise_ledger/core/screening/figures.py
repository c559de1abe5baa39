"""Figures of companies as known at a cut-off: columns beside a screen or a list,
each cell a value or a reason.
"""

from collections.abc import Sequence
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.cells import Cell, Column, Table, mark_names
from wise_ledger.core.answers.reasons import CODES, Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.language.behind import behind
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.columnnames import named, over_others
from wise_ledger.core.language.evaluate import Evaluation, Ground
from wise_ledger.core.language.plan import Step, leaves
from wise_ledger.core.language.units import TEXT, TRUTH
from wise_ledger.core.money.currencies import currency_name
from wise_ledger.core.time.periods import NO_END, Days, as_date
from wise_ledger.core.timelines.lineage import UNKNOWN


def figures(
    ground: Ground,
    expressions: Sequence[str],
    members: Sequence[int],
    viewpoint: Viewpoint,
    *,
    stale_after: int | None = None,
) -> Table:
    """Each expression for each of `members` (company numbers), as seen from a viewpoint;
    raises `ExpressionError`.
    """
    companies, cutoffs = np.asarray(members, np.int64), np.array([viewpoint.cutoff], np.int64)
    evaluation = Evaluation(
        ground, companies, cutoffs, stale_after=stale_after, currency=viewpoint.currency
    )
    columns, cells = [], []
    asked = [
        (name, expression, plan(expression, ground.vocabulary))
        for name, expression in over_others(named(expressions), ground.vocabulary)
    ]
    evaluation.share([step for _, _, step in asked])
    for name, expression, step in asked:
        values, ends = evaluation.run(step)
        columns.append(Column(expression, step.unit.plain().name, False, name))
        cells.append(cells_of(ground, step, values, ends, companies, viewpoint))
    return Table(tuple(columns), tuple(tuple(of[i] for of in cells) for i in range(len(companies))))


def cells_of(
    ground: Ground,
    step: Step,
    values: Values,
    ends: Days,
    companies: NDArray[np.int64],
    viewpoint: Viewpoint,
) -> list[Cell]:
    """The cells of one column, one a company, at one cut-off."""
    found = behind(ground, step, companies, ends[:, :1], np.array([viewpoint.cutoff], np.int64))
    known = found.known_at[:, 0]
    missing = values.reason[:, 0] != Reason.NONE
    has_end = ends[:, 0] != NO_END if leaves(step) else np.zeros(len(companies), np.bool_)
    known_at = np.where(missing, UNKNOWN, known)
    columns = (
        _shown(values.value[:, 0], missing, step),
        [CODES[n] for n in values.reason[:, 0].tolist()],
        [currency_name(n) for n in values.currency[:, 0].tolist()],
        [
            _day(n) if there else None
            for n, there in zip(ends[:, 0].tolist(), has_end.tolist(), strict=True)
        ],
        [None if n == UNKNOWN else n for n in known_at.tolist()],
        [mark_names(n) for n in np.where(missing, 0, values.marks[:, 0]).tolist()],
        (found.restated[:, 0] & ~missing).tolist(),
        found.restated_later[:, 0].tolist() if viewpoint.hindsight else [None] * len(companies),
    )
    return list(map(Cell, *columns))


def _shown(raw: NDArray[Any], missing: NDArray[np.bool_], side: Step) -> list[float | str | None]:
    if side.unit == TRUTH:
        found: list[Any] = ["yes" if value else "no" for value in raw.tolist()]
    else:
        found = (
            [str(v) for v in raw.tolist()] if side.unit == TEXT else raw.astype(np.float64).tolist()
        )
    return [None if gone else value for value, gone in zip(found, missing.tolist(), strict=True)]


_day = lru_cache(4096)(as_date)
