"""Where the facts of a batch lie: ids are given out in order,
so that batches follow each other in them.
"""

from collections.abc import Collection

from sqlalchemy import Connection

_AT = "SELECT id, batch FROM facts WHERE id >= ? ORDER BY id LIMIT 1"


def _beginning(connection: Connection, batch: int) -> int:
    """The first id of the facts of a batch or a later one;
    one past the last where there is none.
    """
    last = connection.exec_driver_sql("SELECT max(id) FROM facts").scalar()
    low, high = 0, 0 if last is None else last + 1
    while low < high:
        found = connection.exec_driver_sql(_AT, ((low + high) // 2,)).one()
        low, high = (low, (low + high) // 2) if found.batch >= batch else (found.id + 1, high)
    return low


def fact_ids(connection: Connection, after: int, upto: int) -> tuple[int, int]:
    """The ids of the facts of the batches after one, up to another:
    from the first to before the second.
    """
    return _beginning(connection, after + 1), _beginning(connection, upto + 1)


def in_batches(connection: Connection, batches: Collection[int], of: str = "facts") -> str:
    """A condition in SQL that holds of the facts of some batches,
    in a table or alias of that name.
    """
    if not batches:
        return "0"
    first, last = fact_ids(connection, min(batches) - 1, max(batches))
    named = ", ".join(str(int(b)) for b in sorted(set(batches)))
    return f"({of}.id >= {first} AND {of}.id < {last} AND {of}.batch IN ({named}))"
