"""A line: what is kept of the newest state of the ledger as it moves on,
without figures of some marks or with all.
"""

import threading
from collections.abc import Callable
from itertools import groupby
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from wise_ledger.core.fiscal.calendar import FiscalCalendar
from wise_ledger.core.fiscal.yearends import Stage
from wise_ledger.core.language.view import LedgerView, named_by_start
from wise_ledger.core.timelines.splice import size
from wise_ledger.engine.kept import Kept
from wise_ledger.engine.yearendfile import YearEndFile
from wise_ledger.store import changes
from wise_ledger.store.changes import Changes
from wise_ledger.store.ledger import Ledger

Companies = NDArray[np.int64]
K = TypeVar("K")
V = TypeVar("V")
Former = Callable[[Companies | None], LedgerView]
# year ends are kept again once a tenth of the companies had to be learned of again
_WORTH_KEEPING = 10
_KEPT_CHANGES, _KEPT_MOVES, _KEPT_CALENDARS = 64, 64, 4
# in batches from the first to the last these companies' year ends moved
Moved = tuple[int, int, frozenset[int]]


class Line:
    """Timelines and the like by batch, the calendar,
    and the companies to be formed again between two batches.

    Year ends are kept in a file, if there is one to be, so that after a restart they need not be
    learned again.
    """

    def __init__(self, ledger: Ledger, budget: int, year_ends: YearEndFile | None = None) -> None:
        self.kept = Kept(budget, size)
        self._ledger = ledger
        self._lock = threading.RLock()
        self._changes: dict[tuple[int, int], Changes] = {}
        self._calendar: tuple[int, FiscalCalendar, dict[int, tuple[Stage, ...]]] | None = None
        self._file = year_ends
        self._older: dict[int, FiscalCalendar] = {}  # as of batches before that
        self._moved: list[Moved] = []

    def touched(self, after: int, upto: int, items: set[str], former: Former) -> Companies | None:
        """The companies whose figures of some items may differ between two batches,
        ascending; None for everybody.
        """
        self.calendar(upto, former)
        found = self._between(after, upto)
        if found.all:
            return None
        with self._lock:
            moved = [
                companies
                for first, last, companies in self._moved
                if after < last and first <= upto
            ]
        companies = found.companies(items).union(*moved)
        if found.rates:
            companies |= _several_currencies(items, former(None))
        return np.array(sorted(companies), np.int64)

    def calendar(self, batch: int, former: Former) -> FiscalCalendar:
        """The fiscal calendars as of a batch:
        only companies that batches touched are looked at again.
        """
        with self._lock:
            kept = self._calendar or self._from_file(batch, former)
            if kept is not None and kept[0] == batch:
                return kept[1]
            if kept is not None and kept[0] > batch and batch in self._older:
                return self._older[batch]
            if kept is None or kept[0] > batch:
                view = former(None)
                stages = _by_company(view.stages)
                calendar = FiscalCalendar(view.stages, named_by_start(view.attributes))
                if kept is None:
                    self._calendar = (batch, calendar, stages)
                    self._keep(batch, view.stages)
                else:
                    _remember(self._older, batch, calendar, _KEPT_CALENDARS)
                return calendar
            found = self._between(kept[0], batch)
            looked = np.array(sorted(found.companies(set(found.items))), np.int64)
            if not found.all and not len(looked):
                self._calendar = (batch, *kept[1:])
                return kept[1]
            view = former(None if found.all else looked)
            fresh = _by_company(view.stages)
            old = kept[2]
            asked = set(old) | set(fresh) if found.all else set(looked.tolist())
            moved = frozenset(c for c in asked if old.get(c) != fresh.get(c))
            calendar, stages = kept[1], old
            if moved or found.anything:
                stages = {c: s for c, s in old.items() if c not in asked} | fresh
                every = [stage for company in sorted(stages) for stage in stages[company]]
                calendar = FiscalCalendar(every, named_by_start(view.attributes))
                self._moved = shortened([*self._moved, (batch, batch, moved)], _KEPT_MOVES)
            self._calendar = (batch, calendar, stages)
            if _WORTH_KEEPING * len(asked) > len(stages):
                self._keep(
                    batch, [stage for company in sorted(stages) for stage in stages[company]]
                )
            return calendar

    def _from_file(
        self, batch: int, former: Former
    ) -> tuple[int, FiscalCalendar, dict[int, tuple[Stage, ...]]] | None:
        """The calendar as it was kept, of this batch or one before."""
        found = self._file.read(batch) if self._file else None
        if found is None:
            return None
        # What a batch since then said of how years are named touches its company:
        # the calendar is laid out again.
        calendar = FiscalCalendar(found[1], named_by_start(former(None).attributes))
        self._calendar = (found[0], calendar, _by_company(found[1]))
        return self._calendar

    def _keep(self, batch: int, stages: list[Stage]) -> None:
        if self._file:
            self._file.write(batch, stages)

    def _between(self, after: int, upto: int) -> Changes:
        with self._lock:
            if (after, upto) not in self._changes:
                with self._ledger.database.read() as connection:
                    found = changes.between(connection, after, upto)
                _remember(self._changes, (after, upto), found, _KEPT_CHANGES)
            return self._changes[after, upto]


def shortened(moved: list[Moved], most: int) -> list[Moved]:
    """At most so many entries: the oldest become one,
    which stands for all batches from its first to its last.

    Whoever asks about a part of these batches forms more companies again than need be, never fewer.
    """
    if len(moved) <= most:
        return moved
    old, rest = moved[: len(moved) - most + 1], moved[len(moved) - most + 1 :]
    return [(old[0][0], old[-1][1], frozenset().union(*(c for _, _, c in old))), *rest]


def _remember(kept: dict[K, V], key: K, value: V, most: int) -> None:
    """Keep a value, and forget the oldest beyond so many."""
    if len(kept) >= most:
        kept.pop(next(iter(kept)))
    kept[key] = value


def _by_company(stages: list[Stage]) -> dict[int, tuple[Stage, ...]]:
    return {company: tuple(own) for company, own in groupby(stages, lambda s: s.company)}


def _several_currencies(items: set[str], view: LedgerView) -> frozenset[int]:
    """Companies whose figures of some items stand in more than one currency:
    these move with rates.
    """
    out: set[int] = set()
    for code in items & set(view.items):
        out.update(view.facts(view.items[code]).of_several_currencies().tolist())
    return frozenset(out)
