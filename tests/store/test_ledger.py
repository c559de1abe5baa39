"""The ledger's file: append-only, atomic, chained,
and plain about what keeps it from working (T7, T8).
"""

import sqlite3
import tempfile
import threading
import time
import unittest
import warnings
from collections.abc import Collection
from contextlib import closing, nullcontext, suppress
from dataclasses import replace
from datetime import UTC, date, datetime
from pathlib import Path
from typing import Any
from unittest import mock

from alembic.autogenerate import compare_metadata
from alembic.command import upgrade
from alembic.migration import MigrationContext
from hypothesis import given
from hypothesis import strategies as st

from tests.properties import examples
from wise_ledger.core.catalogue.items import Item, Nature
from wise_ledger.core.identity.company_id import is_company_id
from wise_ledger.core.quality.checks import Finding
from wise_ledger.core.records import kinds
from wise_ledger.core.records.columnkinds import PRICES
from wise_ledger.core.records.columns import RecordColumns
from wise_ledger.core.records.limits import LimitSaid
from wise_ledger.core.records.records import (
    AttributeRecord,
    DelistingRecord,
    DividendRecord,
    DocumentRecord,
    FactRecord,
    IdentifierRecord,
    KeptRecord,
    ListingRecord,
    ListRecord,
    MarketVerdictRecord,
    MemberRecord,
    RateRecord,
    ReceiptRatioRecord,
    SecurityRecord,
    SeriesAttributeRecord,
    SharesRecord,
    SplitRecord,
    TagMeaning,
    VenueRecord,
    VenueWordRecord,
)
from wise_ledger.core.time.instants import micros
from wise_ledger.core.time.periods import day
from wise_ledger.store import chain, reading
from wise_ledger.store.database import Database, newest_version
from wise_ledger.store.errors import ChainBroken, StoreError
from wise_ledger.store.factwriting import FactWriter
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.lock import FolderLock
from wise_ledger.store.statetables import metadata
from wise_ledger.store.tables import LEDGER

NOW = datetime(2024, 2, 1, 12, tzinfo=UTC)
REVENUE = FactRecord(
    item="revenue",
    period_start=date(2022, 1, 1),
    period_end=date(2022, 12, 31),
    value=5e6,
    reported="5000",
    scale=3,
    unit="USD",
    published_at=datetime(2023, 2, 20, 7, tzinfo=UTC),
    place="/figures/0",
)
DOCUMENT = DocumentRecord(
    "f-1@1", "Annual report 2022", "annual_report", "application/json", b'{"a": 1}', NOW
)


