"""Runs: every fault of a source, pause and cancel, what failed again, plans, digests,
tags, schedules and notices.
"""

import json
import logging
import os
import sqlite3
import tempfile
import time
import unittest
from contextlib import ExitStack
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from random import Random
from typing import Any

from sqlalchemy import event

from tests.live import WORLD, LiveLedger, LiveSource, until
from wise_ledger.client import InputRefused, WiseLedgerError
from wise_ledger.launch.running import address, bind, running
from wise_ledger.sources.pacing import Budget, Pace
from wise_ledger.standins.fernmark import KINDS, World, make_whole_world
from wise_ledger.standins.letterbox import Letterbox
from wise_ledger.wire.collecting import Run, TagRule, Timing
from wise_ledger.work import digests, notices
from wise_ledger.work.desk import Desk
from wise_ledger.work.notices import Post

SECRET = "a-secret-for-tests"


def broad_world(companies: int = 240) -> World:
    """That many companies, each with one filing."""
    whole = make_whole_world()
    small = {c["key"]: WORLD.filings.get(c["key"], [])[-1:] for c in whole.companies}
    given = [f for filings in WORLD.filings.values() for f in filings[-2:]]
    for n, company in enumerate(whole.companies):
        if not small[company["key"]]:
            small[company["key"]] = [_as_of(given[n % len(given)], company["key"])]
    some = whole.companies[:companies]
    keys = {c["key"] for c in some}
    members = [m for m in whole.lists[0]["members"] if m["company"] in keys]
    return World(some, {k: small[k] for k in keys}, [{**whole.lists[0], "members": members}])


def _meant(record: logging.LogRecord) -> bool:
    """The stand-in is meant to break off in mid-body: what its server says of that is no news."""
    return "ASGI" not in record.getMessage()


def _as_of(filing: Any, key: str) -> Any:
    body = json.loads(filing.body)
    id_ = f"{key}-{filing.id.split('-', 2)[2]}"
    text = json.dumps({**body, "filing": id_, "company": key}).encode()
    return replace(filing, id=id_, made=text)


class RunsCase(unittest.TestCase):
    world = WORLD

    def setUp(self) -> None:
        self.stack = ExitStack()
        self.addCleanup(self.stack.close)

    def open(self, world: World | None = None, timeout: float = 5.0, **how: Any) -> LiveLedger:
        self.source = LiveSource(self.stack, world or WORLD)
        return LiveLedger(self.stack, self.source, timeout, **how)

    def few(self, *keys: str) -> World:
        members = [m for m in WORLD.lists[0]["members"] if m["company"] in keys]
        return World(
            [c for c in WORLD.companies if c["key"] in keys],
            {k: list(WORLD.filings[k]) for k in keys},
            [{**WORLD.lists[0], "members": members}],
        )


