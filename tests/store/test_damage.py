"""Damage of the ledger's files: what verify says holds,
and what is derived from it is compared with it.
"""

import os
import shutil
import sqlite3
import subprocess
import sys
import tempfile
import unittest
import zlib
from collections.abc import Callable
from contextlib import closing, suppress
from datetime import UTC, datetime
from pathlib import Path
from random import Random
from typing import Any
from unittest import mock

import numpy as np

from tests.breaking import Breaking
from tests.live import Live
from wise_ledger.core.errors import LedgerError
from wise_ledger.core.records.columnkinds import COLUMN_KINDS
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store import chain, verification
from wise_ledger.store.chain import Part
from wise_ledger.store.columnfile import read_columns, write_columns
from wise_ledger.store.database import Database
from wise_ledger.store.errors import ChainBroken, StoreError
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.tables import LEDGER
from wise_ledger.store.verification import Verified, verify, verify_aside
from wise_ledger.work.load import load_file
from wise_ledger.work.templates import COLUMNS, template

NOW = datetime(2026, 1, 1, tzinfo=UTC)
FLIPS = int(os.environ.get("FLIPS", "30"))
SEEDS = range(int(os.environ.get("SEEDS", "1")))


def flipped(raw: bytes, place: int, bit: int) -> bytes:
    return raw[:place] + bytes([raw[place] ^ bit]) + raw[place + 1 :]


def content(path: Path) -> list[object]:
    """All that the ledger's tables say."""
    with closing(sqlite3.connect(f"file:{path}?mode=ro", uri=True)) as plain:
        return [
            plain.execute(f"SELECT * FROM {table.name} ORDER BY 1, 2").fetchall()
            for table in LEDGER
        ]


def _nothing(done: int, total: int) -> None:
    """Nobody watches."""


def _said(verifying: Callable[[], Any]) -> Any:
    try:
        return verifying()
    except LedgerError as error:
        return type(error), error.problems


