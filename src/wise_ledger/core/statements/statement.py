"""A statement laid out: lines of the catalogue down, periods across; as amounts,
as shares of a total, or as growth.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from enum import StrEnum
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.answers.cells import mark_names
from wise_ledger.core.answers.reasons import CODES, Reason
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.arithmetic import added, quotient
from wise_ledger.core.catalogue.items import Item, Nature
from wise_ledger.core.fiscal.labels import Period, calendar_label
from wise_ledger.core.money.currencies import NO_CURRENCY, currency_name
from wise_ledger.core.statements.money import Money
from wise_ledger.core.statements.sheet import SPANS, Grid, Sheet
from wise_ledger.core.time.periods import BALANCE, as_date, months_long, shift_months
from wise_ledger.core.timelines.keys import Mark

FREQUENCIES = {"annual": "fy", "half": "h", "quarter": "q", "trailing": "ttm", "cumulative": "ytd"}
# what shares are taken of
TOTALS = {"income": "revenue", "cash_flow": "revenue", "balance": "total_assets"}


class Show(StrEnum):
    """What the cells show."""

    AMOUNTS = "amounts"
    COMMON_SIZE = "common_size"  # shares of revenue, or of total assets
    GROWTH = "growth"  # over the same period a year before


@dataclass(frozen=True)
class StatementColumn:
    """A period: its labels, the end as reported and the nominal one,
    and when it first became public.
    """

    label: str
    calendar: str
    period_end: date
    nominal_end: date
    published: int  # microseconds


@dataclass(frozen=True, slots=True)
class StatementCell:
    """A figure of a line; `known` is the instant since when it reads like this (microseconds),
    `currency` the amount's, where it is another than its column's.
    """

    value: float | None
    reason: str | None
    marks: tuple[str, ...]
    formed: bool
    restated: bool
    restated_later: bool
    known: int | None
    flags: tuple[str, ...] = ()  # soft findings (Q2)
    currency: str | None = None


@dataclass(frozen=True)
class StatementLine:
    """An item with its cells, oldest first."""

    item: Item
    applies: bool
    cells: tuple[StatementCell, ...]


@dataclass(frozen=True)
class Laid:
    """Columns and lines; `currency` where all amounts are in one, else in `currencies` that of most
    amounts of each column: the others say theirs themselves.
    """

    columns: tuple[StatementColumn, ...]
    lines: tuple[StatementLine, ...]
    currency: str | None
    currencies: tuple[str | None, ...]


def lay_out(
    sheet: Sheet,
    wanted: Sequence[Item],
    frequency: str,
    viewpoint: Viewpoint,
    reported_ends: dict[int, tuple[int, int]],
    *,
    first: bool = False,
    as_reported: bool = False,
    show: Show = Show.AMOUNTS,
    periods: int | None = None,
    within: tuple[int | None, int | None] = (None, None),
    every_line: bool = False,
    flags: Mapping[int, tuple[str, ...]] | None = None,
) -> Laid:
    """Lay out the lines `wanted` of a sheet; `periods` keeps the newest,
    `every_line` also those without a figure.

    `within` keeps the periods that nominally end between two days, both included. `flags` are the
    findings of facts by their number. `reported_ends` gives for each nominal end the end as
    reported and the first publication. Columns without any figure of these lines are left out.
    Amounts come in `currency` (M2), without one as reported.
    """
    form, cutoff = FREQUENCIES[frequency], viewpoint.cutoff
    ends = sheet.ends(form, cutoff)
    grid = sheet.grid(form, ends, cutoff, first=first, as_reported=as_reported)
    place = {i.code: n for n, i in enumerate(sheet.items)}
    rows = np.array([place[i.code] for i in wanted], np.int64)
    into = Money(sheet, cutoff, viewpoint.currency)
    if show is Show.GROWTH:
        before = sheet.grid_before(form, ends, cutoff, first=first, as_reported=as_reported)
        value, reason = _growth(grid, before, into, sheet.is_flow)
    elif show is Show.COMMON_SIZE:
        value, reason = _common_size(grid, sheet.items, place, into)
    else:
        grid = into.whole(grid)
        value, reason = grid.value, grid.reason
    # What is nothing in every period (F13) is no line that anybody reported.
    filled = (grid.reason[rows] == 0) & (grid.marks[rows] & Mark.IMPLIED == 0)
    kept = np.flatnonzero(filled.any(axis=0))
    for day, outside in zip(within, (np.less, np.greater), strict=True):
        if day is not None:
            kept = kept[~outside(ends[kept], day)]
    if periods is not None:
        kept = kept[-periods:]
    if show is not Show.AMOUNTS:  # fractions have no currency
        grid = replace(grid, currency=np.full_like(grid.currency, NO_CURRENCY))
    usual = _usual_currency(grid, rows)
    plain = _Plain(grid, value, reason, flags or {}, usual)
    lines, applies = [], sheet.applies(cutoff)
    for n, (item, row) in enumerate(zip(wanted, rows.tolist(), strict=True)):
        if not every_line and not filled[n, kept].any():
            continue
        cells = tuple(plain.cell(row, c) for c in kept.tolist())
        lines.append(StatementLine(item, bool(applies[row]), cells))
    # they take the quarter they end, at a year end the year
    balances = all(i.nature is Nature.STOCK for i in wanted)
    columns = tuple(
        _column(sheet, form, int(ends[c]), cutoff, reported_ends, balances) for c in kept.tolist()
    )
    currencies = tuple(currency_name(c) for c in usual[kept].tolist())
    unlike = any(cell.currency for line in lines for cell in line.cells)
    one = currencies[0] if currencies and len(set(currencies)) == 1 and not unlike else None
    return Laid(columns, tuple(lines), one, currencies)


def _column(
    sheet: Sheet,
    form: str,
    end: int,
    cutoff: int,
    reported_ends: dict[int, tuple[int, int]],
    balances: bool,
) -> StatementColumn:
    span = BALANCE if balances else SPANS.get(form, BALANCE)
    own, published = reported_ends.get(end, (end, 0))
    calendar = BALANCE if form == "ttm" else span  # a trailing sum: the quarter it ends with
    if form == "ytd" and not balances:
        label = sheet.calendar.cumulative_label(0, end, cutoff)
        calendar = 12 if sheet.calendar.ends_year_at(0, end, cutoff) else BALANCE
    elif sheet.calendar.closes_transition_at(0, end, cutoff):
        label = sheet.calendar.label(0, end, cutoff)
        if form == "fy":  # the whole of it, which is no year
            calendar = BALANCE
    else:  # a trailing sum takes the label of the quarter that it ends with
        label = sheet.calendar.label(0, end, cutoff, BALANCE if form == "ttm" else span)
    return StatementColumn(label, _calendar(end, calendar), as_date(own), as_date(end), published)


@lru_cache(4096)
def _calendar(end: int, span: int) -> str:
    """F6, on nominal dates."""
    start = None
    if span:
        start = as_date(int(shift_months(np.array([end], np.int32), -span)[0]) + 1)
    return calendar_label(Period(start, as_date(end)))


class _Plain:
    """A grid as lists, which are read cell by cell far faster than arrays."""

    def __init__(
        self,
        grid: Grid,
        value: NDArray[np.float64],
        reason: NDArray[np.uint8],
        flags: Mapping[int, tuple[str, ...]],
        usual: NDArray[np.int64],
    ) -> None:
        self._flags = flags
        unlike = np.where(grid.currency == usual, NO_CURRENCY, grid.currency)
        columns = (
            value, reason, grid.reason, grid.marks, grid.formed, grid.restated, grid.restated_later, grid.known,
            grid.fact, unlike,
        )  # fmt: skip
        lists = [column.tolist() for column in columns]
        self._cells = [list(zip(*rows, strict=True)) for rows in zip(*lists, strict=True)]

    def cell(self, row: int, column: int) -> StatementCell:
        value, why, own, marks, formed, restated, later, known, fact, unlike = self._cells[row][
            column
        ]
        return StatementCell(
            None if why or value != value else value,
            CODES[why],
            () if own else mark_names(marks),
            formed,
            restated,
            later,
            None if own else known,
            self._flags.get(fact, ()),
            None if why else currency_name(unlike),
        )


def _usual_currency(grid: Grid, rows: NDArray[np.int64]) -> NDArray[np.int64]:
    """The currency that most amounts of each column are in: of several the first line's."""
    money = np.where(grid.reason[rows] == 0, grid.currency[rows], NO_CURRENCY).astype(np.int64)
    several = (money != money.max(axis=0, initial=NO_CURRENCY)) & (money != NO_CURRENCY)
    out: NDArray[np.int64] = money.max(axis=0, initial=NO_CURRENCY)
    for column in np.flatnonzero(several.any(axis=0)).tolist():
        own = money[:, column][money[:, column] != NO_CURRENCY].tolist()
        out[column] = max(dict.fromkeys(own), key=own.count)
    return out


