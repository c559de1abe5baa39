"""Rows straight to the driver, in the transaction of its connection: millions pass here."""

from collections.abc import Iterable, Sequence
from functools import cache
from itertools import chain
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import Connection, Table

Column = Sequence[Any] | NDArray[Any]  # values; of an array, masked where they are missing
_AT_ONCE = 490  # rows in one statement: between two statements another thread may take its turn


def driver_of(connection: Connection) -> Any:
    """The connection of the driver, in the same transaction."""
    driver = connection.connection.driver_connection
    assert driver is not None
    return driver


def next_key(driver: Any, table: Table) -> int:
    """The key of the next row of a table, which are given out in order from 0 on."""
    (highest,) = driver.execute(f"SELECT max({_key(table)}) FROM {table.name}").fetchone()
    return 0 if highest is None else int(highest) + 1


@cache
def _key(table: Table) -> str:
    return str(table.primary_key.columns.values()[0].name)


@cache
def _statements(table: Table, clashing: str = "ABORT") -> tuple[str, str]:
    names = ", ".join(f'"{c.name}"' for c in table.columns)
    row = f"({', '.join('?' for _ in table.columns)})"
    begin = f"INSERT OR {clashing} INTO {table.name} ({names}) VALUES "
    return begin + row, begin + ", ".join([row] * _AT_ONCE)


def insert_rows(
    connection: Connection,
    table: Table,
    rows: Sequence[Sequence[Any]],
    clashing: Literal["ABORT", "IGNORE", "REPLACE"] = "ABORT",
) -> None:
    """Write whole rows, their columns in the table's order;
    `clashing` says what becomes of one whose key is there.
    """
    driver = driver_of(connection)
    one, many = _statements(table, clashing)
    whole = len(rows) // _AT_ONCE * _AT_ONCE
    for begin in range(0, whole, _AT_ONCE):
        driver.execute(many, list(chain.from_iterable(rows[begin : begin + _AT_ONCE])))
    driver.executemany(one, rows[whole:])


def insert_columns(connection: Connection, table: Table, columns: Sequence[Column]) -> None:
    """The same, of rows that are at hand as columns."""
    driver = driver_of(connection)
    one, many = _statements(table)
    width, count = len(columns), len(columns[0])
    values: list[Any] = [None] * (width * count)  # row after row
    for n, column in enumerate(columns):
        values[n::width] = column.tolist() if isinstance(column, np.ndarray) else column
    whole = count // _AT_ONCE * _AT_ONCE
    for begin in range(0, whole * width, _AT_ONCE * width):
        driver.execute(many, values[begin : begin + _AT_ONCE * width])
    driver.executemany(one, [values[n * width : (n + 1) * width] for n in range(whole, count)])


def rows_of(
    connection: Connection, table: Table, names: Iterable[str], where: dict[str, Any], order: str
) -> Any:
    """Rows of a table that agree with some values, in an order, as plain tuples."""
    shown = ", ".join(f'"{n}"' for n in names)
    same = " AND ".join(f'"{n}" IS ?' for n in where) or "1"
    query = f'SELECT {shown} FROM {table.name} WHERE {same} ORDER BY "{order}"'
    return driver_of(connection).execute(query, tuple(where.values()))
