"""Amounts brought into one currency while an expression is evaluated (M2)."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.values import Values
from wise_ledger.core.language.plan import Constant, Step
from wise_ledger.core.language.spans import ONE_DAY, Span
from wise_ledger.core.language.tree import Place
from wise_ledger.core.money.currencies import NO_CURRENCY, currency_code
from wise_ledger.core.money.rates import RateTable, at_rate, last_day, rate_of
from wise_ledger.core.timelines.keys import Instants

Currencies = NDArray[np.int16]


@dataclass(frozen=True)
class Conversion:
    """A rate that was used in the first cell of an evaluation: the mean over
    a period, or that of a day.
    """

    place: Place
    source: int
    target: int
    rate: float
    start: int | None  # None: the rate of `end`, or the last one before
    end: int
    rates: int | None = None  # how many the mean is of


class Converter:
    """Converts values of companies (down) at cut-offs (across);
    keeps the rates of the first cell.
    """

    def __init__(self, rates: Callable[[], RateTable], cutoffs: Instants) -> None:
        self._rates = rates
        self._cutoffs = cutoffs
        self._last = last_day(cutoffs)
        self.used: list[Conversion] = []

    def today(self, rows: int) -> Span:
        """The day of each cut-off, for what lives on dates."""
        return Span.of_day(np.broadcast_to(self._last, (rows, len(self._last))))

    def convert(self, step: Step, values: Values, span: Span, target: Currencies) -> Values:
        """The amounts in `target`, cell by cell; `no_rate` where there is none.

        What is no money stays.
        """
        move = values.there & (values.currency != NO_CURRENCY) & (values.currency != target)
        if not move.any():
            return values
        source, into = values.currency[move], target[move]
        # No rate from after the cut-off: a period that has not ended is
        # converted by what is known (T9).
        known = np.broadcast_to(self._last, values.value.shape)[move]
        start, end = span.start[move], np.minimum(span.end[move], known)
        table = self._rates()
        at = np.broadcast_to(self._cutoffs, values.value.shape)[move]
        mean = start != ONE_DAY
        found = np.full(len(end), np.nan)
        for rows, read in ((~mean, lambda s, t, _, e, a: table.on(s, t, e, a)), (mean, table.mean)):
            if rows.any():
                found[rows] = read(source[rows], into[rows], start[rows], end[rows], at[rows])
        rate = np.full(values.value.shape, np.nan)
        rate[move] = found
        value = np.where(move, at_rate(values.value, rate), values.value)
        lacks = move & np.isnan(value)
        if move[0, 0] and (lacks[0, 0] or not np.isnan(rate[0, 0])):
            first = None if start[0] == ONE_DAY else int(start[0])
            self.used.append(
                used(
                    table, step.place, int(source[0]), int(into[0]), first, int(end[0]), int(at[0])
                )
            )
        currency = np.where(move, target, values.currency)
        return replace(values, value=value, currency=currency).missing_where(lacks, Reason.NO_RATE)


def used(
    table: RateTable, place: Place, source: int, target: int, start: int | None, end: int, at: int
) -> Conversion:
    """A conversion as `explain` shows it: the rate between two currencies over a period,
    or of a day, at an instant.
    """
    rate = rate_of(table, source, target, start, end, at)
    rates = None if start is None else table.count(source, target, start, end, at)
    return Conversion(place, source, target, rate, start, end, rates)


def target_of(steps: Sequence[Step], parts: Sequence[Values], asked: int | None) -> Currencies:
    """The currency that amounts meet in: a literal's, else the one asked for,
    else that of the first amount.
    """
    shape = parts[0].value.shape
    literal = next((c for s in steps for c in _literals(s)), None)
    if literal is not None:
        return np.full(shape, currency_code(literal), np.int16)
    if asked is not None:
        return np.full(shape, asked, np.int16)
    target = parts[0].currency
    for part in parts[1:]:
        target = np.where(target == NO_CURRENCY, part.currency, target)
    return target


def commonest(values: Values, asked: int | None) -> Currencies:
    """The currency in which companies are set side by side: the one asked for,
    else the commonest of each date.
    """
    target = np.full(values.value.shape, NO_CURRENCY if asked is None else asked, np.int16)
    if asked is None and (values.currency != NO_CURRENCY).any():
        for date in range(values.value.shape[1]):
            used = values.currency[
                values.there[:, date] & (values.currency[:, date] != NO_CURRENCY), date
            ]
            if len(used):
                codes, counts = np.unique(used, return_counts=True)
                target[:, date] = codes[counts.argmax()]
    return target


def _literals(step: Step) -> Iterator[str]:
    if isinstance(step, Constant) and step.currency is not None:
        yield step.currency
    for operand in getattr(step, "operands", ()):
        yield from _literals(operand)
