"""Functions of an operand now and so long before."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values, common_currency, first_reason
from wise_ledger.core.arithmetic import added, subtracted
from wise_ledger.core.language.functions.elementwise import divided, together
from wise_ledger.core.language.functions.function import Function, Second, Wants, pure, same


def _before(parts: Sequence[Values], _constant: float) -> Values:
    return parts[1]


def _change(parts: Sequence[Values], _constant: float) -> Values:
    with np.errstate(all="ignore"):
        return together(parts, subtracted(parts[0].value, parts[1].value)).finite()


def _ratio(parts: Sequence[Values]) -> Values:
    """Now over then, `not_meaningful` from a base that is not positive."""
    now, base = parts
    out = replace(divided(parts), reason=first_reason(list(parts)))
    return out.missing_where(base.value <= 0, Reason.NOT_MEANINGFUL).missing_where(
        common_currency([now, base])[1], Reason.NO_RATE
    )


def _growth(parts: Sequence[Values], _constant: float) -> Values:
    ratio = _ratio(parts)
    return replace(ratio, value=added(ratio.value, -1)).finite()


def _cagr(parts: Sequence[Values], years: float) -> Values:
    """Compound annual growth; none from a base not above zero, or to an end below it."""
    ratio = _ratio(parts).missing_where(parts[0].value < 0, Reason.NOT_MEANINGFUL)
    with np.errstate(all="ignore"):
        return replace(ratio, value=ratio.value ** (1 / years) - 1).finite()


def _average_balance(parts: Sequence[Values], _constant: float) -> Values:
    with np.errstate(all="ignore"):
        return together(parts, added(parts[0].value, parts[1].value) / 2).finite()


def _itself(parts: Sequence[Values], _constant: float) -> Values:
    return parts[0]


IN_TIME = (
    Function("ago", "ago(x, span)", "x that long before", _before, Wants.SHIFTED, second=Second.SPAN, result=same),
    Function("change", "change(x, span)", "x less x that long before", _change, Wants.SHIFTED, second=Second.SPAN),
    Function(
        "growth", "growth(x, span)", "x over x that long before, less 1", _growth, Wants.SHIFTED, second=Second.SPAN,
        result=pure, of_one_length=True,
    ),
    Function(
        "cagr", "cagr(x, span)", "compound annual growth over the span", _cagr, Wants.SHIFTED, second=Second.SPAN,
        result=pure, of_one_length=True,
    ),
    Function(
        "average_balance", "average_balance(x)", "the mean of x and x a year before", _average_balance, Wants.SHIFTED
    ),
    Function(
        "at_period_end", "at_period_end(x)", "x, which lives on dates, as on the period end of the figures beside it",
        _itself, Wants.AT_END,
    ),
    Function(
        "price_return", 'price_return(span)', 'the return of the price over the span; over="list" in excess of a list',
        _itself, Wants.RETURN, least=0, most=0, second=Second.SPAN, result=pure, keywords=("over",),
    ),
    Function(
        "total_return", 'total_return(span)', 'the return with dividends reinvested; over="list" in excess of a list',
        _itself, Wants.RETURN, least=0, most=0, second=Second.SPAN, result=pure, keywords=("over",),
    ),
    Function(
        "estimate", "estimate(measure, horizon, statistic)",
        "the consensus: eps, revenue …; q1 q2 fy1 fy2 fy3 ntm; mean median high low stdev count raised cut",
        _itself, Wants.ESTIMATE, least=2, most=3,
    ),
    Function(
        "surprise", "surprise(measure, how)",
        "the latest actual less the mean expected: amount, relative or deviations; period=fy or q",
        _itself, Wants.ESTIMATE, least=1, most=2, keywords=("period",),
    ),
    Function(
        "series", 'series("key")',
        "an economic series: its last period released by the date; ago, growth, mean on it step in its periods",
        _itself, Wants.SERIES,
    ),
    Function(
        "first_reported", "first_reported(x)", "x from first reported versions only", _itself, Wants.VERSION
    ),
)  # fmt: skip
