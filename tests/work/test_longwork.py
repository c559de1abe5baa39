"""Long work that is no collection is a run: watched, stopped at any step,
answered for a week, begun again.
"""

import logging
import os
import sqlite3
import threading
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from unittest import mock

from sqlalchemy import text

from tests.live import until
from tests.work.test_runs import RunsCase
from wise_ledger.client import InputRefused, WiseLedgerError
from wise_ledger.core.records.records import TagMeaning
from wise_ledger.store import extractkeeping, operations
from wise_ledger.store.database import interruptible
from wise_ledger.wire.collecting import Run, TagRule
from wise_ledger.wire.panels import PanelRequest
from wise_ledger.work import digests, mappings, notices
from wise_ledger.work.longwork import Answers, Halted

ON = "2024-06-30"


class LongWork(RunsCase):
    def setUp(self) -> None:
        super().setUp()
        self.live = self.open(self.few("FM-0001", "FM-0011"))
        self.live.ledger.collect("fernmark")

    def test_many_terms_are_matched_as_few_are(self) -> None:
        few = ["AGK@ZALD", "Ashgrove Kilnwork", "nobody of that name", "", "FM-0001"]
        at_once = self.live.ledger.match(few, ON, to=["symbol"]).answer
        seen: list[Run] = []
        many = self.live.ledger.match(
            [*few, *[f"Nobody {n}" for n in range(1200)]], ON, to=["symbol"], progress=seen.append
        ).answer
        self.assertEqual(many.rows[: len(few)], at_once.rows)
        self.assertEqual(
            (many.on, many.batch, many.to, len(many.rows)),
            (at_once.on, at_once.batch, ["symbol"], 1205),
        )
        self.assertEqual(sum(many.counts.values()), 1205)
        (run, *_) = self.live.ledger.runs()
        self.assertEqual(
            (run.kind, run.title, run.state), ("match", "match of 1,205 terms", "finished")
        )
        self.assertEqual((run.done, run.total), (1205, 1205))
        self.assertEqual(seen[-1].id, run.id)
        # What is wrong is refused at once, not by a run; and the same key queues one run only.
        asked = {"terms": ["x"] * 1001, "on": ON, "to": ["isbn"]}
        self.assertEqual(self.live.http("POST", "/matches", json=asked).status_code, 422)
        key = {"Idempotency-Key": "once"}
        twice = [
            self.live.http("POST", "/matches", json={**asked, "to": []}, headers=key)
            for _ in range(2)
        ]
        self.assertEqual([r.status_code for r in twice], [202, 202])
        self.assertEqual(twice[0].headers["Location"], twice[1].headers["Location"])

    def test_who_waits_no_more_stops_the_work_and_what_fails_says_why(self) -> None:
        begun = threading.Event()

        def slow(given: Any, step: Any) -> dict[str, Any]:
            begun.set()
            for done in range(10_000):
                step(done, 10_000)
                time.sleep(0.01)
            return {}

        runs = self.live.desk.runs
        real, runs.work = runs.work, {**runs.work, "verification": slow}

        def breaks_off(run: Run) -> None:
            if run.done:
                raise KeyboardInterrupt

        with self.assertRaises(KeyboardInterrupt):
            self.live.ledger.verify(progress=breaks_off)
        self.assertTrue(begun.is_set())
        (run, *_) = self.live.ledger.runs()
        self.assertEqual((run.kind, run.state), ("verification", "cancelled"))
        self.assertEqual(self.live.http("GET", f"/runs/{run.id}/answer").status_code, 404)
        with self.assertRaisesRegex(InputRefused, "only a collection can be held"):
            queued = self.live.http("POST", "/batches/verification").json()["id"]
            self.live.ledger.pause(queued)
        self.live.ledger.cancel(queued)
        runs.work = real
        self.assertEqual(self.live.ledger.verify().batches, self.live.desk.ledger.last_batch())
        with self.live.desk.ledger.database.write() as connection:
            connection.execute(text("DROP TRIGGER batches_no_update"))
            connection.execute(text("UPDATE batches SET note = 'another' WHERE number = 1"))
        with self.assertRaisesRegex(WiseLedgerError, "chain of batches is broken"):
            self.live.ledger.verify()
        (run, *_) = self.live.ledger.runs()
        self.assertEqual(run.state, "failed")
        self.assertIn("not the one that was written", run.problem or "")
        self.assertEqual(self.live.http("GET", f"/runs/{run.id}/answer").status_code, 409)
        self.assertEqual(self.live.command("verify").returncode, 1)

    def test_a_meaning_that_is_stopped_leaves_no_trace(self) -> None:
        ledger, opener = self.live.desk.ledger, self.live.desk.runs.opener("fernmark")
        rule = TagMeaning("cost_of_sales", "gross_profit", 1, 0, None, None)
        before, seen = ledger.last_batch(), []

        def stops(done: int, total: int) -> None:
            seen.append(total)
            if done == 2:
                raise Halted

        with self.assertRaises(Halted):
            mappings.apply(ledger, opener, rule, "Ada", "", stops)
        self.assertGreater(seen[0], 2)
        self.assertEqual((ledger.last_batch(), mappings.rules_of(ledger, "fernmark")), (before, []))
        done = mappings.apply(ledger, opener, rule, "Ada", "")
        self.assertEqual((done.documents, done.batch), (seen[0], before + 1))
        # As after a crash just behind its end: what stands is not done again.
        self.assertEqual(mappings.apply(ledger, opener, rule, "Ada", "").documents, 0)

    def test_a_meaning_is_stopped_in_the_middle_though_it_holds_the_ledger(self) -> None:
        real, before = mappings._read, self.live.desk.ledger.last_batch()

        def slowly(*given: Any) -> Any:
            time.sleep(0.4)
            return real(*given)

        def breaks_off(run: Run) -> None:
            if run.done:
                raise KeyboardInterrupt

        rule = TagRule(tag="cost_of_sales", item="gross_profit", sign=-1, who="Ada")
        with mock.patch.object(mappings, "_read", slowly):
            with self.assertRaises(KeyboardInterrupt):
                self.live.ledger.map_tag("fernmark", rule, progress=breaks_off)
            (run, *_) = self.live.ledger.runs()
            self.assertEqual(run.state, "cancelled")
            self.assertLess(run.done, run.total or 99)
        until(lambda: not self.live.desk.runs._taken)
        (run, *_) = self.live.ledger.runs()
        self.assertEqual((run.state, self.live.desk.ledger.last_batch()), ("cancelled", before))
        self.assertEqual(mappings.rules_of(self.live.desk.ledger, "fernmark"), [])

    def test_who_cancels_what_was_just_taken_has_the_last_word(self) -> None:
        ledger = self.live.desk.ledger
        with ledger.database.write() as connection:
            run = operations.add_work(
                connection, "verification", "a verification", "{}", ledger.now(), None
            )
            operations.set_run(connection, run, state="cancelled")
            self.assertFalse(operations.begin_run(connection, run))
            self.assertEqual(operations.find_run(connection, run).state, "cancelled")  # type: ignore[union-attr]

    def test_what_was_queued_is_begun_again_by_the_next_process(self) -> None:
        ledger = self.live.desk.ledger
        self.live.desk.runs.stop()
        with ledger.database.write() as connection:
            run = operations.add_work(
                connection, "verification", "verification of the ledger", "{}", ledger.now(), None
            )
            operations.set_run(connection, run, state="running")
        again = type(self.live.desk.runs)(ledger, {})
        again.work = self.live.desk.runs.work
        again.start()
        self.addCleanup(again.stop)
        until(lambda: again.report(run).run.state == "finished")
        self.assertEqual(again.answer(run)[1]["batches"], ledger.last_batch())

    def test_answers_are_kept_for_a_week_and_for_their_owner_alone(self) -> None:
        folder = self.live.folder / "kept"
        answers = Answers(folder, lambda: datetime.now(UTC))
        answers.keep(1, {"a": 1})
        self.assertEqual((folder / "1.json").stat().st_mode & 0o777, 0o600)
        os.utime(folder / "1.json", (0, time.time() - 8 * 86_400))
        answers.keep(2, {"a": 2})
        self.assertEqual(
            (sorted(p.name for p in folder.iterdir()), answers.find(2)), (["2.json"], {"a": 2})
        )

    def test_whatever_goes_wrong_beside_the_work_the_next_is_done(self) -> None:
        """A thread that has ended would leave everything after it waiting for good."""
        desk = self.live.desk
        beside: tuple[tuple[Any, str], ...] = (
            (operations, "open_runs"), (operations, "begin_run"), (operations, "set_run"),
            (Answers, "keep"), (Answers, "keep_error"), (desk.runs, "report"), (digests, "make"),
            (notices, "notify"), (extractkeeping, "all_extracts"), (extractkeeping, "set_extract"),
            (Path, "mkdir"), (Path, "replace"),
        )  # fmt: skip
        asked = PanelRequest(companies=["AGK@ZALD"], expressions=["revenue"], dates=["2023-06-30"])
        logging.disable(logging.CRITICAL)
        self.addCleanup(logging.disable, logging.NOTSET)
        errors = (OSError(28, "No space left"), MemoryError(), sqlite3.OperationalError("disk I/O"))
        reached = set()
        for where, name in beside:
            with mock.patch.object(where, name, side_effect=errors * 3) as broken:
                self.live.http("POST", "/batches/verification")
                self.live.http("POST", "/collections", json={"source": "fernmark"})
                self.live.http(
                    "POST", "/extracts", json={"panel": asked.model_dump(), "format": "csv"}
                )
                time.sleep(0.3)
                reached |= {name} if broken.called else set()
        self.assertGreater(len(reached), len(beside) - 3, reached)
        self.assertTrue(all(t.is_alive() for t in [*desk.runs._threads, desk.extracts._thread]))
        self.assertGreater(self.live.ledger.verify().batches, 0)
        self.assertEqual(self.live.ledger.collect("fernmark").state, "finished")
        extract = self.live.ledger.ask_extract(asked, "csv")
        self.assertEqual(self.live.ledger.wait_for_extract(extract.id).state, "done")

    def test_a_statement_however_long_ends_when_it_is_asked_to(self) -> None:
        asked = 0

        def step() -> None:
            nonlocal asked
            asked += 1
            if asked == 5:
                raise Halted

        endless = (
            "WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c) SELECT count(*) FROM c"
        )
        database = self.live.desk.ledger.database
        with (
            self.assertRaises(Halted),
            database.read() as connection,
            interruptible(connection, step),
        ):
            connection.execute(text(endless))
        self.assertEqual(asked, 5)
        # the connection is as good as before
        self.assertGreater(self.live.ledger.verify().batches, 0)
