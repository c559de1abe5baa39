"""Records kept as columns: written, left out where they say nothing new, hashed,
read again; files of them.
"""

import io
import sqlite3
import tempfile
import unittest
from contextlib import closing
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.csv as pc_csv
import pyarrow.parquet as pq
from benchmarks.market import list_companies, prices
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.properties import examples
from wise_ledger.core.records.columnkinds import PRICES
from wise_ledger.core.records.columns import UNSAID, RecordColumns
from wise_ledger.core.time.instants import DAY, micros
from wise_ledger.engine.histories import Histories
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store.columnpacking import pack_columns, unpack_columns
from wise_ledger.store.errors import ChainBroken
from wise_ledger.store.ledger import Ledger
from wise_ledger.work.load import load_file

NOW = datetime(2026, 1, 1, tzinfo=UTC)
NUMBERS = st.one_of(
    st.sampled_from([0.1, 12.34, 1e15, 1 / 3, 5e-324, 0.0, -0.0]),
    st.floats(allow_nan=False, allow_infinity=False),
)


def rows_of(given_: list[tuple[Any, ...]]) -> RecordColumns:
    """Prices of (listing, date, close, published_at)."""
    listing, date, close, at = zip(*given_, strict=True) if given_ else ((), (), (), ())
    return RecordColumns.of(PRICES, listing=listing, date=date, close=close, published_at=at)


ROW = st.tuples(
    st.integers(0, 2),
    st.integers(18000, 18003),
    st.sampled_from([1.5, 2.25]),
    st.sampled_from([UNSAID, 18002 * DAY]),
)


