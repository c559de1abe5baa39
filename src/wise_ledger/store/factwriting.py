"""Writing facts: column by column, since millions of rows pass here; duplicates are left out (T8)."""

from collections.abc import Callable, Iterable, Sequence
from datetime import date
from itertools import compress
from typing import Any, NamedTuple, Self

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import Connection

from wise_ledger.core.quality.held import Held
from wise_ledger.core.records.figures import Figures
from wise_ledger.core.records.records import CONSOLIDATED
from wise_ledger.core.time.instants import micros
from wise_ledger.core.time.periods import day
from wise_ledger.store.chain import ContentHash
from wise_ledger.store.rowwriting import driver_of, insert_columns, next_key
from wise_ledger.store.tables import facts

_FEW_PERIODS = 12
_AT_HAND = 200_000  # facts of a batch that are kept for the checks; of more they are read again
# T8: what makes two facts of a source the same.
_SAME_OF = (
    "SELECT company, item, basis, period_start, period_end, value, unit, published_at FROM facts"
    " WHERE company = ? AND source = ?"
)


class FactWriter:
    """Takes the facts of one batch; `item` gives an item's number, `content` is the running hash of the batch."""

    def __init__(self, connection: Connection, batch: int, item: Callable[[str], int], content: ContentHash) -> None:
        self._connection = connection
        self._driver = driver_of(connection)
        self._batch = batch
        self._item = item
        self._content = content
        self.first = self._next = next_key(self._driver, facts)  # ids: of the batch, and of the next fact
        self.added = 0
        self._new: list[tuple[NDArray[np.int64], Held]] = []  # with their companies, while they are few enough

    def add(
        self, source: int, companies: Sequence[int], documents: Sequence[int], figures: Figures
    ) -> list[tuple[int, date]]:
        """Write what the ledger does not have yet; the ids of those whose share basis is stated, with its day.

        Companies and documents are numbers, one for each figure.
        """
        new = _Numbers.of(companies, documents, figures, self._item)
        same = (new.company, new.item, figures.basis, new.start, new.end, figures.value, figures.unit, new.published_at)
        keys = list(zip(*same, strict=True))
        seen = self._known(source, new)
        if seen or len(set(keys)) < len(keys):
            keep = []
            for key in keys:
                keep.append(key not in seen)
                seen.add(key)
            new, figures = new.where(keep), figures.where(keep)
        if not len(figures):
            return []
        ids = range(self._next, self._next + len(figures))
        self._write(source, ids, new, figures)
        self._keep_at_hand(source, ids, new, figures)
        return [(fact, on) for fact, on in zip(ids, figures.share_basis_date, strict=True) if on]

    def new_of(self, company: int) -> Held | None:
        """The consolidated figures of a company in this batch, as checks look at them; None where not at hand."""
        if self.added > _AT_HAND:
            return None
        return Held.joined([held.where(companies == company) for companies, held in self._new])

    def _write(self, source: int, ids: range, new: "_Numbers", figures: Figures) -> None:
        count = len(ids)
        columns: list[Sequence[Any]] = [  # in the table's order
            list(ids),
            [self._batch] * count,
            list(range(self.added, self.added + count)),
            new.company,
            new.item,
            figures.basis,
            new.start,
            new.end,
            new.declared_end,
            figures.fiscal_period,
            figures.value,
            figures.reported,
            figures.scale,
            figures.unit,
            new.published_at,
            [int(a) for a in figures.assumed],
            [source] * count,
            new.document,
            figures.place,
        ]
        insert_columns(self._connection, facts, columns)
        self._content.add_columns(facts, columns)
        self._next += count
        self.added += count

    def _keep_at_hand(self, source: int, ids: range, new: "_Numbers", figures: Figures) -> None:
        """For the checks, while they are few enough."""
        if self.added > _AT_HAND:
            self._new = []
            return
        held = Held.of(
            ids, figures.item, new.start, new.end, new.published_at, figures.value, figures.unit, new.document,
            [source] * len(ids), new=True,
        )  # fmt: skip
        whole = np.array([basis == CONSOLIDATED for basis in figures.basis], np.bool_)
        self._new.append((np.array(new.company, np.int64)[whole], held.where(whole)))

    def _known(self, source: int, new: "_Numbers") -> set[tuple[Any, ...]]:
        """What the ledger has of these companies: of the periods at hand, where they are few, else all of it."""
        known = set[tuple[Any, ...]]()
        ends: dict[int, set[int]] = {company: set() for company in new.company}
        for company, end in set(zip(new.company, new.end, strict=True)):
            ends[company].add(end)
        for company, days in ends.items():
            if len(days) > _FEW_PERIODS:
                known.update(self._driver.execute(_SAME_OF, (company, source)))
                continue
            for end in days:
                known.update(self._driver.execute(_SAME_OF + " AND period_end = ?", (company, source, end)))
        return known


class _Numbers(NamedTuple):
    """What of figures is kept as numbers: days, microseconds, and the numbers of what they point to."""

    company: Sequence[int]
    document: Sequence[int]
    item: Sequence[int]
    start: Sequence[int | None]
    end: Sequence[int]
    declared_end: Sequence[int | None]
    published_at: Sequence[int]

    @classmethod
    def of(
        cls, companies: Sequence[int], documents: Sequence[int], figures: Figures, item: Callable[[str], int]
    ) -> Self:
        """New items get numbers in the order of the figures: a batch is the same wherever it is written."""
        numbers = {code: item(code) for code in dict.fromkeys(figures.item)}
        ends: dict[date, int] = {d: day(d) for d in set(figures.period_end)}
        begins, declared = _days(figures.period_start), _days(figures.declared_end)
        instants = {at: micros(at) for at in set(figures.published_at)}
        return cls(
            companies,
            documents,
            [numbers[code] for code in figures.item],
            [begins[d] for d in figures.period_start],
            [ends[d] for d in figures.period_end],
            [declared[d] for d in figures.declared_end],
            [instants[at] for at in figures.published_at],
        )

    def where(self, keep: Sequence[bool]) -> Self:
        """Only those marked true."""
        return self._make(list(compress(column, keep)) for column in self)


def _days(of: Iterable[date | None]) -> dict[date | None, int | None]:
    return {d: None if d is None else day(d) for d in set(of)}
