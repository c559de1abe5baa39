"""Writing facts: column by column, since millions of rows pass here;
duplicates are left out (T8).
"""

import json
from collections.abc import Callable, Iterator, Sequence
from datetime import date
from typing import Any, NamedTuple, Self

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import Connection

from wise_ledger.core.quality.held import Held, Rows, keys
from wise_ledger.core.records.coded import Coded
from wise_ledger.core.records.figures import Figures, days_of
from wise_ledger.core.time.periods import ABSENT
from wise_ledger.store.chain import ContentHash
from wise_ledger.store.rowwriting import Column, driver_of, insert_columns, next_key
from wise_ledger.store.tables import FACTS_POINT_TO, facts

_FEW_PERIODS = 12
_AT_HAND = 200_000  # facts of a batch that are kept for the checks; of more they are read again
# T8: what makes two facts of a source the same.
_SAME_OF = (
    "SELECT company, item, basis, period_start, period_end, value, unit, published_at FROM facts"
    " WHERE company = ? AND source = ?"
)


class FactWriter:
    """Takes the facts of one batch; `item` gives an item's number,
    `content` is the running hash of the batch.
    """

    def __init__(
        self, connection: Connection, batch: int, item: Callable[[str], int], content: ContentHash
    ) -> None:
        self._connection = connection
        self._driver = driver_of(connection)
        self._batch = batch
        self._item = item
        self._content = content
        # ids: of the batch, and of the next fact
        self.first = self._next = next_key(self._driver, facts)
        self.added = 0
        # with their companies, while they are few enough
        self._new: list[tuple[NDArray[np.int64], Held]] = []

    def add(
        self, source: int, companies: Sequence[int], documents: Sequence[int], figures: Figures
    ) -> list[tuple[int, date]]:
        """Write what the ledger does not have yet;
        the ids of those whose share basis is stated, with its day.

        Companies and documents are numbers, one for each figure. Raises `ValueError` for one that
        is not there.
        """
        if not len(figures):
            return []
        new = _Numbers.of(companies, documents, figures, self._item)
        seen = self._known(source, new)
        if seen or not _all_differ(new.company, figures):
            keep = []
            for same in new.same_of(figures):
                keep.append(same not in seen)
                seen.add(same)
            new, figures = new.where(keep), figures.where(keep)
        if not len(figures):
            return []
        self._must_be_there(
            {"company": new.company, "document": new.document, "source": np.array([source])}
        )
        ids = np.arange(self._next, self._next + len(figures))
        self._write(source, ids, new, figures)
        self._keep_at_hand(source, ids, new, figures)
        if not any(figures.share_basis_date.values):
            return []
        return [
            (fact, on)
            for fact, on in zip(ids.tolist(), figures.share_basis_date, strict=True)
            if on
        ]

    def new_of(self, company: int) -> Held | None:
        """The consolidated figures of a company in this batch, as checks look
        at them; None where not at hand.
        """
        if self.added > _AT_HAND:
            return None
        return Held.joined([held.where(companies == company) for companies, held in self._new])

    def _must_be_there(self, numbers: dict[str, Rows]) -> None:
        for name, given in numbers.items():
            table = FACTS_POINT_TO[name].name
            lost = f"SELECT value FROM json_each(?) WHERE value NOT IN (SELECT number FROM {table})"
            if found := self._driver.execute(
                lost, (json.dumps(np.unique(given).tolist()),)
            ).fetchone():
                raise ValueError(
                    f"figures of a {name} that the ledger does not have, number {found[0]}"
                )

    def _write(self, source: int, ids: Rows, new: "_Numbers", figures: Figures) -> None:
        count = len(ids)
        columns: list[Column] = [  # in the table's order
            ids,
            [self._batch] * count,
            np.arange(self.added, self.added + count),
            new.company,
            new.item,
            list(figures.basis),
            new.start,
            new.end,
            new.declared_end,
            list(figures.fiscal_period),
            new.value,
            figures.reported,
            figures.scale.numbers(int),
            list(figures.unit),
            new.published_at,
            figures.assumed.numbers(int),
            [source] * count,
            new.document,
            figures.place,
        ]
        insert_columns(self._connection, facts, columns)
        self._content.add_columns(facts, columns)
        self._next += count
        self.added += count

    def _keep_at_hand(self, source: int, ids: Rows, new: "_Numbers", figures: Figures) -> None:
        """For the checks, while they are few enough."""
        if self.added > _AT_HAND:
            self._new = []
            return
        held = Held.of_figures(figures, ids, new.document, source)
        self._new.append((new.company[figures.consolidated()], held))

    def _known(self, source: int, new: "_Numbers") -> set[tuple[Any, ...]]:
        """What the ledger has of these companies: of the periods at hand,
        where they are few, else all of it.
        """
        known = set[tuple[Any, ...]]()
        ends: dict[int, set[int]] = {}
        for company, end in set(zip(new.company.tolist(), new.end.tolist(), strict=True)):
            ends.setdefault(company, set()).add(end)
        for company, days in ends.items():
            if len(days) > _FEW_PERIODS:
                known.update(self._driver.execute(_SAME_OF, (company, source)))
                continue
            for end in days:
                known.update(
                    self._driver.execute(_SAME_OF + " AND period_end = ?", (company, source, end))
                )
        return known


class _Numbers(NamedTuple):
    """What of figures is kept as numbers: days, microseconds,
    and the numbers of what they point to.

    What is missing is masked; beneath the mask stands what checks take for it.
    """

    company: Rows
    document: Rows
    item: Rows
    start: Rows
    end: Rows
    declared_end: Rows
    published_at: Rows
    value: NDArray[np.float64]

    @classmethod
    def of(
        cls,
        companies: Sequence[int],
        documents: Sequence[int],
        figures: Figures,
        item: Callable[[str], int],
    ) -> Self:
        """New items get numbers in the order of the figures:
        a batch is the same wherever it is written.
        """
        value = figures.numbers()
        return cls(
            np.array(companies, np.int64),
            np.array(documents, np.int64),
            figures.item.numbers(item),
            _days(figures.period_start),
            figures.ends(),
            _days(figures.declared_end),
            figures.instants(),
            np.ma.masked_array(value, np.isnan(value)) if None in figures.value else value,
        )

    def same_of(self, figures: Figures) -> Iterator[tuple[Any, ...]]:
        """For each figure what the ledger must have of it for it to be the same (T8)."""
        columns = [
            c.tolist()
            for c in (self.company, self.item, self.start, self.end, self.value, self.published_at)
        ]
        company, item, start, end, value, published_at = columns
        return zip(
            company, item, figures.basis, start, end, value, figures.unit, published_at, strict=True
        )

    def where(self, keep: Sequence[bool]) -> Self:
        """Only those marked true."""
        kept = np.array(keep, np.bool_)
        return self._make(column[kept] for column in self)


def _all_differ(company: Rows, figures: Figures) -> bool:
    """Whether no two of them are of one line, period and instant, whatever they say."""
    coded = (figures.item, figures.period_start, figures.period_end, figures.published_at)
    of = keys(company, *(column.place for column in coded))
    return len(np.unique(of)) == len(of)


def _days(column: Coded[date | None]) -> Rows:
    """Days, masked where there is no date."""
    days = days_of(column)
    return np.ma.masked_array(days, days == ABSENT) if None in column.values else days