class Faults(RunsCase):
    """Each fault, and all of them mixed: the run ends by itself, stores what is good,
    and names who failed and why.
    """

    def test_every_fault_ends_with_what_is_good_stored_and_every_failure_named(self) -> None:
        log = logging.getLogger("uvicorn.error")
        log.addFilter(_meant)
        self.addCleanup(log.removeFilter, _meant)
        whole = self.good(broad_world(100))
        some = self.good(broad_world(25))
        for kind in (*KINDS, "mixed"):
            world, expected = whole if kind == "mixed" else some
            with self.subTest(kind), ExitStack() as stack:
                source = LiveSource(stack, world, page=40)
                source.faults.switch(
                    kind,
                    share={"refused": 0.02, "mixed": 0.2}.get(kind, 0.15),
                    seconds=0.8,
                    seed=len(kind),
                    path="filings" if kind == "mixed" else "",
                )
                damaged = LiveLedger(stack, source, 0.4, budget=Budget(Pace(at_once=8)))
                run = damaged.ledger.collect("fernmark", every=0.3)
                self.assertIn(run.state, ("finished", "partly_finished", "failed"))
                for outcome in run.outcomes:
                    if outcome.state == "failed":
                        self.assertRegex(outcome.reason, r".+: .+; .+", outcome)
                if run.state == "failed" and not run.outcomes:
                    self.assertTrue(run.problem)
                stored = self.facts(damaged)
                self.assertLessEqual(stored, expected)  # nothing bad
                failed = {o.subject for o in run.outcomes if o.state == "failed"}
                if run.total == run.done:  # everybody had a turn: all that is good is there
                    self.assertEqual(stored, {f for f in expected if f[0] not in failed})
                damaged.ledger.verify()
                if kind == "mixed":  # when the trouble is over, the rest comes
                    self.assertTrue(failed, "the trouble was too little to fail anybody")
                    source.fault(None)
                    again = damaged.ledger.wait(damaged.ledger.try_again(run.id))
                    self.assertEqual(again.state, "finished", again.problem)
                    self.assertEqual(self.facts(damaged), expected)

    def good(self, world: World) -> tuple[World, set[tuple[Any, ...]]]:
        """A world and all that an untroubled run of it stores."""
        live = self.open(world, budget=Budget(Pace(at_once=8)))
        run = live.ledger.collect("fernmark", every=0.05)
        self.assertEqual((run.state, run.done), ("finished", len(world.companies)), run.problem)
        return world, self.facts(live)

    def facts(self, live: LiveLedger) -> set[tuple[Any, ...]]:
        with live.desk.ledger.database.read() as connection:
            rows = connection.exec_driver_sql(
                "SELECT n.value AS company, i.code, f.period_start, f.period_end, f.value, f.published_at"
                " FROM facts f JOIN items i ON i.number = f.item"
                " JOIN identifiers n ON n.company = f.company AND n.scheme = 'fernmark'"
            )
            return {tuple(r) for r in rows}


class Broken(RunsCase):
    """A part of what a source gives (lists, rates, venues, the market) that cannot be had."""

    ASKED = (
        ("GET", "/lists/first-look/members", {}),
        ("GET", "/levels", {"list": "index-of-aldmoor"}),
        ("GET", "/venues", {}),
        ("GET", "/market", {"list": "first-look"}),
        (
            "POST",
            "/screens",
            {
                "rule": "market_value > 1bn EUR",
                "list": "first-look",
                "show": ["dividend_12mo", "close", "active"],
            },
        ),
    )

    def answers(self, live: LiveLedger) -> list[str]:
        """What is said of all parts, without the batch."""
        said = []
        for method, path, asked in self.ASKED:
            by = {"params": asked} if method == "GET" else {"json": asked}
            found = live.http(method, path, **by)
            self.assertEqual(found.status_code, 200, found.text)
            document = found.json()
            del document["batch"]
            said.append(json.dumps(document))
        return said

    def test_it_keeps_nothing_else_back_is_named_and_comes_with_the_next_collection(self) -> None:
        log = logging.getLogger("uvicorn.error")
        log.addFilter(_meant)
        self.addCleanup(log.removeFilter, _meant)
        filings = {key: of[-1:] for key, of in WORLD.filings.items()}
        world = replace(WORLD, filings=filings)
        whole = self.open(world, budget=Budget(Pace(at_once=8)))
        self.assertEqual(whole.ledger.collect("fernmark", every=0.05).state, "finished")
        expected, random = self.answers(whole), Random(int(os.environ.get("SEED", "3")))
        parts = "lists rates venues price-files price-files/ levels dividends shares delistings"
        some = random.sample(parts.split(), int(os.environ.get("PARTS", "2")))
        for part in ("price-files/ZALD/2023", "price-files/", *some):
            kind = random.choice(("error", "not_json", "html", "truncated"))
            with self.subTest(part, kind=kind):
                live = self.open(world, budget=Budget(Pace(at_once=8)))
                self.source.fault(kind, path=f"/v1/{part}")
                run = live.ledger.collect("fernmark", every=0.05)
                self.assertEqual(run.state, "partly_finished", run.problem)
                self.assertEqual((run.done, run.failed), (run.total, 0))
                self.assertIn(part.strip("/"), run.problem or "")
                if part.endswith("2023"):  # the other files are there
                    self.assertGreater(run.records["prices"], 20_000)
                self.source.fault(None)
                again = live.ledger.collect("fernmark", every=0.05)
                self.assertEqual((again.state, again.problem), ("finished", None))
                self.assertEqual(self.answers(live), expected)


