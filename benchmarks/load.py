"""load: facts read out of filings, checked, deduplicated, written, hashed and indexed,
against bare SQLite.

The comparison is `executemany` of the very same rows into a table with the same indexes, in one
transaction, without reading, checking or hashing anything.
"""

import json
import os
import resource
import sqlite3
import tempfile
import time
from collections.abc import Collection as Keys
from concurrent.futures import ProcessPoolExecutor
from contextlib import closing
from datetime import UTC, date, datetime
from functools import cache
from multiprocessing import get_context
from pathlib import Path
from statistics import median

from benchmarks.timing import Result
from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.records.records import AttributeRecord, CompanyRecord
from wise_ledger.sources.fernmark import Fernmark
from wise_ledger.sources.mapping import shipped
from wise_ledger.sources.market import MarketFound
from wise_ledger.sources.protocol import (
    CompaniesFound,
    FilingsFound,
    ListsFound,
    RatesFound,
    VenuesFound,
)
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.operations import Asked
from wise_ledger.work.collect import Collection

SIZES = {"small": (6, 20), "full": (255, 49)}  # companies, filings each; 80 figures in a filing
_TIMES = 3  # the same insert may take twice as long a moment later
BOUND, MEMORY = 3.0, 400  # times bare SQLite, the goal; MB
_RULES = [
    r for r in shipped("fernmark").all() if not r.item.endswith("eps") and "shares" not in r.item
][:80]
_NOW = datetime(2026, 1, 1, tzinfo=UTC)


@cache
def _lines() -> dict[str, dict[str, int]]:
    """The lines of each subtotal, with the sign that they have in it, of those in a filing."""
    there = {rule.item for rule in _RULES}
    found: dict[str, dict[str, int]] = {item: {} for item in there}
    for item in there:
        for part in ITEMS[item].parts_of:
            if part.into in there:
                found[part.into][item] = part.sign
    return found


def _amount(item: str, own: int) -> int:
    """What a filing says of an item: it foots,
    but for one line that is made up otherwise in each template.
    """
    if lines := _lines()[item]:
        return sum(sign * _amount(line, own) for line, sign in lines.items())
    return own + len(item)


def filing(company: int, number: int) -> bytes:
    """One filing's bytes."""
    year, quarter = 2012 + number // 4, number % 4
    end = (date(year, 3, 31), date(year, 6, 30), date(year, 9, 30), date(year, 12, 31))[quarter]
    start = date(year, 3 * quarter + 1, 1)
    own = company * 1000 + number * 7
    figures = [
        {"tag": rule.tag, "from": str(start), "to": str(end), "amount": _amount(rule.item, own)}
        for rule in _RULES
    ]
    head = {"title": f"Results {number}", "kind": "results", "currency": "EUR", "scale": 3,
            "published_at": f"{year + 1}-02-{1 + number % 27:02d}T07:00:00Z"}  # fmt: skip
    return json.dumps({**head, "figures": figures}).encode()


class Shelf(Fernmark):
    """The adapter over filings that are made beforehand, without a network."""

    def __init__(self, companies: int, filings: int) -> None:
        super().__init__("http://shelf.example", "", 1.0)
        self._sizes = companies, filings
        self._file = tempfile.TemporaryFile()  # noqa: SIM115 - not in the memory that is measured
        self._at: dict[tuple[int, int], tuple[int, int]] = {}
        for of in ((c, n) for c in range(companies) for n in range(filings)):
            raw = filing(*of)
            self._at[of] = len(raw), self._file.tell()
            self._file.write(raw)
        self._file.flush()

    def bytes_of(self, company: int, number: int) -> bytes:
        """A filing that was made."""
        return os.pread(self._file.fileno(), *self._at[company, number])

    def companies(self, mark: str | None = None) -> CompaniesFound:
        named = [
            AttributeRecord("name", f"Company {n}", date(2012, 1, 1)) for n in range(self._sizes[0])
        ]
        records = [CompanyRecord(f"B-{n:04d}", a.value, (a,), ()) for n, a in enumerate(named)]
        return CompaniesFound(records, None, {r.key: self._sizes[1] for r in records})

    def lists(self, mark: str | None = None) -> ListsFound:
        return ListsFound([], None)

    def rates(self, mark: str | None = None) -> RatesFound:
        return RatesFound([], None)

    def venues(self, mark: str | None = None) -> VenuesFound:
        return VenuesFound(None, None)

    def market_calls(self, mark: str | None = None) -> int:
        return 0

    def market(self, mark: str | None = None) -> MarketFound:
        return MarketFound(mark=mark)

    def filings(
        self,
        company: CompanyRecord,
        known: Keys[str],
        mark: str | None = None,
        since: date | None = None,
    ) -> FilingsFound:
        number = int(company.key[2:])
        documents = [
            (f"{company.key}-{n}", self.bytes_of(number, n), 12, None)
            for n in range(self._sizes[1])
        ]
        return self.found(documents, None)


