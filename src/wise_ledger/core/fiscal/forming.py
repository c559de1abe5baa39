"""Figures formed from others of the same additive flow item: quarters, halves, years, trailing sums (F7, F8)."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.facts.keys import Mark, State, key_end
from wise_ledger.core.facts.timeline import Input, Timeline, coalesce, gather, merge
from wise_ledger.core.facts.versions import Reported
from wise_ledger.core.fiscal.calendar import FiscalCalendar
from wise_ledger.core.fiscal.periods import ABSENT, shift_months, starts_agree
from wise_ledger.core.market.rates import RateTable

Starts = Callable[..., NDArray[np.bool_]]
Told = Callable[[], RateTable]  # read only where currencies meet

ANY_START: Starts = lambda *starts: np.ones(len(starts[0]), np.bool_)  # noqa: E731
SAME_START: Starts = lambda a, b, *_: starts_agree(a, b)  # noqa: E731


def combine(
    form: str,
    months: int,
    parts: Sequence[tuple[int, int, Timeline]],
    *,
    starts: Starts = ANY_START,
    overlaps: Sequence[tuple[int, int]] = (),
    approximate: bool = False,
    rates: Told = RateTable.empty,
) -> Timeline:
    """A figure of `months` months at E, added up from parts: (sign, months before E at which it ends, its timeline).

    `starts` tells from the parts' nominal starts whether they belong together. `overlaps` names the pairs of parts
    that overlap in time: where one of a pair was restated and the other was not, the result is `mixed_basis` (F10).
    A withdrawn part that ends at E itself leaves the result withdrawn, one that ends earlier leaves none (F11).
    Parts in another currency than the first, the newest, are converted into that at the mean of the `rates` inside
    their own periods (M2); without any the result is not formed.
    """
    if any(not len(t) for _, _, t in parts):
        return Timeline.empty()
    merged = merge([t.later(before) for _, before, t in parts])
    timelines = [t for _, _, t in parts]

    def column(name: str, fill: float) -> list[NDArray[Any]]:
        return [gather(getattr(t, name), r, fill) for t, r in zip(timelines, merged.rows, strict=True)]

    states = column("state", State.ABSENT)
    there = np.ones(len(merged.key), np.bool_)
    for state, (_, before, _) in zip(states, parts, strict=True):
        there &= (state == State.VALUE) if before else (state != State.ABSENT)
    withdrawn = there & np.logical_or.reduce([s == State.WITHDRAWN for s in states])
    currencies, values, begins = column("currency", -1), column("value", np.nan), column("start", 0)
    there &= starts(*begins)
    for n, (_, before, _) in enumerate(parts):
        other = there & (currencies[n] != currencies[0])
        if other.any():
            ends = shift_months(key_end(merged.key[other]), -before)
            rate = rates().mean(currencies[n][other], currencies[0][other], begins[n][other], ends.astype(np.int64))
            values[n][other] *= rate
            there[other] &= np.isfinite(rate)
    value = np.zeros(len(merged.key))
    for (sign, _, _), part in zip(parts, values, strict=True):
        value += sign * part
    marks = np.bitwise_or.reduce(column("marks", 0))
    if approximate:
        marks = marks | np.uint8(Mark.APPROXIMATE)
    if overlaps:
        changed = [gather(t.changed(), r, False) for t, r in zip(timelines, merged.rows, strict=True)]
        mixed = np.logical_or.reduce([changed[a] != changed[b] for a, b in overlaps])
        marks = np.where(mixed, marks | np.uint8(Mark.MIXED_BASIS), marks)
    state = np.where(there, np.where(withdrawn, State.WITHDRAWN, State.VALUE), State.ABSENT).astype(np.int8)
    formed = Timeline(
        merged.key,
        merged.at,
        np.where(state == State.VALUE, value, np.nan),
        state,
        marks.astype(np.uint8),
        currencies[0],
        shift_months(key_end(merged.key), -months) + 1,
        inputs=tuple(Input(t, rows, sign) for (sign, _, t), rows in zip(parts, merged.rows, strict=True)),
        form=form,
        basis=timelines[0].basis,
    )
    # Rows from before the figure could first be formed say nothing.
    ever = np.maximum.accumulate(np.where(state != State.ABSENT, np.arange(len(state)), -1))
    begin = np.searchsorted(merged.key, merged.key, "left")
    return formed.take(ever >= begin)


def implied_zero(totals: Sequence[Timeline]) -> Timeline:
    """F13: 0, marked implied, at each end where all of `totals` are known, from the instant they are."""
    zero = combine("absent, which means zero", 0, [(1, 0, t) for t in totals])
    marks = np.where(zero.state == State.VALUE, zero.marks | np.uint8(Mark.IMPLIED), zero.marks).astype(np.uint8)
    value = np.where(zero.state == State.VALUE, 0.0, np.nan)
    # A withdrawn total leaves the line unknown, not withdrawn.
    state = np.where(zero.state == State.VALUE, State.VALUE, State.ABSENT).astype(np.int8)
    return replace(zero, value=value, marks=marks, state=state, start=np.full(len(zero), ABSENT, np.int32))


class Forming:
    """Every form of one additive flow item, each a timeline; made when first asked for, then kept.

    `reported` holds the item's figures; `calendar` tells fiscal year ends; `approximate` marks per-share items (F9);
    `rates` bring parts in another currency into that of the newest (M2).
    """

    def __init__(
        self,
        reported: Reported,
        calendar: FiscalCalendar,
        *,
        approximate: bool = False,
        first: bool = False,
        additive: bool = True,
        rates: Told = RateTable.empty,
    ) -> None:
        self._rates = rates
        self._reported = reported
        self._calendar = calendar
        self._approximate = approximate
        self._first = first
        self._additive = additive  # F9: what is not is only read as reported
        # Kept on the instance, so that a ledger view and all its timelines can be dropped together.
        self._quarter_of = cache(self._quarter_of_source)
        self._half_of = cache(self._half_of_source)
        self._difference_of = cache(self._differences)
        self._by_selector = {
            "q": lambda: self._choose(self._read(3), self._quarter_of),
            "h": lambda: self._choose(self._at_ends(self._read(6), 6), self._half_of),
            "fy": lambda: self._choose(self._at_ends(self._read(12), 12), self._year_of),
            "ttm": lambda: self._choose(self._read(12), self._trailing_of),
            "ytd": lambda: self._choose(self._cumulative_reported(), self._cumulative_of),
        }

    def form(self, selector: str) -> Timeline:
        """The item as `q`, `h`, `fy`, `ttm` or `ytd` figures, by nominal end."""
        return self._by_selector[selector]()

    def _read(self, span: int) -> Timeline:
        return self._reported.any_source(span, first=self._first)

    def _choose(self, reported: Timeline, formed_of: Callable[[int], Timeline]) -> Timeline:
        """The reported figure, else the one formed by the first source that can (T5)."""
        if not self._additive:
            return reported
        formed = [formed_of(s) for s in self._reported.sources]
        if self._first:
            formed = [t.first() for t in formed]
        return coalesce([reported, coalesce(formed)])

    def _combine(self, form: str, months: int, *parts: tuple[int, int, Timeline], **how: Any) -> Timeline:
        return combine(form, months, parts, approximate=self._approximate, rates=self._rates, **how)

    def _at_ends(self, timeline: Timeline, span: int) -> Timeline:
        """Only at fiscal year ends; of halves also six months from them (F7)."""
        return self._calendar.at_ends(timeline, span)

    def _differences(self, source: int) -> Timeline:
        """Quarters as cumulative figures less those three months before, with the same start."""
        of = self._reported.of
        return coalesce(
            [
                self._combine(
                    f"{longer} months less {longer - 3} months",
                    3,
                    (1, 0, of(source, longer)),
                    (-1, 3, of(source, longer - 3)),
                    starts=SAME_START,
                    overlaps=[(0, 1)],
                )
                for longer in (12, 9, 6)
            ]
        )

    def _quarter_of_source(self, source: int) -> Timeline:
        of = self._reported.of
        year, single = of(source, 12), of(source, 3)
        difference = self._difference_of(source)
        quarter = coalesce([single, difference])
        return coalesce(
            [
                single,
                difference,
                self._at_ends(
                    self._combine(
                        "year less three quarters",
                        3,
                        (1, 0, year),
                        (-1, 3, quarter),
                        (-1, 6, quarter),
                        (-1, 9, quarter),
                        starts=lambda year, _q3, _q2, first: starts_agree(year, first),
                        overlaps=[(0, 1), (0, 2), (0, 3)],
                    ),
                    12,
                ),
                self._at_ends(
                    self._combine(
                        "year less first half less third quarter",
                        3,
                        (1, 0, year),
                        (-1, 6, of(source, 6)),
                        (-1, 3, quarter),
                        starts=SAME_START,
                        overlaps=[(0, 1), (0, 2)],
                    ),
                    12,
                ),
            ]
        )

    def _half_of_source(self, source: int) -> Timeline:
        of = self._reported.of
        quarter = self._quarter_of(source)
        second = self._combine(
            "year less first half",
            6,
            (1, 0, of(source, 12)),
            (-1, 6, of(source, 6)),
            starts=SAME_START,
            overlaps=[(0, 1)],
        )
        two = self._combine("two quarters", 6, (1, 0, quarter), (1, 3, quarter))
        return coalesce([self._at_ends(of(source, 6), 6), self._at_ends(second, 12), self._at_ends(two, 6)])

    def _year_of(self, source: int) -> Timeline:
        half, quarter = self._half_of(source), self._quarter_of(source)
        return coalesce(
            [
                self._at_ends(timeline, 12)
                for timeline in (
                    self._reported.of(source, 12),
                    self._combine("two halves", 12, (1, 0, half), (1, 6, half)),
                    self._combine(
                        "nine months and fourth quarter",
                        12,
                        (1, 0, quarter),
                        (1, 3, self._reported.of(source, 9)),
                    ),
                    self._four_quarters(quarter),
                )
            ]
        )

    def _four_quarters(self, quarter: Timeline) -> Timeline:
        return self._combine("four quarters", 12, *((1, 3 * n, quarter) for n in range(4)))

    def _trailing_of(self, source: int) -> Timeline:
        of = self._reported.of
        year, half = of(source, 12), self._half_of(source)
        rolled = [
            self._combine(
                f"{span} months and the year before less its first {span} months",
                12,
                (1, 0, of(source, span)),
                (1, span, year),
                (-1, 12, of(source, span)),
                starts=lambda _now, whole, part: starts_agree(whole, part),
                overlaps=[(1, 2)],
            )
            for span in (9, 6, 3)
        ]
        return coalesce(
            [
                year,
                self._four_quarters(self._quarter_of(source)),
                *rolled,
                self._combine("two halves", 12, (1, 0, half), (1, 6, half)),
            ]
        )

    def _cumulative_reported(self) -> Timeline:
        return coalesce([self._from_year_start(self._read(s), s) for s in (12, 9, 6, 3)])

    def _cumulative_of(self, source: int) -> Timeline:
        quarter = self._quarter_of(source)
        sums = [
            self._from_year_start(
                self._combine(f"{n} quarters", 3 * n, *((1, 3 * k, quarter) for k in range(n))), 3 * n
            )
            for n in (1, 2, 3, 4)
        ]
        return coalesce(sums)

    def _from_year_start(self, timeline: Timeline, span: int) -> Timeline:
        """Only where the fiscal year has run for exactly `span` months."""
        return self._calendar.into_year(timeline, span)