def _growth(
    grid: Grid, before: Grid, into: Money, flow: NDArray[np.bool_]
) -> tuple[NDArray[np.float64], NDArray[np.uint8]]:
    """Over the figures of a year before; flows over a time of another length do not compare."""
    every = slice(None)
    now, base, lacks = into.together((grid, every), (before, every))
    value = added(quotient(now, base), -1)
    both = flow[:, None] & (grid.reason == 0) & (before.reason == 0)
    long, before_long = (
        months_long(np.where(both, g.start, g.ends), np.broadcast_to(g.ends, both.shape))
        for g in (grid, before)
    )
    unlike = both & (long != before_long)
    reason = np.select(
        [grid.reason > 0, before.reason > 0, lacks, unlike | ~(base > 0)],
        [grid.reason, before.reason, Reason.NO_RATE, Reason.NOT_MEANINGFUL],
        0,
    )
    return value, reason.astype(np.uint8)


def _common_size(
    grid: Grid, items: Sequence[Item], place: dict[str, int], into: Money
) -> tuple[NDArray[np.float64], NDArray[np.uint8]]:
    value, reason = np.full(grid.value.shape, np.nan), grid.reason.copy()
    for row, item in enumerate(items):
        total = TOTALS.get(item.statement)
        if total is None or item.unit != "money" or total not in place:
            reason[row] = np.where(reason[row], reason[row], Reason.NOT_MEANINGFUL)
            continue
        why = grid.reason[place[total]]
        part, base, lacks = into.together((grid, row), (grid, place[total]))
        value[row] = quotient(part, base)
        reason[row] = np.select(
            [reason[row] > 0, why > 0, lacks, base == 0],
            [reason[row], why, Reason.NO_RATE, Reason.ZERO_DENOMINATOR],
            0,
        )
    return value, reason
