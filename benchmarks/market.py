"""Made-up prices of many listings, and a ledger that knows these listings."""

from datetime import UTC, date, datetime

import numpy as np
import pyarrow as pa

from wise_ledger.core.records.kinds import VENUES
from wise_ledger.core.records.records import (
    AttributeRecord,
    ListingRecord,
    SecurityRecord,
    VenueRecord,
)
from wise_ledger.core.time.periods import day
from wise_ledger.store.ledger import Ledger

NOW = datetime(2026, 1, 1, tzinfo=UTC)
FIRST, LAST = day(date(2019, 1, 1)), day(date(2025, 12, 30))


def list_companies(ledger: Ledger, companies: int) -> None:
    """So many companies, each with a listing of its own number."""
    with ledger.batch("collection", "companies") as batch:
        source = batch.source("s", "S")
        venue = VenueRecord("ZALD", "Aldmoor Exchange", "XA", "UTC", "17:30", date(2012, 1, 1))
        batch.add(VENUES, [venue], source=source)
        for n in range(companies):
            number = batch.company(source, "s", f"B-{n:04d}", 0)
            batch.add_attributes(
                number, source, [AttributeRecord("name", f"Company {n}", date(2012, 1, 1))]
            )
            listing = ListingRecord(symbol(n), "ZALD", "USD", date(2012, 1, 1), None, True)
            security = SecurityRecord(f"S-{n:04d}", "ordinary", "Ordinary", None, (listing,))
            batch.add_securities(number, source, [security])


def symbol(n: int) -> str:
    """A symbol of four letters."""
    return "".join(chr(65 + n // 26**place % 26) for place in range(4))


def prices(listings: int) -> pa.Table:
    """Every weekday's prices of so many listings, as a file has them."""
    rng = np.random.default_rng(7)
    days = np.array([d for d in range(FIRST, LAST) if (d + 3) % 7 < 5], np.int32)
    steps = rng.normal(0, 0.015, (listings, len(days)))
    close = np.maximum(np.round(40 * np.exp(np.cumsum(steps, axis=1)), 2), 0.05)
    open_ = np.maximum(np.round(close * (1 + rng.normal(0, 0.004, close.shape)), 2), 0.05)
    columns = {
        "open": open_,
        "high": np.round(np.maximum(open_, close) * 1.004 + 0.01, 2),
        "low": np.maximum(np.round(np.minimum(open_, close) * 0.996 - 0.01, 2), 0.01),
        "close": close,
        "volume": np.round(rng.lognormal(11, 0.6, close.shape)),
    }
    names = pa.array([f"{symbol(n)}@ZALD" for n in range(listings)])
    which = pa.array(np.repeat(np.arange(listings, dtype=np.int32), len(days)))
    dates = pa.array(np.tile(days, listings)).cast(pa.date32())
    table = {
        "listing": pa.DictionaryArray.from_arrays(which, names).cast(pa.string()),
        "date": dates,
    }
    return pa.table(table | {name: c.ravel() for name, c in columns.items()})
