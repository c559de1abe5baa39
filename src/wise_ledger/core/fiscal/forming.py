"""Figures formed from others of the same additive flow item: quarters, halves, years,
trailing sums (F7, F8).
"""

from collections.abc import Callable, Sequence
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.arithmetic import decimal
from wise_ledger.core.fiscal.calendar import FiscalCalendar
from wise_ledger.core.money.rates import RateTable, at_rate
from wise_ledger.core.time.periods import shift_months, starts_agree
from wise_ledger.core.timelines.keys import Mark, State, key_end
from wise_ledger.core.timelines.merge import by_source, coalesce, gather, merge
from wise_ledger.core.timelines.shares import first_values, from_then_on
from wise_ledger.core.timelines.timeline import NOT_MOVED, Input, Timeline
from wise_ledger.core.timelines.versions import Reported

Starts = Callable[..., NDArray[np.bool_]]
RatesRead = Callable[[], RateTable]  # read only where currencies meet

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
    rates: RatesRead = RateTable.empty,
    currency: int | None = None,
) -> Timeline:
    """A figure of `months` months at E, added up from parts: (sign,
    months before E at which it ends, its timeline).

    `starts` judges from the parts' nominal starts whether they belong together. `overlaps` names
    the pairs of parts that overlap in time: where one of a pair changed its value after the other
    was last published, the result is `mixed_basis` (F10). A withdrawn part that ends at E itself
    leaves the result withdrawn, one that ends earlier leaves none (F11). Parts in several
    currencies are each converted into `currency`, without one into that of the first, the newest
    part, at the mean of the `rates` inside their own periods (M2); without any the result is not
    formed.
    """
    if any(not len(t) for _, _, t in parts):
        return Timeline.empty()
    merged = merge([t.later(before) for _, before, t in parts])
    timelines = [t for _, _, t in parts]

    def column(name: str, fill: float) -> list[NDArray[Any]]:
        return [
            gather(getattr(t, name), r, fill) for t, r in zip(timelines, merged.rows, strict=True)
        ]

    states = column("state", State.ABSENT)
    there = np.ones(len(merged.key), np.bool_)
    for state, (_, before, _) in zip(states, parts, strict=True):
        there &= (state == State.VALUE) if before else (state != State.ABSENT)
    withdrawn = there & np.logical_or.reduce([s == State.WITHDRAWN for s in states])
    currencies, values, begins = column("currency", -1), column("value", np.nan), column("start", 0)
    there &= starts(*begins)
    several = there & np.logical_or.reduce([c != currencies[0] for c in currencies])
    target = (
        currencies[0] if currency is None else np.where(several, np.int16(currency), currencies[0])
    )
    for n, (_, before, _) in enumerate(parts):
        other = several & (currencies[n] != target)
        if other.any():
            ends = shift_months(key_end(merged.key[other]), -before).astype(np.int64)
            at = merged.at[other]
            rate = rates().mean(
                currencies[n][other], target[other], begins[n][other].astype(np.int64), ends, at
            )
            values[n][other] = at_rate(values[n][other], rate)
            there[other] &= np.isfinite(values[n][other])
    value, size = np.zeros(len(merged.key)), np.zeros(len(merged.key))
    for (sign, _, _), part in zip(parts, values, strict=True):
        value += sign * part
        size += np.abs(part)
    value = decimal(value, size, len(parts))
    marks = np.bitwise_or.reduce(column("marks", 0))
    if approximate:
        marks = marks | np.uint8(Mark.APPROXIMATE)
    if overlaps:
        moved = [
            gather(t.moved_at(), r, NOT_MOVED) for t, r in zip(timelines, merged.rows, strict=True)
        ]
        published = column("published", 0)
        mixed = np.logical_or.reduce(
            [(moved[a] > published[b]) | (moved[b] > published[a]) for a, b in overlaps]
        )
        marks = np.where(mixed, marks | np.uint8(Mark.MIXED_BASIS), marks)
    state = np.where(there, np.where(withdrawn, State.WITHDRAWN, State.VALUE), State.ABSENT).astype(
        np.int8
    )
    traced = any(t.traced for t in timelines)
    inputs = (Input(t, rows, sign) for (sign, _, t), rows in zip(parts, merged.rows, strict=True))
    formed = Timeline(
        merged.key,
        merged.at,
        np.where(state == State.VALUE, value, np.nan),
        state,
        marks.astype(np.uint8),
        target,
        shift_months(key_end(merged.key), -months) + 1,
        np.maximum.reduce(column("published", 0)),
        inputs=tuple(inputs) if traced else (),
        form=form,
        basis=timelines[0].basis,
    )
    return formed.formed()


