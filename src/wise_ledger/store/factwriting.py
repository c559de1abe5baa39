"""Writing facts: column by column, since millions of rows pass here; duplicates are left out (T8)."""

from collections.abc import Callable, Mapping, Sequence
from datetime import date, datetime
from typing import Any

import numpy as np
from sqlalchemy import Connection

from wise_ledger.core.quality.checks import Held
from wise_ledger.core.records.records import FactRecord
from wise_ledger.core.time.instants import DAY, micros
from wise_ledger.core.time.periods import ABSENT, day, span_months
from wise_ledger.store.chain import ContentHash
from wise_ledger.store.rowwriting import driver_of, insert_rows
from wise_ledger.store.tables import facts

OfCompany = tuple[int, int, FactRecord]  # the numbers of the company and the document, and the figure
_FEW_PERIODS = 12
_AT_HAND = 200_000  # facts of a batch that are kept for the checks; of more they are read again
# T8: what makes two facts the same.
_SAME_OF = (
    "SELECT company, item, source, basis, period_start, period_end, value, unit, published_at FROM facts"
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
        highest = self._driver.execute("SELECT max(id) FROM facts").fetchone()[0]
        self.first = self._next = 0 if highest is None else highest + 1  # ids: of the batch, and of the next fact
        self.added = 0
        self._new: list[tuple[Any, ...]] = []  # rows of this batch, while they are few enough to be kept at hand
        self._codes: dict[int, str] = {}

    def add(self, source: int, records: Sequence[OfCompany]) -> list[tuple[int, date]]:
        """Write what the ledger does not have yet; the ids of those whose share basis is stated, with its day."""
        items = self._numbers(records)
        records = self._new_of(source, records, items)
        if not records:
            return []
        first = self._next
        rows = self._rows(source, records, items, first)
        insert_rows(self._connection, facts, rows)
        self._content.add(facts, rows)
        self._next += len(rows)
        self.added += len(rows)
        if self.added <= _AT_HAND:
            self._new += rows
        return [(first + n, r.share_basis_date) for n, (_, _, r) in enumerate(records) if r.share_basis_date]

    def new_of(self, company: int) -> list[Held] | None:
        """The consolidated figures of a company in this batch, as checks look at them; None where not at hand."""
        if self.added > _AT_HAND:
            return None
        rows = [r for r in self._new if r[3] == company and r[5] == "consolidated"]
        return held_of(
            [(r[0], self._codes[r[4]], r[6], r[7], r[14], r[10], r[13], r[12], r[17], r[16]) for r in rows], True
        )

    def _rows(
        self, source: int, records: Sequence[OfCompany], items: Mapping[str, int], first: int
    ) -> list[tuple[Any, ...]]:
        """The rows of the table, made column by column."""
        count = len(records)
        figures = [r for _, _, r in records]
        self._codes |= {number: code for code, number in items.items()}
        days: dict[date | None, int | None] = {None: None}
        days |= {d: day(d) for d in {d for r in figures for d in (r.period_start, r.period_end, r.declared_end)} if d}
        instants = {at: micros(at) for at in {r.published_at for r in figures}}
        return list(
            zip(
                range(first, first + count),
                [self._batch] * count,
                range(self.added, self.added + count),
                [company for company, _, _ in records],
                [items[r.item] for r in figures],
                [r.basis for r in figures],
                [days[r.period_start] for r in figures],
                [days[r.period_end] for r in figures],
                [days[r.declared_end] for r in figures],
                [r.fiscal_period for r in figures],
                [r.value for r in figures],
                [r.reported for r in figures],
                [r.scale for r in figures],
                [r.unit for r in figures],
                [instants[r.published_at] for r in figures],
                [int(r.assumed) for r in figures],
                [source] * count,
                [document for _, document, _ in records],
                [r.place for r in figures],
                strict=True,
            )
        )

    def _numbers(self, records: Sequence[OfCompany]) -> dict[str, int]:
        """Of each item its number, new ones in the order of the records: a batch is the same wherever it is written."""
        return {code: self._item(code) for code in dict.fromkeys(r.item for _, _, r in records)}

    def _new_of(self, source: int, records: Sequence[OfCompany], items: Mapping[str, int]) -> Sequence[OfCompany]:
        """Those that the ledger does not have, each once."""
        days: dict[date | None, int | None] = {None: None}
        for d in {d for _, _, r in records for d in (r.period_start, r.period_end)} - {None}:
            days[d] = day(d)  # type: ignore[arg-type]
        instants: dict[datetime, int] = {at: micros(at) for at in {r.published_at for _, _, r in records}}
        keys = [
            (company, items[r.item], source, r.basis, days[r.period_start], days[r.period_end], r.value, r.unit,
             instants[r.published_at])
            for company, _, r in records
        ]  # fmt: skip
        seen = self._known(source, records)
        if not seen and len(set(keys)) == len(keys):
            return records
        new = []
        for key, record in zip(keys, records, strict=True):
            if key not in seen:
                seen.add(key)
                new.append(record)
        return new

    def _known(self, source: int, records: Sequence[OfCompany]) -> set[tuple[Any, ...]]:
        """What the ledger has of these companies: of the periods at hand, where they are few, else all of it."""
        known = set[tuple[Any, ...]]()
        ends: dict[int, set[date]] = {company: set() for company, _, _ in records}
        for company, end in {(company, r.period_end) for company, _, r in records}:
            ends[company].add(end)
        for company, dates in ends.items():
            if len(dates) > _FEW_PERIODS:
                known.update(self._driver.execute(_SAME_OF, (company, source)))
                continue
            for end in dates:
                known.update(self._driver.execute(_SAME_OF + " AND period_end = ?", (company, source, day(end))))
        return known


def held_of(rows: Sequence[tuple[Any, ...]], new: bool) -> list[Held]:
    """Figures for the checks: id, item, start, end, published (microseconds), value, unit, scale, document, source."""
    if not rows:
        return []
    ids, codes, starts, ends, published, *rest = zip(*rows, strict=True)
    begin = np.array([ABSENT if s is None else s for s in starts], np.int32)
    spans = span_months(begin, np.array(ends, np.int32)).tolist()
    days = (np.array(published, np.int64) // DAY).tolist()
    columns = zip(ids, codes, starts, ends, spans, days, *rest, [new] * len(rows), strict=True)
    return [Held(*row) for row in columns]