class Control(RunsCase):
    def test_pause_resume_and_cancel(self) -> None:
        live = self.open(budget=Budget(Pace(per_second=25, at_once=1)))
        run = live.ledger.queue("fernmark")
        until(lambda: live.ledger.run(run.id).done >= 2)
        self.assertEqual(live.ledger.pause(run.id).state, "paused")
        time.sleep(0.5)
        held = live.ledger.run(run.id)
        time.sleep(0.5)
        self.assertEqual((held.state, live.ledger.run(run.id).done), ("paused", held.done))
        self.assertLess(held.done, 32)
        self.assertIn(live.ledger.resume(run.id).state, ("queued", "running"))
        until(lambda: live.ledger.run(run.id).done > held.done)
        self.assertEqual(live.ledger.cancel(run.id).state, "cancelled")
        until(lambda: run.id not in live.desk.runs._taken)
        for turn in (live.ledger.pause, live.ledger.resume, live.ledger.cancel):
            with self.assertRaises(InputRefused):
                turn(run.id)
        # What a cancelled run stored stays, and the next one stores nothing twice.
        again = live.ledger.collect("fernmark")
        self.assertEqual(again.state, "finished")
        self.assertEqual(live.ledger.verify().facts, 5248)

    def test_two_runs_of_one_source_share_its_budget(self) -> None:
        live = self.open(
            self.few("FM-0001", "FM-0002", "FM-0003"), budget=Budget(Pace(per_second=10, at_once=4))
        )
        live.ledger.collect("fernmark")
        before, began = self.source.served["requests"], time.monotonic()
        runs = [live.ledger.queue("fernmark", companies=[c]) for c in ("AGK@ZALD", "PTP@ZBRE")]
        for run in runs:
            live.ledger.wait(run)
        made, spent = self.source.served["requests"] - before, time.monotonic() - began
        self.assertLessEqual(made, 10 + 10 * spent)
        self.assertGreaterEqual(made, 6)

    def test_what_failed_is_tried_again_and_that_alone(self) -> None:
        live = self.open(self.few("FM-0001", "FM-0002", "FM-0003"))
        self.source.fault("truncated", "FM-0002/filings")
        first = live.ledger.collect("fernmark")
        self.assertEqual((first.state, first.failed), ("partly_finished", 1))
        self.source.fault(None)
        again = live.ledger.wait(live.ledger.try_again(first.id))
        self.assertEqual([(o.subject, o.state) for o in again.outcomes], [("FM-0002", "stored")])
        self.assertEqual(again.failed_of, first.id)
        with self.assertRaisesRegex(InputRefused, "no company failed"):
            live.ledger.try_again(again.id)

    def test_a_part_that_broke_is_tried_again_though_no_company_failed(self) -> None:
        live = self.open(replace(self.few("FM-0001"), all_rates=WORLD.all_rates))
        self.source.fault("truncated", "rates")
        first = live.ledger.collect("fernmark")
        self.assertEqual((first.state, first.failed), ("partly_finished", 0))
        self.assertNotIn("currency rates", first.records)
        self.source.fault(None)
        ended = live.command("collect", "fernmark", "--failed-only")
        self.assertEqual(ended.returncode, 0, ended.stderr)
        again = live.ledger.runs()[0]
        self.assertEqual((again.state, again.problem), ("finished", None))
        self.assertEqual(again.records, {"currency rates": 2 * len(WORLD.all_rates)})
        ended = live.command("collect", "fernmark", "--failed-only")
        self.assertIn("nothing failed", ended.stdout)

    def test_a_plan_shows_what_it_takes_and_a_large_one_asks_first(self) -> None:
        live = self.open(confirm_above=20)
        plan = live.ledger.plan("fernmark")
        self.assertEqual((plan.companies, plan.unchanged, plan.needs_confirmation), (32, 0, True))
        self.assertEqual(plan.filings, sum(len(f) for f in WORLD.filings.values()))
        ended = live.command("collect", "fernmark")
        self.assertEqual(ended.returncode, 2)
        self.assertIn("give --yes", ended.stderr)
        with self.assertRaisesRegex(InputRefused, "calls"):
            live.ledger.queue("fernmark", confirmed=False)
        ended = live.command("collect", "fernmark", "--yes")
        self.assertEqual(ended.returncode, 0, ended.stderr)
        run = live.ledger.runs()[0]
        self.assertAlmostEqual(run.requests, plan.calls, delta=8)
        after = live.ledger.plan("fernmark")
        self.assertEqual(
            (after.companies, after.unchanged, after.needs_confirmation), (0, 32, False)
        )

    def test_an_unchanged_source_costs_a_tenth_of_the_bytes_and_adds_nothing(self) -> None:
        live = self.open()
        first, second = live.ledger.collect("fernmark"), live.ledger.collect("fernmark")
        self.assertEqual((second.facts, second.unchanged), (0, 32))
        self.assertLess(second.bytes, first.bytes / 10)
        self.assertLessEqual(second.requests, 10)  # with its venues, and five kinds of market data

    def test_only_what_is_asked_for_comes(self) -> None:
        live = self.open(self.few("FM-0001", "FM-0002"))
        run = live.ledger.collect("fernmark", what=["attributes", "identifiers"])
        self.assertEqual((run.facts, live.ledger.lists()), (0, ()))
        from datetime import date

        run = live.ledger.collect("fernmark", companies=["AGK@ZALD"], since=date(2025, 1, 1))
        self.assertEqual((run.done, run.stored), (1, 1))
        (held,) = {
            h.first_period_end.year >= 2024 for h in live.ledger.company("AGK@ZALD").holdings
        }
        self.assertTrue(held)
        # the rest is not taken for known
        self.assertEqual(live.ledger.collect("fernmark").stored, 2)
        for wrong in ({"what": ["prices"]}, {"companies": ["nobody"]}):
            self.assertGreaterEqual(
                live.http("POST", "/collections", json={"source": "fernmark", **wrong}).status_code,
                404,
            )

    def test_events_show_every_step_until_the_end(self) -> None:
        live = self.open(self.few("FM-0001", "FM-0002"))
        seen = list(live.ledger.events(live.ledger.queue("fernmark").id))
        self.assertEqual((seen[-1].state, seen[-1].done), ("finished", 2))
        self.assertEqual([r.done for r in seen], sorted(r.done for r in seen))
        with self.assertRaises(WiseLedgerError):
            list(live.ledger.events(99))