class LedgerCase(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "ledger.sqlite"
        self.ledger = Ledger(self.path, lambda: NOW)
        self.addCleanup(self.ledger.close)

    def write(self, *facts: FactRecord, key: str = "A", document: DocumentRecord = DOCUMENT) -> int:
        """One batch with everything in it; how many facts were new."""
        with self.ledger.batch("collection", "test") as batch:
            source = batch.source("fernmark", "Fernmark Data")
            company = batch.company(source, "fernmark", key, 0)
            batch.add_attributes(
                company, source, [AttributeRecord("name", f"Company {key}", date(2020, 1, 1))]
            )
            listing = ListingRecord(f"{key}", "ZALD", "USD", date(2020, 1, 1), None, True)
            batch.add_securities(
                company, source, [SecurityRecord(f"{key}-S", "ordinary", "Share", None, (listing,))]
            )
            batch.add_identifiers(
                company, source, [IdentifierRecord("symbol", f"{key}@ZALD", date(2020, 1, 1))]
            )
            members = (MemberRecord("A", date(2020, 1, 1), None, 0.5),)
            batch.add_list(source, ListRecord("one", "One", members), {"A": company})
            number = batch.document(source, document)
            return batch.add_facts(company, source, [(number, f) for f in facts])

    def by_hand(self, *statements: str) -> list[Any]:
        """SQL past the ledger's own door."""
        with closing(sqlite3.connect(self.path)) as connection:
            for statement in statements[:-1]:
                connection.execute(statement)
            found = connection.execute(statements[-1]).fetchall()
            connection.commit()
            return found


class PointsTo(LedgerCase):
    def test_a_figure_of_what_is_not_there_is_refused_and_found_where_it_was_written_all_the_same(
        self,
    ) -> None:
        self.write(REVENUE)
        for lost, numbers in {
            "company": (7, 0, 0),
            "source": (0, 7, 0),
            "document": (0, 0, 7),
        }.items():
            company, source, document = numbers
            with (
                self.subTest(lost),
                self.assertRaisesRegex(ValueError, f"of a {lost} .* number 7"),
                self.ledger.batch("load", "lost") as batch,
            ):
                batch.add_facts(company, source, [(document, REVENUE._replace(value=9.0))])
        self.assertEqual(self.ledger.verify().facts, 1)
        with (
            mock.patch.object(FactWriter, "_must_be_there"),
            self.ledger.batch("load", "lost") as batch,
        ):
            batch.add_facts(0, 0, [(7, REVENUE._replace(value=9.0))])
        with self.assertRaisesRegex(
            StoreError, "a row of facts belongs to one of documents that is not there"
        ):
            self.ledger.verify()


class AppendOnly(LedgerCase):
    def test_every_table_of_the_ledger_refuses_update_and_delete(self) -> None:
        self.write(REVENUE)
        with self.ledger.batch("decision", "test") as batch:
            batch.add_decision("Company A", 0, "Ada", "the seat")
            batch.add_list_note("one", "One", "a list", False, "Ada")
            batch.add_mapping("fernmark", TagMeaning("tag", "revenue"), "Ada", "why")
            batch.add_item(
                Item("a_score", "A score", "other", Nature.OBSERVATION, "pure", ""), "Ada"
            )
            batch.add_findings([Finding(0, "scale", "too large")])
            batch.add_verdict(0, True, "Ada", "looked")
            batch.add_source_order(None, None, ["fernmark"], "Ada", "why")
            batch.add_limit(LimitSaid("lag_of_year", 0, 75), "Ada", "why")
            batch.add_facts(
                0, 0, [(0, REVENUE._replace(item="diluted_eps", share_basis_date=date(2023, 1, 2)))]
            )
            batch.add_splits(0, 0, [SplitRecord(date(2023, 1, 2), 4.0)])
            batch.add(kinds.VENUE_WORDS, [VenueWordRecord(".ALD", "ZALD", "Ada")])
            venue = VenueRecord("ZALD", "Aldmoor Exchange", "XA", "UTC", "16:30", date(2020, 1, 1))
            batch.add(kinds.VENUES, [venue], source=0)
            batch.add_rates(
                batch.source("fernmark", "F"), [RateRecord("EUR", "USD", date(2023, 1, 2), 1.1)]
            )
            listing = ListingRecord("A", "ZALD", "USD", date(2012, 1, 1))
            batch.add_securities(
                0, 0, [SecurityRecord("A-9", "ordinary", "Ordinary", None, (listing,))]
            )
            batch.add(
                kinds.DIVIDENDS,
                [DividendRecord(date(2023, 1, 2), 1.0, "USD", "ordinary")],
                security=0,
                source=0,
            )
            batch.add(
                kinds.DELISTINGS, [DelistingRecord(date(2023, 1, 2), "merger")], listing=0, source=0
            )
            batch.add(kinds.SHARES, [SharesRecord(date(2023, 1, 2), 1e6)], security=0, source=0)
            verdict = MarketVerdictRecord("prices", "li-0", date(2023, 1, 2), True, "Ada", "looked")
            batch.add(kinds.MARKET_VERDICTS, [verdict])
            batch.contributor("Harbour Street Research")
            about = SeriesAttributeRecord("title", "Output", NOW)
            batch.add(
                kinds.SERIES_ATTRIBUTES, [about], series=batch.series("OUTPUT/Q.XA"), source=0
            )
            batch.series_base("2015=100")
            batch.add(
                kinds.RECEIPT_RATIOS,
                [ReceiptRatioRecord(date(2023, 1, 2), 2.0)],
                security=0,
                source=0,
            )
            for kind in (kinds.SERIES_SHEETS, kinds.MEASURES, kinds.QUESTIONS):
                batch.add(kind, [KeptRecord("output", "Output", "", "[]", False, "Ada")])
            batch.add_columns(0, RecordColumns.of(PRICES, listing=[0], date=[19000], close=[1.5]))
        for table in (*(t.name for t in LEDGER), "batches"):
            for statement in (f"DELETE FROM {table}", f"UPDATE {table} SET batch = 9"):
                statement = (
                    statement.replace("SET batch", "SET number")
                    if table == "batches"
                    else statement
                )
                with self.assertRaisesRegex(sqlite3.IntegrityError, "append-only", msg=statement):
                    self.by_hand(statement)
        self.assertEqual(self.ledger.verify().batches, 2)

    def test_what_comes_again_unchanged_is_the_same_fact_t8(self) -> None:
        withdrawn = REVENUE._replace(value=None, reported="", published_at=NOW)
        self.assertEqual(self.write(REVENUE, REVENUE, withdrawn), 2)
        self.assertEqual(self.write(REVENUE, withdrawn), 0)
        self.assertEqual(self.ledger.last_batch(), 1)  # a batch without a new row leaves no trace
        for other in (
            REVENUE._replace(value=6e6),
            REVENUE._replace(unit="EUR"),
            REVENUE._replace(published_at=NOW),
            REVENUE._replace(basis="parent"),
            REVENUE._replace(period_start=None),
            REVENUE._replace(item="net_income"),
        ):
            self.assertEqual(self.write(other), 1, other)
        self.assertEqual(self.write(REVENUE, key="B"), 1)

    def test_a_batch_is_the_same_wherever_it_is_written(self) -> None:
        codes = [f"item_{n}" for n in (7, 3, 9, 1, 5, 2, 8)]
        self.write(*(REVENUE._replace(item=code) for code in (*codes, *codes)))
        self.assertEqual(
            [code for (code,) in self.by_hand("SELECT code FROM items ORDER BY number")], codes
        )
        self.assertEqual(len(self.by_hand("SELECT 1 FROM facts")), len(codes))

    def test_a_batch_is_written_whole_or_not_at_all(self) -> None:
        self.write(REVENUE)
        with self.assertRaises(RuntimeError), self.ledger.batch("collection", "cut off") as batch:
            source = batch.source("another", "Another")
            batch.company(source, "another", "Z", 0)
            raise RuntimeError
        self.assertEqual(self.by_hand("SELECT name FROM sources"), [("fernmark",)])
        self.assertEqual(self.write(REVENUE._replace(value=7e6)), 1)
        self.assertEqual([b.number for b in self.ledger.batches(None, 10)], [2, 1])
        self.assertEqual(self.ledger.verify().batches, 2)


class Chain(LedgerCase):
    def setUp(self) -> None:
        super().setUp()
        self.write(REVENUE)
        self.write(
            REVENUE._replace(value=6e6, published_at=NOW),
            document=replace(DOCUMENT, content=b"2", key="f-2"),
        )

    def test_any_change_from_outside_is_found_and_named(self) -> None:
        changes = {
            "UPDATE facts SET value = 5000001 WHERE batch = 1": "batch 1",
            "UPDATE facts SET published_at = published_at - 1 WHERE batch = 2": "batch 2",
            "DELETE FROM facts WHERE batch = 2": "batch 2",
            "UPDATE attributes SET value = 'Else'": "batch 1",
            "UPDATE listings SET valid_to = 19000": "batch 1",
            "UPDATE members SET weight = 0.6": "batch 1",
            "UPDATE documents SET content = X'00' WHERE batch = 2": "document",
            "UPDATE batches SET recorded_at = 0 WHERE number = 2": "batch 2",
            "UPDATE batches SET note = 'x' WHERE number = 1": "batch 1",
            "INSERT INTO lists VALUES (7, 2, 'slipped in', 'x', NULL)": "batch 2",
            "INSERT INTO lists VALUES (8, 99, 'of no batch', 'x', NULL)": "table lists",
            "DELETE FROM batches WHERE number = 1": "batch 1",
        }
        for statement, place in changes.items():
            with self.subTest(statement), tempfile.TemporaryDirectory() as folder:
                copy = Path(folder) / "ledger.sqlite"
                with (
                    closing(sqlite3.connect(self.path)) as here,
                    closing(sqlite3.connect(copy)) as there,
                ):
                    here.backup(there)
                    triggers = there.execute(
                        "SELECT name FROM sqlite_master WHERE type = 'trigger'"
                    ).fetchall()
                    for (name,) in triggers:
                        there.execute(f"DROP TRIGGER {name}")
                    there.execute(statement)
                    there.commit()
                ledger = Ledger(copy, lambda: NOW)
                self.addCleanup(ledger.close)
                with self.assertRaises(ChainBroken) as caught:
                    ledger.verify()
                self.assertIn(place, caught.exception.problems[0].at)

    def test_each_batch_names_the_hash_of_the_one_before(self) -> None:
        rows = self.by_hand("SELECT previous, hash FROM batches ORDER BY number")
        self.assertEqual(rows[0][0], "0" * 64)
        self.assertEqual(rows[1][0], rows[0][1])
        self.assertEqual(self.ledger.verify().hash, rows[1][1])

    def test_the_same_batches_written_elsewhere_have_the_same_hashes(self) -> None:
        first = self.by_hand("SELECT hash FROM batches")
        with tempfile.TemporaryDirectory() as folder:
            self.path = Path(folder) / "again.sqlite"
            self.ledger = Ledger(self.path, lambda: NOW)
            self.addCleanup(self.ledger.close)
            self.write(REVENUE)
            second = replace(DOCUMENT, content=b"2", key="f-2")
            self.write(REVENUE._replace(value=6e6, published_at=NOW), document=second)
            self.assertEqual(self.by_hand("SELECT hash FROM batches"), first)


class Together(LedgerCase):
    def fill(self, broken: Collection[str]) -> list[Any]:
        """Batches of five companies; those of some break in the middle. Their hashes."""
        for key in "ABCDE":
            with suppress(RuntimeError):
                if key not in broken:
                    self.write(REVENUE, key=key)
                    continue
                with self.ledger.batch("collection", "cut off") as batch:
                    batch.company(batch.source("another", "Another"), "another", key, 0)
                    raise RuntimeError
        with self.ledger.database.write() as connection:
            query = "SELECT number, note, rows, previous, hash FROM batches ORDER BY number"
            return list(connection.exec_driver_sql(query))

    @examples(8)
    @given(st.sets(st.sampled_from("ABCDE")))
    def test_each_batch_is_kept_or_not_by_itself_and_chained_as_if_alone(
        self, broken: set[str]
    ) -> None:
        """Several batches in one transaction (T7), of which others know nothing until it ends."""
        found = []
        for how in (nullcontext, Database.together):
            with tempfile.TemporaryDirectory() as folder:
                self.path = Path(folder) / "ledger.sqlite"
                with closing(Ledger(self.path, lambda: NOW)) as self.ledger:
                    with how(self.ledger.database):
                        found.append(self.fill(broken))
                        seen = self.ledger.last_batch()  # read beside it
                    self.assertEqual(self.ledger.verify().batches, 5 - len(broken))
        self.assertEqual(found[0], found[1])
        self.assertEqual(seen, 0)

    def test_what_ends_all_of_it_keeps_nothing_of_it(self) -> None:
        self.write(REVENUE)
        with self.assertRaises(KeyError), self.ledger.database.together():
            self.write(REVENUE, key="B")
            raise KeyError
        self.write(REVENUE, key="C")
        names = self.by_hand("SELECT value FROM attributes ORDER BY id")
        self.assertEqual(names, [("Company A",), ("Company C",)])
        self.assertEqual(self.ledger.verify().batches, 2)

    def test_who_waits_goes_before_who_wrote_just_now(self) -> None:
        turns: list[str] = []

        def other() -> None:
            for _ in range(3):
                with self.ledger.database.write():
                    turns.append("other")

        thread = threading.Thread(target=other)
        while turns.count("other") < 3:
            with self.ledger.database.together():
                turns.append("own")
                if len(turns) == 1:
                    thread.start()
                while thread.is_alive() and not self.ledger.database.awaited:
                    time.sleep(0.001)
        thread.join()
        self.assertLessEqual(turns.count("own"), 5, turns)


class TheFile(LedgerCase):
    def test_the_migrations_make_the_tables_that_the_code_names(self) -> None:
        with self.ledger.database.read() as connection, warnings.catch_warnings():
            warnings.simplefilter("ignore")  # about the index over expressions
            context = MigrationContext.configure(connection, opts={"compare_server_default": True})
            differences = compare_metadata(context, metadata)
            self.assertEqual(context.get_current_revision(), newest_version())
        self.assertEqual(differences, [])

    def test_write_ahead_log_and_foreign_keys_are_on(self) -> None:
        with self.ledger.database.read() as connection:
            self.assertEqual(connection.exec_driver_sql("PRAGMA journal_mode").scalar(), "wal")
            self.assertEqual(connection.exec_driver_sql("PRAGMA foreign_keys").scalar(), 1)

    def test_a_batch_makes_sqlite_compile_no_statement_again(self) -> None:
        said: list[str] = []
        with self.ledger.batch("collection", "nothing") as batch:
            driver = batch._driver
        driver.set_trace_callback(said.append)
        self.addCleanup(driver.set_trace_callback, None)
        self.write(REVENUE)  # whose rows stand before that of their batch
        self.assertIn("COMMIT", said)
        self.assertEqual([s for s in said if s.startswith("PRAGMA")], [])

    def test_readers_keep_their_state_while_a_batch_is_written(self) -> None:
        self.write(REVENUE)
        with self.ledger.database.read() as connection:
            before = reading.company_ids(connection, 99)
            thread = threading.Thread(target=self.write, args=(REVENUE,), kwargs={"key": "B"})
            thread.start()
            thread.join()
            self.assertEqual(reading.company_ids(connection, 99), before)
        with self.ledger.database.read() as connection:
            ids = reading.company_ids(connection, 99)
        self.assertEqual(len(ids), 2)
        self.assertTrue(all(is_company_id(i) for i in ids))

    def test_a_file_that_is_no_ledger_is_refused_with_the_mend(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "ledger.sqlite"
            path.write_bytes(b"this is a letter, not a database " * 100)
            with self.assertRaises(StoreError) as caught:
                Ledger(path, lambda: NOW)
            problem = caught.exception.problems[0]
            self.assertEqual((problem.value, problem.problem), (str(path), "the file is no ledger"))
            self.assertTrue(problem.mend)

    def test_one_process_at_a_time(self) -> None:
        first = FolderLock(self.path.parent)
        with self.assertRaises(StoreError) as caught:
            FolderLock(self.path.parent)
        self.assertIn("--data", caught.exception.problems[0].mend)
        first.release()
        FolderLock(self.path.parent).release()

    def test_a_folder_that_cannot_be_used_is_named(self) -> None:
        with self.assertRaises(StoreError) as caught:
            FolderLock(self.path)  # a file, no folder
        self.assertIn("cannot be used", caught.exception.problems[0].problem)


OLD_ROWS = f"""
INSERT INTO sources VALUES (0, 1, 'fernmark', 'Fernmark Data');
INSERT INTO items VALUES (0, 1, '{REVENUE.item}');
INSERT INTO companies VALUES (0, 1, 'co-0');
INSERT INTO documents VALUES (0, 1, 0, '{DOCUMENT.sha256}', 'k', 't', 'results', 'application/json', NULL,
  x'{DOCUMENT.content.hex()}');
INSERT INTO facts VALUES (0, 1, 0, 0, 0, 'consolidated', {day(REVENUE.period_start)}, {day(REVENUE.period_end)}, NULL,
  NULL, {REVENUE.value}, '5', 0, '{REVENUE.unit}', {micros(REVENUE.published_at)}, 0, 0, 0, '/a');
"""


class OldFiles(unittest.TestCase):
    def test_a_ledger_from_before_facts_were_lean_is_read_verified_and_written_on(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        path = Path(folder.name) / "ledger.sqlite"
        path.touch()
        with mock.patch("alembic.command.upgrade", lambda config, _: upgrade(config, "0008")):
            Database(path, made=True).close()
        content = chain.ContentHash(2)
        with closing(sqlite3.connect(path)) as old:
            old.executescript(OLD_ROWS)
            for table in LEDGER:
                there = old.execute(
                    "SELECT 1 FROM sqlite_master WHERE name = ?", (table.name,)
                ).fetchone()
                rows = old.execute(f"SELECT * FROM {table.name}").fetchall() if there else []
                # columns that did not exist yet
                short = len(table.columns) - len(rows[0]) if rows else 0
                content.add(table, [(*row, *[None] * short) for row in rows])
            head = (1, 0, "collection", "old", content.rows, content.hex, chain.GENESIS)
            old.execute(
                "INSERT INTO batches VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
                (*head, chain.batch_hash(*head)),
            )
            old.commit()
        with closing(Ledger(path, lambda: NOW)) as ledger:
            self.assertEqual(ledger.verify().facts, 1)
            with ledger.batch("collection", "new") as batch:
                batch.add_facts(0, 0, [(0, REVENUE), (0, REVENUE._replace(value=7e6))])
            self.assertEqual((ledger.verify().facts, ledger.verify().batches), (2, 2))
            with ledger.database.read() as connection:
                self.assertEqual(
                    reading.document_bytes(connection, DOCUMENT.sha256), DOCUMENT.content
                )
                self.assertEqual(
                    connection.exec_driver_sql("PRAGMA foreign_key_list(facts)").all(), []
                )
                self.assertEqual(
                    connection.exec_driver_sql("PRAGMA integrity_check").scalar(), "ok"
                )


# One fact as the tables were: the very one that `REVENUE` says, so that it is known again (T8).
