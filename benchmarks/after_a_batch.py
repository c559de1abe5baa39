"""after_a_batch: the first answer after one more batch of one filing,
against a full rebuild of what was asked.

A ledger of many companies is filled behind the writer's back; then batches come through the front
door.
"""

import tempfile
import threading
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from contextlib import closing
from datetime import UTC, date, datetime, timedelta
from multiprocessing import get_context
from pathlib import Path

import numpy as np

from benchmarks.panel_cold import peak_memory
from benchmarks.timing import Result
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.catalogue.items import ITEMS, Nature
from wise_ledger.core.records.records import DocumentRecord, FactRecord
from wise_ledger.core.screening.screen import screen
from wise_ledger.core.time.instants import DAY
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store.ledger import Ledger

# Companies, quarters, items; 15 % restated.
SIZES = {"small": (100, 12, 10), "full": (3000, 60, 40)}
RATIO = "operating_income / revenue > 10%"
MEMORY = 1024  # MB, the goal
RULES = (
    RATIO, "net_income / total_assets > 2%", "growth(revenue, 1y) > 5%", "current_assets / current_liabilities > 1",
    "gross_profit / revenue > 20%", "operating_cash_flow > 0 and capital_expenditure < 0",
    "rank(revenue) <= 100", "cash_and_equivalents / total_assets > 10%",
)  # fmt: skip
NOW = datetime(2026, 1, 1, tzinfo=UTC)
_FIRST = (
    "revenue operating_income net_income total_assets current_assets current_liabilities gross_profit "
    "operating_cash_flow capital_expenditure cash_and_equivalents"
).split()
VIEW = Viewpoint(datetime(2024, 6, 30, 23, 59, 59, tzinfo=UTC))


