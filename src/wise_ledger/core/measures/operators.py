"""Elementwise operators and functions over values, with three-valued logic."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.facts.columns import NO_CURRENCY
from wise_ledger.core.facts.reasons import Reason
from wise_ledger.core.facts.values import Values, all_marks, common_currency, first_reason

Operator = Callable[[list[Values]], Values]


def _together(parts: list[Values], value: NDArray[Any]) -> Values:
    currency, clash = common_currency(parts)
    out = Values(value, first_reason(parts), all_marks(parts), currency)
    return out.missing_where(clash, Reason.NO_RATE)


def _lift(function: Callable[..., NDArray[Any]]) -> Operator:
    def operator(parts: list[Values]) -> Values:
        with np.errstate(all="ignore"):
            return _together(parts, function(*(p.value for p in parts))).finite()

    return operator


def _divide(parts: list[Values]) -> Values:
    a, b = parts
    with np.errstate(all="ignore"):
        out = _together(parts, a.value / b.value).missing_where(b.value == 0, Reason.ZERO_DENOMINATOR)
    # Money over money is no money; money over a plain number keeps its currency.
    both = (a.currency != NO_CURRENCY) & (b.currency != NO_CURRENCY)
    return replace(out, currency=np.where(both, np.int16(NO_CURRENCY), out.currency)).finite()


def _growth(parts: list[Values]) -> Values:
    ratio = _divide(parts)
    now, base = parts
    out = replace(ratio, value=ratio.value - 1, reason=first_reason(parts))
    return out.missing_where(base.value <= 0, Reason.NOT_MEANINGFUL).missing_where(
        common_currency([now, base])[1], Reason.NO_RATE
    )


def _positive(parts: list[Values]) -> Values:
    return parts[0].missing_where(parts[0].value <= 0, Reason.NOT_MEANINGFUL)


def _coalesce(parts: list[Values]) -> Values:
    """The first that is there; where none is, the reason of the first."""
    out = parts[0]
    for part in parts[1:]:
        out = choose(~out.there & part.there, part, out)
    return out


def choose(test: NDArray[np.bool_], a: Values, b: Values) -> Values:
    """`a` where the test holds, else `b`."""
    return Values(
        np.where(test, a.value, b.value),
        np.where(test, a.reason, b.reason),
        np.where(test, a.marks, b.marks),
        np.where(test, a.currency, b.currency),
    )


def _where(parts: list[Values]) -> Values:
    test, a, b = parts
    out = choose(test.value != 0, a, b)
    return replace(out, reason=np.where(test.there, out.reason, test.reason))


def _missing(parts: list[Values]) -> Values:
    return Values.known((~parts[0].there).astype(np.float64))


def _logic(decides: float) -> Operator:
    """`and` (decided by a false) or `or` (by a true): a deciding side settles it, else an unknown one leaves it so."""

    def operator(parts: list[Values]) -> Values:
        decided = np.logical_or.reduce([p.there & (p.value == decides) for p in parts])
        reason = np.where(decided, np.uint8(Reason.NONE), first_reason(parts))
        return Values.known(np.where(decided, decides, 1 - decides), reason, all_marks(parts))

    return operator


OPERATORS: dict[str, Operator] = {
    "+": _lift(np.add),
    "-": _lift(np.subtract),
    "*": _lift(np.multiply),
    "/": _divide,
    "^": _lift(np.power),
    "minus": _lift(np.negative),
    "growth": _growth,
    "positive": _positive,
    "coalesce": _coalesce,
    "missing": _missing,
    "where": _where,
    "abs": _lift(np.abs),
    "log": _lift(np.log),
    "sqrt": _lift(np.sqrt),
    "min": _lift(lambda *v: np.minimum.reduce(v)),
    "max": _lift(lambda *v: np.maximum.reduce(v)),
    "clip": _lift(lambda x, low, high: np.minimum(np.maximum(x, low), high)),
    "and": _logic(0.0),
    "or": _logic(1.0),
    "not": lambda parts: replace(parts[0], value=1 - parts[0].value),
}

COMPARE: dict[str, Callable[[Any, Any], NDArray[np.bool_]]] = {
    "<": np.less,
    "<=": np.less_equal,
    ">": np.greater,
    ">=": np.greater_equal,
    "==": np.equal,
    "!=": np.not_equal,
}


def compare(operator: str, a: Values, b: Values) -> Values:
    """Truth, unknown where a side is missing."""
    value = COMPARE[operator](a.value, b.value).astype(np.float64)
    return replace(_together([a, b], value), currency=np.full(value.shape, NO_CURRENCY, np.int16))
