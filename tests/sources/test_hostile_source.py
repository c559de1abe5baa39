"""What a source may do to us: whatever it says or withholds, a run ends, others are served,
a clean run mends it.
"""

import logging
import os
import resource
import time
import unittest
from contextlib import ExitStack
from datetime import UTC, datetime
from pathlib import Path
from random import Random
from tempfile import TemporaryDirectory
from typing import Any

from tests.hostile import LINES, HostileProxy
from tests.live import KEY, WORLD, LiveSource
from wise_ledger.client import connect
from wise_ledger.launch.running import address, bind, running
from wise_ledger.service.app import create_app
from wise_ledger.sources.errors import SourceDamaged
from wise_ledger.sources.fernmark import Fernmark
from wise_ledger.sources.http import SourceHttp, seconds_of
from wise_ledger.sources.pacing import Budget, Pace
from wise_ledger.sources.xml import read_xml
from wise_ledger.standins.fernmark import World
from wise_ledger.work.desk import Desk

SMALL = World(
    [c for c in WORLD.companies if c["key"] in ("FM-0001", "FM-0002", "FM-0003")],
    {k: list(WORLD.filings[k][:6]) for k in ("FM-0001", "FM-0002", "FM-0003")},
    [
        {
            **WORLD.lists[0],
            "members": [
                m for m in WORLD.lists[0]["members"] if m["company"] in ("FM-0001", "FM-0002")
            ],
        }
    ],
)
QUESTIONS = (
    "/companies",
    "/lists",
    "/facts/publications",
    "/venues",
    "/sources",
    "/securities",
    "/listings",
    "/batches",
)
PATHS = (
    "/v1/companies?", "/v1/lists", "/members", "/rates", "/venues", "/filings", "/documents", "/price-files",
    "/dividends", "/shares", "/delistings", "/levels", "",
)  # fmt: skip
ROUNDS = int(os.environ.get("ROUNDS", "1"))  # of each path
NAMES = [f"hostile-{n}" for n in range(len(PATHS) * ROUNDS + 1)]  # each has not been asked before


