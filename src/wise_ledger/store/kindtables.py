"""The tables of kinds of records, as their declarations say."""

from sqlalchemy import (
    BigInteger,
    Boolean,
    Column,
    Float,
    ForeignKey,
    Index,
    Integer,
    MetaData,
    Table,
    Text,
)

from wise_ledger.core.records.recordkind import Field, RecordKind, Reference

_TYPES = {"text": Text, "real": Float, "whole": Integer, "truth": Boolean, "instant": BigInteger}


def batch_column() -> Column[int]:
    """The batch of a row.

    Its own row is written last: the migrations defer this key, which SQLAlchemy does not read back.
    """
    return Column("batch", Integer, ForeignKey("batches.number"), nullable=False)


def table_of(kind: RecordKind, metadata: MetaData, *indexes: Index) -> Table:
    """A key, the batch, and the columns of the kind, as a table of the ledger."""
    return Table(
        kind.name,
        metadata,
        Column("id", Integer, primary_key=True),
        batch_column(),
        *(_column(column) for column in kind.columns),
        *indexes,
    )


def _column(column: Field | Reference) -> Column[object]:
    if isinstance(column, Reference):
        return Column(
            column.name, Integer, ForeignKey(f"{column.table}.number"), nullable=not column.needed
        )
    nullable = not column.needed and column.type.sql != "truth"
    return Column(column.in_table, _TYPES[column.type.sql], nullable=nullable)
