"""Functions that choose between their operands, or look at whether they are there."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values, choose
from wise_ledger.core.language.functions.function import Function, Wants, truth


def _first_there(parts: Sequence[Values]) -> NDArray[np.int16]:
    """The place of the first that is there; where none is, that of the first."""
    return np.asarray(np.argmax([p.there for p in parts], axis=0), np.int16)


def _branch(parts: Sequence[Values]) -> NDArray[np.int16]:
    """The place of the branch that the test says."""
    return np.where(parts[0].value != 0, 1, 2).astype(np.int16)


def _picked(parts: Sequence[Values], place: NDArray[np.int16]) -> Values:
    out = parts[-1]
    for n, part in enumerate(parts[:-1]):
        out = choose(place == n, part, out)
    return out


def _coalesce(parts: Sequence[Values], _constant: float) -> Values:
    """The first that is there; where none is, the reason of the first."""
    return _picked(parts, _first_there(parts))


def _where(parts: Sequence[Values], _constant: float) -> Values:
    out = _picked(parts, _branch(parts))
    return replace(out, reason=np.where(parts[0].there, out.reason, parts[0].reason))


def _missing(parts: Sequence[Values], _constant: float) -> Values:
    return Values.known((~parts[0].there).astype(np.float64))


def _positive(parts: Sequence[Values], _constant: float) -> Values:
    return parts[0].missing_where(parts[0].value <= 0, Reason.NOT_MEANINGFUL)


def _industrials(parts: Sequence[Values], _constant: float) -> Values:
    """The second operand, `not_applicable` where the first, the template,
    is a bank's or an insurer's.
    """
    template, value = parts
    other = template.there & np.isin(template.value.astype(str), ("bank", "insurer"))
    return replace(value, reason=np.where(other, np.uint8(Reason.NOT_APPLICABLE), value.reason))


INDUSTRIALS = Function("industrials", "", "", _industrials, Wants.APART, least=2, most=2)

CHOICES = (
    Function("positive", "positive(x)", "x where it is above 0, else not meaningful", _positive),
    Function(
        "coalesce", "coalesce(a, b, …)", "the first that is there", _coalesce, Wants.APART, least=2, most=99,
        moves_period=False, chosen=_first_there,
    ),
    Function("missing", "missing(x)", "whether x is missing", _missing, Wants.APART, result=truth, moves_period=False),
    Function(
        "where", "where(test, a, b)", "a where the test holds, else b", _where, Wants.APART, least=3, most=3, tests=1,
        chosen=_branch,
    ),
)  # fmt: skip