class Hostile(unittest.TestCase):
    def setUp(self) -> None:
        self.stack = ExitStack()
        self.addCleanup(self.stack.close)
        logging.disable(logging.CRITICAL)
        self.addCleanup(logging.disable, logging.NOTSET)
        self.random = Random(int(os.environ.get("SEED", "5")))
        self.source = LiveSource(self.stack, SMALL)
        self.proxy = HostileProxy(self.stack, self.source.url, self.random)

    def open(self, timeout: float = 5.0) -> Any:
        folder = Path(self.stack.enter_context(TemporaryDirectory()))
        opened = {
            **{n: lambda n=n: self.adapter(n, self.proxy.url, timeout) for n in NAMES},
            "fernmark": lambda: self.adapter("fernmark", self.source.url, timeout),
        }
        self.desk = Desk.open(folder, opened, lambda: datetime.now(UTC))  # type: ignore[arg-type]
        self.stack.callback(self.desk.close)
        bound = bind("127.0.0.1", 0, "--port")
        self.stack.enter_context(running(create_app(self.desk), bound))
        _, token = self.desk.tokens.make("tests")
        return self.stack.enter_context(connect(address(bound), token))

    def adapter(self, name: str, url: str, timeout: float) -> Fernmark:
        made = Fernmark(url, KEY, timeout, Budget(Pace(at_once=2)))
        made.name = name  # type: ignore[misc]
        return made

    def test_what_a_source_says_stops_nothing_and_poisons_nobody(self) -> None:
        ledger = self.open()
        ledger.collect("fernmark")
        before = self.answers(ledger)
        for name, path in zip(NAMES, PATHS * ROUNDS, strict=False):
            self.proxy.only, self.proxy.rate = path, 0.8 if path else 0.2
            run = ledger.wait(ledger.queue(name))
            self.assertIn(run.state, ("finished", "partly_finished", "failed"))
            self.assertNotIn("Traceback", str(run.problem))
            for path in QUESTIONS:
                ledger._transport.get(path)
            self.assertEqual(self.answers(ledger), before)  # the clean source goes first
        self.assertGreater(self.proxy.touched, len(PATHS) * ROUNDS / 2)
        self.proxy.rate = 0.0
        self.assertEqual(ledger.wait(ledger.queue(NAMES[-1])).state, "finished")
        self.assertEqual(self.answers(ledger), before)
        self.assertTrue(self.desk.ledger.verify())

    def answers(self, ledger: Any) -> list[Any]:
        found = ledger.screen("revenue > 0 or net_income > 0", known_on="2024-06-30")
        return [c.model_dump() for c in found.answer.companies]

    def test_every_fault_of_the_line_ends_in_time_and_in_bounds(self) -> None:
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        http = SourceHttp("A source", self.proxy.url, {"X-Api-Key": KEY}, 0.4, Budget(Pace()))
        self.stack.callback(http.close)
        self.proxy.rate = 1.0
        for kind in LINES:
            self.proxy.line = kind
            began = time.monotonic()
            with self.assertRaises(Exception, msg=kind) as caught:
                http._budget.resume()
                for _ in http.pages("/v1/companies", "companies"):
                    pass
            self.assertIn(
                type(caught.exception).__name__, ("SourceDamaged", "SourceUnreachable"), kind
            )
            self.assertLess(time.monotonic() - began, 60, kind)
        grown = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
        self.assertLess(grown, 600)  # MB: the proxy makes its bomb of 200 in this process

    def test_stopping_lets_go_of_a_source_that_never_ends(self) -> None:
        ledger = self.open(timeout=30)
        self.proxy.rate, self.proxy.line = 1.0, "drip"
        ledger.queue(NAMES[0])
        time.sleep(1.5)
        began = time.monotonic()
        self.desk.runs.stop()
        self.assertLess(time.monotonic() - began, 3)

    def test_a_rest_that_a_source_asks_for_is_read_and_bounded(self) -> None:
        now = datetime(2024, 1, 1, tzinfo=UTC)
        for words, seconds in {
            "7": 7,
            "315360000": 86400,
            "999999999999999": 86400,
            "Mon, 01 Jan 2024 00:01:00 GMT": 60,
            "Sun, 31 Dec 2023 00:00:00 GMT": 0,
            "Fri, 01 Jan 2044 00:00:00 GMT": 86400,
            "²": 1,
            "": 1,
            "-5": 1,
            "soon": 1,
            "1e9": 1,
        }.items():
            self.assertEqual(seconds_of(words, now), seconds, words)
        ledger = self.open()
        budget = Budget(Pace())
        self.desk.runs.sources["fernmark"] = lambda: Fernmark(self.source.url, KEY, 5.0, budget)  # type: ignore[index]
        budget.leave_alone(86400)
        self.assertIsNotNone(
            next(s for s in ledger.sources() if s.name == "fernmark").left_alone_until
        )
        self.assertIsNone(ledger.resume_source("fernmark").left_alone_until)
        self.assertEqual(ledger.collect("fernmark").state, "finished")

    def test_no_document_type_in_any_encoding_and_no_path_elsewhere(self) -> None:
        text = '<?xml version="1.0" encoding="{}"?><!DOCTYPE feed [<!ENTITY x "boom">]><feed>&x;</feed>'
        for encoding in ("utf-8", "utf-16", "utf-16-le", "iso-8859-1"):
            with self.assertRaises(SourceDamaged, msg=encoding):
                read_xml(text.format(encoding).encode(encoding), "here", "feed")
        http = SourceHttp("A source", self.source.url, {"X-Api-Key": KEY}, 2.0)
        self.stack.callback(http.close)
        for path in (
            "http://127.0.0.1:9/x",
            "//127.0.0.1:9/x",
            "/v1/../../x",
            "/v1/%2e%2e/x",
            "v1",
            "ftp://x",
            "/a\nb",
        ):
            with self.assertRaises(SourceDamaged, msg=path):
                http.get(path)


if __name__ == "__main__":
    unittest.main()
