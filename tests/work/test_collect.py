"""Collecting: nothing twice, nothing by half, every failure named; a crash loses nothing (T8)."""

import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from contextlib import ExitStack, closing
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from tests.live import KEY, RULE, WORLD, LiveLedger, LiveSource, until
from tests.work.test_runs import broad_world
from wise_ledger.client import NotThere
from wise_ledger.core.time.instants import read_cutoff
from wise_ledger.standins.fernmark import World
from wise_ledger.standins.fernmark.world import Filing
from wise_ledger.store.ledger import Ledger
from wise_ledger.wire.collecting import Run
from wise_ledger.work import digests
from wise_ledger.work.desk import Desk
from wise_ledger.work.screen import run_screen
from wise_ledger.work.viewpoint import Viewpoint


class Collecting(unittest.TestCase):
    def setUp(self) -> None:
        self.stack = ExitStack()
        self.addCleanup(self.stack.close)

    def open(self, world: World = WORLD, timeout: float = 5.0) -> LiveLedger:
        self.source = LiveSource(self.stack, world)
        return LiveLedger(self.stack, self.source, timeout)

    def collect(self, live: LiveLedger, **how: Any) -> Run:
        return live.ledger.collect("fernmark", every=0.03, **how)

    def few(self, *keys: str) -> World:
        """A world of these companies alone."""
        members = [m for m in WORLD.lists[0]["members"] if m["company"] in keys]
        return World(
            [c for c in WORLD.companies if c["key"] in keys],
            {k: WORLD.filings[k] for k in keys},
            [{**WORLD.lists[0], "members": [{**m, "weight": 0.15} for m in members]}],
        )

    def test_the_same_collection_again_adds_no_fact_t8(self) -> None:
        live = self.open(self.few("FM-0001", "FM-0013"))
        first, again = self.collect(live), self.collect(live)
        self.assertEqual((first.state, first.done, first.failed), ("finished", 2, 0))
        self.assertGreater(first.facts, 500)
        self.assertEqual((again.state, again.facts), ("finished", 0))
        self.assertEqual({o.state for o in again.outcomes}, {"unchanged"})
        # Nothing at all was written again: no company, list, weight or ratio either.
        self.assertEqual(live.ledger.verify().batches, 3)

    def test_what_is_new_at_the_source_is_all_that_is_added(self) -> None:
        world = self.few("FM-0001", "FM-0002")
        late = world.filings["FM-0001"].pop()
        try:
            live = self.open(world)
            before = self.collect(live).facts
            world.filings["FM-0001"].append(late)
            run = self.collect(live)
        finally:
            if late not in WORLD.filings["FM-0001"]:
                WORLD.filings["FM-0001"].append(late)
        states = {o.subject: o.state for o in run.outcomes}
        self.assertEqual(states, {"FM-0001": "stored", "FM-0002": "unchanged"})
        self.assertLess(run.facts, before / 10)

    def test_one_bad_figure_fails_its_company_alone_and_is_named(self) -> None:
        live = self.open(self.few("FM-0001", "FM-0002", "FM-0003"))
        self.source.fault("bad_number", "FM-0002-2022")
        run = self.collect(live)
        self.assertEqual((run.state, run.failed), ("partly_finished", 1))
        (failed,) = [o for o in run.outcomes if o.state == "failed"]
        self.assertEqual(failed.company, "Pellam Tide Power")
        for word in ("this is no number", "figure 1 (sales)", "nothing of this company was stored"):
            self.assertIn(word, failed.reason)
        found = live.ledger.screen("revenue > 0", "first-look", "2024-06-30")
        verdicts = {c.name: (c.verdict, c.reason) for c in found.answer.companies}
        self.assertEqual(verdicts["Pellam Tide Power"], ("unknown", "not_known"))
        self.assertEqual(verdicts["Quennick Foundry"][0], "pass")
        self.source.fault(None)
        run = self.collect(live)
        self.assertEqual(
            (run.state, [o.state for o in run.outcomes].count("stored")), ("finished", 1)
        )

    def test_a_figure_that_cannot_be_is_quarantined_and_the_rest_is_used_q1_q2(self) -> None:
        plain = self.few("FM-0001", "FM-0002")

        def changed(filing: Filing) -> Filing:
            body = json.loads(filing.body)
            # one period backwards, and published before any has ended
            if filing.id == "FM-0002-2022-FY":
                (sales,) = (f for f in body["figures"] if f["tag"] == "sales")
                sales["from"], sales["to"] = sales["to"], sales["from"]
                body["published_at"] = "2022-06-30T07:00:00Z"
            elif filing.id == "FM-0002-2023-FY":
                body["currency"] = "EURO"
            else:
                return filing
            return replace(filing, made=json.dumps(body).encode())

        filings = {key: [changed(f) for f in of] for key, of in plain.filings.items()}
        world = World(plain.companies, filings, plain.lists)
        live = self.open(world)
        run = self.collect(live)
        self.assertEqual((run.state, run.failed), ("finished", 0))
        found = live.ledger.quality(limit=500)
        self.assertEqual(
            set(found.by_check) - {"sources"}, {"unit", "period_order", "published_early"}
        )
        self.assertEqual({f.name for f in found.findings}, {"Pellam Tide Power"})
        until(lambda: digests.newest(live.desk.ledger, 1))
        counts = live.ledger.digest(run.id).counts
        self.assertEqual(
            counts["quarantined"], len({f.fact for f in found.findings if f.state == "quarantined"})
        )
        # The year 2022 is unknown rather than wrong; what came before and after is used.
        explained = live.ledger.explain("PTP@ZBRE", "net_income.fy", "2023-06-30").answer
        self.assertEqual(str(explained.period_end), "2021-12-31")
        live.ledger.verify()

    def test_truncated_and_slow_answers_fail_by_company(self) -> None:
        for kind, path in (("truncated", "FM-0002-2021-FY"), ("slow", "/v1/companies/FM-0002")):
            with self.subTest(kind):
                live = self.open(self.few("FM-0001", "FM-0002"), timeout=0.3)
                self.source.fault(kind, path, seconds=0.8)
                run = self.collect(live)
                self.assertEqual((run.state, run.failed), ("partly_finished", 1))
                self.assertGreaterEqual(max(o.tries for o in run.outcomes), 4)

    def test_a_source_that_is_down_or_refuses_ends_the_run_with_the_mend(self) -> None:
        for kind, word in (
            ("down", "the source answers with an error"),
            ("refused", "check the key"),
        ):
            with self.subTest(kind):
                live = self.open(self.few("FM-0001"))
                self.source.fault(kind)
                run = self.collect(live)
                self.assertEqual((run.state, run.done), ("failed", 0))
                self.assertIn(word, run.problem or "")
                self.assertEqual(live.desk.ledger.last_batch(), 0)

    def test_a_key_revoked_half_way_keeps_what_was_stored(self) -> None:
        live = self.open(self.few("FM-0001", "FM-0002"))
        self.source.fault("refused", "/v1/companies/FM-0002")
        run = self.collect(live)
        self.assertEqual((run.state, run.done), ("partly_finished", 1))
        self.assertEqual(live.ledger.verify().batches, 2)

    def test_a_list_narrows_the_collection_and_an_unknown_one_is_named(self) -> None:
        live = self.open(self.few("FM-0001", "FM-0002"))
        with self.assertRaises(NotThere):
            self.collect(live, list="first-look")
        self.collect(live)
        self.assertEqual(self.collect(live, list="first-look").done, 2)
        with self.assertRaises(NotThere) as caught:
            self.collect(live, list="first-lok")
        self.assertIn("first-look", caught.exception.problems[0].mend)

    def test_a_list_with_a_member_that_is_no_company_is_not_kept_and_all_else_is(self) -> None:
        world = self.few("FM-0001")
        stranger = {
            **WORLD.lists[0],
            "members": [{"company": "FM-9999", "from": "2021-01-01", "to": None}],
        }
        live = self.open(replace(world, lists=[stranger, WORLD.lists[1]]))
        run = self.collect(live)
        self.assertEqual((run.state, run.done), ("partly_finished", 1))
        self.assertIn("FM-9999", run.problem or "")
        self.assertEqual(live.ledger.verify().batches, 2)  # the company is there for all that

    def test_an_answer_does_not_change_by_what_is_collected_later_t7(self) -> None:
        world = self.few("FM-0001", "FM-0002")
        kept, world.filings["FM-0001"] = world.filings["FM-0001"], world.filings["FM-0001"][:12]
        live = self.open(world)
        self.collect(live)
        batch = live.desk.ledger.last_batch()
        before = live.http("POST", "/screens", json=self.question(batch))
        world.filings["FM-0001"] = kept
        self.collect(live)
        self.assertGreater(live.desk.ledger.last_batch(), batch)
        after = live.http("POST", "/screens", json=self.question(batch))
        self.assertEqual(before.content, after.content)
        self.assertEqual(before.headers["ETag"], after.headers["ETag"])
        self.assertNotEqual(
            live.http("POST", "/screens", json=self.question(None)).content, after.content
        )

    def question(self, batch: int | None) -> dict[str, Any]:
        return {"rule": RULE, "list": "first-look", "known_on": "2025-06-30", "recorded_by": batch}