class Damage(Live):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder)
        self.path = self.folder / "ledger.sqlite"
        with closing(sqlite3.connect(self.live.folder / "ledger.sqlite")) as plain:
            plain.execute("VACUUM INTO ?", (str(self.path),))

    def test_a_file_of_any_kind_that_breaks_off_anywhere_is_loaded_or_not_at_all(self) -> None:
        """Broken off now and then, loaded at last: the ledger of who never broke off (T7)."""

        def loaded(tries: int, random: Random) -> tuple[int, list[object]]:
            folder, broke = Path(tempfile.mkdtemp(dir=self.folder)), 0
            with closing(Ledger(folder / "ledger.sqlite", lambda: NOW)) as ledger:
                snapshots = Snapshots(ledger, folder / "columns")
                for kind in COLUMNS:
                    if kind == "observations":  # of an item that somebody has to register
                        continue
                    for _ in range(tries):
                        with Breaking(int(10 ** random.uniform(0, 3))) as breaking:
                            load_file(ledger, snapshots, kind, template(kind))
                        broke += breaking.where is not None
                    load_file(ledger, snapshots, kind, template(kind))
                ledger.verify()
            return broke, content(folder / "ledger.sqlite")

        for seed in SEEDS:
            broke, found = loaded(3, Random(seed))
            self.assertGreater(broke, 10)
            self.assertEqual(found, loaded(0, Random(seed))[1], seed)

    def test_no_flipped_byte_of_the_ledger_passes_verify(self) -> None:
        whole, before, random = self.path.read_bytes(), content(self.path), Random(3)
        reported = 0
        for _ in range(FLIPS):
            damaged = whole
            for _ in range(random.choice([1, 1, 8])):
                damaged = flipped(damaged, random.randrange(len(damaged)), 1 << random.randrange(8))
            self.path.write_bytes(damaged)
            for ending in ("-wal", "-shm"):
                Path(f"{self.path}{ending}").unlink(missing_ok=True)
            try:
                with closing(Ledger(self.path, lambda: NOW)) as ledger:
                    ledger.verify()
            except LedgerError as error:
                reported += 1
                self.assertTrue(error.problems[0].mend)
                # what could not be opened was let go of
                self.assertNotIn("another process", error.problems[0].problem)
                continue
            # it fell where nothing of the ledger stands
            self.assertEqual(content(self.path), before)
        self.assertGreater(reported, FLIPS / 2)

    def test_a_process_of_its_own_says_of_every_damage_what_is_said_here(self) -> None:
        """A large ledger is verified aside: the same words, and no process stays behind."""
        damages = (
            "SELECT 1",
            "DROP TRIGGER batches_no_update; UPDATE batches SET note = 'another' WHERE number = 2",
            "DROP TRIGGER facts_no_delete; DELETE FROM facts WHERE id = 7",
        )
        for damage in damages:
            with self.subTest(damage), closing(sqlite3.connect(self.path)) as plain:
                plain.executescript(damage)
            with closing(Ledger(self.path, lambda: NOW)) as ledger:
                here = _said(ledger.verify)
            self.assertEqual(
                here, _said(lambda: verify_aside(self.path, _nothing, [Part(1, 2), Part(3)]))
            )
            self.assertIs(isinstance(here, Verified), damage == damages[0])

        def stop(done: int, total: int) -> None:
            raise KeyboardInterrupt

        begun: list[subprocess.Popen[str]] = []
        started = subprocess.Popen

        def start(*given: Any, **more: Any) -> Any:
            begun.append(started(*given, **more))
            return begun[-1]

        with (
            mock.patch.object(subprocess, "Popen", start),
            self.assertRaises(KeyboardInterrupt),
        ):
            verify_aside(self.path, stop, [Part(1, 2), Part(3)])
        self.assertTrue(all(process.returncode is not None for process in begun))
        with (
            mock.patch.object(sys, "executable", "true"),
            self.assertRaises(StoreError) as caught,
        ):
            verify_aside(self.path, stop, [Part()])
        self.assertIn("has ended", caught.exception.problems[0].problem)

    def test_a_ledger_of_some_size_is_looked_at_in_parts_of_about_as_many_rows(self) -> None:
        with (
            closing(Database(self.path)) as database,
            mock.patch.object(os, "cpu_count", lambda: 3),
            mock.patch.object(verification, "_WORTH_A_PROCESS", 50),
        ):
            parts = verification._parts(database)
            self.assertEqual([parts[0].first, parts[-1].last], [1, None])
            self.assertEqual([p.first for p in parts[1:]], [(p.last or 0) + 1 for p in parts[:-1]])
            self.assertGreater(len(parts), 1)
            steps: list[tuple[int, int]] = []
            found = verify(database, lambda done, total: steps.append((done, total)))
            self.assertEqual(found, verification._verify(database, _nothing, Part()))
            self.assertEqual(steps, sorted(steps))
            self.assertTrue(steps)

    def test_an_empty_file_is_no_ledger_and_a_new_one_is_never_empty(self) -> None:
        self.path.write_bytes(b"")
        with self.assertRaises(StoreError) as caught:
            Ledger(self.path, lambda: NOW)
        self.assertIn("empty", caught.exception.problems[0].problem)
        fresh = self.folder / "new" / "ledger.sqlite"
        with closing(Ledger(fresh, lambda: NOW)) as ledger:
            self.assertEqual(ledger.verify().batches, 0)
        self.assertEqual([p.name for p in fresh.parent.iterdir() if p.name.endswith(".new")], [])

    def test_columns_that_do_not_say_what_the_ledger_says_are_made_again(self) -> None:
        with closing(Ledger(self.path, lambda: NOW)) as ledger:
            snapshots = Snapshots(ledger, self.folder / "columns")
            facts = snapshots._columns.of("revenue", ledger.last_batch())
            self.assertGreater(len(facts), 0)
            # Small ledgers keep no files: one is written as a large one would have it.
            segment = snapshots._columns._kept["revenue"][0]
            snapshots._columns._files.write("revenue", segment, alone=True)
            compared, again = Snapshots(ledger, self.folder / "columns").verify_columns()
            self.assertEqual((compared, again), (1, 0))
            (path,) = (self.folder / "columns" / "revenue").glob("*.columns")
            kept = read_columns(path)
            assert kept is not None
            about, columns = kept
            wrong = {n: np.array(c) for n, c in columns.items()}
            wrong["value"][0] += 1  # with a checksum that holds
            write_columns(path, about, wrong)
            other = Snapshots(ledger, self.folder / "columns")
            self.assertEqual(other.verify_columns(), (1, 1))
            np.testing.assert_array_equal(
                other._columns.of("revenue", ledger.last_batch()).value, facts.value
            )

    def test_year_ends_that_are_not_those_of_the_ledger_are_learned_again(self) -> None:
        with closing(Ledger(self.path, lambda: NOW)) as ledger:
            reported = Snapshots(ledger, self.folder / "columns").at().view.calendar.stages
            (path,) = (self.folder / "columns" / "year-ends").glob("*.columns")
            kept = read_columns(path)
            assert kept is not None
            about, columns = kept
            self.assertEqual(Snapshots(ledger, self.folder / "columns").verify_columns()[1], 0)
            write_columns(path, about, {n: np.array(c) + (n == "at") for n, c in columns.items()})
            other = Snapshots(ledger, self.folder / "columns")
            wrong = other.at().view.calendar.stages
            self.assertNotEqual(wrong.at.tolist(), reported.at.tolist())
            self.assertEqual(other.verify_columns()[1], 1)
            self.assertEqual(other.at().view.calendar.stages.at.tolist(), reported.at.tolist())

    def test_a_file_of_columns_damaged_in_any_way_is_none_or_says_what_it_held(self) -> None:
        path, random = self.folder / "some.columns", Random(20260211)
        columns = {"day": np.arange(40, dtype=np.int32), "rate": np.linspace(0.0, 1.0, 40)}
        about = {"upto": 3, "hash": "ab" * 32}
        write_columns(path, about, columns)
        whole = path.read_bytes()
        shapes = [
            b"[]",
            b"{}",
            b"null",
            b'{"columns": []}',
            b"\xff" * 60,
            b"",
            b'{"about": 1, "columns": {"day": 2}}',
        ]
        damaged = [whole[: random.randrange(len(whole))] for _ in range(30)]
        damaged += [
            flipped(whole, random.randrange(len(whole)), 1 << random.randrange(8))
            for _ in range(300)
        ]
        damaged += [shape.ljust(4096) + whole[4096:] for shape in shapes]
        damaged += [
            (b"%08x %s" % (zlib.crc32(s), s)).ljust(4095) + b"\n" + whole[4096:] for s in shapes
        ]
        for raw in damaged:
            path.write_bytes(raw)
            found = read_columns(path)
            if found is None:
                continue
            self.assertEqual(found[0], about)
            for name, column in columns.items():
                np.testing.assert_array_equal(found[1][name], column)

    def test_histories_that_do_not_say_what_the_ledger_says_are_made_again(self) -> None:
        with closing(Ledger(self.path, lambda: NOW)) as ledger:
            last = ledger.last_batch()
            read = Snapshots(ledger, self.folder / "columns")._histories
            kept = [rows for kind in COLUMN_KINDS.values() if len(rows := read.of(kind, last))]
            self.assertTrue(kept)
            for rows in kept:
                folder = self.folder / rows.kind.name
                path, about = (
                    folder / f"{rows.kind.name}.columns",
                    {"upto": last, "hash": ledger.hash_of(last)},
                )
                write_columns(path, about, rows.columns)
                self.assertEqual(Snapshots(ledger, folder).verify_columns(), (1, 0))
                wrong = {n: np.array(c) for n, c in rows.columns.items()}
                wrong["known_at"][-1] += 1  # with a checksum that holds
                write_columns(path, about, wrong)
                other = Snapshots(ledger, folder)
                self.assertEqual(other.verify_columns(), (1, 1))
                self.assertTrue(other._histories.of(rows.kind, last).same(rows))

    def test_a_clock_that_went_back_is_named(self) -> None:
        with closing(Ledger(self.path, lambda: NOW.replace(year=2020))) as ledger:
            snapshots = Snapshots(ledger, self.folder / "columns")
            load_file(ledger, snapshots, "rates", b"base,quote,date,rate\nEUR,USD,2019-01-02,1.1\n")
            with suppress(StoreError):
                self.assertIn("the clock went back", ledger.verify().notes[0])
                return
        self.fail("verify did not hold")


