"""The engine: what is spliced equals what is rebuilt, bit for bit; files can be lost;
many may ask at once.
"""

import shutil
import tempfile
import threading
import unittest
import unittest.mock
from collections.abc import Callable
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from random import Random
from typing import Any

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st

from tests.breaking import Breaking
from tests.core.small_ledger import at_end_of
from tests.core.worlds import BALANCES, FLOWS, world
from tests.properties import examples
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.language.view import LedgerView
from wise_ledger.core.money.currencies import currency_code
from wise_ledger.core.quality.checks import Finding
from wise_ledger.core.records.limits import LIMITS, LimitSaid
from wise_ledger.core.records.records import (
    AttributeRecord,
    DocumentRecord,
    FactRecord,
    RateRecord,
    SecurityRecord,
    SplitRecord,
)
from wise_ledger.core.screening.screen import screen
from wise_ledger.core.time.instants import as_instant, end_of_day
from wise_ledger.core.time.periods import as_date
from wise_ledger.engine import columns, line, view
from wise_ledger.engine.line import shortened
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store.batch import BatchWriter
from wise_ledger.store.ledger import Ledger

NOW = datetime(2027, 6, 1, 12, tzinfo=UTC)
COMPANIES = 5
USD, GBP = currency_code("USD"), currency_code("GBP")
FORMS = (*((f, form) for f in FLOWS for form in ("q", "h", "fy", "ttm", "ytd")),
         *((b, form) for b in BALANCES for form in ("balance", "balance_fy")))  # fmt: skip
LEAVES = (
    ("revenue", "ttm", False),
    ("total_assets", "balance", False),
    ("operating_income", "q", True),
)
RULE = 'revenue > 0 USD and total_assets / shareholders_equity < 3 or inventory > 1 USD and venue != "ZALD"'


class Steps:
    """What batches of a random world do to a ledger, one step at a time."""

    def __init__(self, seed: int, ledger: Ledger) -> None:
        self.random, self.ledger = Random(seed), ledger
        worlds = [world(seed + n) for n in range(3)]  # five companies out of three worlds
        self.facts = [
            (2 * n + f["company"], f)
            for n, w in enumerate(worlds)
            for f in w.facts
            if 2 * n < COMPANIES
        ]
        self.attributes = [
            (2 * n + a.company, a) for n, w in enumerate(worlds) for a in w.attributes
        ]
        self.rates = list(worlds[0].rates)
        self.random.shuffle(self.facts)
        with ledger.batch("load", "companies") as batch:
            for n in range(COMPANIES):
                source = batch.source("one", "One")
                company = batch.company(source, "one", str(n), 0)
                batch.add_securities(
                    company, source, [SecurityRecord(f"S{n}", "ordinary", "Share", None, ())]
                )
            batch.source("two", "Two")
            self.some_facts(batch)

    def step(self) -> None:
        """One more batch: mostly figures of a few companies,
        now and then something that moves many.
        """
        kinds: list[Callable[[BatchWriter], None]] = [self.some_facts] * 5
        kinds += [
            self.some_attributes,
            self.a_split,
            self.some_rates,
            self.an_order,
            self.a_limit,
            self.a_finding,
            self.a_verdict,
        ]
        with self.ledger.batch("load", "step") as batch:
            self.random.choice(kinds)(batch)

    def some_facts(self, batch: BatchWriter) -> None:
        many = self.random.choice([1, 3, 12, 60])
        taken, self.facts = self.facts[:many], self.facts[many:]
        for n, (company, f) in enumerate(taken):
            source = batch.source(f["source"], "")
            body = f"{n} {batch.number}".encode()
            document = batch.document(
                source, DocumentRecord(str(n), "Filing", "filing", "text/plain", body, NOW)
            )
            start = f["period_start"] and date.fromisoformat(f["period_start"])
            end, assumed = date.fromisoformat(f["period_end"]), self.random.random() < 0.2
            published = date.fromisoformat(f["published_at"])
            if assumed:
                published = end + timedelta(self.random.choice([60, 90]))
            record = FactRecord(
                f["item"],
                start,
                end,
                f["value"],
                str(f["value"]),
                0,
                f["unit"],
                end_of_day(published),
                "",
                assumed=assumed,
            )
            batch.add_facts(company % COMPANIES, source, [(document, record)])

    def some_attributes(self, batch: BatchWriter) -> None:
        for company, a in self.random.sample(self.attributes, min(3, len(self.attributes))):
            record = AttributeRecord(a.name, a.value, as_date(a.valid_from), as_instant(a.at))
            batch.add_attributes(company % COMPANIES, batch.source("one", ""), [record])

    def a_split(self, batch: BatchWriter) -> None:
        day = date(2021, 1, 1) + timedelta(self.random.randint(0, 900))
        batch.add_splits(
            0, self.random.randrange(COMPANIES), [SplitRecord(day, self.random.choice([2.0, 4.0]))]
        )

    def some_rates(self, batch: BatchWriter) -> None:
        taken, self.rates = self.rates[:900], self.rates[900:]
        records = [
            RateRecord(r["base"], r["quote"], date.fromisoformat(r["date"]), r["rate"])
            for r in taken
        ]
        batch.add_rates(0, records)

    def an_order(self, batch: BatchWriter) -> None:
        item, company = self.random.choice([None, "revenue"]), self.random.choice([None, 0, 3])
        batch.add_source_order(item, company, ["two", "one"], "Ada", "tried")

    def a_limit(self, batch: BatchWriter) -> None:
        name, source = self.random.choice([*LIMITS]), self.random.choice([None, 0, 1])
        days = self.random.choice([None, 20, 75, 300])
        batch.add_limit(LimitSaid(name, source, days), "Ada", "tried")

    def a_finding(self, batch: BatchWriter) -> None:
        if batch_has_facts(self.ledger):
            check = self.random.choice(["unit", "balance"])
            batch.add_findings(
                [Finding(self.random.randrange(batch_has_facts(self.ledger)), check, "odd")]
            )

    def a_verdict(self, batch: BatchWriter) -> None:
        if batch_has_facts(self.ledger):
            batch.add_verdict(
                self.random.randrange(batch_has_facts(self.ledger)), True, "Ada", "looked"
            )


