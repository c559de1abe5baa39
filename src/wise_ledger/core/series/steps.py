"""Transforms of series, composed of plain steps in a stated order (S2, S3),
each read from words and put into words.

`quarterly mean` · `yearly sum incomplete too` · `change on a year ago` · `growth over 3 periods
annualised` · `log growth on the period before` · `log` · `rebased to 2015`
"""

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.arithmetic import added, decimal, mean, multiplied, quotient, subtracted
from wise_ledger.core.errors import bad_input
from wise_ledger.core.series.lines import Line, Numbers, Whole
from wise_ledger.core.series.periods import (
    Frequency,
    first_day,
    label,
    last_day,
    period_of,
    read_period,
)
from wise_ledger.core.time.periods import as_date, shift_months

As = Literal["amount", "fraction", "log"]
REBASED = -2  # the base of what was rebased here
_LATE = 7  # days before the same date of a year ago, of daily series
_FORMS = (
    "write steps such as: quarterly mean, change on a year ago, growth over 3 periods annualised,"
    " log, rebased to 2015"
)


@dataclass(frozen=True)
class ToFrequency:
    """To a lower frequency by `mean`, `sum`, `last` or `first` (S2);
    incomplete buckets too where `incomplete`.
    """

    frequency: Frequency
    by: str
    incomplete: bool = False

    @property
    def words(self) -> str:
        """As it is written, such as `quarterly mean`."""
        return f"{self.frequency.adverb} {self.by}{' incomplete too' if self.incomplete else ''}"

    def of(self, line: Line) -> Line:
        """The line in buckets from the first to the last observed;
        raises `BadInput` for a higher frequency.
        """
        if self.frequency == line.frequency:
            return line
        if self.frequency > line.frequency or (
            self.frequency is Frequency.W and line.frequency is not Frequency.D
        ):
            mend = f"ask for one below {line.frequency.adverb}, or leave the step out"
            raise bad_input(
                "transforms", self.words, f"the series is {line.frequency.adverb}", mend
            )
        return _bucketed(line, self)


@dataclass(frozen=True)
class Change:
    """Against so many `periods` before, or a year before (None), as amount,
    fraction or log difference (S3).
    """

    periods: int | None
    as_: As = "fraction"
    annualised: bool = False

    @property
    def words(self) -> str:
        """As it is written, such as `growth on a year ago`."""
        what = {"amount": "change", "fraction": "growth", "log": "log growth"}[self.as_]
        before = {None: "on a year ago", 1: "on the period before"}.get(
            self.periods, f"over {self.periods} periods"
        )
        return f"{what} {before}{' annualised' if self.annualised else ''}"

    def of(self, line: Line) -> Line:
        """The line of changes; `incomplete` where the period before is none of the series."""
        place = self._before(line)
        there = np.maximum(place, 0)
        if not len(line):
            return line
        base = np.where(place >= 0, line.value[there], np.nan)
        why = np.where(place >= 0, line.reason[there], np.uint8(Reason.INCOMPLETE))
        reason = np.where(line.reason != 0, line.reason, why)
        broken = (reason == 0) & (line.base != line.base[there])
        per_year = self._per_year(line, there)
        with np.errstate(all="ignore"):
            if self.as_ == "amount":
                value = subtracted(line.value, base) * per_year
            else:
                broken |= (reason == 0) & ((base <= 0) | ((self.as_ == "log") & (line.value <= 0)))
                ratio = quotient(line.value, base)
                log = self.as_ == "log"
                value = np.log(ratio) * per_year if log else added(ratio**per_year, -1)
        reason = np.where(broken, np.uint8(Reason.NOT_MEANINGFUL), reason)
        return line.having(value, reason.astype(np.uint8))

    def _before(self, line: Line) -> Whole:
        """The place of what each entry is compared with, -1 where there is none."""
        if line.frequency is not Frequency.D:
            back = line.frequency.in_a_year if self.periods is None else self.periods
            return line.places(line.period - back)
        if self.periods is not None:
            return np.maximum(np.arange(len(line)) - self.periods, -1)
        same = shift_months(line.period.astype(np.int32), -12).astype(np.int64)
        place = np.searchsorted(line.period, same, "right") - 1
        late = same - line.period[np.maximum(place, 0)] > _LATE
        return np.asarray(np.where((place < 0) | late, -1, place))

    def _per_year(self, line: Line, there: Whole) -> Numbers | float:
        """By how much a change is lifted to a year's."""
        if not self.annualised or self.periods is None:
            return 1.0
        if line.frequency is Frequency.D:
            return np.asarray(365.0 / np.maximum(line.period - line.period[there], 1))
        return line.frequency.in_a_year / self.periods


