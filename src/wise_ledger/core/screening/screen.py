"""Run a rule over companies as known at a cut-off: who passes, who fails, who is unknown and why."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wise_ledger.core.facts.reasons import Reason
from wise_ledger.core.facts.values import Values
from wise_ledger.core.measures.check import plan_rule
from wise_ledger.core.measures.evaluate import Evaluation, Ground, Sides
from wise_ledger.core.measures.plan import Compare, Constant, Member, Step, TextConstant, comparisons
from wise_ledger.core.screening.figures import Cell, Column, cells_of


class Verdict(StrEnum):
    """What the rule says of a company."""

    PASS = "pass"
    FAIL = "fail"
    UNKNOWN = "unknown"


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


def screen(
    ground: Ground, rule: str, members: Sequence[int], cutoff: int, *, hindsight: bool = False,
    currency: str | None = None,
) -> Screened:  # fmt: skip
    """Judge `members` (company numbers) by `rule` at an instant; raises `ExpressionError`.

    Amounts beside the verdict are shown in `currency` (M2), without one as they were compared.
    """
    step = plan_rule(rule, ground.vocabulary)
    companies = np.asarray(members, np.int64)
    cutoffs = np.array([cutoff], np.int64)
    evaluation = Evaluation(ground, companies, cutoffs, currency=currency)
    verdicts, _ = evaluation.run(step)
    columns: dict[Column, list[Cell]] = {}
    for comparison in comparisons(step):
        sides = evaluation.sides[id(comparison)]
        for side, values, other in _shown(comparison, sides):
            expression = rule[side.place.begin : side.place.end]
            column = Column(expression, side.unit.plain().name, _is_percent(rule, other))
            columns[column] = cells_of(ground, side, values, sides.ends, companies, cutoffs, hindsight=hindsight)
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