class Columns(unittest.TestCase):
    @given(
        st.lists(
            st.tuples(
                st.integers(0, 9), NUMBERS | st.just(float("nan")), st.integers(-(2**62), 2**62)
            )
        )
    )
    @settings(deadline=None)
    def test_what_is_packed_comes_back_to_the_last_bit(
        self, given_: list[tuple[int, float, int]]
    ) -> None:
        listing, close, known = zip(*given_, strict=True) if given_ else ((), (), ())
        rows = RecordColumns.of(
            PRICES, listing=listing, date=listing, close=close, known_at=known, batch=3, source=1
        )
        back = unpack_columns(PRICES, pack_columns(rows), batch=3, source=1)
        for name in PRICES.dtypes:
            self.assertEqual(rows[name].tobytes(), back[name].tobytes(), name)

    @given(st.lists(st.lists(ROW, max_size=6), min_size=1, max_size=4))
    @examples(40)
    def test_each_instant_is_a_version_and_what_says_nothing_new_leaves_no_row_t5_t8(
        self, given_: Any
    ) -> None:
        clock = [NOW]
        with (
            tempfile.TemporaryDirectory() as folder,
            closing(Ledger(Path(folder) / "l", lambda: clock[0])) as ledger,
        ):
            # By key: the close of each instant, since the last row without one.
            has: dict[Any, dict[int, float]] = {}
            every: list[Any] = []
            with ledger.batch("collection", "a source") as batch:
                source = batch.source("s", "S")
            histories = Histories(ledger, Path(folder) / "columns")
            states = []
            for n, rows in enumerate(given_):
                clock[0] = datetime(2026, 1, 2 + n, tzinfo=UTC)
                with ledger.batch("load", "some") as batch:
                    added = batch.add_columns(source, rows_of(rows))
                new, before = [], {key: dict(own) for key, own in has.items()}
                for (*key, at), close in sorted({(*k, at): c for *k, c, at in rows}.items()):
                    standing = before.get((*key,), {})
                    beside = standing.get(at if at != UNSAID else max(standing, default=at))
                    if beside == close:
                        continue
                    # T9: one that replaces another, and does not say since
                    # when, is known since its own batch.
                    known = micros(clock[0]) if standing else (key[1] + 1) * DAY - 1
                    new.append((*key, close, at, known if at == UNSAID else at))
                    own = {} if at == UNSAID else has.get((*key,), {})
                    has[(*key,)] = own | {at: close}
                self.assertEqual(added, len(new))
                every += new
                states.append((ledger.last_batch(), sorted(every, key=lambda r: r[:2])))
                for reader in (histories, Histories(ledger, Path(folder) / "columns")):
                    found = reader.of(PRICES, ledger.last_batch())
                    self.assertEqual(versions(found), states[-1][1])
            for number, state in states:  # T7: what was recorded by then
                self.assertEqual(versions(histories.of(PRICES, number)), state)
            ledger.verify()

    def test_a_file_of_any_kind_is_one_batch_and_comes_back_as_it_was(self) -> None:
        table = prices(2)
        csv, parquet, arrow = io.BytesIO(), io.BytesIO(), io.BytesIO()
        pc_csv.write_csv(table, csv)
        pq.write_table(table, parquet)
        with pa.ipc.new_stream(arrow, table.schema) as writer:
            writer.write_table(table)
        odd = csv.getvalue().replace(b",", b";").replace(b"\n", b"\r\n").replace(b'"', b"")
        for content in (csv, parquet, arrow):
            self.assertEqual(self.load(content.getvalue())[0], np.asarray(table["close"]).tolist())
        self.assertEqual(self.load(b"\xef\xbb\xbf" + odd)[0], np.asarray(table["close"]).tolist())

    def load(self, content: bytes, **how: Any) -> tuple[list[float], Any]:
        with (
            tempfile.TemporaryDirectory() as folder,
            closing(Ledger(Path(folder) / "l", lambda: NOW)) as ledger,
        ):
            list_companies(ledger, 2)
            before = ledger.last_batch()
            loaded = load_file(
                ledger, Snapshots(ledger, Path(folder) / "c"), "prices", content, **how
            )
            self.assertLessEqual(ledger.last_batch(), before + 1)
            found = Histories(ledger, Path(folder) / "c").of(PRICES, ledger.last_batch())
            ledger.verify()
            return found["close"].tolist(), loaded

    def test_every_bad_row_is_named_with_line_column_value_problem_and_mend_and_stops_no_other(
        self,
    ) -> None:
        head = "listing,date,open,high,low,close,volume,published_at\n"
        good = "AAAA@ZALD,2024-03-28,10,11,9,10.5,1000,\n"
        cases = [
            ("AAAA@ZALD,2024-03-27,10,11,9,-1,5,", "close", "above 0"),
            ("AAAA@ZALD,2024-03-27,10,11,9,0,5,", "close", "above 0"),
            ("AAAA@ZALD,2024-03-27,10,9,9.5,10,5,", "high", "below another"),
            ("AAAA@ZALD,2024-03-27,10,12,11,11,5,", "low", "above another"),
            ("AAAA@ZALD,2024-03-27,,,,,5,", "close", "no price"),
            ("AAAA@ZALD,2024-03-27,10,11,9,ten,5,", "close", "no number"),
            ("AAAA@ZALD,2024-03-27,10,11,9,1e999,5,", "close", "so large"),
            ("AAAA@ZALD,2024-03-27,10,11,9,nan,5,", "close", "no number"),
            ("AAAA@ZALD,2024-03-27,10,11,9,10,-5,", "volume", "below 0"),
            ("AAAA@ZALD,2031-03-27,10,11,9,10,5,", "date", "not come yet"),
            ("AAAA@ZALD,1066-10-14,10,11,9,10,5,", "date", "not between"),
            ("AAAA@ZALD,03/04/2024,10,11,9,10,5,", "date", "ambiguous"),
            ("AAAA@ZALD,,10,11,9,10,5,", "date", "empty"),
            (",2024-03-27,10,11,9,10,5,", "listing", "empty"),
            ("ZZZZ@ZALD,2024-03-27,10,11,9,10,5,", "listing", "no single company"),
            ("AAAA@ZALD,2011-03-27,10,11,9,10,5,", "listing", "named nothing"),
            ("AAAA@ZALD,2024-03-27,10,11,9,10,5,2031-01-01T00:00:00Z", "published_at", "future"),
            ("AAAA@ZALD,2024-03-27,10,11,9,10,5,2024-03-27T18:00:00", "published_at", "time zone"),
            ("AAAA@ZALD,2024-03-28,10,11,9,10.75,5,", "close", "says otherwise"),
            ("AAAA@ZALD,2024-03-27,10,11,9,1,0842,5,", "row", "9 cells"),
            ("AAAA@ZALD,2024-03-27,10", "row", "3 cells"),
        ]
        for row, column, problem in cases:
            content = f"{head}\n{good}{row}\nBAAA@ZALD,2024-03-28,5,6,4,5.5,9,\n".encode()
            with self.subTest(row):
                closes, loaded = self.load(content)
                self.assertEqual((closes, loaded.batch), ([], None))
                self.assertEqual([(b.line, b.column) for b in loaded.bad], [(4, column)])
                self.assertIn(problem, loaded.bad[0].problem)
                self.assertTrue(loaded.bad[0].mend)
                closes, loaded = self.load(content, accept_good=True)
                self.assertEqual((closes, loaded.rows), ([10.5, 5.5], 2))

    def test_a_flipped_byte_of_a_block_is_found_by_verify(self) -> None:
        with (
            tempfile.TemporaryDirectory() as folder,
            closing(Ledger(Path(folder) / "l", lambda: NOW)) as ledger,
        ):
            with ledger.batch("load", "some") as batch:
                batch.add_columns(batch.source("s", "S"), rows_of([(0, 18000, 1.5, UNSAID)]))
            ledger.verify()
            with closing(sqlite3.connect(Path(folder) / "l")) as raw:
                with self.assertRaises(sqlite3.IntegrityError):
                    raw.execute("UPDATE blocks SET rows = 2")
                raw.execute("DROP TRIGGER blocks_no_update")
                (payload,) = raw.execute("SELECT payload FROM blocks").fetchone()
                for place in (0, len(payload) // 2, len(payload) - 1):
                    flipped = bytearray(payload)
                    flipped[place] ^= 1
                    # a text in its place too
                    for damaged in (bytes(flipped), flipped.decode("latin-1")):
                        raw.execute("UPDATE blocks SET payload = ?", (damaged,))
                        raw.commit()
                        with self.assertRaises(ChainBroken):
                            ledger.verify()


def versions(rows: RecordColumns) -> list[Any]:
    """The rows as they stand: by listing and date, then as they were recorded."""
    names = ("listing", "date", "close", "published_at", "known_at")
    return list(zip(*(rows[n].tolist() for n in names), strict=True))