def run(size: str) -> list[Result]:
    """Ours, bare SQLite, and the peak memory of ours.

    In turns, each in the middle of some times: what else a machine does within minutes falls on
    both.
    """
    companies, filings = SIZES[size]
    ours, bare, peak, facts, equal = [], [], 0.0, 0, True
    for _ in range(_TIMES):
        with tempfile.TemporaryDirectory() as folder, _alone() as process:
            path = Path(folder) / "ledger.sqlite"
            took, peak = _load(path, companies, filings)  # the peak of all until then
            written, seconds = process.submit(_bare, path, Path(folder) / "bare.sqlite").result()
            with closing(Ledger(path, lambda: _NOW)) as ledger:
                facts = ledger.verify().facts
        ours.append(took)
        bare.append(seconds)
        equal &= written == facts == companies * filings * len(_RULES)
    took, least = median(ours), median(bare)
    name = f"{facts:,} facts, {took / facts * 1e6:.0f} us each"
    return [
        Result("load", size, f"Wise Ledger, {name}", took, 1.0, equal),
        Result(
            "load", size, f"bare executemany (we aim at {BOUND:g} x)", least, least / took, equal
        ),
        Result(
            "load",
            size,
            f"peak memory {peak:.0f} MB ({MEMORY} allowed)",
            0.0,
            1.0,
            peak < MEMORY,
            "within",
        ),
    ]


def _load(path: Path, companies: int, filings: int) -> tuple[float, float]:
    """Seconds to load the filings into a new ledger, and MB at most until then."""
    with closing(Ledger(path, lambda: _NOW)) as ledger:
        shelf = Shelf(companies, filings)
        beside: list[float] = [0.0]
        begin = time.perf_counter()
        Collection(
            ledger, shelf, Asked("fernmark"), lambda *_: beside.append(_peak_beside(shelf))
        ).run(set())
        took = time.perf_counter() - begin
    return took, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024 + max(beside)


def _peak_beside(shelf: Shelf) -> float:
    """MB at most of the process that reads its documents."""
    if shelf.aside is None:
        return 0.0
    status = Path(f"/proc/{shelf.aside.process.pid}/status").read_text("ascii")
    return int(status.partition("VmHWM:")[2].split()[0]) / 1024


def _alone() -> ProcessPoolExecutor:
    """A process of its own: its rows are not in the memory that is measured."""
    return ProcessPoolExecutor(1, get_context("spawn"))


def _bare(path: Path, other: Path) -> tuple[int, float]:
    """How many rows a ledger has, and seconds to write the same rows with the same indexes."""
    with closing(sqlite3.connect(path)) as source:
        rows = source.execute("SELECT * FROM facts ORDER BY id").fetchall()
        schema = source.execute(
            "SELECT sql FROM sqlite_master WHERE tbl_name = 'facts' AND type != 'trigger'"
        )
        statements = [sql for (sql,) in schema if sql]
    marks = ", ".join("?" for _ in rows[0])
    with closing(sqlite3.connect(other)) as bare:
        for statement in statements:
            bare.execute(statement)
        begin = time.perf_counter()
        bare.executemany(f"INSERT INTO facts VALUES ({marks})", rows)
        bare.commit()
        return len(rows), time.perf_counter() - begin
