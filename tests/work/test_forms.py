"""A row is the same row in every kind of file, its cells typed or as text (4-interface, T8)."""

import csv
import io
import json
from collections.abc import Iterator
from datetime import datetime
from typing import Any

import openpyxl
import pandas as pd
import pyarrow as pa
import pyarrow.parquet as pq

from tests.live import Live
from wise_ledger.core.records.columnkinds import COLUMN_KINDS
from wise_ledger.work.templates import COLUMNS, template

OWN = {"company": "AGK@ZALD", "listing": "AGK@ZALD", "security": "AGK@ZALD", "measure": "eps"}
OF_KIND = {
    "companies": {"company": "W-1"},
    "levels": {"list": "mine"},
    "series_attributes": {"series": "OUTPUT/Q.XA"},
    "observations": {"item": "mood"},
    "listings": {"security": ""},
    "identifiers": {"security": ""},
    "receipt_ratios": {"security": "AGK@ZALD"},
}
FILED = {"facts", "observations"}  # each file is a document, though it says nothing new
INSTANTS = {"published_at", "released_at", "expected_at"}
DAYS = {"date", "ex_date", "valid_from", "period_end", "period_start", "observed_at"}


def rows_of(kind: str) -> list[dict[str, str]]:
    """The row of a kind's template, of what the ledger knows."""
    head, row = csv.reader(io.StringIO(template(kind).decode()))
    own = OWN | OF_KIND.get(kind, {})
    first = {h: own.get(h, cell) for h, cell in zip(head, row, strict=True)}
    return [{h: cell for h, cell in first.items() if cell}]


def typed(name: str, cell: str) -> Any:
    """A cell as a frame or a workbook has it."""
    if name in DAYS:
        return datetime.fromisoformat(cell)
    try:
        return float(cell)
    except ValueError:
        return cell


def forms(rows: list[dict[str, str]]) -> Iterator[tuple[str, Any]]:
    """The same rows in every kind of file."""
    heads = list(rows[0])
    native = [{h: typed(h, row[h]) for h in heads} for row in rows]
    frame = pd.DataFrame(native)
    yield "csv", pd.DataFrame(rows).to_csv(index=False).encode()
    yield "csv of a frame", frame.to_csv(index=False).encode()
    yield "csv with times", frame.to_csv(index=False, date_format="%Y-%m-%d %H:%M:%S").encode()
    stamped = frame.assign(
        **{h: pd.to_datetime(frame[h], utc=True) for h in heads if h in INSTANTS}
    )
    yield "a frame", stamped
    yield "a frame by its first column", stamped.set_index(heads[0])
    yield "csv of instants", stamped.to_csv(index=False).encode()
    yield (
        "json of instants",
        stamped.to_json(orient="records", lines=True, date_format="iso", date_unit="us").encode(),
    )
    yield "json lines", "\n".join(map(json.dumps, rows)).encode()
    yield "json of a frame", frame.to_json(orient="records", lines=True, date_format="iso").encode()
    for name, given in (("workbook", native), ("workbook of text", rows)):
        book, out = openpyxl.Workbook(), io.BytesIO()
        assert book.active is not None
        book.active.append(heads)
        for row in given:
            book.active.append([row[h] for h in heads])
        book.save(out)
        yield name, out.getvalue()
    for name, table in (
        ("text", pa.Table.from_pylist(rows)),
        ("stamped", pa.Table.from_pandas(stamped, preserve_index=False)),
        ("typed", pa.Table.from_pandas(frame, preserve_index=False)),
        ("days", pa.Table.from_pylist([
            {h: v.date() if isinstance(v, datetime) else v for h, v in row.items()} for row in native
        ])),
    ):  # fmt: skip
        out = io.BytesIO()
        pq.write_table(table, out)
        yield f"parquet, {name}", out.getvalue()
        out = io.BytesIO()
        with pa.ipc.new_stream(out, table.schema) as writer:
            writer.write_table(table)
        yield f"arrow, {name}", out.getvalue()
        yield f"a table, {name}", table


class Forms(Live):
    def test_a_row_is_the_same_in_every_kind_of_file_t8(self) -> None:
        self.ledger.register_item("mood", "Mood", "pure", "pages", "ada")
        self.ledger.keep_list("mine", ["AGK@ZALD"], "ada")
        self.ledger.load("series", b"series,period,value\nOUTPUT/Q.XA,2020Q1,1\n")
        for kind in sorted({*COLUMNS, *COLUMN_KINDS} - {"members"}):  # of that list alone
            batch, again = None, False
            for form, content in forms(rows_of(kind)):
                with self.subTest(kind, form=form):
                    loaded = self.ledger.load(kind, content)
                    self.assertEqual(([b.problem for b in loaded.bad], loaded.rows), ([], 1))
                    last = self.live.desk.ledger.last_batch()
                    batch = last if batch is None else batch
                    if kind not in FILED:
                        self.assertEqual(last, batch)
                    elif again:
                        self.assertEqual(loaded.new, 0)
                    again = True
        self.assertTrue(self.live.desk.ledger.verify())


if __name__ == "__main__":
    import unittest

    unittest.main()
