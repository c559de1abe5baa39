"""Load currency rates from a file (M2): one batch or none."""

from collections.abc import Sequence
from datetime import date
from math import isfinite

from wise_ledger.core.errors import bad_input
from wise_ledger.core.money.currencies import is_currency
from wise_ledger.core.records.records import RateRecord
from wise_ledger.core.time.instants import read_date
from wise_ledger.store.ledger import Ledger
from wise_ledger.work.loading import FILES, Loaded, read_rows
from wise_ledger.work.tablefile import Line

COLUMNS = ("base", "quote", "date", "rate")


def load_rates(ledger: Ledger, lines: Sequence[Line], *, accept_good: bool = False) -> Loaded:
    """Units of `quote` for one `base` on `date`; what is known unchanged is left out (T8)."""
    told: dict[tuple[str, str, date], RateRecord] = {}
    today = ledger.now().date()

    def read(line: Line) -> RateRecord:
        record = _read(line.cells, today)
        known = told.setdefault((record.base, record.quote, record.day), record)
        if known.rate != record.rate:
            problem = f"this day has the rate {known.rate:g} too, in a row before"
            raise bad_input("rate", line.cells["rate"], problem, "keep one of them")
        return record

    good, bad = read_rows(lines, COLUMNS, read)
    if not good or (bad and not accept_good):
        return Loaded("rates", 0, None, tuple(bad))
    before = ledger.last_batch()
    with ledger.batch("load", f"{len(good)} rates from a file") as batch:
        new = batch.add_rates(batch.source(*FILES), good)
    last = ledger.last_batch()
    return Loaded("rates", len(good), last if last > before else None, tuple(bad), new)


def _read(cells: dict[str, str], today: date) -> RateRecord:
    for name in ("base", "quote"):
        if not is_currency(cells[name]):
            raise bad_input(name, cells[name], "this is no currency", "write the three capitals of ISO 4217")
    if cells["base"] == cells["quote"]:
        raise bad_input("quote", cells["quote"], "a currency has no rate to itself", "name another currency")
    day = read_date(cells["date"], "date")
    if day > today:
        raise bad_input("date", str(day), "this day has not come yet", "check the date")
    try:
        rate = float(cells["rate"])
    except ValueError:
        rate = float("nan")
    if not (isfinite(rate) and rate > 0):
        mend = f"write how many {cells['quote']} one {cells['base']} buys, such as 1.08"
        raise bad_input("rate", cells["rate"], "this is no rate", mend)
    return RateRecord(cells["base"], cells["quote"], day, rate)
