"""The rows of one batch and their keys, which are given out here:
a batch is the same wherever it is written.
"""

from typing import Any

from sqlalchemy import Connection, Table, select

from wise_ledger.core.errors import bad_input
from wise_ledger.core.identity.company_id import stable_id
from wise_ledger.store import tables
from wise_ledger.store.rowwriting import driver_of, insert_rows, next_key
from wise_ledger.store.tables import listings

Row = dict[str, Any]
MOST_SOURCES = 1_000


class BatchRows:
    """Writes rows of a batch, counts them, and gives what has a name its number."""

    def __init__(self, connection: Connection, number: int) -> None:
        self.number = number
        self._connection = connection
        # for what is asked in every batch: building a query takes longer
        self._driver = driver_of(connection)
        self._next: dict[str, int] = {}
        self._firsts: dict[str, int] = {}
        self._numbers: dict[tuple[str, str], int] = {}
        self._items_known = False
        self._rows = 0

    @property
    def anything_new(self) -> bool:
        """Whether it has rows of its own so far: one without leaves no trace."""
        return bool(self._rows)

    def source(self, name: str, title: str) -> int:
        """The number of a source, new or known; raises `BadInput` where there are too many."""
        number = self._named(tables.sources, "name", name, {"title": title})
        if number >= MOST_SOURCES:
            problem = f"the ledger would have more than {MOST_SOURCES:,} sources"
            raise bad_input("source", name, problem, "name a document in the column document")
        return number

    def item(self, code: str) -> int:
        """The number of an item, new or known."""
        if not self._items_known:
            known = self._driver.execute("SELECT code, number FROM items")
            self._numbers |= {("items", code): number for code, number in known}
            self._items_known = True
        return self._named(tables.items, "code", code, {})

    def contributor(self, name: str) -> int:
        """The number of a contributor to estimates, new or known."""
        return self._named(tables.contributors, "name", name, {})

    def series(self, key: str) -> int:
        """The number of an economic series, new or known."""
        return self._named(tables.series, "key", key, {})

    def series_base(self, text: str) -> int:
        """The number of what an index is 100 for, new or known."""
        return self._named(tables.series_bases, "base", text, {})

    def _named(self, table: Table, column: str, value: str, rest: Row) -> int:
        if (table.name, value) not in self._numbers:
            known = self._driver.execute(
                f"SELECT number FROM {table.name} WHERE {column} = ?", (value,)
            ).fetchone()
            number = self._take(table) if known is None else int(known[0])
            if known is None:
                self._insert(table, [{"number": number, column: value, **rest}])
            self._numbers[table.name, value] = number
        return self._numbers[table.name, value]

    def _add_new(self, table: Table, rows: list[Row], **where: int) -> None:
        if not rows:
            return
        names = list(rows[0])
        same = [table.c[name] == value for name, value in where.items()]
        known = {
            tuple(r)
            for r in self._connection.execute(select(*(table.c[n] for n in names)).where(*same))
        }
        new = [r for r in rows if tuple(r.values()) not in known]
        if table is listings:
            keys = [self._take(table) for _ in new]
            self._insert(
                table,
                [
                    {"number": k, "id": stable_id("li", k), **r}
                    for k, r in zip(keys, new, strict=True)
                ],
            )
        else:
            self._insert(table, [{"id": self._take(table), **r} for r in new])

    def _reserve(self, table: Table, count: int) -> int:
        """The first of so many numbers of a table's key."""
        first = self._take(table)
        self._next[table.name] = first + count
        return first

    def _take(self, table: Table) -> int:
        """The next number of a table's key; they are given out here,
        so that a batch is the same wherever written.
        """
        name = table.name
        if name not in self._next:
            self._next[name] = self._firsts[name] = next_key(self._driver, table)
        self._next[name] += 1
        return self._next[name] - 1

    def _insert(self, table: Table, rows: list[Row]) -> None:
        names = table.columns.keys()
        whole = [{**row, "batch": self.number} for row in rows]
        assert all(row.keys() <= set(names) for row in whole), table.name
        insert_rows(self._connection, table, [[row.get(name) for name in names] for row in whole])
        self._rows += len(rows)
