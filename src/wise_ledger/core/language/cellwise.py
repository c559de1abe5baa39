"""Evaluate what looks at no other cell: constants, fiscal figures, arithmetic,
choices and comparisons.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values, common_currency
from wise_ledger.core.language.fiscalaxis import FiscalAxis
from wise_ledger.core.language.functions.elementwise import OPERATORS, compare
from wise_ledger.core.language.functions.function import Wants
from wise_ledger.core.language.plan import (
    Apply,
    Compare,
    Constant,
    Leaf,
    Member,
    Step,
    within_scope,
)
from wise_ledger.core.language.scope import Scope
from wise_ledger.core.language.units import PURE
from wise_ledger.core.money.currencies import NO_CURRENCY, currency_code
from wise_ledger.core.time.periods import NO_END, Days, months_long
from wise_ledger.core.timelines.keys import Mark

_LARGE = 1000.0  # of a ratio: so large, or so small turned over, that it says nothing
_RECKONED = frozenset({Wants.TOGETHER, Wants.SHIFTED, Wants.WINDOW})


@dataclass(frozen=True, eq=False)
class Sides:
    """A comparison looked at: both sides as values, and their period ends."""

    left: Values
    right: Values
    scope: Scope

    @property
    def ends(self) -> Days:
        """The period end of each cell."""
        return self.scope.ends


class CurrenciesMeet(Exception):
    """Amounts in different currencies meet, and nothing here can convert them."""


class Cellwise:
    """Evaluates plans at the places of a fiscal axis;
    amounts in different currencies must not meet.
    """

    def __init__(self, axis: FiscalAxis) -> None:
        self.axis = axis
        self._shape = axis.places.shape

    def value(self, step: Step, scope: Scope) -> Values:
        """The values of a step that stands in a scope."""
        match step:
            case Constant():
                currency = NO_CURRENCY if step.currency is None else currency_code(step.currency)
                return Values.constant(step.value, self._shape, currency)
            case Leaf():
                return self.axis.leaf(step, scope)
            case Compare():
                own = self.axis.scope(step)
                left, right = self.meeting((step.left, step.right), own)
                self.compared(step, (step.left, left), (step.right, right), own)
                return compare(step.operator, left, right)
            case Member():
                own = self.axis.scope(step)
                pairs = [self.meeting((step.operand, m), own) for m in step.members]
                self.compared(step, (step.operand, pairs[0][0]), (step.operand, pairs[0][0]), own)
                return OPERATORS["or"].numbers([compare("==", *pair) for pair in pairs], 0.0)
            case Apply():
                if step.function.wants is Wants.APART:
                    return united(step, [self.value(o, scope) for o in step.operands])
                out = self.applied(step, self.meeting(step.operands, scope), scope)
                if step.function.of_one_length:
                    out = self._of_one_length(step, out, scope)
                return out
        return self.other(step, scope)

    def _of_one_length(self, step: Apply, out: Values, scope: Scope) -> Values:
        """Nothing where cumulative figures, now and so long before, last unequally long: the months
        since a fiscal year began are others once it begins elsewhere.
        """
        now, before = (
            [s for s in within_scope(o) if isinstance(s, Leaf) and s.form == "ytd"]
            for o in step.operands
        )
        for pair in zip(now, before, strict=False):
            starts = [self.axis.start(leaf, scope, NO_END) for leaf in pair]
            there = (starts[0] != NO_END) & (starts[1] != NO_END)
            ends = [self.axis.end(leaf, scope) for leaf in pair]
            a, b = (
                months_long(np.where(there, s, e), e) for s, e in zip(starts, ends, strict=True)
            )
            out = out.missing_where(there & (a != b), Reason.NOT_MEANINGFUL)
        return out

    def meeting(self, steps: Sequence[Step], scope: Scope) -> list[Values]:
        """Operands that are reckoned with one another."""
        parts = [self.value(s, scope) for s in steps]
        if common_currency(parts)[1].any():
            raise CurrenciesMeet
        return parts

    def applied(self, step: Apply, parts: Sequence[Values], _scope: Scope) -> Values:
        """A function of its operands."""
        return united(step, parts)

    def compared(
        self, step: Step, left: tuple[Step, Values], right: tuple[Step, Values], own: Scope
    ) -> None:
        """Told of each comparison, with its sides as they met."""

    def other(self, step: Step, scope: Scope) -> Values:
        """A step of another kind."""
        raise AssertionError(step, scope)


def cellwise(step: Step) -> bool:
    """Whether an expression is one that `Cellwise` evaluates."""
    if isinstance(step, Apply):
        return step.function.wants is not Wants.ACROSS and all(cellwise(o) for o in step.operands)
    if isinstance(step, Compare):
        return cellwise(step.left) and cellwise(step.right)
    if isinstance(step, Member):
        return cellwise(step.operand) and all(cellwise(m) for m in step.members)
    return isinstance(step, Constant | Leaf)


def united(step: Apply, parts: Sequence[Values]) -> Values:
    """The result of a function; its currency follows from its unit:
    what is no money has none (M2).
    """
    out = step.function.numbers(parts, step.option)
    if step.function is OPERATORS["/"] and step.unit.plain() == PURE:
        out = _extremes_marked(out)
    if step.function.wants not in _RECKONED:
        return out
    money = step.unit.money and step.unit.kind == "number"
    currency = (
        common_currency(list(parts))[0]
        if money
        else np.full(out.value.shape, NO_CURRENCY, np.int16)
    )
    return replace(out, currency=currency)


def _extremes_marked(ratio: Values) -> Values:
    """With a mark where a ratio is above 1,000 or below 0.001: as of earnings near zero."""
    size = np.abs(ratio.value)
    extreme = ratio.there & ((size > _LARGE) | ((size < 1 / _LARGE) & (size > 0)))
    return replace(
        ratio, marks=ratio.marks | np.where(extreme, np.uint8(Mark.EXTREME), np.uint8(0))
    )
