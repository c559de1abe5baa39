"""Rows of a table with their heads, the same through every door; a table without a row still has its columns."""

from collections.abc import Callable, Collection, Iterable
from typing import Any, TypeVar

from wise_ledger.wire.model import Model

M = TypeVar("M", bound=Model)


class Rows(list[dict[str, Any]]):
    """Rows, each with a value by the name of a column, in the order of `columns`."""

    def __init__(self, columns: Iterable[str], rows: Iterable[dict[str, Any]]) -> None:
        super().__init__(rows)
        self.columns = tuple(columns)


def rows_of(
    kind: type[M], items: Iterable[M], without: Collection[str] = (), /, **other: Callable[[M], object]
) -> Rows:
    """A row for each model, a column for each of its fields but some; `other` are made otherwise, or added."""
    names = [n for n in kind.model_fields if n not in without]
    plain = set(names) - set(other)
    columns = [*names, *(n for n in other if n not in names)]

    def row(item: M) -> dict[str, Any]:
        values = item.model_dump(mode="json", include=plain)
        return {n: other[n](item) if n in other else values[n] for n in columns}

    return Rows(columns, map(row, items))