@dataclass(frozen=True)
class Log:
    """The natural logarithm; of what is not above zero `not_meaningful`."""

    @property
    def words(self) -> str:
        """As it is written."""
        return "log"

    def of(self, line: Line) -> Line:
        """The line of logarithms."""
        with np.errstate(all="ignore"):
            value = np.where(line.value > 0, np.log(line.value), np.nan)
        return line.having(value, line.reason)


@dataclass(frozen=True)
class Rebased:
    """100 in a period; in a longer one than those of the series, its mean there is."""

    frequency: Frequency
    period: int

    @property
    def words(self) -> str:
        """As it is written, such as `rebased to 2015`."""
        return f"rebased to {label(self.frequency, self.period)}"

    def of(self, line: Line) -> Line:
        """The line rebased; `incomplete` throughout where the period is not all there."""
        if self.frequency > line.frequency:
            mend = f"name a {line.frequency.noun}, or a longer period"
            raise bad_input(
                "transforms", self.words, f"the series is {line.frequency.adverb}", mend
            )
        own = bucket_of(line.frequency, line.period, self.frequency) == self.period
        whole = _complete(line, own, self.frequency, self.period) and bool(own.any())
        at = float(mean(line.value[own & line.there])) if whole else np.nan
        bases = np.unique(line.base[own])
        with np.errstate(all="ignore"):
            value = multiplied(quotient(line.value, at), 100)
        lacking = (
            Reason.INCOMPLETE if not whole else Reason.ZERO_DENOMINATOR if at == 0 else Reason.NONE
        )
        if lacking is Reason.NONE and (at < 0 or len(bases) != 1):
            lacking = Reason.NOT_MEANINGFUL
        reason = np.where(line.reason != 0, line.reason, np.uint8(lacking))
        if lacking is Reason.NONE:
            reason = np.where(
                (reason == 0) & (line.base != bases[0]), np.uint8(Reason.NOT_MEANINGFUL), reason
            )
        return line.having(value, reason.astype(np.uint8))


Step = ToFrequency | Change | Log | Rebased


def bucket_of(frequency: Frequency, periods: Whole, into: Frequency) -> Whole:
    """The longer period that each belongs to: by its last day, a week by its Sunday."""
    return period_of(into, last_day(frequency, periods))


def _members(frequency: Frequency, into: Frequency, bucket: int) -> int:
    """How many periods a bucket has."""
    ends = np.array([bucket - 1, bucket])
    low, high = period_of(frequency, last_day(into, ends)).tolist()
    if frequency is Frequency.W:  # a week that goes on over the end belongs to the next bucket
        after = last_day(into, ends)
        sunday = last_day(frequency, np.array([low, high]))
        low, high = low - int(sunday[0] > after[0]), high - int(sunday[1] > after[1])
    return int(high - low)


def _complete(line: Line, own: NDArray[np.bool_], into: Frequency, bucket: int) -> bool:
    """Whether all periods of a bucket are there; of days,
    whether its last weekday or any later day is (S2).
    """
    if line.frequency is not Frequency.D:
        return int((own & line.there).sum()) == _members(line.frequency, into, bucket)
    end = int(last_day(into, np.array([bucket]))[0])
    weekday = end - max(0, (end + 3) % 7 - 4)
    return bool(len(line)) and int(line.period[-1]) >= weekday


_BY: Mapping[str, Callable[[Numbers], float]] = {
    "mean": lambda v: float(mean(v)),
    "sum": lambda v: float(decimal(v.sum(), np.abs(v).sum(), len(v))),
    "last": lambda v: float(v[-1]),
    "first": lambda v: float(v[0]),
}


