"""What a source writes as a number, in units: exact, and read off as a double once."""

from collections.abc import Sequence
from decimal import Decimal, InvalidOperation
from math import isfinite

_POWERS = [10**n for n in range(13)]  # the scales that are used


def in_units_whole(
    amounts: Sequence[object], powers: Sequence[int], signs: Sequence[int]
) -> list[float] | None:
    """A column of whole numbers of usual scales, in units; None where it is
    no such column: then each is looked at.
    """
    if not (
        {*map(type, amounts)} <= {int}
        and min(powers, default=0) >= 0
        and max(powers, default=0) < len(_POWERS)
    ):
        return None
    try:
        return [float(a * _POWERS[p] * s) for a, p, s in zip(amounts, powers, signs, strict=True)]  # type: ignore[operator]
    except OverflowError:
        return None


def in_units(amount: int | Decimal, power: int, sign: int) -> float:
    """`amount` times ten to the `power`, turned where `sign` is -1;
    `ValueError` where no figure is so large.
    """
    try:
        if type(amount) is int and 0 <= power < len(_POWERS):  # as nearly all are
            value = float(amount * _POWERS[power])
        else:
            value = float(Decimal(amount).scaleb(power))
    except (InvalidOperation, OverflowError):
        raise ValueError("the number is larger than any figure can be") from None
    if not isfinite(value):
        raise ValueError("the number is larger than any figure can be")
    return value * sign