class WhatCame(RunsCase):
    def test_a_digest_shows_companies_periods_restatements_and_withdrawals(self) -> None:
        world = self.few("FM-0001", "FM-0023")
        kept = dict(world.filings)
        assert isinstance(world.filings, dict)
        world.filings["FM-0001"] = [f for f in kept["FM-0001"] if f.published < "2024-01-10"]
        world.filings["FM-0023"] = [f for f in kept["FM-0023"] if f.published < "2024-05-01"]
        live = self.open(world)
        first = live.ledger.collect("fernmark")
        until(lambda: live.http("GET", f"/digests/{first.id}").status_code == 200)
        counts = live.ledger.digest(first.id).counts
        self.assertEqual(
            (counts["companies"], counts["restatements"], counts["facts"]), (2, 0, first.facts)
        )
        came = live.ledger.digest(first.id).records
        self.assertEqual((came["list members"], came), (2, live.ledger.run(first.id).records))
        self.assertIn("list members: 2", live.command("runs").stdout)
        world.filings.update(kept)
        second = live.ledger.collect("fernmark")
        until(lambda: live.http("GET", f"/digests/{second.id}").status_code == 200)
        digest = live.ledger.digest(second.id)
        self.assertEqual(
            (digest.counts["companies"], digest.counts["withdrawn"], digest.records), (0, 1, {})
        )
        self.assertEqual(digest.withdrawn[0].item, "operating_income")
        changed = [
            c
            for c in digest.restatements
            if c.item == "operating_income" and str(c.period_end) == "2022-12-31"
        ]
        (change,) = changed
        found = live.ledger.explain("AGK@ZALD", "operating_income.fy", "2023-12-31").answer
        self.assertEqual(change.old, found.value)
        self.assertAlmostEqual(change.percent, (change.new / change.old - 1) * 100)
        self.assertIn(
            "Restated", live.command("runs", "digest", str(second.id), "--format", "json").stdout
        )

    def test_a_new_meaning_is_read_out_of_the_kept_documents_t7(self) -> None:
        world = self.few("FM-0001", "FM-0011")
        body = world.filings["FM-0001"][3].body.replace(
            b'"cost_of_sales"', b'"cost_of_what_was_sold"'
        )
        world.filings["FM-0001"][3] = replace(world.filings["FM-0001"][3], made=body)
        live = self.open(world)
        live.ledger.collect("fernmark")
        before, asked = live.desk.ledger.last_batch(), self.source.served["requests"]
        (tag,) = live.ledger.tags("fernmark").unmapped
        self.assertEqual(
            (tag.tag, tag.documents, tag.example),
            ("cost_of_what_was_sold", 1, "Ashgrove Kilnworks"),
        )
        rule = TagRule(tag=tag.tag, item="cost_of_revenue", who="Ada")
        done = live.ledger.map_tag("fernmark", rule)
        self.assertEqual((done.documents, done.facts, done.withdrawn), (1, 1, 0))
        self.assertEqual(self.source.served["requests"], asked)
        self.assertEqual(live.ledger.tags("fernmark").unmapped, [])
        found = live.ledger.explain("AGK@ZALD", "cost_of_revenue.fy", "2022-06-30").answer
        self.assertEqual(
            found.facts[0].published_at if hasattr(found, "facts") else found.period, "FY2021"
        )
        past = live.ledger.explain(
            "AGK@ZALD", "cost_of_revenue.fy", "2022-06-30", recorded_by=before
        ).answer
        self.assertIsNone(past.value)
        # Another meaning takes the old one back; the same again is refused; what is no item is
        # named.
        moved = live.ledger.map_tag(
            "fernmark", rule.model_copy(update={"item": "gross_profit", "sign": -1})
        )
        self.assertEqual((moved.facts, moved.withdrawn), (1, 1))
        self.assertEqual(
            live.ledger.explain("AGK@ZALD", "gross_profit.fy", "2022-06-30").answer.value,
            -found.value,
        )
        self.assertIsNone(
            live.ledger.explain("AGK@ZALD", "cost_of_revenue.fy", "2022-06-30").answer.value
        )
        with self.assertRaisesRegex(InputRefused, "means this already"):
            live.ledger.map_tag(
                "fernmark", rule.model_copy(update={"item": "gross_profit", "sign": -1})
            )
        with self.assertRaisesRegex(WiseLedgerError, "cost_of_revenue"):
            live.ledger.map_tag("fernmark", rule.model_copy(update={"item": "cost_of_revenu"}))
        with self.assertRaisesRegex(InputRefused, "no document has this tag"):
            live.ledger.map_tag("fernmark", rule.model_copy(update={"tag": "cost_of_salse"}))
        yet = rule.model_copy(update={"tag": "cost_of_salse", "expected": True})
        self.assertEqual(live.ledger.map_tag("fernmark", yet).facts, 0)
        live.ledger.verify()