def _bucketed(line: Line, step: ToFrequency) -> Line:
    if not len(line):
        return Line.of(step.frequency, line.period, line.value)
    bucket = bucket_of(line.frequency, line.period, step.frequency)
    every = np.arange(bucket[0], bucket[-1] + 1)
    edges = np.searchsorted(bucket, np.append(every, every[-1] + 1))
    there = line.there
    value, reason = np.full(len(every), np.nan), np.zeros(len(every), np.uint8)
    base, known = np.full(len(every), -1, np.int64), np.zeros(len(every), np.int64)
    assumed = np.zeros(len(every), np.bool_)
    for n, period in enumerate(every.tolist()):
        rows = np.arange(edges[n], edges[n + 1])
        good = rows[there[rows]]
        own = np.zeros(len(line), np.bool_)
        own[rows] = True
        whole = _complete(line, own, step.frequency, period)
        picked = good[-1:] if step.by == "last" else good[:1] if step.by == "first" else good
        if not len(good) or not (whole or step.incomplete):
            reason[n] = Reason.INCOMPLETE
            continue
        bases = np.unique(line.base[picked])
        if len(bases) > 1:
            reason[n] = Reason.NOT_MEANINGFUL
            continue
        value[n], base[n], known[n] = (
            _BY[step.by](line.value[good]),
            bases[0],
            int(line.known[good].max()),
        )
        assumed[n] = bool(line.assumed[picked].any())
    return Line(step.frequency, every, value, reason, base, known, assumed)


_BUCKET = re.compile(r"(yearly|quarterly|monthly|weekly) (mean|sum|last|first)( incomplete too)?")
_CHANGE = re.compile(
    r"(change|growth|log growth) (on a year ago|on the period before|over ([0-9]{1,3}) periods?)( annualised)?"
)
_REBASED = re.compile(r"rebased to (\S.*)")


def read_step(text: str) -> Step:
    """A step from its words; raises `BadInput` that says how steps are written.

    >>> read_step("growth over 3 periods annualised")
    Change(periods=3, as_='fraction', annualised=True)
    """
    words = " ".join(text.split())
    plain = words.lower()
    if plain == "log":
        return Log()
    if found := _BUCKET.fullmatch(plain):
        frequency = next(f for f in Frequency if f.adverb == found[1])
        return ToFrequency(frequency, found[2], bool(found[3]))
    if found := _CHANGE.fullmatch(plain):
        as_: dict[str, As] = {"change": "amount", "growth": "fraction", "log growth": "log"}
        periods = None if found[2] == "on a year ago" else int(found[3] or 1)
        if periods == 0:
            raise bad_input(
                "transforms", text, "over no period nothing changes", "write how many, such as 3"
            )
        return Change(periods, as_[found[1]], bool(found[4]))
    if found := _REBASED.fullmatch(words) or _REBASED.fullmatch(plain):
        return Rebased(*read_period(found[1], "transforms"))
    raise bad_input("transforms", text, "there is no such step", _FORMS)


def read_steps(texts: Sequence[str]) -> tuple[Step, ...]:
    """Steps in the order in which they apply; each of several in one text, parted by commas."""
    return tuple(read_step(part) for text in texts for part in text.split(",") if part.strip())


def transformed(line: Line, steps: Sequence[Step]) -> Line:
    """The line after each step in turn; raises `BadInput` where a step cannot be taken."""
    for step in steps:
        line = step.of(line)
    return line


def in_words(steps: Sequence[Step]) -> str:
    """What stands in the head of a column: the last step first, as one reads
    it; `level` without any.
    """
    return ", ".join(s.words for s in reversed(steps)) or "level"


def is_fraction(steps: Sequence[Step]) -> bool:
    """Whether the result is a fraction that people read as percent."""
    changes = [s for s in steps if isinstance(s, Change)]
    return bool(changes) and changes[-1].as_ != "amount"


def span_of(
    frequency: Frequency, start: str | None, end: str | None
) -> tuple[int | None, int | None]:
    """The first and last period of a frequency between two periods of any frequency,
    both included; `BadInput`.
    """
    first = last = None
    if start is not None:
        of, period = read_period(start, "start")
        first = int(period_of(frequency, first_day(of, np.array([period])))[0])
    if end is not None:
        of, period = read_period(end, "end")
        last = int(period_of(frequency, last_day(of, np.array([period])))[0])
    if first is not None and last is not None and last < first:
        raise bad_input("end", end, f"it is before the start, {start}", "swap the two")
    return first, last


def day_of(frequency: Frequency, period: int) -> str:
    """The last day of a period, as a date is written."""
    return as_date(int(last_day(frequency, np.array([period]))[0])).isoformat()
