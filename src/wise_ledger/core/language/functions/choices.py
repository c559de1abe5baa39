"""Functions that choose between their operands, or look at whether they are there."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.language.functions.function import Function, Wants, truth


def choose(test: NDArray[np.bool_], a: Values, b: Values) -> Values:
    """`a` where the test holds, else `b`."""
    return Values(
        np.where(test, a.value, b.value),
        np.where(test, a.reason, b.reason),
        np.where(test, a.marks, b.marks),
        np.where(test, a.currency, b.currency),
    )


def _coalesce(parts: Sequence[Values], _constant: float) -> Values:
    """The first that is there; where none is, the reason of the first."""
    out = parts[0]
    for part in parts[1:]:
        out = choose(~out.there & part.there, part, out)
    return out


def _where(parts: Sequence[Values], _constant: float) -> Values:
    test, a, b = parts
    out = choose(test.value != 0, a, b)
    return replace(out, reason=np.where(test.there, out.reason, test.reason))


def _missing(parts: Sequence[Values], _constant: float) -> Values:
    return Values.known((~parts[0].there).astype(np.float64))


def _positive(parts: Sequence[Values], _constant: float) -> Values:
    return parts[0].missing_where(parts[0].value <= 0, Reason.NOT_MEANINGFUL)


CHOICES = (
    Function("positive", "positive(x)", "x where it is above 0, else not meaningful", _positive),
    Function(
        "coalesce", "coalesce(a, b, …)", "the first that is there", _coalesce, Wants.APART, least=2, most=99,
        moves_period=False,
    ),
    Function("missing", "missing(x)", "whether x is missing", _missing, Wants.APART, result=truth, moves_period=False),
    Function(
        "where", "where(test, a, b)", "a where the test holds, else b", _where, Wants.APART, least=3, most=3, tests=1
    ),
)  # fmt: skip
