"""Run a rule over companies as known at a cut-off: who passes, who fails,
who is unknown and why.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import NamedTuple

import numpy as np

from wise_ledger.core.answers.cells import Cell, Column
from wise_ledger.core.answers.reasons import CODES
from wise_ledger.core.answers.values import Values
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.language.cellwise import Sides
from wise_ledger.core.language.check import plan_rule
from wise_ledger.core.language.evaluate import Evaluation, Ground
from wise_ledger.core.language.plan import (
    Apply,
    Compare,
    Constant,
    Member,
    Step,
    TextConstant,
    comparisons,
)
from wise_ledger.core.screening.figures import cells_of


class Verdict(StrEnum):
    """What the rule says of a company."""

    PASS = "pass"
    FAIL = "fail"
    UNKNOWN = "unknown"


class Judged(NamedTuple):
    """One company: the verdict, the reason where it is unknown, and the cells of the columns."""

    company: int
    verdict: Verdict
    reason: str | None
    cells: tuple[Cell, ...]


@dataclass(frozen=True)
class Condition:
    """One of the conditions that a rule joins by `and`: how many pass it
    alone, fail, or are unknown.

    `reason` is the commonest one of the unknown, and `of_reason` how many have it.
    """

    expression: str
    passed: int
    failed: int
    unknown: int
    reason: str | None
    of_reason: int


@dataclass(frozen=True)
class Screened:
    """The answer of a screen, companies in the order given;
    `conditions` where the rule has more than one.
    """

    columns: tuple[Column, ...]
    rows: tuple[Judged, ...]
    conditions: tuple[Condition, ...]


def screen(ground: Ground, rule: str, members: Sequence[int], viewpoint: Viewpoint) -> Screened:
    """Judge `members` (company numbers) by `rule`, as seen from a viewpoint;
    raises `ExpressionError`.
    """
    step = plan_rule(rule, ground.vocabulary)
    companies = np.asarray(members, np.int64)
    cutoffs = np.array([viewpoint.cutoff], np.int64)
    evaluation = Evaluation(ground, companies, cutoffs, currency=viewpoint.currency)
    verdicts, _ = evaluation.run(step)
    columns: dict[Column, list[Cell]] = {}
    for comparison in comparisons(step):
        sides = evaluation.sides[comparison]
        for side, values, other in _shown(comparison, sides):
            expression = rule[side.place.begin : side.place.end]
            column = Column(
                expression, side.unit.plain().name, _is_percent(rule, other), expression
            )
            columns[column] = cells_of(ground, side, values, sides.ends, companies, viewpoint)
    whys = [CODES[n] for n in verdicts.reason[:, 0].tolist()]
    passes = [Verdict.PASS if value else Verdict.FAIL for value in verdicts.value[:, 0].tolist()]
    found = [Verdict.UNKNOWN if why else verdict for why, verdict in zip(whys, passes, strict=True)]
    cells = zip(*columns.values(), strict=True) if columns else [()] * len(found)
    rows = map(Judged, members, found, whys, cells)
    joined = list(_joined(step))
    conditions = [_condition(rule, evaluation, one) for one in joined] if len(joined) > 1 else []
    return Screened(tuple(columns), tuple(rows), tuple(conditions))


def _joined(step: Step) -> Iterator[Step]:
    """The conditions of which all must hold."""
    if isinstance(step, Apply) and step.function.name == "and":
        for operand in step.operands:
            yield from _joined(operand)
    else:
        yield step


def _condition(rule: str, evaluation: Evaluation, step: Step) -> Condition:
    verdicts, _ = evaluation.run(step)
    whys = verdicts.reason[:, 0]
    unknown = whys != 0
    passed = int((verdicts.value[:, 0].astype(bool) & ~unknown).sum())
    count = np.bincount(whys[unknown], minlength=1)
    text = " ".join(rule[step.place.begin : step.place.end].split())
    common = int(count.argmax())
    reason, of_reason = (CODES[common], int(count[common])) if unknown.any() else (None, 0)
    return Condition(
        text, passed, int((~unknown).sum()) - passed, int(unknown.sum()), reason, of_reason
    )


def _shown(comparison: Compare | Member, sides: Sides) -> list[tuple[Step, Values, Step | None]]:
    """The sides that are no literals."""
    if isinstance(comparison, Member):
        return [(comparison.operand, sides.left, comparison.members[0])]
    both = [
        (comparison.left, sides.left, comparison.right),
        (comparison.right, sides.right, comparison.left),
    ]
    return [(s, v, o) for s, v, o in both if not isinstance(s, Constant | TextConstant)]


def _is_percent(rule: str, other: Step | None) -> bool:
    return isinstance(other, Constant) and rule[other.place.begin : other.place.end].endswith("%")