class Changed(unittest.TestCase):
    """Every cell of every table, of a ledger that has a row of each kind of file."""

    def setUp(self) -> None:
        folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, folder)
        self.path = folder / "ledger.sqlite"
        with closing(Ledger(self.path, lambda: NOW)) as ledger:
            snapshots = Snapshots(ledger, folder / "columns")
            for kind in (*COLUMNS, *COLUMNS):  # some rows speak of what others bring
                load_file(ledger, snapshots, kind, template(kind))
            self.last = ledger.last_batch()

    def test_any_cell_that_is_changed_is_named_by_the_whole_chain_and_by_its_parts(self) -> None:
        """T1; a cut before, at or after the batch of the row changes no word."""
        changed = 0
        with closing(Database(self.path)) as database, database.read() as connection:
            plain = connection.connection.driver_connection
            assert plain is not None
            plain.execute("ROLLBACK")
            plain.execute("PRAGMA foreign_keys = OFF")
            plain.execute("PRAGMA ignore_check_constraints = ON")
            guards = plain.execute("SELECT name FROM sqlite_master WHERE type = 'trigger'")
            for (name,) in guards.fetchall():
                plain.execute(f"DROP TRIGGER {name}")
            for table, column in ((t.name, c.name) for t in LEDGER for c in t.columns):
                kept = plain.execute(f'SELECT rowid, "{column}" FROM {table}').fetchone()
                if kept is None:
                    continue
                row, value = kept
                wrong = value + 1_000 if isinstance(value, int | float) else "changed"
                cut = 1 + changed % (self.last - 1)
                plain.execute("BEGIN")
                with suppress(sqlite3.IntegrityError), self.subTest(f"{table}.{column}, cut {cut}"):
                    plain.execute(
                        f'UPDATE {table} SET "{column}" = ? WHERE rowid = ?', (wrong, row)
                    )
                    said = [
                        [_said(lambda p=p: chain.verify(connection, _nothing, p)) for p in parts]
                        for parts in ([Part()], [Part(1, cut), Part(cut + 1)])
                    ]
                    broken = [next((s for s in each if s[0] is ChainBroken), None) for each in said]
                    self.assertIsNotNone(broken[0])
                    self.assertEqual(*broken)
                    changed += 1
                plain.execute("ROLLBACK")
            self.assertEqual(chain.verify(connection)[0], self.last)
            plain.execute("BEGIN")
        self.assertGreater(changed, 150)


if __name__ == "__main__":
    unittest.main()
