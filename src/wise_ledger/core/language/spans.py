"""Over which days an amount is converted (M2): cell by cell a flow's period, or one day."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Self

import numpy as np
from numpy.typing import NDArray

ONE_DAY = np.iinfo(np.int64).min  # in the place of a start: the rate of the end
_NONE, _BALANCE, _SHIFTED_FLOW, _FLOW = range(4)

Whole = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Span:
    """The days from `start` to `end`; where `start` is `ONE_DAY` the end alone.

    `behind` says how long before E the figure ends that gives the span (in months; what lives on
    dates in days before the cut-off's), `kind` whether that is an unshifted flow, a shifted one, a
    balance or an amount of a day, or nothing of all these.
    """

    start: Whole
    end: Whole
    behind: Whole
    kind: NDArray[np.int8]

    @classmethod
    def of_day(cls, day: Whole) -> Self:
        """Of no figure: a day for each cell."""
        return cls(
            np.full(day.shape, ONE_DAY),
            day,
            np.zeros(day.shape, np.int64),
            np.full(day.shape, _NONE, np.int8),
        )

    @classmethod
    def of_figure(cls, start: Whole | None, end: Whole, months: int) -> Self:
        """Of a flow from `start` on, or of a balance, that ends so many months before E."""
        kind = _BALANCE if start is None else _SHIFTED_FLOW if months else _FLOW
        begin = np.full(end.shape, ONE_DAY) if start is None else start
        return cls(
            begin, end, np.full(end.shape, months, np.int64), np.full(end.shape, kind, np.int8)
        )

    @classmethod
    def of_amount(cls, day: Whole, today: Whole) -> Self:
        """Of what lives on dates, read on a day; `today` is that of the cut-off."""
        return replace(cls.of_figure(None, day, 0), behind=today - day)

    def chosen(self, where: NDArray[np.bool_], other: Self) -> Self:
        """This span where the condition holds, else another."""
        names = ("start", "end", "behind", "kind")
        return type(self)(*(np.where(where, getattr(self, n), getattr(other, n)) for n in names))


def over_all(spans: Sequence[Span], ends: Whole) -> Span:
    """The span of a result of several figures: of the first unshifted flow,
    else of the figures' own end, else of E.

    `ends` are the E of each cell. Figures that end so many months before E keep that period as long
    as all do.
    """
    out = spans[0]
    several = np.zeros(ends.shape, np.bool_)
    for span in spans[1:]:
        several |= (out.kind != _NONE) & (span.kind != _NONE) & (out.behind != span.behind)
        out = span.chosen(span.kind > out.kind, out)
    at_end = Span.of_day(ends)
    return at_end.chosen(several & (out.kind != _FLOW), out)
