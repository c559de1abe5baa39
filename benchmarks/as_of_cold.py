"""as_of_cold and memory: ten balances at each month end from a stopped service,
in a process of its own.

Ours starts, opens its columns, forms timelines and evaluates a panel; DuckDB opens a file of its
own with the same figures, sorted, and joins. Memory is the most that our process had, against the
panel and the columns it rests on.
"""

import subprocess
import sys
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from contextlib import closing
from multiprocessing import get_context
from pathlib import Path

import duckdb
import numpy as np

from benchmarks.after_a_batch import NOW, fill
from benchmarks.as_of import STEPS_AT, month_ends
from benchmarks.timing import Result
from wise_ledger.core.catalogue.items import ITEMS, Nature
from wise_ledger.core.records.limits import Limits
from wise_ledger.store.ledger import Ledger

# companies, quarters, dates, items
SIZES = {"small": (60, 12, 60, 40), "full": (3000, 60, 180, 40)}
_TIMES = 2


def run(size: str) -> list[Result]:
    """Seconds from the start of the process to the panel; peak memory."""
    companies, quarters, dates, items = SIZES[size]
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as pool:
            count = pool.submit(fill, folder / "ledger.sqlite", companies, quarters, items).result()
            balances = pool.submit(_tables, folder).result()
        cutoffs = month_ends(dates)
        cells = {
            "company": np.repeat(np.arange(companies), dates),
            "known_at": np.tile(cutoffs, companies),
        }
        np.savez(folder / "asked.npz", **cells)
        own = ["-m", "benchmarks.panel_cold", str(folder), *balances]
        other = [
            "benchmarks/joined_cold.py",
            str(folder),
            str(Limits().stale_after),
            STEPS_AT,
            *balances,
        ]
        _apart(own)  # columns are written, once for all
        ours, texts = min(_apart(own) for _ in range(_TIMES))
        theirs, _ = min(_apart(other) for _ in range(_TIMES))
        answer = np.load(folder / "ours.npy")
        joined = np.load(folder / "theirs.npy").reshape(answer.shape)
        columns = (
            sum(f.stat().st_size for f in (folder / "columns").rglob("*") if f.is_file())
            * len(balances)
            / items
        )
    equal = np.array_equal(answer, joined, equal_nan=True)
    peak, idle = (float(word) for word in texts.split())
    used = (answer.nbytes + columns) / 1e6
    what = f"peak {peak:.0f} MB ({idle:.0f} of it on start); panel and columns used {used:.0f} MB, goal 2 x"
    return [
        Result(
            "as_of_cold",
            size,
            f"wise ledger, {count:,} facts, {len(balances)} balances",
            ours,
            1.0,
            True,
        ),
        Result("as_of_cold", size, "duckdb, its file opened, joined", theirs, theirs / ours, equal),
        Result("memory", size, what, ours, 1.0, True),
    ]


def _tables(folder: Path) -> list[str]:
    """The same figures of ten balances in a file of DuckDB's; which they are."""
    with (
        closing(Ledger(folder / "ledger.sqlite", lambda: NOW)) as ledger,
        ledger.database.read() as connection,
    ):
        driver = connection.connection.driver_connection
        assert driver is not None
        numbers = dict(driver.execute("SELECT code, number FROM items"))
        codes = [c for c in numbers if ITEMS[c].nature is Nature.STOCK and not ITEMS[c].sum_of][:10]
        with duckdb.connect(str(folder / "facts.duckdb")) as other:
            for code in codes:
                query = "SELECT company, period_end, published_at, position, value FROM facts WHERE item = ?"
                rows = np.array(driver.execute(query, [numbers[code]]).fetchall())
                names = ("company", "period_end", "known_at", "position")
                table = {n: rows[:, i].astype(np.int64) for i, n in enumerate(names)} | {
                    "value": rows[:, 4]
                }
                other.register("given", table)
                other.execute(
                    f"create table {code} as select * from given order by company, known_at, position"
                )
    return codes


def _apart(program: list[str]) -> tuple[float, str]:
    begin = time.perf_counter()
    texts = subprocess.run(
        [sys.executable, *program], check=True, capture_output=True, text=True
    ).stdout
    return time.perf_counter() - begin, texts
