"""load_columns: daily prices out of a CSV file, checked, versioned, hashed and written,
against bare SQLite.

The comparison is `executemany` of the very same rows into a table of SQLite, in one transaction,
without reading, checking or hashing anything; and pyarrow writing them to a Parquet file.
"""

import io
import resource
import sqlite3
import tempfile
import time
from contextlib import closing
from pathlib import Path

import numpy as np
import pyarrow.csv as pc_csv
import pyarrow.parquet as pq

from benchmarks.market import NOW, list_companies, prices
from benchmarks.timing import Result
from wise_ledger.core.records.columnkinds import PRICES
from wise_ledger.core.records.columns import RecordColumns
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store.blocks import read_blocks
from wise_ledger.store.ledger import Ledger
from wise_ledger.work.load import load_file

SIZES = {"small": 30, "full": 2740}  # listings, 1,826 days each
BOUND, RATE = 3.0, 100_000  # times bare SQLite, rows a second: the goals


def run(size: str) -> list[Result]:
    """Ours, bare SQLite, pyarrow."""
    table = prices(SIZES[size])
    out = io.BytesIO()
    pc_csv.write_csv(table, out)
    content = out.getvalue()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "ledger.sqlite"
        with closing(Ledger(path, lambda: NOW)) as ledger:
            list_companies(ledger, SIZES[size])
            snapshots = Snapshots(ledger, Path(folder) / "columns")
            snapshots.at().universe  # noqa: B018  whom a file names is known before
            begin = time.perf_counter()
            loaded = load_file(ledger, snapshots, "prices", content)
            ours = time.perf_counter() - begin
            peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
            with ledger.database.read() as connection:
                kept = RecordColumns.together(
                    PRICES, list(read_blocks(connection, PRICES, 0, ledger.last_batch()))
                )
            begin = time.perf_counter()
            again = load_file(ledger, snapshots, "prices", content)
            unchanged = time.perf_counter() - begin
            ledger.verify()
            room = path.stat().st_size / len(kept)
        columns = [
            kept[name].tolist()
            for name in ("listing", "date", "open", "high", "low", "close", "volume")
        ]
        bare = _bare(Path(folder) / "bare.sqlite", columns)
        begin = time.perf_counter()
        pq.write_table(table, Path(folder) / "prices.parquet", compression="zstd")
        arrow = time.perf_counter() - begin
    rows = table.num_rows
    equal = (
        loaded.new == rows
        and not again.new
        and np.array_equal(kept["close"], table["close"].to_numpy())
    )
    name = f"{rows:,} rows, {rows / ours / 1000:,.0f} thousand a second, {room:.0f} bytes each"
    return [
        Result("load_columns", size, f"Wise Ledger, {name}", ours, 1.0, equal),
        Result("load_columns", size, "the same file once more", unchanged, unchanged / ours, equal),
        Result(
            "load_columns",
            size,
            f"bare executemany (we aim at {BOUND:g} x)",
            bare,
            bare / ours,
            equal,
        ),
        Result(
            "load_columns",
            size,
            f"pyarrow to Parquet; our peak memory {peak:.0f} MB",
            arrow,
            arrow / ours,
            equal,
        ),
    ]


def _bare(path: Path, columns: list[list[object]]) -> float:
    """Seconds to write the same rows."""
    with closing(sqlite3.connect(path)) as bare:
        bare.execute(
            "CREATE TABLE prices (listing, date, open, high, low, close, volume, PRIMARY KEY (listing, date))"
        )
        rows = list(zip(*columns, strict=True))
        begin = time.perf_counter()
        bare.executemany("INSERT INTO prices VALUES (?, ?, ?, ?, ?, ?, ?)", rows)
        bare.commit()
        return time.perf_counter() - begin
