"""Creation takes an `Idempotency-Key` (4-interface): a call made again makes nothing again,
and is answered alike.
"""

import asyncio
from datetime import timedelta
from functools import reduce
from typing import Any
from unittest import mock

from tests.answers import document
from tests.live import Live, until
from wise_ledger.service.again import Answers
from wise_ledger.service.app import API
from wise_ledger.work.answered import KEPT, Answered, find, keep

PRICES = b"listing,date,close\nAGK@ZALD,2024-12-30,21.5\n"
# A body for each call that makes something; bytes are a file.
MAKES: dict[str, Any] = {
    "/batches/verification": None, "/collections": {"source": "fernmark"}, "/collections/files/prices": PRICES,
    "/extracts": {"panel": {"expressions": ["revenue"], "list": "first-look", "dates": ["2023-12-31"]}},
    "/items": {"code": "made_up_score", "title": "A score", "unit": "pure", "source": "pages", "who": "ada"},
    "/limits": {"name": "lag_of_year", "days": 75, "who": "ada", "why": "it is quicker"},
    "/lists": {"name": "made", "title": "Made", "companies": ["AGK@ZALD"], "who": "ada"},
    "/matches": {"terms": ["AGK@ZALD"] * 1001, "on": "2023-06-30"},
    "/matches/decisions": {"term": "the works", "company": "AGK@ZALD", "who": "ada", "why": "as it is known"},
    "/panels": {"expressions": ["revenue"], "list": "first-look", "dates": ["2023-12-31"]},
    "/schedules": {"name": "made", "collection": {"source": "fernmark"}, "timing": {"at": ["02:30"]}, "who": "ada"},
    "/schedules/made/runs": None, "/runs/1/failed": None,
    "/sources/order": {"sources": ["fernmark"], "who": "ada", "why": "first"},
    "/sources/fernmark/tags": {"tag": "made_tag", "item": "revenue", "who": "ada", "why": "it is", "expected": True},
    "/tokens": {"name": "made"}, "/venues/words": {"word": ".MADE", "mic": "ZALD", "who": "ada"},
}  # fmt: skip
NAMED = {
    "prices": "{kind}",
    "schedules/made": "schedules/{name}",
    "runs/1": "runs/{run}",
    "fernmark": "{source}",
}


