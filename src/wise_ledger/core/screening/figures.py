"""Figures of companies as known at a cut-off: columns beside a screen or a list, each cell a value or a reason."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.facts.asof import standing
from wise_ledger.core.facts.columns import currency_name
from wise_ledger.core.facts.keys import Mark, make_keys
from wise_ledger.core.facts.lineage import restated
from wise_ledger.core.facts.reasons import Reason
from wise_ledger.core.facts.values import Values
from wise_ledger.core.fiscal.periods import NO_END, Days, as_date, shift_months
from wise_ledger.core.measures.check import plan
from wise_ledger.core.measures.evaluate import STALE_AFTER, Evaluation, Ground
from wise_ledger.core.measures.plan import Step, leaves
from wise_ledger.core.measures.units import TEXT, TRUTH


@dataclass(frozen=True)
class Column:
    """An expression shown as a column; `percent` where it was compared with a percent."""

    expression: str
    unit: str
    percent: bool


@dataclass(frozen=True)
class Cell:
    """A figure of one company: a value or a reason, with what must be known of it."""

    value: float | str | None
    reason: str | None
    currency: str | None
    end: date | None
    marks: tuple[str, ...]
    restated: bool
    restated_later: bool | None  # None unless hindsight was asked for (T9)


@dataclass(frozen=True)
class Table:
    """Columns, and a row of cells for each company."""

    columns: tuple[Column, ...]
    rows: tuple[tuple[Cell, ...], ...]


def figures(
    ground: Ground, expressions: Sequence[str], members: Sequence[int], cutoff: int, *,
    stale_after: int = STALE_AFTER, currency: str | None = None,
) -> Table:  # fmt: skip
    """Each expression for each of `members` (company numbers) at an instant; raises `ExpressionError`.

    Results that are money come in `currency` (M2), without one each in its company's own.
    """
    companies, cutoffs = np.asarray(members, np.int64), np.array([cutoff], np.int64)
    evaluation = Evaluation(ground, companies, cutoffs, stale_after=stale_after, currency=currency)
    columns, cells = [], []
    for expression in expressions:
        step = plan(expression, ground.vocabulary)
        values, ends = evaluation.run(step)
        columns.append(Column(expression, step.unit.plain().name, False))
        cells.append(cells_of(ground, step, values, ends, companies, cutoffs, hindsight=False))
    return Table(tuple(columns), tuple(tuple(of[i] for of in cells) for i in range(len(companies))))


def cells_of(
    ground: Ground,
    step: Step,
    values: Values,
    ends: Days,
    companies: NDArray[np.int64],
    cutoffs: NDArray[np.int64],
    *,
    hindsight: bool,
) -> list[Cell]:
    """The cells of one column, one a company, at one cut-off."""
    flags = _restatements(ground, step, companies, ends, cutoffs)
    return [_cell(values, i, step, ends, flags, hindsight) for i in range(len(companies))]


def _restatements(
    ground: Ground,
    side: Step,
    companies: NDArray[np.int64],
    ends: Days,
    cutoffs: NDArray[np.int64],
) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Whether any figure behind the side was restated by then, and whether any is afterwards."""
    by_then = np.zeros(len(companies), np.bool_)
    later = by_then.copy()
    end = ends[:, 0]
    known = end != NO_END
    for leaf in leaves(side):
        timeline = ground.timeline(leaf.item, leaf.form, leaf.first)
        keys = make_keys(companies, shift_months(np.where(known, end, 0).astype(np.int32), -leaf.months))
        rows = np.where(known, standing(timeline, keys, np.repeat(cutoffs, len(keys))), -1)
        changed, changes = restated(timeline, rows)
        by_then |= changed
        later |= changes
    return by_then, later


def _cell(
    values: Values,
    row: int,
    side: Step,
    ends: Days,
    flags: tuple[NDArray[np.bool_], NDArray[np.bool_]],
    hindsight: bool,
) -> Cell:
    reason = Reason(values.reason[row, 0])
    raw = None if reason else values.value[row, 0]
    end = int(ends[row, 0]) if leaves(side) else NO_END
    return Cell(
        value=None if raw is None else _value(raw, side),
        reason=reason.code if reason else None,
        currency=currency_name(int(values.currency[row, 0])),
        end=None if end == NO_END else as_date(end),
        marks=mark_names(int(values.marks[row, 0])) if not reason else (),
        restated=bool(flags[0][row]) and not reason,
        restated_later=bool(flags[1][row]) if hindsight else None,
    )


def _value(raw: object, side: Step) -> float | str:
    if side.unit == TRUTH:
        return "yes" if raw else "no"
    return str(raw) if side.unit == TEXT else float(raw)  # type: ignore[arg-type]


@lru_cache(256)
def mark_names(marks: int) -> tuple[str, ...]:
    """The words of a set of marks."""
    return tuple(m.name.lower() for m in Mark if m & marks and m.name)