# How often a collection is killed: few in every run of the tests, fifty with WISE_LEDGER_KILLS=50.
KILLS = int(os.environ.get("WISE_LEDGER_KILLS", "4"))

# A process that only collects into a folder, to be killed at any moment.
_COLLECTOR = """
import sys, time
from datetime import UTC, datetime
from pathlib import Path
from wise_ledger.sources.fernmark import Fernmark
from wise_ledger.work import digests
from wise_ledger.work.desk import Desk
from wise_ledger.work.runs import Asked
from wise_ledger.sources.pacing import Budget, Pace
slow = Budget(Pace(per_second=float(sys.argv[4])) if len(sys.argv) > 4 else Pace())
source = {"fernmark": lambda: Fernmark(sys.argv[2], sys.argv[3], 5.0, slow)}
desk = Desk.open(Path(sys.argv[1]), source, lambda: datetime.now(UTC))
if not desk.runs.newest(1):
    desk.runs.collect(Asked("fernmark"))
print("open", flush=True)
while desk.runs.newest(1)[0].state in ("queued", "running"):
    time.sleep(0.02)
desk.close()
print("done", flush=True)
"""


class Killed(unittest.TestCase):
    def start(self, folder: str) -> subprocess.Popen[str]:
        command = [sys.executable, "-c", _COLLECTOR, folder, self.source.url, KEY]
        process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
        assert process.stdout is not None and process.stdout.readline() == "open\n"
        return process

    def end(self, process: subprocess.Popen[str]) -> None:
        self.assertEqual(process.communicate(timeout=60)[0], "done\n")
        self.assertEqual(process.returncode, 0)

    def facts(self, folder: str) -> set[tuple[Any, ...]]:
        """Every fact by what it says, without where it stands in the ledger."""
        with closing(Ledger(Path(folder) / "ledger.sqlite", lambda: datetime.now(UTC))) as ledger:
            ledger.verify()
            with ledger.database.read() as connection:
                rows = connection.exec_driver_sql(
                    "SELECT i.code, c.id, f.period_start, f.period_end, f.value, f.unit, f.published_at, d.sha256,"
                    " f.place"
                    " FROM facts f JOIN items i ON i.number = f.item JOIN companies c ON c.number = f.company"
                    " JOIN documents d ON d.number = f.document"
                ).all()
        self.assertEqual(len(rows), len({tuple(r) for r in rows}))
        return {tuple(r) for r in rows}

    def test_kill_9_at_any_moment_then_the_collection_finishes_and_verify_holds(self) -> None:
        with ExitStack() as stack:
            # For many kills a collection long enough that each one interrupts it.
            long = KILLS > 4
            self.source = LiveSource(stack, broad_world() if long else WORLD, page=60)
            whole, broken = (stack.enter_context(tempfile.TemporaryDirectory()) for _ in range(2))
            self.end(self.start(whole))
            rng, kills = random.Random(7), 0
            while kills < KILLS:  # while companies are read, in mid-company, late
                already, process = self.source.served["requests"], self.start(broken)
                moment = already + rng.randint(1, 20)
                until(
                    lambda n=moment, p=process: (
                        self.source.served["requests"] >= n or p.poll() is not None
                    )
                )
                time.sleep(rng.random() * 0.05)
                if process.poll() is not None:
                    break
                os.kill(process.pid, signal.SIGKILL)
                process.communicate()
                kills += 1
            self.assertGreaterEqual(kills, KILLS if long else 3)
            last = self.start(broken)
            self.end(last)
            self.assertEqual(self.facts(broken), self.facts(whole))
            desk = Desk.open(Path(broken), {}, lambda: datetime.now(UTC))
            self.addCleanup(desk.close)
            (run,) = desk.runs.newest(5)
            self.assertEqual((run.state, run.total), ("finished", 240 if long else 32))
            # What was kept and what the run says of it are one transaction,
            # so the digest has all of it.
            until(lambda: digests.newest(desk.ledger, 1))
            counts = digests.newest(desk.ledger, 1)[0].content["counts"]
            self.assertEqual(counts["facts"], len(self.facts(whole)))
            self.assertEqual(counts["companies"], run.total)
            if long:
                return
            found = run_screen(desk, Viewpoint(read_cutoff("2023-06-30", "")), RULE, "first-look")
            self.assertEqual(sum(c.judged.verdict == "pass" for c in found.companies), 12)