class Forming:
    """Every form of one additive flow item, each a timeline; made when first asked for, then kept.

    `reported` holds the item's figures; `calendar` gives fiscal year ends; `approximate` marks
    per-share items (F9); `rates` bring parts in several currencies into `currency`, without one
    into that of the newest (M2).
    """

    def __init__(
        self,
        reported: Reported,
        calendar: FiscalCalendar,
        *,
        approximate: bool = False,
        first: bool = False,
        additive: bool = True,
        rates: RatesRead = RateTable.empty,
        currency: int | None = None,
    ) -> None:
        self._rates = rates
        self._currency = currency
        self._reported = reported
        self._calendar = calendar
        self._approximate = approximate
        self._first = first
        self._additive = additive  # F9: what is not is only read as reported
        # Kept on the instance, so that a ledger view and all its timelines can be dropped together.
        self._quarter_of = cache(self._quarters)
        self._half_of = cache(self._halves)
        self._difference_of = cache(self._differences)
        self._so_far_of = cache(self._so_far)
        self._reported_by: dict[str, Callable[[int], Timeline]] = {
            "q": lambda r: self._read(r, 3),
            "h": lambda r: self._at_ends(self._read(r, 6), 6),
            "fy": lambda r: self._at_ends(self._read(r, 12), 12),
            "ttm": lambda r: self._read(r, 12),
            "ytd": self._cumulative_reported,
        }
        self._formed_by: dict[str, Callable[[int], Timeline]] = {
            "q": self._quarter_of,
            "h": self._half_of,
            "fy": self._year_of,
            "ttm": self._trailing_of,
            "ytd": self._cumulative_of,
        }
        # A figure first formed of parts on different sides of a split that was learned of later
        # (M3).
        how: dict[str, Any] = {"approximate": approximate, "rates": rates, "currency": currency}
        self._later_known = [
            (by, Forming(reported.with_splits_known(by), calendar, **how))
            for by in (reported.splits_learned_late if first and additive else ())
        ]

    def form(self, selector: str) -> Timeline:
        """The item as `q`, `h`, `fy`, `ttm` or `ytd` figures, by nominal end:
        each period from one source (T5).

        As that source reported it, else as it can be formed.
        """
        ranks = self._reported.ranks
        reported = [self._reported_by[selector](r) for r in ranks]
        if not self._additive:
            return coalesce(reported, having=True)
        formed = self._first_formed if self._first else self._formed
        return by_source(reported, [formed(selector, r) for r in ranks])

    def _formed(self, selector: str, rank: int) -> Timeline:
        return self._formed_by[selector](rank)

    def _first_formed(self, selector: str, rank: int) -> Timeline:
        """F10: the value at the instant it was first formed,
        on the share basis of the cut-off (M3).
        """
        out = first_values(self._formed(selector, rank))
        for instant, other in self._later_known:
            out = from_then_on(out, first_values(other._formed(selector, rank)), instant)
        return out

    def _read(self, rank: int, span: int) -> Timeline:
        return self._reported.of(rank, span, first=self._first)

    def _combine(
        self, form: str, months: int, *parts: tuple[int, int, Timeline], **how: Any
    ) -> Timeline:
        return combine(
            form,
            months,
            parts,
            approximate=self._approximate,
            rates=self._rates,
            currency=self._currency,
            **how,
        )

    def _at_ends(self, timeline: Timeline, span: int) -> Timeline:
        """Only at fiscal year ends; of halves also six months from them (F7)."""
        return self._calendar.at_ends(timeline, span)

    def _formed_at_ends(
        self, span: int, form: str, months: int, *parts: tuple[int, int, Timeline], **how: Any
    ) -> Timeline:
        """The same of a figure that is formed:
        where no year (or half) can ever end nothing need be laid together.
        """
        kept = [
            (sign, before, self._calendar.ever_at_ends(t, before, span))
            for sign, before, t in parts
        ]
        return self._at_ends(self._combine(form, months, *kept, **how), span)

    def _differences(self, rank: int) -> Timeline:
        """Quarters as cumulative figures less those three months before, with the same start."""
        of = self._reported.of
        return coalesce(
            [
                self._combine(
                    f"{longer} months less {longer - 3} months",
                    3,
                    (1, 0, of(rank, longer)),
                    (-1, 3, of(rank, longer - 3)),
                    starts=SAME_START,
                    overlaps=[(0, 1)],
                )
                for longer in (12, 9, 6)
            ]
        )

    def _quarters(self, rank: int) -> Timeline:
        of = self._reported.of
        year, single = of(rank, 12), of(rank, 3)
        difference = self._difference_of(rank)
        quarter = coalesce([single, difference])
        return coalesce(
            [
                single,
                difference,
                self._formed_at_ends(
                    12,
                    "year less three quarters",
                    3,
                    (1, 0, year),
                    (-1, 3, quarter),
                    (-1, 6, quarter),
                    (-1, 9, quarter),
                    starts=lambda year, _q3, _q2, first: starts_agree(year, first),
                    overlaps=[(0, 1), (0, 2), (0, 3)],
                ),
                self._formed_at_ends(
                    12,
                    "year less first half less third quarter",
                    3,
                    (1, 0, year),
                    (-1, 6, of(rank, 6)),
                    (-1, 3, quarter),
                    starts=SAME_START,
                    overlaps=[(0, 1), (0, 2)],
                ),
            ]
        )

    def _halves(self, rank: int) -> Timeline:
        of = self._reported.of
        quarter = self._quarter_of(rank)
        second = self._formed_at_ends(
            12,
            "year less first half",
            6,
            (1, 0, of(rank, 12)),
            (-1, 6, of(rank, 6)),
            starts=SAME_START,
            overlaps=[(0, 1)],
        )
        two = self._formed_at_ends(6, "two quarters", 6, (1, 0, quarter), (1, 3, quarter))
        return coalesce([self._at_ends(of(rank, 6), 6), second, two])

    def _year_of(self, rank: int) -> Timeline:
        half, quarter = self._half_of(rank), self._quarter_of(rank)
        nine = self._reported.of(rank, 9)
        return coalesce(
            [
                self._at_ends(self._reported.of(rank, 12), 12),
                self._formed_at_ends(12, "two halves", 12, (1, 0, half), (1, 6, half)),
                self._formed_at_ends(
                    12, "nine months and fourth quarter", 12, (1, 0, quarter), (1, 3, nine)
                ),
                self._formed_at_ends(
                    12, "four quarters", 12, *((1, 3 * n, quarter) for n in range(4))
                ),
            ]
        )

    def _four_quarters(self, quarter: Timeline) -> Timeline:
        return self._combine("four quarters", 12, *((1, 3 * n, quarter) for n in range(4)))

    def _trailing_of(self, rank: int) -> Timeline:
        year, half = self._reported.of(rank, 12), self._half_of(rank)
        rolled = [self._rolled(rank, span) for span in (9, 6, 3)]
        return coalesce(
            [
                year,
                self._four_quarters(self._quarter_of(rank)),
                *rolled,
                self._combine("two halves", 12, (1, 0, half), (1, 6, half)),
            ]
        )

    def _rolled(self, rank: int, span: int) -> Timeline:
        """The fiscal year so far, with what the year before had beyond the same span (F8 c)."""
        so_far = self._so_far_of(rank, span)
        return self._combine(
            f"{span} months and the year before less its first {span} months",
            12,
            (1, 0, so_far),
            (1, span, self._reported.of(rank, 12)),
            (-1, 12, so_far),
            starts=lambda _now, whole, part: starts_agree(whole, part),
            overlaps=[(1, 2)],
        )

    def _cumulative_reported(self, rank: int) -> Timeline:
        return coalesce(
            [self._calendar.into_year(self._read(rank, span), span) for span in (12, 9, 6, 3)]
        )

    def _cumulative_of(self, rank: int) -> Timeline:
        return coalesce([self._sum_so_far(rank, span) for span in (3, 6, 9, 12)])

    def _so_far(self, rank: int, span: int) -> Timeline:
        """Cumulative figures of one span: as reported from the start of the fiscal year,
        else the sum of quarters.
        """
        reported = self._calendar.into_year(self._reported.of(rank, span), span)
        return coalesce([reported, self._sum_so_far(rank, span)])

    def _sum_so_far(self, rank: int, span: int) -> Timeline:
        quarter, count = self._quarter_of(rank), span // 3
        parts = [
            (1, 3 * n, self._calendar.ever_into_year(quarter, 3 * n, span)) for n in range(count)
        ]
        total = self._combine(f"{count} quarters", span, *parts)
        return self._calendar.into_year(total, span)
