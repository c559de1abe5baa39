"""What a source says of a market: what names nobody is refused and said, the rest is kept."""

import tempfile
import unittest
from collections.abc import Iterator
from contextlib import closing, contextmanager
from datetime import UTC, date, datetime
from pathlib import Path

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.properties import examples
from wise_ledger.core.records.columnkinds import ESTIMATES, LEVELS, PRICES
from wise_ledger.core.records.columns import ColumnKind
from wise_ledger.core.records.records import DividendRecord, ListingRecord, SecurityRecord
from wise_ledger.core.time.instants import micros
from wise_ledger.core.time.periods import day
from wise_ledger.sources.market import (
    EstimatesFound,
    Expected,
    LevelsFound,
    MarketFound,
    PricesFound,
)
from wise_ledger.store.batch import BatchWriter
from wise_ledger.store.blocks import read_blocks
from wise_ledger.store.ledger import Ledger
from wise_ledger.work.collectmarket import write_estimates, write_market

NOW = datetime(2026, 1, 1, tzinfo=UTC)
SINCE, UNTIL = date(2020, 1, 1), date(2020, 12, 31)
PUBLISHED = micros(datetime(2021, 1, 1, tzinfo=UTC))


@contextmanager
def writing() -> Iterator[tuple[BatchWriter, int, int]]:
    """A batch of a ledger with company A, traded as A at ZALD in 2020, on list `l`; source, company."""
    with (
        tempfile.TemporaryDirectory() as folder,
        closing(Ledger(Path(folder) / "l", lambda: NOW)) as ledger,
    ):
        with ledger.batch("collection", "whom it is of") as batch:
            source = batch.source("s", "S")
            company = batch.company(source, "s", "A", 0)
            listing = ListingRecord("A", "ZALD", "USD", SINCE, UNTIL, True)
            security = SecurityRecord("A-1", "ordinary", "Ordinary", None, (listing,))
            batch.add_securities(company, source, [security])
            batch.add_list_note("l", "L", "", False, "Ada")
        with ledger.batch("collection", "the market") as batch:
            yield batch, source, company


def kept(batch: BatchWriter, kind: ColumnKind) -> int:
    """How many rows of a kind the ledger has, with those of the batch."""
    blocks = read_blocks(batch._connection, kind, 0, batch.number)
    return sum(map(len, blocks))


def refused(batch: BatchWriter) -> set[tuple[str, str]]:
    return {(p.at, p.value) for found in batch.refused.values() for p in found}


class Market(unittest.TestCase):
    @examples(20)
    @given(
        st.lists(
            st.tuples(st.sampled_from(["A-1", "B-1"]), st.integers(-400, 800)),
            min_size=1,
            max_size=12,
            unique=True,
        ),
        st.lists(st.tuples(st.sampled_from("lmn"), st.integers(0, 30)), max_size=6, unique=True),
        st.sampled_from(["A-1", "B-1"]),
    )
    def test_prices_of_no_listing_and_levels_of_no_list_are_said_and_the_rest_is_kept(
        self, prices: list[tuple[str, int]], levels: list[tuple[str, int]], paying: str
    ) -> None:
        keys, names = ("A-1", "B-1"), ("l", "m", "n")
        days = np.array([day(SINCE) + n for _, n in prices])
        ones = np.ones(len(prices))
        bars = dict.fromkeys(("open", "high", "low", "close", "volume"), ones)
        which = np.array([keys.index(k) for k, _ in prices])
        found = MarketFound(
            (PricesFound("ZALD", keys, which, {"date": days, **bars}),),
            LevelsFound(
                names,
                np.array([names.index(n) for n, _ in levels], np.int64),
                {
                    "date": np.array([day(SINCE) + n for _, n in levels], np.int64),
                    "level": np.full(len(levels), 100.0),
                    "total_return_level": np.full(len(levels), np.nan),
                },
            ),
            ((paying, DividendRecord(date(2020, 5, 4), 1.0, "USD", "ordinary")),),
        )
        span = range(day(UNTIL) - day(SINCE) + 1)
        traded = {(k, n) for k, n in prices if k == "A-1" and n in span}
        lost = {("prices", k) for k, n in prices if (k, n) not in traded}
        with writing() as (batch, source, _):
            write_market(batch, source, found, {})
            self.assertEqual(
                refused(batch),
                lost
                | {("levels", n) for n in names if n != "l"}
                | ({("dividends", "B-1")} if paying == "B-1" else set()),
            )
            self.assertEqual(kept(batch, PRICES), len(traded))
            self.assertEqual(kept(batch, LEVELS), sum(n == "l" for n, _ in levels))


class Opinions(unittest.TestCase):
    @examples(20)
    @given(
        st.lists(
            st.fixed_dictionaries(
                {
                    "company": st.sampled_from(["A", "B"]),
                    "measure": st.sampled_from(["eps", "revenue", "weather", "total_assets"]),
                    "period_kind": st.sampled_from(["fy", "q", "month"]),
                    "currency": st.sampled_from(["USD", "XX", ""]),
                    "contributor": st.sampled_from(["Oak House", " "]),
                }
            ),
            min_size=1,
            max_size=8,
        )
    )
    def test_what_names_no_company_measure_period_currency_or_house_is_said(
        self, rows: list[dict[str, str]]
    ) -> None:
        good = {
            "company": {"A"}, "measure": {"eps", "revenue"}, "period_kind": {"fy", "q"}, "currency": {"USD"},
            "contributor": {"Oak House"},
        }  # fmt: skip
        count = len(rows)
        columns = {
            "period_end": day(SINCE) + np.arange(count),
            "value": np.ones(count),
            "published_at": np.full(count, PUBLISHED),
        }
        texts = {name: [row[name] for row in rows] for name in good}
        with writing() as (batch, source, company):
            found = EstimatesFound({"estimates": (Expected(texts, columns),)})
            write_estimates(batch, source, found, {"A": company})
            wrong = {
                ("estimates", row[name])
                for row in rows
                for name in good
                if row[name] not in good[name]
            }
            self.assertEqual(refused(batch), wrong)
            whole = sum(all(row[name] in good[name] for name in good) for row in rows)
            self.assertEqual(kept(batch, ESTIMATES), whole)


if __name__ == "__main__":
    unittest.main()
