"""Values of an expression: arrays of companies x dates, each cell a number or a reason."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.money.currencies import NO_CURRENCY

Shape = tuple[int, int]


@dataclass(frozen=True, eq=False)
class Values:
    """`value` counts where `reason` is NONE; truth is 1.0 or 0.0,
    text stands in an object array.
    """

    value: NDArray[Any]
    reason: NDArray[np.uint8]
    marks: NDArray[np.uint8]
    currency: NDArray[np.int16]

    @classmethod
    def constant(cls, value: float, shape: Shape, currency: int = NO_CURRENCY) -> Self:
        """The same number in every cell."""
        return cls.known(np.full(shape, value), currency=np.full(shape, currency, np.int16))

    @classmethod
    def known(
        cls,
        value: NDArray[Any],
        reason: NDArray[np.uint8] | None = None,
        marks: NDArray[np.uint8] | None = None,
        currency: NDArray[np.int16] | None = None,
    ) -> Self:
        """From an array of values; what is not given is empty."""
        return cls(
            value,
            np.zeros(value.shape, np.uint8) if reason is None else reason,
            np.zeros(value.shape, np.uint8) if marks is None else marks,
            np.full(value.shape, NO_CURRENCY, np.int16) if currency is None else currency,
        )

    @property
    def there(self) -> NDArray[np.bool_]:
        """Where there is a value."""
        return np.asarray(self.reason == 0)  # Reason.NONE, without the cost of its kind

    def of_each(self, take: Callable[[NDArray[Any]], NDArray[Any]]) -> Self:
        """The same cells out of each of its arrays."""
        arrays = (self.value, self.reason, self.marks, self.currency)
        return type(self)(*(take(array) for array in arrays))

    def missing_where(self, where: NDArray[np.bool_], reason: Reason) -> Self:
        """With `reason` where the condition holds and nothing was missing yet."""
        now = np.where(where & self.there, np.uint8(reason), self.reason)
        return replace(self, reason=now)

    def finite(self) -> Self:
        """What overflowed, or has no real result, is not meaningful."""
        return self.missing_where(
            ~np.isfinite(self.value.astype(np.float64)), Reason.NOT_MEANINGFUL
        )


def choose(test: NDArray[np.bool_], a: Values, b: Values) -> Values:
    """`a` where the test holds, else `b`."""
    return Values(
        np.where(test, a.value, b.value),
        np.where(test, a.reason, b.reason),
        np.where(test, a.marks, b.marks),
        np.where(test, a.currency, b.currency),
    )


def first_reason(parts: list[Values]) -> NDArray[np.uint8]:
    """The first missing reason, in the order written (N)."""
    reason = parts[0].reason
    for part in parts[1:]:
        reason = np.where(reason == 0, part.reason, reason)
    return reason


def common_currency(parts: list[Values]) -> tuple[NDArray[np.int16], NDArray[np.bool_]]:
    """The currency of amounts that meet, and where two different ones would (M2:
    `no_rate` until there are rates).
    """
    currency = parts[0].currency
    clash = np.zeros(currency.shape, np.bool_)
    for part in parts[1:]:
        clash |= (
            (currency != NO_CURRENCY) & (part.currency != NO_CURRENCY) & (currency != part.currency)
        )
        currency = np.where(currency == NO_CURRENCY, part.currency, currency)
    return currency, clash


def all_marks(parts: list[Values]) -> NDArray[np.uint8]:
    """Marks travel from every input to the result."""
    marks = parts[0].marks
    for part in parts[1:]:
        marks = marks | part.marks
    return marks