class Again(Live):
    def ask(self, path: str, body: Any, key: str | None) -> Any:
        how = {"content": body} if isinstance(body, bytes) else {"json": body}
        return self.live.http(
            "POST", path, headers={} if key is None else {"Idempotency-Key": key}, **how
        )

    def test_every_call_that_makes_something_makes_it_once_for_a_key(self) -> None:
        takes = {
            path.removeprefix(API)
            for path, verbs in document()["paths"].items()
            if any(
                p["name"] == "idempotency-key" for p in verbs.get("post", {}).get("parameters", ())
            )
        }
        tried = {
            reduce(lambda path, name: path.replace(name, NAMED[name]), NAMED, path)
            for path in MAKES
        }
        self.assertEqual(takes - {"/collections/pages"}, tried)
        for n, (path, body) in enumerate(MAKES.items()):
            with self.subTest(path):
                first = self.ask(path, body, f"key {n}")
                self.assertLess(first.status_code, 500)
                until(lambda: not any(r.state in ("queued", "running") for r in self.ledger.runs()))
                batch = self.live.desk.ledger.last_batch()
                again = self.ask(path, body, f"key {n}")
                if first.status_code < 300:
                    self.assertEqual(
                        (again.status_code, again.content), (first.status_code, first.content)
                    )
                    self.assertEqual(again.headers.get("location"), first.headers.get("location"))
                    self.assertEqual(self.live.desk.ledger.last_batch(), batch)
                    other = self.ask("/tokens", {"name": "another"}, f"key {n}")
                    self.assertEqual(other.status_code, 422)
                    self.assertIn("another call", other.json()["errors"][0]["problem"])
        made = [
            p for n, p in enumerate(MAKES) if self.ask(p, MAKES[p], f"key {n}").status_code < 300
        ]
        self.assertEqual(set(MAKES) - set(made), {"/runs/1/failed"})  # of it nothing failed
        self.assertEqual(len([t for t in self.ledger.tokens().tokens if t.name == "made"]), 1)
        self.assertEqual(len(self.ledger.extracts().extracts), 1)

    def test_what_failed_may_be_made_again_and_a_key_is_somebodys_own(self) -> None:
        wrong = self.ask(
            "/lists",
            {"name": "later", "title": "x", "companies": ["NOPE@ZALD"], "who": "ada"},
            "mine",
        )
        self.assertEqual(wrong.status_code, 404)
        right = self.ask(
            "/lists",
            {"name": "later", "title": "x", "companies": ["AGK@ZALD"], "who": "ada"},
            "mine",
        )
        self.assertEqual(right.status_code, 201, right.text)
        _, other = self.live.desk.tokens.make("somebody else")
        with mock.patch.object(self.live, "token", other):
            self.assertEqual(self.ask("/tokens", {"name": "theirs"}, "mine").status_code, 201)
        self.assertEqual(self.ask("/tokens", {"name": "long"}, "k" * 201).status_code, 422)

    def test_nothing_is_made_twice_after_a_restart_and_no_secret_is_stored(self) -> None:
        made = {
            path: self.ask(path, body, f"restart {path}")
            for path, body in MAKES.items()
            if path.startswith(("/lists", "/items", "/venues", "/matches/decisions", "/tokens"))
        }
        app = self.live.app
        with mock.patch.object(app.state, "answers", Answers(self.live.desk)):  # as begun anew
            batch = self.live.desk.ledger.last_batch()
            for path, first in made.items():
                again = self.ask(path, MAKES[path], f"restart {path}")
                with self.subTest(path):
                    same = (first.status_code, first.content)
                    self.assertEqual((again.status_code, again.content) == same, path != "/tokens")
                    self.assertEqual(again.headers.get("location"), first.headers.get("location"))
            self.assertEqual(self.live.desk.ledger.last_batch(), batch)
            other = self.ask("/lists", {"name": "other"}, "restart /lists")
            self.assertIn("another call", other.json()["errors"][0]["problem"])
        file = self.live.desk.ledger.database.path
        whole = b"".join(p.read_bytes() for p in file.parent.glob(f"{file.name}*"))
        self.assertIn(made["/lists"].content, whole)
        self.assertNotIn(made["/tokens"].json()["token"].encode(), whole)

    def test_answers_are_kept_for_a_day_and_not_without_end(self) -> None:
        now = [0.0]
        answers = Answers(None, lambda: now[0])

        def of(key: str) -> Any:
            return asyncio.run(answers.of("ada", key, b"asked"))

        first = of("key")
        self.assertIs(of("key"), first)
        for n in range(3_000):
            of(f"key {n}")
        self.assertLess(len(answers._kept), 1_010)
        later = of("late")
        now[0] = 86_401.0
        self.assertIsNot(of("late"), later)

    def test_what_is_stored_is_let_go_after_a_day(self) -> None:
        ledger, now = self.live.desk.ledger, self.live.desk.ledger.now()
        keep(ledger, b"old", Answered(b"a", 201, {"location": "x"}, b"body"))
        self.assertEqual(find(ledger, b"old"), Answered(b"a", 201, {"location": "x"}, b"body"))
        with mock.patch.object(ledger, "now", lambda: now + KEPT + timedelta(minutes=1)):
            self.assertIsNone(find(ledger, b"old"))
            keep(ledger, b"new", Answered(b"b", 200, {}, b""))
        with ledger.database.read() as connection:
            kept = connection.exec_driver_sql("SELECT key FROM answers").scalars().all()
        self.assertEqual(kept, [b"new"])
