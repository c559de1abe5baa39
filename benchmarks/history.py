"""history: five years of daily prices of 500 listings as Arrow over HTTP,
against pyarrow reading them from Parquet.

The service runs on loopback, in a process of its own; the client reads its answer into an Arrow
table. The comparison reads a Parquet file that holds just the rows asked for.
"""

import multiprocessing
import tempfile
import threading
from contextlib import ExitStack, closing
from datetime import UTC, date, datetime
from io import BytesIO
from multiprocessing.connection import Connection
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
import pyarrow.parquet as pq

from benchmarks.market import list_companies, prices, symbol
from benchmarks.timing import Result, best_of
from wise_ledger.client import connect
from wise_ledger.launch.running import address, bind, running
from wise_ledger.service.app import create_app
from wise_ledger.work.desk import Desk
from wise_ledger.work.load import load_file

SIZES = {"small": (60, 20), "full": (1_000, 500)}  # listings of the ledger, and those asked for
START, END = "2020-01-01", "2024-12-31"
BOUND = 1.5  # times pyarrow: the goal
COLUMNS = ["date", "open", "high", "low", "close", "volume"]


def run(size: str) -> list[Result]:
    """Ours, pyarrow from Parquet."""
    listings, asked = SIZES[size]
    table = prices(listings)
    names = [f"{symbol(n)}@ZALD" for n in range(asked)]
    day = table["date"].cast(pa.int32())
    begin, end = ((date.fromisoformat(d) - date(1970, 1, 1)).days for d in (START, END))
    within = pc.and_(pc.greater_equal(day, begin), pc.less_equal(day, end))
    own = table.filter(pc.and_(within, pc.is_in(table["listing"], pa.array(names))))
    with ExitStack() as stack:
        folder = Path(stack.enter_context(tempfile.TemporaryDirectory()))
        with closing(Desk.open(folder, {}, lambda: datetime.now(UTC))) as desk:
            list_companies(desk.ledger, listings)
            content = BytesIO()
            pq.write_table(table, content)
            load_file(desk.ledger, desk.snapshots, "prices", content.getvalue())
            _, token = desk.tokens.make("benchmarks")
        context = multiprocessing.get_context("spawn")
        here, there = context.Pipe()
        service = context.Process(target=serve, args=(folder, there), daemon=True)
        service.start()
        stack.callback(service.terminate)
        ledger = stack.enter_context(connect(here.recv(), token))
        ledger.prices(names, START, END, END, columns=COLUMNS)  # the columns are mapped
        ours, answer = best_of(
            7, lambda: ledger.prices(names, START, END, END, columns=COLUMNS).arrow()
        )
        path = folder / "own.parquet"
        pq.write_table(own, path, compression="zstd")
        theirs, read = best_of(7, lambda: pq.read_table(path))
    equal = answer.num_rows == read.num_rows and np.array_equal(
        answer["close"].to_numpy(), read["close"].to_numpy()
    )
    rows = f"{answer.num_rows:,} rows, {answer.nbytes / 1e6:.0f} MB"
    return [
        Result("history", size, f"Wise Ledger as Arrow over HTTP, {rows}", ours, 1.0, equal),
        Result(
            "history",
            size,
            f"pyarrow from Parquet ({BOUND:g} x it is aimed at)",
            theirs,
            theirs / ours,
            equal,
        ),
    ]


def serve(folder: Path, answers: Connection) -> None:
    """The service in a process of its own; prints its address."""
    with closing(Desk.open(folder, {}, lambda: datetime.now(UTC))) as desk:
        bound = bind("127.0.0.1", 0, "--port")
        with running(create_app(desk), bound):
            answers.send(address(bound))
            threading.Event().wait()
