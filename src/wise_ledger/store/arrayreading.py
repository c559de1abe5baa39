"""Rows straight from the driver into arrays, with no object left of them:
hundreds of thousands are read at once.
"""

from collections.abc import Mapping
from typing import Any

import numpy as np
from sqlalchemy import Connection

from wise_ledger.store.rowwriting import driver_of

NO_VALUE = "9e999"  # what a query writes for a value that is missing: no figure is infinite


def read_arrays(
    connection: Connection,
    query: str,
    given: Mapping[str, Any] | tuple[Any, ...],
    types: Mapping[str, Any],
) -> np.ndarray[Any, np.dtype[Any]]:
    """The rows of a query as a structured array, with the types of its
    columns by name, in their order.

    What may be missing is written by the query as something else: `coalesce(value, 9e999)` becomes
    NaN.
    """
    rows = np.fromiter(driver_of(connection).execute(query, given), np.dtype(list(types.items())))
    for name in (n for n, t in types.items() if t is np.float64):
        column = rows[name]
        column[np.isinf(column)] = np.nan
    return rows
