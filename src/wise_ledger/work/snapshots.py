"""The ledger at one batch, read once and kept between questions."""

import threading
from collections import OrderedDict
from dataclasses import dataclass
from pathlib import Path

from wise_ledger.core.errors import Problem, bad_input
from wise_ledger.core.facts.attributes import Attributes
from wise_ledger.core.facts.columns import FactColumns
from wise_ledger.core.fiscal.labels import fiscal_label
from wise_ledger.core.fiscal.periods import BALANCE, as_date
from wise_ledger.core.measures.view import LedgerView
from wise_ledger.core.nearest import mend_for
from wise_ledger.store import reading
from wise_ledger.store.columncache import ColumnCache
from wise_ledger.store.ledger import Ledger
from wise_ledger.work import NotFound

_KEPT = 4
_DAY = 86_400_000_000


@dataclass(frozen=True, eq=False)
class Snapshot:
    """One state of the ledger: everything up to `batch`."""

    batch: int
    view: LedgerView
    attributes: Attributes
    ids: list[str]
    symbols: dict[int, list[tuple[int, int | None, str]]]

    def number(self, company: str) -> int:
        """The number of the company with this id or symbol; raises `NotFound`."""
        if company in self.ids:
            return self.ids.index(company)
        by_symbol = {value: number for number, stays in self.symbols.items() for _, _, value in stays}
        if company.upper() in by_symbol:
            return by_symbol[company.upper()]
        mend = mend_for(company.upper(), [*self.ids, *by_symbol])
        raise NotFound(Problem("company", company, "there is no company with this id or symbol", mend))

    def name(self, company: int, cutoff: int) -> str:
        """The company's name as known at an instant; before it was known by name, the first one it had."""
        name = self.attributes.of(company, "name", cutoff)
        if name is None:
            first = [a.value for a in self.attributes.said("name") if a.company == company]
            name = first[0] if first else self.ids[company]
        return name

    def symbol(self, company: int, cutoff: int) -> str | None:
        """The symbol that named the company last by an instant."""
        found = [v for since, _, v in self.symbols.get(company, ()) if since <= cutoff // _DAY]
        return found[-1] if found else None

    def label(self, company: int, end: int, cutoff: int) -> str:
        """The fiscal label of a period end (F5): the quarter it ends, at the year end the year."""
        month = int(self.attributes.of(company, "fiscal_year_end", cutoff) or 12)
        return fiscal_label(BALANCE, as_date(end), month)


class Snapshots:
    """Snapshots of a ledger by batch; a few of the newest are kept. Safe for many threads."""

    def __init__(self, ledger: Ledger, columns: Path) -> None:
        self._ledger = ledger
        self._cache = ColumnCache(columns)
        self._lock = threading.RLock()
        self._kept: OrderedDict[tuple[int, bool], Snapshot] = OrderedDict()

    def at(self, recorded_by: int | None = None, *, with_assumed: bool = True) -> Snapshot:
        """The ledger as recorded by a batch (T7), by default the newest."""
        last = self._ledger.last_batch()
        if recorded_by is not None and not 0 <= recorded_by <= last:
            raise bad_input("recorded_by", recorded_by, "there is no such batch", f"the newest is {last}")
        batch = last if recorded_by is None else recorded_by
        with self._lock:
            key = (batch, with_assumed)
            if key not in self._kept:
                self._kept[key] = self._read(batch, with_assumed)
            self._kept.move_to_end(key)
            while len(self._kept) > _KEPT:
                self._kept.popitem(last=False)
            return self._kept[key]

    def _read(self, batch: int, with_assumed: bool) -> Snapshot:
        with self._ledger.database.read() as connection:
            ids = reading.company_ids(connection)
            attributes = Attributes(reading.said_attributes(connection), batch)
            symbols = reading.symbols(connection, batch)
            sources = range(len(reading.source_names(connection)))
        view = LedgerView(
            companies=len(ids),
            columns=lambda item: self._columns(item, batch),
            attributes=attributes,
            sources=tuple(sources),
            recorded_by=batch,
            with_assumed=with_assumed,
        )
        return Snapshot(batch, view, attributes, ids, symbols)

    def _columns(self, item: str, batch: int) -> FactColumns:
        with self._lock, self._ledger.database.read() as connection:
            return self._cache.columns(connection, item, batch)
