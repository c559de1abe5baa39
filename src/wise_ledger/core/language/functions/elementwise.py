"""Functions and operators cell by cell; three-valued logic."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values, all_marks, common_currency, first_reason
from wise_ledger.core.arithmetic import added, multiplied, quotient, subtracted
from wise_ledger.core.language.functions.function import Function, UnitRefused, Wants, pure
from wise_ledger.core.language.units import PURE, Unit
from wise_ledger.core.money.currencies import NO_CURRENCY


def together(parts: Sequence[Values], value: NDArray[Any]) -> Values:
    """A result with what its operands have in common: reason, marks, currency."""
    currency, clash = common_currency(list(parts))
    out = Values(value, first_reason(list(parts)), all_marks(list(parts)), currency)
    return out.missing_where(clash, Reason.NO_RATE)


def _each(function: Callable[..., NDArray[Any]]) -> Callable[[Sequence[Values], float], Values]:
    def numbers(parts: Sequence[Values], _constant: float) -> Values:
        with np.errstate(all="ignore"):
            return together(parts, function(*(p.value for p in parts))).finite()

    return numbers


def divided(parts: Sequence[Values], _constant: float = 0.0) -> Values:
    """A quotient; money over money is no money, money over a plain number keeps its currency."""
    a, b = parts
    with np.errstate(all="ignore"):
        out = together(parts, quotient(a.value, b.value)).missing_where(
            b.value == 0, Reason.ZERO_DENOMINATOR
        )
    both = (a.currency != NO_CURRENCY) & (b.currency != NO_CURRENCY)
    return replace(out, currency=np.where(both, np.int16(NO_CURRENCY), out.currency)).finite()


def _logarithm(parts: Sequence[Values], constant: float) -> Values:
    out = _each(np.log)(parts, constant)
    return replace(out, currency=np.full(out.value.shape, NO_CURRENCY, np.int16))


def _power(parts: Sequence[Values], constant: float) -> Values:
    base, exponent = parts
    out = _each(np.power)(parts, constant)
    nothing = (base.value == 0) & (exponent.value < 0) & (first_reason(list(parts)) == 0)
    return replace(out, reason=np.where(nothing, np.uint8(Reason.ZERO_DENOMINATOR), out.reason))


def _root(unit: Unit) -> Unit:
    if unit.plain() != PURE:
        raise UnitRefused(
            f"a root of {unit.name} has no unit", "divide first, to get a plain number"
        )
    return PURE


def _logic(decides: float) -> Callable[[Sequence[Values], float], Values]:
    """`and` (decided by a false) or `or` (by a true): a deciding side settles it,
    else an unknown one leaves it so.
    """

    def numbers(parts: Sequence[Values], _constant: float) -> Values:
        decided = np.logical_or.reduce([p.there & (p.value == decides) for p in parts])
        reason = np.where(decided, np.uint8(Reason.NONE), first_reason(list(parts)))
        return Values.known(np.where(decided, decides, 1 - decides), reason, all_marks(list(parts)))

    return numbers


def _negation(parts: Sequence[Values], _constant: float) -> Values:
    return replace(parts[0], value=1 - parts[0].value)


ELEMENTWISE = (
    Function("abs", "abs(x)", "x without its sign", _each(np.abs)),
    Function("log", "log(x)", "natural logarithm", _logarithm, result=pure),
    Function("sqrt", "sqrt(x)", "square root", _each(np.sqrt), result=_root),
    Function("min", "min(a, b, …)", "the least", _each(lambda *v: np.minimum.reduce(v)), least=2, most=99),
    Function("max", "max(a, b, …)", "the greatest", _each(lambda *v: np.maximum.reduce(v)), least=2, most=99),
    Function(
        "clip", "clip(x, low, high)", "x kept between two bounds",
        _each(lambda x, low, high: np.minimum(np.maximum(x, low), high)), least=3, most=3, bounds=True,
    ),
)  # fmt: skip

# Written between or before their operands; their units are the checker's.
OPERATORS: Mapping[str, Function] = {
    f.name: f
    for f in (
        Function("+", "a + b", "sum", _each(added), least=2, most=2),
        Function("-", "a - b", "difference", _each(subtracted), least=2, most=2),
        Function("*", "a * b", "product", _each(multiplied), least=2, most=2),
        Function("/", "a / b", "quotient", divided, least=2, most=2),
        Function("^", "a ^ b", "power", _power, least=2, most=2),
        Function("minus", "-a", "a with the other sign", _each(np.negative)),
        Function("and", "a and b", "whether both hold", _logic(0.0), Wants.APART, least=2, most=99),
        Function("or", "a or b", "whether one holds", _logic(1.0), Wants.APART, least=2, most=99),
        Function("not", "not a", "whether it does not hold", _negation, Wants.APART),
    )
}

_COMPARE: dict[str, Callable[[Any, Any], NDArray[np.bool_]]] = {
    "<": np.less,
    "<=": np.less_equal,
    ">": np.greater,
    ">=": np.greater_equal,
    "==": np.equal,
    "!=": np.not_equal,
}


def compare(operator: str, a: Values, b: Values) -> Values:
    """Truth, unknown where a side is missing."""
    value = _COMPARE[operator](a.value, b.value).astype(np.float64)
    return replace(together([a, b], value), currency=np.full(value.shape, NO_CURRENCY, np.int16))
