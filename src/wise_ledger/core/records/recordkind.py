"""What a kind of dated record is: its columns, its key for *the same*, what it changes, its checks."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from enum import Enum
from functools import lru_cache
from inspect import Parameter, signature
from typing import Any

from wise_ledger.core.errors import BadInput, Problem
from wise_ledger.core.records.fields import FieldType, Found

PUBLISHED = "published_at"


class Touches(Enum):
    """What has to be formed again after a record of a kind."""

    NOTHING = "nothing"
    COMPANY = "company"  # all figures of its company, or of its security's
    RATES = "rates"  # what is formed of amounts in several currencies


@dataclass(frozen=True)
class Field:
    """A column: `name` in files, and in the table unless `column` is another;
    `attribute` of the record likewise.
    """

    name: str
    type: FieldType
    needed: bool = True
    example: str = ""
    column: str = ""
    attribute: str = ""
    mend: str = ""  # how to write it, where its type cannot say that well

    @property
    def in_table(self) -> str:
        """Its name in the table."""
        return self.column or self.name

    def of(self, record: Any) -> Any:
        """Its value in a record."""
        return getattr(record, self.attribute or self.name)


@dataclass(frozen=True)
class Reference:
    """A column that points to a row of another table by its number;
    `source` is where the record comes from.
    """

    name: str
    table: str
    needed: bool = True
    example: str = ""

    @property
    def in_table(self) -> str:
        """Its name in the table."""
        return self.name


@dataclass(frozen=True)
class RecordKind:
    """A kind of dated record.

    `columns` stand in the table's order, behind its key and the batch. Of records that agree in the
    columns of `same` the last one counts, of those that say when they became public the one that
    did last (T5); one that says nothing new is left out (T8), looked for among the rows that agree
    in `within`. `check` has what goes beyond single columns;
    `complete` fills in what a source may leave out. `forming` narrows what `touches`: the column,
    and the values by which figures are formed.
    """

    name: str
    columns: tuple[Field | Reference, ...]
    within: tuple[str, ...]
    make: Callable[..., Any]
    same: tuple[str, ...] = ()  # all columns, where none is named
    touches: Touches = Touches.NOTHING
    forming: tuple[str, tuple[str, ...]] | None = None
    check: Callable[[Any, datetime], Found] | None = None
    complete: Callable[[Any], Any] | None = None
    where: Callable[[Any, str], str] = lambda _, name: name  # how a column is named in a problem

    @property
    def fields(self) -> tuple[Field, ...]:
        """The columns that a record has."""
        return tuple(c for c in self.columns if isinstance(c, Field))

    @property
    def heads(self) -> tuple[str, ...]:
        """The columns of a file: whose it is, then what it says."""
        return tuple(c.name for c in self.columns if c.name != "source")

    @property
    def needed(self) -> tuple[str, ...]:
        """Those that every row of a file has."""
        return tuple(c.name for c in self.columns if c.name != "source" and c.needed)

    @property
    def example(self) -> Mapping[str, str]:
        """A row of a file, to be written over."""
        return {c.name: c.example for c in self.columns if c.name != "source"}

    @property
    def instant(self) -> str | None:
        """The column of the instant at which a record became public, where records of one key may
        say unlike ones: each is a version then (T5).
        """
        has = any(f.name == PUBLISHED and not f.needed for f in self.fields)
        return PUBLISHED if has else None

    @property
    def key(self) -> tuple[str, ...]:
        """The names in the table of the columns that make two records versions of one another."""
        return self.same or tuple(c.in_table for c in self.columns)

    def problems(self, record: Any, now: datetime) -> Iterator[Problem]:
        """What is wrong with a record: column by column, then as a whole."""
        found = False
        for field in self.fields:
            value = field.of(record)
            if value is None and not field.needed:
                continue
            for problem in field.type.problems(self.where(record, field.name), value, now):
                found = True
                yield replace(problem, mend=field.mend or problem.mend)
        if self.check is not None and not found:
            yield from self.check(record, now)

    def all_pass(self, records: Sequence[Any], now: datetime) -> bool:
        """Whether no record has a problem, looked at column by column;
        where it says no, `problems` says why.
        """
        try:
            for field in self.fields:
                values = [field.of(r) for r in records]
                if field.type.sql == "real" and all(type(v) is float for v in values):
                    low, high = min(values, default=1.0), max(values, default=1.0)
                    # a NaN is neither
                    shown = [low, high] if sum(values) == sum(values) else values
                else:
                    shown = list(set(values))
                for value in shown:
                    if value is None and not field.needed:
                        continue
                    if next(field.type.problems("", value, now), None) is not None:
                        return False
            return self.check is None or all(
                next(self.check(r, now), None) is None for r in records
            )
        except (TypeError, AttributeError):
            return False

    def read(self, cells: Mapping[str, str]) -> Any:
        """A record from the cells of a file's row; raises `BadInput`."""
        given: dict[str, Any] = dict.fromkeys(_without_default(self.make))
        for field in self.fields:
            if field.name not in cells:
                continue
            try:
                given[field.attribute or field.name] = field.type.read(
                    cells[field.name], field.name
                )
            except BadInput as error:
                raise BadInput(
                    *(replace(p, mend=field.mend or p.mend) for p in error.problems)
                ) from None
        return self.make(**given)


@lru_cache(64)
def _without_default(make: Callable[..., Any]) -> tuple[str, ...]:
    """What a record cannot be made without:
    of what a row leaves out it is said that there is nothing.
    """
    return tuple(
        name for name, p in signature(make).parameters.items() if p.default is Parameter.empty
    )