class Scheduled(RunsCase):
    def setUp(self) -> None:
        super().setUp()
        folder = self.stack.enter_context(tempfile.TemporaryDirectory())
        self.box = Letterbox(Path(folder), SECRET)
        self.box.start()
        self.stack.callback(self.box.stop)
        bound = bind("127.0.0.1", 0, "--port")
        self.call = f"{address(bound)}/notices"
        self.stack.enter_context(running(self.box.app, bound))
        self.post = Post(
            "127.0.0.1",
            self.box.smtp_port,
            "ledger@example.test",
            SECRET,
            "http://ledger.example",
            ("127.0.0.1",),
        )

    def test_a_schedule_runs_when_due_and_notifies_by_mail_and_by_a_signed_call(self) -> None:
        live = self.open(self.few("FM-0001"), post=self.post)
        targets = ["mailto:ada@example.test", self.call, "http://127.0.0.1:9/nobody"]
        kept = live.ledger.keep_schedule(
            "nightly", "fernmark", "Ada", timing=Timing(at=["02:30"]), notify=targets
        )
        assert kept.next_at is not None
        self.assertEqual((kept.next_at.hour, kept.next_at.minute), (2, 30))
        run = live.ledger.wait(live.ledger.run_schedule("nightly"))
        until(
            lambda: (
                len(live.ledger.digest(run.id).deliveries) == 3
                if self.notified(live, run)
                else False
            )
        )
        states = [(d.channel, d.state) for d in live.ledger.digest(run.id).deliveries]
        self.assertEqual(states, [("mail", "sent"), ("call", "sent"), ("call", "failed")])
        self.assertEqual(live.ledger.digest(run.id).deliveries[2].tries, 3)
        # Without a secret nobody is called: anybody could sign with an empty one.
        digest = digests.find(live.desk.ledger, run.id)
        (refused,) = notices.notify(
            live.desk.ledger, replace(self.post, secret=""), digest, (self.call,)
        )
        self.assertIn("WISE_LEDGER_NOTICE_SECRET", refused.reason)
        mail, call = (p.read_text() for p in self.box.letters())
        self.assertIn("To: ada@example.test", mail)
        self.assertIn(f"http://ledger.example/runs/{run.id}", mail)
        self.assertEqual(json.loads(call)["counts"]["facts"], run.facts)
        (seen,) = live.ledger.schedules()
        self.assertEqual(
            (seen.last_run, seen.last_state, seen.last_facts), (run.id, "finished", run.facts)
        )
        self.assertEqual(live.ledger.runs()[0].schedule, "nightly")

    def notified(self, live: LiveLedger, run: Run) -> bool:
        return live.http("GET", f"/digests/{run.id}").status_code == 200

    def test_every_so_often_and_missed_ones_once_after_a_restart(self) -> None:
        source = LiveSource(self.stack, self.few("FM-0001"))
        folder = Path(self.stack.enter_context(tempfile.TemporaryDirectory()))
        clock = [datetime.now(UTC)]
        opened = {"fernmark": lambda: source.adapter()}
        desk = Desk.open(folder, opened, lambda: clock[0])
        from wise_ledger.work.runs import Asked
        from wise_ledger.work.schedules import Timing as When

        desk.schedules.keep("often", Asked("fernmark"), When(every="6h"), (), "Ada")
        due = desk.schedules.find("often").next_at
        assert due is not None
        self.assertAlmostEqual((due - clock[0]).total_seconds(), 6 * 3600, delta=2)
        desk.close()
        clock[0] += timedelta(days=2, hours=1)  # the service was down: eight turns were missed
        desk = Desk.open(folder, opened, lambda: clock[0])
        self.addCleanup(desk.close)
        until(lambda: [r.state for r in desk.runs.newest(9)] == ["finished"])
        due = desk.schedules.find("often").next_at
        assert due is not None
        self.assertTrue(timedelta(0) < due - clock[0] <= timedelta(hours=6))

    def test_data_older_than_a_limit_is_collected_when_somebody_asks(self) -> None:
        live = self.open(self.few("FM-0001"))
        live.ledger.collect("fernmark")
        live.ledger.keep_schedule("fresh", "fernmark", "Ada", timing=Timing(older_than="1d"))
        live.ledger.screen("revenue > 0", "first-look", "2024-01-01")
        until(lambda: live.ledger.schedules()[0].last_state == "finished")
        live.desk.schedules._looked = None
        live.ledger.screen("revenue > 0", "first-look", "2024-01-01")
        self.assertEqual(len(live.ledger.runs()), 2)  # fresh now

    def test_schedules_are_held_removed_and_wrong_ones_refused(self) -> None:
        live = self.open(self.few("FM-0001"))
        self.assertEqual(
            live.command("schedules", "keep", "nightly", "fernmark", "--at", "02:30").returncode, 0
        )
        self.assertTrue(live.ledger.pause_schedule("nightly").paused)
        self.assertIsNone(live.ledger.schedules()[0].next_at)
        self.assertIsNotNone(live.ledger.pause_schedule("nightly", paused=False).next_at)
        self.assertIn("nightly", live.command("schedules").stdout)
        for wrong, mend in (
            (("nightly", "fernmark"), "choose another"),
            (("x", "fernmark", "--every", "1d", "--at", "01:00"), "two schedules"),
        ):
            ended = live.command("schedules", "keep", *wrong)
            self.assertNotEqual(ended.returncode, 0, wrong)
            self.assertIn(mend, ended.stderr)
        for how, mend in (
            ({"timing": Timing(every="soon")}, "write 30min"),
            ({"timing": Timing(at=["25:00"])}, "HH:MM"),
            ({"notify": ["ada"]}, "mailto:"),
            ({"source": "fernmrk"}, "fernmark"),
        ):
            with self.assertRaisesRegex(WiseLedgerError, mend):
                live.ledger.keep_schedule("x", who="Ada", **{"source": "fernmark", **how})
        live.ledger.remove_schedule("nightly")
        self.assertEqual(live.ledger.schedules(), ())