def batch_has_facts(ledger: Ledger) -> int:
    """How many facts there are."""
    with ledger.database.read() as connection:
        return connection.exec_driver_sql("SELECT count(*) FROM facts").scalar_one()


class Engine(unittest.TestCase):
    def setUp(self) -> None:
        # several blocks of the few companies
        blocks = unittest.mock.patch.object(view, "_BLOCK", 2)
        blocks.start()
        self.addCleanup(blocks.stop)

    def folder(self) -> Path:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        return Path(folder.name)

    def ledger(self) -> Ledger:
        ledger = Ledger(self.folder() / "ledger.sqlite", lambda: NOW)
        self.addCleanup(ledger.close)
        return ledger

    def same(self, kept: Any, rebuilt: Any, where: object) -> None:
        for name in ("key", "at", "value", "state", "marks", "currency", "start"):
            if hasattr(rebuilt, name):
                np.testing.assert_array_equal(
                    getattr(kept, name), getattr(rebuilt, name), f"{where} {name}"
                )
        for name in ("company", "at", "day", "row"):
            found = getattr(kept.moves, name)
            np.testing.assert_array_equal(
                found, getattr(rebuilt.moves, name), f"{where} moves {name}"
            )
        for a, b in zip(getattr(kept, "rows", ()), getattr(rebuilt, "rows", ()), strict=True):
            np.testing.assert_array_equal(a, b, f"{where} rows")

    def check(self, kept: Any, rebuilt: LedgerView, where: object) -> None:
        some = Random(repr(where))  # a third each time: of all that is formed, over many states
        for code, form in some.sample(FORMS, len(FORMS) // 3):
            first = some.random() < 0.5
            self.same(
                kept.timeline(ITEMS[code], form, first),
                rebuilt.timeline(ITEMS[code], form, first),
                (where, code, form, first),
            )
        for item in (ITEMS[code] for code in some.sample((*FLOWS, *BALANCES), 3)):
            self.same(kept.figures(item), rebuilt.figures(item), (where, item.code))
            self.same(kept.statement(item), rebuilt.statement(item), (where, item.statement))
        self.same(kept.joint(LEAVES), rebuilt.joint(LEAVES), (where, "joint"))
        for code in (USD, GBP):  # what was formed of several currencies stands in the one asked for
            for form in ("q", "ttm", "ytd"):
                names = (ITEMS["revenue"], form, False, code)
                self.same(kept.timeline(*names), rebuilt.timeline(*names), (where, names))
            self.same(kept.joint(LEAVES, code), rebuilt.joint(LEAVES, code), (where, code, "joint"))
        cutoff = at_end_of(date(2023, 3, 31))
        for company in range(COMPANIES):
            for end in (18_992, 19_082, 19_357):
                labels = [v.calendar.label(company, end, cutoff, 3) for v in (kept, rebuilt)]
                self.assertEqual(*labels, where)

    @examples(12)
    @given(st.integers(0, 2**31), st.integers(1, 9))
    # a figure that was taken back, of a company with one source among others with two
    @example(33709, 1)
    def test_what_is_spliced_equals_what_is_formed_again_and_old_states_stay(
        self, seed: int, often: int
    ) -> None:
        ledger, folder = self.ledger(), self.folder()
        steps, snapshots = Steps(seed, ledger), Snapshots(ledger, folder / "kept")
        pins: list[tuple[int, str]] = []
        restarts = Random(seed)
        # never, or always
        rewritten = unittest.mock.patch.object(line, "_WORTH_KEEPING", restarts.choice([0, 10]))
        rewritten.start()
        self.addCleanup(rewritten.stop)
        for n in range(9):
            steps.step()
            if restarts.random() < 0.3:  # what was formed is gone, what stands in files is read
                snapshots = Snapshots(ledger, folder / "kept")
            if n % often == 0 or n == 8:
                kept, rebuilt = snapshots.at(), Snapshots(ledger, folder / f"rebuilt {n}").at()
                self.check(kept.view, rebuilt.view.tracing_all(), (seed, n))
                pins.append((kept.batch, self.verdicts(snapshots, kept.batch)))
        for batch, verdicts in pins:  # T7
            self.assertEqual(self.verdicts(snapshots, batch), verdicts, (seed, batch))

    @examples(3)
    @given(st.integers(0, 2**31))
    def test_a_question_that_breaks_off_anywhere_leaves_what_is_kept_right(self, seed: int) -> None:
        ledger, folder, some = self.ledger(), self.folder(), Random(seed)
        steps, snapshots = Steps(seed, ledger), Snapshots(ledger, folder / "kept")
        broken = []
        for n in range(5):
            steps.step()
            for _ in range(3):
                with Breaking(int(10 ** some.uniform(0, 3.5))) as breaking:
                    view = snapshots.at().view
                    for code, form in some.sample(FORMS, 5):
                        view.timeline(ITEMS[code], form, some.random() < 0.5)
                    view.statement(ITEMS[some.choice(BALANCES)])
                    view.joint(LEAVES, some.choice([None, USD]))
                broken.append(breaking.where)
            kept, rebuilt = snapshots.at(), Snapshots(ledger, folder / f"rebuilt {n}").at()
            self.check(kept.view, rebuilt.view.tracing_all(), (seed, n, broken))
        self.assertTrue(any(broken))

    def verdicts(self, snapshots: Snapshots, batch: int) -> str:
        view = snapshots.at(batch).view
        return repr(
            screen(
                view, RULE, list(range(COMPANIES)), Viewpoint.at(at_end_of(date(2023, 6, 30)))
            ).rows
        )

    @examples(4)
    @given(st.integers(0, 2**31))
    def test_files_may_be_lost_cut_or_turned_and_answers_stay(self, seed: int) -> None:
        ledger, folder = self.ledger(), self.folder()
        steps = Steps(seed, ledger)
        for _ in range(6):
            steps.step()
        with unittest.mock.patch.object(columns, "_WORTH_A_FILE", 1):
            expected = self.verdicts(Snapshots(ledger, folder / "a"), ledger.last_batch())
            files = sorted((folder / "a").rglob("*.columns"))
            self.assertTrue(files)
            for n, path in enumerate(files):
                raw = bytearray(path.read_bytes())
                damage = steps.random.choice(["lost", "cut", "turned", "empty", "text"])
                if damage == "lost":
                    path.unlink()
                elif damage == "turned":
                    raw[steps.random.randrange(len(raw))] ^= 1 << n % 8
                    path.write_bytes(raw)
                else:
                    path.write_bytes({"cut": bytes(raw[:-3]), "empty": b"", "text": b"{}"}[damage])
            self.assertEqual(
                self.verdicts(Snapshots(ledger, folder / "a"), ledger.last_batch()), expected, seed
            )
            shutil.rmtree(folder / "a")
            self.assertEqual(
                self.verdicts(Snapshots(ledger, folder / "a"), ledger.last_batch()), expected, seed
            )

    def test_year_ends_are_learned_once_whatever_restarts_and_again_of_another_ledger(self) -> None:
        ledger, folder = self.ledger(), self.folder()
        steps = Steps(3, ledger)
        learned: list[int] = []
        reported = LedgerView.stages.func  # type: ignore[attr-defined]

        def learning(view: LedgerView) -> object:
            learned.append(COMPANIES if view.only is None else len(view.only))
            return reported(view)

        def labels(of: Ledger) -> list[str]:
            calendar = Snapshots(of, folder).at().view.calendar
            cutoff = at_end_of(date(2023, 3, 31))
            return [calendar.label(company, 19_357, cutoff, 3) for company in range(COMPANIES)]

        with unittest.mock.patch.object(LedgerView, "stages", property(learning)):
            before = labels(ledger)
            self.assertEqual(set(learned), {COMPANIES})
            learned.clear()
            self.assertEqual((labels(ledger), learned), (before, []))
            with ledger.batch("load", "step") as batch:
                of, a = steps.attributes[0]
                record = AttributeRecord(
                    "fiscal_year_end", "04", as_date(a.valid_from), as_instant(a.at)
                )
                batch.add_attributes(of % COMPANIES, batch.source("one", ""), [record])
            labels(ledger)
            self.assertEqual(set(learned), {1})
            other = self.ledger()
            Steps(4, other).step()
            labels(other)
            self.assertEqual(learned[-1], COMPANIES)

    def test_a_full_disk_stops_no_reading(self) -> None:
        ledger, folder = self.ledger(), self.folder()
        Steps(1, ledger).step()
        full = unittest.mock.patch(
            "wise_ledger.store.segments.write_columns", side_effect=OSError("full")
        )
        with full, unittest.mock.patch.object(columns, "_WORTH_A_FILE", 1):
            self.assertTrue(self.verdicts(Snapshots(ledger, folder), ledger.last_batch()))

    def test_many_ask_at_once_while_batches_land_and_each_gets_its_own_state(self) -> None:
        ledger, folder = self.ledger(), self.folder()
        steps, snapshots = Steps(7, ledger), Snapshots(ledger, folder)
        for _ in range(4):
            steps.step()
        seen: dict[int, set[str]] = {}
        wrong: list[BaseException] = []
        stop = threading.Event()

        def ask() -> None:
            while not stop.is_set():
                try:
                    batch = snapshots.at().batch
                    seen.setdefault(batch, set()).add(self.verdicts(snapshots, batch))
                except BaseException as error:
                    wrong.append(error)
                    return

        askers = [threading.Thread(target=ask) for _ in range(4)]
        for asker in askers:
            asker.start()
        for _ in range(8):
            steps.step()
        stop.set()
        for asker in askers:
            asker.join()
        self.assertEqual(wrong, [])
        for batch, answers in seen.items():
            self.assertEqual(
                answers, {self.verdicts(Snapshots(ledger, folder / "rebuilt"), batch)}, batch
            )

    def test_what_nobody_asks_for_goes_when_the_budget_is_spent_and_one_makes_for_all(self) -> None:
        ledger, folder = self.ledger(), self.folder()
        steps = Steps(3, ledger)
        for _ in range(5):
            steps.step()
        small = Snapshots(ledger, folder, budget=10_000)
        for code, form in FORMS:
            small.at().view.timeline(ITEMS[code], form, False)
        line = small._lines[frozenset()]
        self.assertLessEqual(line.kept.size, 10_000)
        before = line.kept.made
        view = small.at().view
        asking = [
            threading.Thread(target=view.timeline, args=(ITEMS["revenue"], "q", True))
            for _ in range(6)
        ]
        for each in asking:
            each.start()
        for each in asking:
            each.join()
        self.assertEqual(line.kept.made, before + 1)


class Moves(unittest.TestCase):
    @given(
        st.lists(st.frozensets(st.integers(0, 5), max_size=3), max_size=12),
        st.integers(1, 5),
        st.data(),
    )
    @settings(deadline=None)
    def test_of_many_moves_none_is_forgotten_when_they_are_shortened(
        self, moves: list[frozenset[int]], most: int, data: st.DataObject
    ) -> None:
        kept: list[tuple[int, int, frozenset[int]]] = []
        for batch, companies in enumerate(moves, 1):
            kept = shortened([*kept, (batch, batch, companies)], most)
        self.assertLessEqual(len(kept), most)
        after = data.draw(st.integers(0, len(moves)))
        upto = data.draw(st.integers(after, len(moves)))
        found = frozenset().union(*(c for first, last, c in kept if after < last and first <= upto))
        self.assertLessEqual(frozenset().union(*moves[after:upto]), found)
