"""A line: the values of one series over its periods, as it stood at one moment;
what transforms take and give.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Self

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.series.periods import Frequency, label

Whole = NDArray[np.int64]
Numbers = NDArray[np.float64]
NO_BASE = -1


@dataclass(frozen=True, eq=False)
class Line:
    """One entry a period, ascending: a value, or the reason why there is none.

    `period` has every period from the first to the last, of daily series those observed. `base`
    numbers what an index is 100 for, `NO_BASE` where it is none; `known` holds since when each
    value has been known.
    """

    frequency: Frequency
    period: Whole
    value: Numbers
    reason: NDArray[np.uint8]
    base: Whole
    known: Whole
    assumed: NDArray[np.bool_]

    @classmethod
    def of(
        cls,
        frequency: Frequency,
        period: Whole,
        value: Numbers,
        reason: NDArray[np.uint8] | None = None,
    ) -> Self:
        """A line of plain values, of one base, known for ever."""
        none = np.zeros(len(period), np.uint8) if reason is None else reason
        zeros = np.zeros(len(period), np.int64)
        return cls(frequency, period, value, none, zeros + NO_BASE, zeros, zeros.astype(np.bool_))

    @property
    def there(self) -> NDArray[np.bool_]:
        """Where there is a value."""
        return np.asarray(self.reason == 0)

    @property
    def labels(self) -> list[str]:
        """The periods as they are written."""
        return [label(self.frequency, p) for p in self.period.tolist()]

    def __len__(self) -> int:
        return len(self.period)

    def having(self, value: Numbers, reason: NDArray[np.uint8]) -> Self:
        """The same periods with other values; what is not finite is
        `not_meaningful`, the first reason stays.
        """
        with np.errstate(all="ignore"):
            bad = (reason == 0) & ~np.isfinite(value)
        why = np.where(bad, np.uint8(Reason.NOT_MEANINGFUL), reason).astype(np.uint8)
        return replace(self, value=np.where(why == 0, value, np.nan), reason=why)

    def within(self, first: int | None, last: int | None) -> Self:
        """Only the periods from one to another, both included."""
        keep = np.ones(len(self), np.bool_)
        if first is not None:
            keep &= self.period >= first
        if last is not None:
            keep &= self.period <= last
        return self.where(keep)

    def where(self, keep: NDArray[np.bool_]) -> Self:
        """Only the entries marked true."""
        names = ("period", "value", "reason", "base", "known", "assumed")
        return replace(self, **{n: getattr(self, n)[keep] for n in names})

    def over(self, periods: Whole) -> Self:
        """The line over other periods, ascending: what it has none of is `not_known`."""
        place = self.places(periods)
        there, none = np.maximum(place, 0), place < 0
        if not len(self):
            return type(self).of(
                self.frequency, periods, np.full(len(periods), np.nan), _not_known(len(periods))
            )
        return replace(
            self,
            period=periods,
            value=np.where(none, np.nan, self.value[there]),
            reason=np.where(none, np.uint8(Reason.NOT_KNOWN), self.reason[there]).astype(np.uint8),
            base=np.where(none, NO_BASE, self.base[there]),
            known=np.where(none, 0, self.known[there]),
            assumed=np.where(none, False, self.assumed[there]).astype(np.bool_),
        )

    def places(self, periods: Whole) -> Whole:
        """Where each period stands; -1 where it does not."""
        if not len(self):
            return np.full(len(periods), -1, np.int64)
        place = np.minimum(np.searchsorted(self.period, periods), len(self) - 1)
        return np.asarray(np.where(self.period[place] == periods, place, -1))


def _not_known(count: int) -> NDArray[np.uint8]:
    return np.full(count, Reason.NOT_KNOWN, np.uint8)


def side_by_side(lines: Sequence[Line]) -> list[Line]:
    """Lines with the same periods wherever their frequency is the same;
    what one of them lacks is `not_known`.
    """
    out = list(lines)
    for frequency in {line.frequency for line in lines}:
        own = [n for n, line in enumerate(lines) if line.frequency is frequency]
        periods = np.unique(np.concatenate([lines[n].period for n in own]))
        if frequency is not Frequency.D and len(periods):
            periods = np.arange(periods[0], periods[-1] + 1)
        for n in own:
            out[n] = lines[n].over(periods)
    return out