class TheDisk(RunsCase):
    def test_a_full_disk_ends_the_run_plainly_and_loses_nothing_acknowledged(self) -> None:
        keys = [f"FM-{n:04d}" for n in range(1, 17)]
        live = self.open(self.few(*keys))
        engine = live.desk.ledger.database._writer
        live.ledger.collect("fernmark", what=["identifiers"])
        first = live.ledger.collect("fernmark", companies=[f"fernmark:{k}" for k in keys[:4]])
        self.assertEqual(first.state, "finished")
        acknowledged = live.ledger.verify().facts
        # Room for the filings of some of the twelve others.
        with live.desk.ledger.database.read() as connection:
            pages = connection.exec_driver_sql("PRAGMA page_count").scalar_one() + 20

        def full(connection: sqlite3.Connection, _: Any) -> None:
            connection.execute(f"PRAGMA max_page_count = {pages}")

        event.listen(engine, "connect", full)
        engine.dispose()
        run = live.ledger.collect("fernmark")
        self.assertNotEqual(run.state, "finished")
        self.assertIn("the disk is full", run.problem or "")
        event.remove(engine, "connect", full)
        engine.dispose()
        kept = live.ledger.verify()
        acknowledged += sum(o.facts for o in live.ledger.run(run.id).outcomes)
        self.assertEqual(kept.facts, acknowledged)
        self.assertEqual(live.ledger.collect("fernmark").state, "finished")
        self.assertGreater(live.ledger.verify().facts, kept.facts)

    def test_a_locked_file_is_named_plainly(self) -> None:
        live = self.open(self.few("FM-0001"))
        live.ledger.collect("fernmark")
        with live.desk.ledger.database.read() as connection:
            connection.exec_driver_sql("PRAGMA busy_timeout = 50")
        from unittest import mock

        from wise_ledger.store import database

        with mock.patch.object(database, "_BUSY_MS", 50):
            live.desk.ledger.database._writer.dispose()
            other = sqlite3.connect(live.desk.ledger.database.path)
            self.addCleanup(other.close)
            other.execute("BEGIN IMMEDIATE")
            response = live.http(
                "POST", "/lists", json={"name": "one", "companies": ["AGK@ZALD"], "who": "Ada"}
            )
        self.assertEqual(response.status_code, 503)
        self.assertIn("another process is writing", response.text)
        other.rollback()
        self.assertEqual(live.ledger.verify().batches, 2)
