"""Evaluate what looks at no other cell: constants, fiscal figures, arithmetic,
choices and comparisons.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any, TypeGuard

import numpy as np
from numpy.typing import NDArray

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
from wise_ledger.core.time.periods import Days, months_long
from wise_ledger.core.timelines.keys import Mark

Mask = NDArray[np.bool_]
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


def _cumulative(step: Step) -> TypeGuard[Leaf]:
    return isinstance(step, Leaf) and step.form == "ytd"


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
        if not any(_cumulative(s) for s in within_scope(step)):
            return out
        now, before = (list(self._cumulative_in(o, scope)) for o in step.operands)
        for (a, counts_now), (b, counts_before) in zip(now, before, strict=True):
            both = counts_now & counts_before
            unlike = self._months_long(a, scope, both) != self._months_long(b, scope, both)
            out = out.missing_where(both & unlike, Reason.NOT_MEANINGFUL)
        return out

    def _cumulative_in(
        self, step: Step, scope: Scope, where: Mask | None = None
    ) -> Iterator[tuple[Leaf, Mask]]:
        """The cumulative figures of a step, and the cells in which they make up its value:
        there, and of the operand that was chosen.
        """
        where = np.ones(self._shape, bool) if where is None else where
        if _cumulative(step):
            yield step, where & self.axis.leaf(step, scope).there
        elif isinstance(step, Apply):
            choice = step.function.chosen
            parts = [self.value(o, scope) for o in step.operands] if choice else []
            place = choice(parts) if choice else None
            for n, operand in enumerate(step.operands):
                own = where if place is None else where & (place == n)
                yield from self._cumulative_in(operand, scope, own)

    def _months_long(self, leaf: Leaf, scope: Scope, where: Mask) -> NDArray[Any]:
        """Over how many months a figure runs, where it is there."""
        end = self.axis.end(leaf, scope)
        return months_long(np.where(where, self.axis.start(leaf, scope), end), end)

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