def fill(path: Path, companies: int, quarters: int, items: int) -> int:
    """A ledger with the figures of so many companies; how many they are."""
    codes = [
        *_FIRST,
        *(c for c, i in ITEMS.items() if c not in _FIRST and i.nature is not Nature.OBSERVATION),
    ][:items]
    with closing(Ledger(path, lambda: NOW)) as ledger, ledger.batch("load", "companies") as batch:
        source = batch.source("bench", "Bench")
        for number in range(companies):
            batch.company(source, "bench", str(number), 0)
        document = DocumentRecord("d", "All", "filing", "text/plain", b"all", NOW)
        batch.document(source, document)
        numbers = [batch.item(c) for c in codes]
    rng = np.random.default_rng(5)
    ends = (np.datetime64("2009-04") + 3 * np.arange(quarters)).astype("M8[D]").astype(np.int64) - 1
    starts = np.append(
        (np.datetime64("2009-01") + 3 * np.arange(quarters)).astype("M8[D]").astype(np.int64), 0
    )[:-1]
    with closing(Ledger(path, lambda: NOW)) as ledger, ledger.database.write() as connection:
        driver = connection.connection.driver_connection
        assert driver is not None
        names = [r[1] for r in driver.execute("PRAGMA table_info(facts)")]
        insert = f"INSERT INTO facts ({', '.join(names)}) VALUES ({', '.join('?' for _ in names)})"
        count = 0
        for number, code in zip(numbers, codes, strict=True):
            flow = ITEMS[code].nature is Nature.FLOW
            unit = {"money": "EUR", "money_per_share": "EUR/shares"}.get(
                ITEMS[code].unit, ITEMS[code].unit
            )
            again = np.flatnonzero(rng.random(companies * quarters) < 0.15)
            rows = np.concatenate([np.arange(companies * quarters), again])
            at = (ends[rows % quarters] + rng.integers(20, 90, len(rows))) * DAY
            at[companies * quarters :] += rng.integers(100, 700, len(again)) * DAY
            size = len(rows)
            columns = {
                "id": range(count, count + size),
                "batch": [1] * size,
                "position": range(count, count + size),
                "company": (rows // quarters).tolist(),
                "item": [number] * size,
                "basis": ["consolidated"] * size,
                "period_start": starts[rows % quarters].tolist() if flow else [None] * size,
                "period_end": ends[rows % quarters].tolist(),
                "declared_end": [None] * size,
                "fiscal_period": [None] * size,
                "value": rng.uniform(1, 1e9, size).tolist(),
                "reported": [""] * size,
                "scale": [0] * size,
                "unit": [unit] * size,
                "published_at": at.tolist(),
                "assumed": [0] * size,
                "source": [0] * size,
                "document": [0] * size,
                "place": [""] * size,
            }
            driver.executemany(insert, zip(*(columns[n] for n in names), strict=True))
            count += size
    return count


def run(size: str) -> list[Result]:
    """First answers after a batch, and what a full rebuild of the same takes."""
    companies, quarters, items = SIZES[size]
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        # In a process of its own, so that its memory is not counted as ours.
        with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as pool:
            count = pool.submit(fill, folder / "ledger.sqlite", companies, quarters, items).result()
        with closing(Ledger(folder / "ledger.sqlite", lambda: NOW)) as ledger:
            return _measure(size, ledger, folder, companies, count)


def _measure(size: str, ledger: Ledger, folder: Path, companies: int, count: int) -> list[Result]:
    everybody = list(range(companies))
    snapshots = Snapshots(ledger, folder / "columns")

    def ask(*rules: str, of: Snapshots | None = None) -> list[object]:
        view = (of or snapshots).at().view
        return [screen(view, rule, everybody, VIEW) for rule in rules]

    results = []

    def measured(what: str, seconds: float, rebuilt: float, equal: bool = True) -> None:
        results.append(
            Result("after_a_batch", size, what, seconds, rebuilt / seconds, equal, "equal")
        )

    ask(*RULES)  # column files are made, once for all
    restarted = Snapshots(ledger, folder / "columns")
    one, _ = _timed(lambda: ask(RATIO, of=restarted))
    measured(f"{count:,} facts: one ratio, started again", one, one)
    eight, all_eight = _timed(lambda: ask(*RULES, of=Snapshots(ledger, folder / "columns")))
    measured("8 rules, started again", eight, eight)
    for n in range(2):
        _filing(ledger, n)
        after, answer = _timed(lambda: ask(RATIO))
        warm, again = _timed(lambda: ask(RATIO))
        fresh = ask(RATIO, of=Snapshots(ledger, folder / "columns"))
        measured(
            f"one ratio after a filing (warm {warm * 1e3:.0f} ms)",
            after,
            one,
            answer == again == fresh,
        )
        _filing(ledger, n + 10)
        after, _ = _timed(lambda: ask(*RULES))
        warm, _ = _timed(lambda: ask(*RULES))
        measured(f"8 rules after a filing (warm {warm * 1e3:.0f} ms)", after, eight)
    _filing(ledger, 20)
    four, _ = _timed(lambda: _at_once(4, lambda: ask(*RULES)))
    measured("8 rules after a filing, four at once", four, eight)
    _everybody(ledger, companies)
    after, spliced = _timed(lambda: ask(*RULES))
    rebuilt, formed = _timed(lambda: ask(*RULES, of=Snapshots(ledger, folder / "columns")))
    measured(
        "8 rules after a batch of everybody's, against their rebuild",
        after,
        rebuilt,
        spliced == formed != all_eight,
    )
    # A service of its own, as one is started: here several states of the
    # ledger are kept side by side.
    with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as pool:
        seconds, peak = pool.submit(_service, folder, companies).result()
    what = f"8 rules in a process of its own: peak memory {peak:.0f} MB (we aim at {MEMORY})"
    results.append(Result("after_a_batch", size, what, seconds, 1.0, True))
    return results


def _service(folder: Path, companies: int) -> tuple[float, float]:
    """Seconds until a service that was just started has answered the eight rules,
    and its peak memory in MB.
    """
    with closing(Ledger(folder / "ledger.sqlite", lambda: NOW)) as ledger:
        snapshots = Snapshots(ledger, folder / "columns")
        begin = time.perf_counter()
        for rule in RULES:
            screen(snapshots.at().view, rule, list(range(companies)), VIEW)
        return time.perf_counter() - begin, peak_memory()


def _timed(work: Callable[[], object]) -> tuple[float, object]:
    begin = time.perf_counter()
    answer = work()
    return time.perf_counter() - begin, answer


def _at_once(many: int, work: Callable[[], object]) -> None:
    askers = [threading.Thread(target=work) for _ in range(many)]
    for asker in askers:
        asker.start()
    for asker in askers:
        asker.join()


def _filing(ledger: Ledger, number: int) -> None:
    """One company's next quarter, of every item that there is."""
    with ledger.batch("collection", "filing") as batch:
        source = batch.source("bench", "Bench")
        body = f"filing {number}".encode()
        document = batch.document(
            source, DocumentRecord(str(number), "Filing", "filing", "text/plain", body, NOW)
        )
        records = [(document, _fact(code, 17.0 + number)) for code in _FIRST]
        batch.add_facts(number * 7 % 50, source, records)


def _everybody(ledger: Ledger, companies: int) -> None:
    with ledger.batch("collection", "everybody") as batch:
        source = batch.source("bench", "Bench")
        records = [
            (c, 0, _fact(code, 3.0))
            for c in range(companies)
            for code in ("revenue", "total_assets")
        ]
        batch.add_facts_of(source, records)


def _fact(code: str, value: float) -> FactRecord:
    item, end = ITEMS[code], date(2024, 3, 31)
    start = date(2024, 1, 1) if item.nature is Nature.FLOW else None
    published = datetime(2024, 5, 1, tzinfo=UTC) + timedelta(seconds=value)
    return FactRecord(code, start, end, value, "", 0, "EUR", published, "")
