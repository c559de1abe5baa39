"""Rows of a table with their heads, the same through every door;
a table without a row still has its columns.
"""

from collections.abc import Callable, Collection, Iterable, Mapping
from typing import TYPE_CHECKING, Any, ClassVar, TypeVar, get_args

from pydantic import BaseModel

from wise_ledger.wire.model import Model
from wise_ledger.words import counted, singular

if TYPE_CHECKING:
    import pandas as pd

M = TypeVar("M", bound=Model)


class Rows(list[dict[str, Any]]):
    """Rows, each with a value by the name of a column, in the order of `columns`;
    `context` says how it was asked.
    """

    def __init__(
        self,
        columns: Iterable[str],
        rows: Iterable[dict[str, Any]],
        context: Mapping[str, Any] | None = None,
    ) -> None:
        super().__init__(rows)
        self.columns = tuple(dict.fromkeys(columns))  # by name: one that is asked for twice is one
        self.context = dict(context or {})


class Tabled(Model):
    """An answer that is a table: of `part`, the name of its field with the rows,
    each a model of one kind.

    `without` are fields of a row that have no place in a table, `made` those that are made
    otherwise, `id_of` what the field `id` is the id of: a table of many ids says of what each is.
    """

    part: ClassVar[str]
    without: ClassVar[tuple[str, ...]] = ()
    made: ClassVar[dict[str, Callable[[Any], object]]] = {}
    id_of: ClassVar[str] = "id"

    def rows(self) -> Rows:
        """One row each, with how it was asked."""
        (kind,) = get_args(type(self).model_fields[self.part].annotation)
        found = rows_of(kind, getattr(self, self.part), self.without, **self.made)
        if self.id_of != "id":
            heads = [self.id_of if name == "id" else name for name in found.columns]
            found = Rows(heads, (dict(zip(heads, row.values(), strict=True)) for row in found))
        found.context = context_of(self, self.part)
        return found

    def frame(self) -> "pd.DataFrame":
        """One row each, the fields as columns with types; `attrs` hold how it was asked."""
        from wise_ledger.wire.tables import frame

        return frame(self.rows())

    def __repr__(self) -> str:
        asked = context_of(self, self.part).items()
        shown = [f"{n}={v!r}" for n, v in asked if not isinstance(v, list | dict)]
        size = counted(len(getattr(self, self.part)), singular(self.part))
        return f"<{type(self).__name__}: {', '.join([size, *shown])}>"


def context_of(answer: BaseModel, *parts: str) -> dict[str, Any]:
    """What an answer says of itself beside its large parts: how it was asked,
    and as of which batch.
    """
    plain = answer.model_dump(mode="json", exclude=set(parts))
    return {name: value for name, value in plain.items() if value is not None}


def asked(
    context: Mapping[str, Any],
    leading: Iterable[str],
    columns: Iterable[str],
    rows: Iterable[dict[str, Any]],
) -> Rows:
    """Rows with the `leading` parts of how they were asked as their first columns."""
    first = {name: context.get(name) for name in leading}
    return Rows((*first, *columns), ({**first, **row} for row in rows), context)


def rows_of(
    kind: type[M],
    items: Iterable[M],
    without: Collection[str] = (),
    /,
    **other: Callable[[M], object],
) -> Rows:
    """A row for each model, a column for each of its fields but some;
    `other` are made otherwise, or added.

    Where a field holds several words, or words by name, they stand in one cell, parted by
    semicolons.
    """
    names = [n for n in kind.model_fields if n not in without]
    plain = set(names) - set(other)
    columns = [*names, *(n for n in other if n not in names)]

    def row(item: M) -> dict[str, Any]:
        values = item.model_dump(mode="json", include=plain)
        return {n: other[n](item) if n in other else _one_cell(values[n]) for n in columns}

    return Rows(columns, map(row, items))


def _one_cell(value: Any) -> Any:
    if isinstance(value, list) and all(isinstance(v, str | int | float) for v in value):
        return "; ".join(map(str, value))
    if isinstance(value, dict) and all(isinstance(v, str | int | float) for v in value.values()):
        return "; ".join(f"{name}: {v}" for name, v in value.items())
    return value
