"""Rows as files: what a reader of each kind of file finds is what was written (4-interface)."""

import csv
import io
import unittest
from collections.abc import Callable
from datetime import datetime
from typing import Any

import openpyxl
import pyarrow as pa
import pyarrow.parquet as pq
from hypothesis import given
from hypothesis import strategies as st
from openpyxl.cell.cell import ILLEGAL_CHARACTERS_RE as ILLEGAL

from tests.properties import examples
from tests.wire.made import DAYS, INSTANTS, INTEGERS, NUMBERS, TEXTS
from wise_ledger.wire.model import iso_text
from wise_ledger.wire.rows import Rows
from wise_ledger.wire.tables import FORMULA, DoesNotFit, file_of, table_schema, write_batches

# What columns hold, by names that say of what kind they are.
OF_COLUMN = {
    "name": TEXTS,
    "=title": TEXTS,
    "value": NUMBERS,
    "count": INTEGERS,
    "restated": st.booleans(),
    "period_end": DAYS.map(str),
    "known_at": INSTANTS.map(datetime.isoformat),
    "figure": st.one_of(TEXTS, NUMBERS, st.booleans()),
}


@st.composite
def tables(draw: st.DrawFn) -> Rows:
    """A table of some of these columns, with holes."""
    columns = draw(st.lists(st.sampled_from(list(OF_COLUMN)), min_size=1, unique=True))
    cells = {name: st.none() | OF_COLUMN[name] for name in columns}
    found = draw(st.lists(st.fixed_dictionaries(cells), max_size=5))
    numbered = ({"row": n, **row} for n, row in enumerate(found))
    return Rows(("row", *columns), numbered, {"known_on": "2024-06-30"})


def of_csv(raw: bytes) -> list[list[Any]]:
    return list(csv.reader(io.StringIO(raw.decode(), newline="")))


def of_tsv(raw: bytes) -> list[list[Any]]:
    return list(csv.reader(io.StringIO(raw.decode(), newline=""), delimiter="\t"))


def of_workbook(raw: bytes) -> list[list[Any]]:
    book = openpyxl.load_workbook(io.BytesIO(raw))
    return [list(row) for row in book.worksheets[0].iter_rows(values_only=True)]


def of_table(table: pa.Table) -> list[list[Any]]:
    return [table.column_names, *(list(row.values()) for row in table.to_pylist())]


READ: dict[str, Callable[[bytes], list[list[Any]]]] = {
    "csv": of_csv,
    "tsv": of_tsv,
    "xlsx": of_workbook,
    "parquet": lambda raw: of_table(pq.read_table(io.BytesIO(raw))),
    "arrow": lambda raw: of_table(pa.ipc.open_stream(raw).read_all()),
}
# Table Schema (Frictionless Data): how a reader takes a field of a type.
OF_TYPE: dict[str, Callable[[str], Any]] = {
    "number": float,
    "integer": int,
    "boolean": lambda cell: {"True": True, "False": False}[cell],
    "date": datetime.fromisoformat,
    "datetime": datetime.fromisoformat,
}
# The columns of panels, as Arrow has them.
TYPES = {
    "row": pa.int64(),
    "name": pa.string(),
    "=title": pa.dictionary(pa.int32(), pa.string()),
    "value": pa.float64(),
    "known_at": pa.timestamp("us", "UTC"),
}


def _typed(name: str, value: Any) -> Any:
    return datetime.fromisoformat(value) if name == "known_at" and value else value


def meant(form: str, name: str, value: Any, cell: Any) -> bool:
    """Whether a cell of a file is what stood in the row."""
    if value is None:
        return cell in (None, "") or cell != cell
    if form in ("csv", "tsv"):
        guarded = form == "csv" and isinstance(value, str) and value.startswith(FORMULA)
        return bool(cell == ("'" if guarded else "") + str(value))
    if isinstance(value, str) and form == "xlsx":
        text = ILLEGAL.sub("\ufffd", value)
        return bool((cell or "") == (text if len(text) < 2**15 else f"{text[:32766]}…"))
    if isinstance(value, float) and form == "xlsx":  # to 16 digits: a workbook's reader shows 15
        return bool(cell == float(f"{value:.16g}"))
    if name in ("period_end", "known_at") and form != "xlsx":
        return bool(cell == datetime.fromisoformat(value))
    # of words and numbers in one column the words are the wider kind
    return bool(cell == (str(value) if isinstance(cell, str) else value))


class Files(unittest.TestCase):
    @examples(40)
    @given(tables())
    def test_every_kind_of_file_gives_back_the_rows_it_was_made_of(self, rows: Rows) -> None:
        for form, read in READ.items():
            head, *found = read(file_of(form, rows))
            self.assertEqual(head, list(rows.columns), form)
            self.assertEqual(len(found), len(rows), form)
            for row, cells in zip(rows, found, strict=True):
                for name, cell in zip(rows.columns, cells, strict=True):
                    self.assertTrue(
                        meant(form, name, row[name], cell), (form, name, row[name], cell)
                    )

    def test_what_no_workbook_can_hold_is_refused_with_the_mend(self) -> None:
        for rows, columns, problem in (
            (2**20, 1, "1,048,576 rows: ask for at most 1,048,575"),
            (1, 2**14 + 1, "16,385 columns: ask for at most 16,384"),
        ):
            names = [f"c{n}" for n in range(columns)]
            table = Rows(names, [dict.fromkeys(names, 1)] * rows)
            with self.assertRaisesRegex(DoesNotFit, problem):
                file_of("xlsx", table)

    @examples(100)
    @given(tables())
    def test_separated_text_is_as_its_table_schema_says(self, rows: Rows) -> None:
        head, *found = of_csv(file_of("csv", rows, raw=True))
        fields: Any = table_schema(rows)["fields"]
        self.assertEqual([f["name"] for f in fields], head)
        for row, cells in zip(rows, found, strict=True):
            for field, cell in zip(fields, cells, strict=True):
                value = row[field["name"]]
                if cell != "" and field["type"] != "string":
                    given = datetime.fromisoformat(value) if isinstance(value, str) else value
                    self.assertEqual(OF_TYPE[field["type"]](cell), given, field)

    @examples(60)
    @given(tables(), st.integers(1, 3))
    def test_columns_that_are_written_batch_by_batch_are_the_same_rows(
        self, rows: Rows, size: int
    ) -> None:
        typed = [name for name in rows.columns if name in TYPES and (name != "row" or size < 3)]
        typed = typed or ["row"]
        schema = pa.schema([(name, TYPES[name]) for name in typed])
        whole = pa.Table.from_pylist(
            [{n: _typed(n, row[n]) for n in typed} for row in rows], schema
        )
        for form in ("csv", "arrow", "parquet"):
            out = io.BytesIO()
            batches = whole.to_batches(max_chunksize=size) or [
                pa.RecordBatch.from_pylist([], schema)
            ]
            write_batches(iter(batches), form, out)
            head, *found = READ[form](out.getvalue())
            self.assertEqual(head, typed, form)
            self.assertEqual(len(found), len(rows), form)
            for row, cells in zip(rows, found, strict=True):
                for name, cell in zip(typed, cells, strict=True):
                    value, said = row[name], (form, name, row[name], cell)
                    if form == "csv" and name == "value" and cell:
                        self.assertEqual(float(cell), value, said)
                    elif form == "csv" and name == "known_at" and cell:  # as in all other answers
                        self.assertEqual(cell, iso_text(datetime.fromisoformat(value)), said)
                    else:
                        self.assertTrue(meant(form, name, value, cell), said)


if __name__ == "__main__":
    unittest.main()
