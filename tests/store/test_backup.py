"""A copy is one state of the ledger, whole and verified, though it is written to meanwhile; what
breaks off leaves nothing; who goes back to it has the answers of then.
"""

import shutil
import sqlite3
import threading
import unittest
from contextlib import ExitStack, closing
from pathlib import Path
from random import Random

from tests.live import Live, LiveLedger, copied, run_command
from tests.store.test_damage import flipped
from wise_ledger.store import chain
from wise_ledger.store.backup import back_up
from wise_ledger.store.database import Database
from wise_ledger.store.errors import StoreError

RATE = "base,quote,date,rate\nEUR,USD,{},1.1\n"
ASKED = ("revenue > 0", "first-look", "2024-06-30")


def nothing(done: int, total: int) -> None:
    """Nobody watches."""


class Copied(Live):
    def setUp(self) -> None:
        self.stack = ExitStack()
        self.addCleanup(self.stack.close)
        self.folder = copied(self.stack)
        self.path, self.to = self.folder / "ledger.sqlite", self.folder / "copies" / "one.sqlite"
        self.to.parent.mkdir()

    def left(self) -> list[str]:
        return sorted(path.name for path in self.to.parent.iterdir())

    def test_each_copy_is_one_state_though_batches_land_meanwhile(self) -> None:
        live = LiveLedger(self.stack, self.source, folder=self.folder)
        stop, loaded = threading.Event(), list[int]()

        def load() -> None:
            while not stop.is_set():
                day = f"{2000 + len(loaded) // 28 % 24}-02-{1 + len(loaded) % 28:02}"
                loaded.append(len(live.ledger.load("rates", RATE.format(day).encode()).bad))

        writer = threading.Thread(target=load)
        writer.start()
        try:
            states = {}
            for n in range(4):
                to = self.to.with_name(f"{n}.sqlite")
                found = back_up(self.path, to, nothing)
                assert found is not None
                states[found.batches] = found.hash
        finally:
            stop.set()
            writer.join()
        self.assertGreater(len(states), 2, loaded)  # it went on meanwhile
        hashes = {b.number: b.hash for b in live.ledger.batches()}
        self.assertEqual(states, {n: hashes[n] for n in states})
        self.assertEqual(self.left(), [f"{n}.sqlite" for n in range(4)])

    def test_who_goes_back_to_it_has_the_answers_of_then(self) -> None:
        fact = "company,item,period_start,period_end,value,unit,published_at\n"
        fact += "AGK@ZALD,revenue,2023-01-01,2023-12-31,7,USD,2024-02-01T00:00:00Z\n"
        with ExitStack() as stack:
            live = LiveLedger(stack, self.source, folder=self.folder)
            before = live.ledger.screen(*ASKED).frame().to_csv()
            ended = run_command("backup", str(self.to), "--data", str(self.folder))
            self.assertEqual(ended.returncode, 0, ended.stderr)
            self.assertIn("the chain holds: 25 batches", ended.stdout)
            self.assertEqual(self.to.stat().st_mode & 0o777, 0o600)
            live.ledger.load("facts", fact.encode())
            live.ledger.prefer_sources(["files", "fernmark"], "ada")
            self.assertNotEqual(live.ledger.screen(*ASKED).frame().to_csv(), before)
        shutil.copy(self.to, self.path)
        live = LiveLedger(self.stack, self.source, folder=self.folder)
        self.assertEqual(live.ledger.screen(*ASKED).frame().to_csv(), before)

    def test_what_breaks_off_or_does_not_hold_leaves_nothing(self) -> None:
        def stop(done: int, total: int) -> None:
            raise KeyboardInterrupt

        with self.assertRaises(KeyboardInterrupt):
            back_up(self.path, self.to, stop)
        raw, random = self.path.read_bytes(), Random(3)
        for _ in range(3):  # what a flipped bit breaks is the copy's as well, or is not in it
            self.path.write_bytes(
                flipped(raw, random.randrange(4096, len(raw)), 1 << random.randrange(8))
            )
            with self.subTest(left=self.left()):
                try:
                    back_up(self.path, self.to, nothing)
                except StoreError:
                    self.assertEqual(self.left(), [])
                else:
                    with closing(Database(self.to)) as copy, copy.read() as connection:
                        chain.verify(connection)
                    self.to.unlink()

    def test_it_needs_a_ledger_and_a_name_that_is_free(self) -> None:
        odd = self.folder / "odd.sqlite"
        odd.write_bytes(b"")
        for path in (self.folder / "nothing", odd, Path(__file__)):
            with self.subTest(path), self.assertRaises(StoreError) as caught:
                back_up(path, self.to, nothing)
            self.assertTrue(caught.exception.problems[0].mend)
        self.to.write_bytes(b"of somebody")
        with self.assertRaisesRegex(StoreError, "of this name already"):
            back_up(self.path, self.to, nothing)
        self.assertEqual((self.left(), self.to.read_bytes()), ([self.to.name], b"of somebody"))

    def test_what_an_older_version_wrote_stays_as_old(self) -> None:
        with closing(sqlite3.connect(self.path)) as plain:
            plain.execute("UPDATE alembic_version SET version_num = '0001'")
            plain.commit()
        self.assertIsNone(back_up(self.path, self.to, nothing))
        with closing(sqlite3.connect(self.to)) as plain:
            kept = plain.execute("SELECT version_num FROM alembic_version").fetchall()
        self.assertEqual((kept, self.left()), ([("0001",)], [self.to.name]))


if __name__ == "__main__":
    unittest.main()
