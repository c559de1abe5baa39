"""Run a rule over companies as known at a cut-off: who passes, who fails, who is unknown and why."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

import numpy as np

from wise_ledger.core.facts.asof import standing
from wise_ledger.core.facts.columns import currency_name
from wise_ledger.core.facts.keys import Mark, make_keys
from wise_ledger.core.facts.lineage import restated
from wise_ledger.core.facts.reasons import Reason
from wise_ledger.core.facts.values import Values
from wise_ledger.core.fiscal.periods import NO_END, Days, as_date, shift_months
from wise_ledger.core.measures.check import plan_rule
from wise_ledger.core.measures.evaluate import Evaluation, Ground, Sides
from wise_ledger.core.measures.plan import Compare, Constant, Member, Step, TextConstant, comparisons, leaves
from wise_ledger.core.measures.units import TEXT


class Verdict(StrEnum):
    """What the rule says of a company."""

    PASS = "pass"
    FAIL = "fail"
    UNKNOWN = "unknown"


@dataclass(frozen=True)
class Column:
    """A side of a comparison shown beside the verdict; `percent` where it was compared with a percent."""

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
class Judged:
    """One company: the verdict, the reason where it is unknown, and the cells of the columns."""

    company: int
    verdict: Verdict
    reason: str | None
    cells: tuple[Cell, ...]


@dataclass(frozen=True)
class Screened:
    """The answer of a screen, companies in the order given."""

    columns: tuple[Column, ...]
    rows: tuple[Judged, ...]


def screen(ground: Ground, rule: str, members: Sequence[int], cutoff: int, *, hindsight: bool = False) -> Screened:
    """Judge `members` (company numbers) by `rule` at an instant; raises `ExpressionError`."""
    step = plan_rule(rule)
    companies = np.asarray(members, np.int64)
    cutoffs = np.array([cutoff], np.int64)
    evaluation = Evaluation(ground, companies, cutoffs)
    verdicts, _ = evaluation.run(step)
    columns: dict[Column, list[Cell]] = {}
    for comparison in comparisons(step):
        sides = evaluation.sides[id(comparison)]
        for side, values, other in _shown(comparison, sides):
            expression = rule[side.place.begin : side.place.end]
            column = Column(expression, side.unit.plain().name, _is_percent(rule, other))
            flags = _restatements(ground, side, companies, sides.ends, cutoffs)
            columns[column] = [_cell(values, i, side, sides.ends, flags, hindsight) for i in range(len(companies))]
    rows = []
    for i, company in enumerate(members):
        reason = Reason(verdicts.reason[i, 0])
        verdict = Verdict.UNKNOWN if reason else Verdict.PASS if verdicts.value[i, 0] else Verdict.FAIL
        cells = tuple(cells[i] for cells in columns.values())
        rows.append(Judged(company, verdict, reason.code if reason else None, cells))
    return Screened(tuple(columns), tuple(rows))


def _shown(comparison: Compare | Member, sides: Sides) -> list[tuple[Step, Values, Step | None]]:
    """The sides that are no literals."""
    if isinstance(comparison, Member):
        return [(comparison.operand, sides.left, comparison.members[0])]
    both = [(comparison.left, sides.left, comparison.right), (comparison.right, sides.right, comparison.left)]
    return [(s, v, o) for s, v, o in both if not isinstance(s, Constant | TextConstant)]


def _is_percent(rule: str, other: Step | None) -> bool:
    return isinstance(other, Constant) and rule[other.place.begin : other.place.end].endswith("%")


def _restatements(
    ground: Ground,
    side: Step,
    companies: np.ndarray[tuple[int], np.dtype[np.int64]],
    ends: Days,
    cutoffs: np.ndarray[tuple[int], np.dtype[np.int64]],
) -> tuple[np.ndarray[tuple[int], np.dtype[np.bool_]], np.ndarray[tuple[int], np.dtype[np.bool_]]]:
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
    flags: tuple[np.ndarray[tuple[int], np.dtype[np.bool_]], ...],
    hindsight: bool,
) -> Cell:
    reason = Reason(values.reason[row, 0])
    raw = None if reason else values.value[row, 0]
    end = int(ends[row, 0]) if leaves(side) else NO_END
    return Cell(
        value=None if raw is None else str(raw) if side.unit == TEXT else float(raw),
        reason=reason.code if reason else None,
        currency=currency_name(int(values.currency[row, 0])),
        end=None if end == NO_END else as_date(end),
        marks=mark_names(int(values.marks[row, 0])) if not reason else (),
        restated=bool(flags[0][row]) and not reason,
        restated_later=bool(flags[1][row]) if hindsight else None,
    )


def mark_names(marks: int) -> tuple[str, ...]:
    """The words of a set of marks."""
    return tuple(m.name.lower() for m in Mark if m & marks and m.name)
