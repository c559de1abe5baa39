"""How a question is to be seen is heeded by every call, or refused: a currency (M2), hindsight (T9)."""

import json
import math
from itertools import product
from typing import Any

import pandas as pd

from tests.service.questions import ASKED, BEFORE, BY_DAY, Followed
from wise_ledger.client import InputRefused

# What each word may be, and a day on which it makes a difference.
WORDS: dict[str, tuple[str, tuple[Any, ...]]] = {
    "currency": ("2024-06-28", ("EUR", "USD")),
    "hindsight": ("2023-06-30", (False, True)),
}
AMOUNTS = {
    "GET /explanations": {"expression": "market_value"},
    "GET /lists/first-look/members": {"show": ["revenue"]},
    "GET /lists/index-of-aldmoor/members": {"show": ["revenue"]},
    "GET /lists/mine/members": {"show": ["revenue"]},
    "POST /panels by period": {"expressions": ["revenue"]},
}


class Viewpoints(Followed):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        for kind, content in BEFORE:
            cls.ledger.load(kind, content)

    def test_every_call_heeds_how_it_is_to_be_seen_or_does_not_take_it(self) -> None:
        heeded: dict[str, set[str]] = {word: set() for word in WORDS}
        for (call, asked), (word, (day, values)) in product(ASKED.items(), WORDS.items()):
            verb, path, *_ = call.split()
            if "by-rule" in f"{asked}{path}":
                continue
            asked = {"known_on": day} | asked | AMOUNTS.get(call, {})
            if path in BY_DAY or path == "/matches":
                del asked["known_on"]
            if "expressions" in asked:
                asked["expressions"] = ["revenue", "close", "market_value"]
            if "show" in asked:
                asked["show"] = ["revenue"]
            if "expression" in asked and word == "hindsight":
                asked["expression"] = "operating_income / revenue"
            found = []
            for given in ({}, *({word: value} for value in values)):
                by = {"params": asked | given} if verb == "GET" else {"json": asked | given}
                answer = self.live.http(verb, path, **by)
                found.append((answer.status_code, self.plain(answer.json())))
            with self.subTest(call, word=word):
                self.assertEqual(found[0][0], 200, found[0])
                if found[1][0] == 422:
                    self.assertIn(word, found[1][1])
                else:
                    self.assertNotEqual(found[1], found[2])
                    heeded[word].add(path)
        cells = {"/explanations", "/screens", "/statements", "/lists/mine/members"}
        self.assertLess(cells, heeded["hindsight"])
        self.assertLess(cells | {"/prices", "/market", "/panels"}, heeded["currency"])

    def plain(self, answer: Any) -> str:
        """An answer without which currency was asked for."""
        return json.dumps({k: v for k, v in answer.items() if k not in ("currency", "batch")})

    def test_prices_are_those_of_the_language_at_the_rate_of_their_day(self) -> None:
        who = ["AGK@ZALD", "PTP@ZBRE", "ISK@ZCAL"]
        for currency in ("EUR", "USD"):
            asked = (who, "2023-05-01", "2023-07-31", "2023-07-31")
            how = {"adjusted": False, "columns": ["date", "close", "change", "currency"]}
            frame = self.ledger.prices(*asked, currency=currency, **how).frame()
            own = self.ledger.prices(*asked, **how).frame()
            self.assertEqual(set(frame["currency"]), {currency})
            pd.testing.assert_series_equal(frame["change"], own["change"])
            days = sorted({str(d)[:10] for d in frame["date"]})
            panel = self.ledger.panel(who, {"x": "close"}, days, currency=currency).frame()
            for row in frame.itertuples():
                wanted = panel.loc[(pd.Timestamp(row.date), row.company)]["x"]
                self.assertTrue(math.isclose(row.close, wanted, rel_tol=1e-12), (row, wanted))

    def test_a_close_that_is_missing_says_why_in_every_form_n(self) -> None:
        self.ledger.load("prices", b"listing,date,open,close\nAGK@ZALD,2024-11-06,20.5,\n")
        self.ledger.prefer_sources(["files", "fernmark"], "Ada", why="for one day")
        asked = {"companies": ["AGK@ZALD"], "start": "2024-11-05", "end": "2024-11-07"}
        lacks = ["no_rate", "not_reported", "no_rate"]
        wanted = {"USD": [None, "not_reported", None], "SEK": lacks}
        for currency, reasons in wanted.items():
            body = asked | {"known_on": "2024-11-08", "currency": currency}
            answer = self.live.http("POST", "/prices", json=body).json()["histories"][0]["bars"]
            frame = self.ledger.prices(**body).frame()
            file = self.live.http("POST", "/prices?format=csv", json=body).text.splitlines()
            for n, reason in enumerate(reasons):
                self.assertEqual(answer[n]["reason"], reason)
                self.assertEqual(answer[n]["close"] is None, reason is not None)
                self.assertEqual(frame["reason"].astype(object).fillna("")[n], reason or "")
                self.assertIn(f",{reason or ''},{currency}", file[n + 1])
            words = (
                "--from 2024-11-05 --to 2024-11-07 --known-on 2024-11-08 --format table --currency"
            )
            shown = self.live.command("prices", "AGK@ZALD", *words.split(), currency)
            self.assertEqual(shown.stdout.count("no rate"), reasons.count("no_rate"), shown.stdout)
            self.assertEqual(shown.stdout.count("not reported"), 1, shown.stdout)
        self.ledger.prefer_sources(["fernmark", "files"], "Ada", why="as before")

    def test_the_market_is_that_of_the_language(self) -> None:
        show = {"close": "close", "market_value": "market_value"}
        for how in ({}, {"currency": "EUR"}, {"currency": "USD"}):
            panel = self.ledger.panel("first-look", show, ["2023-12-26"], **how).frame()
            for row in self.ledger.market("2023-12-26", list="first-look", **how).companies:
                cell = panel.loc[(pd.Timestamp("2023-12-26"), row.company)]
                for name, reason in (
                    ("close", row.reason),
                    ("market_value", row.market_value_reason),
                ):
                    value, why = getattr(row, name), cell[f"{name}.reason"]
                    self.assertEqual(reason, why if isinstance(why, str) else None, (how, row))
                    if reason is None:
                        self.assertTrue(math.isclose(value, cell[name], rel_tol=1e-12), (how, row))

    def test_restatements_change_by_the_same_percent_in_every_currency(self) -> None:
        own, converted = (
            self.ledger.restatements(known_on="2024-12-31", **how).restatements
            for how in ({}, {"currency": "EUR"})
        )
        self.assertGreater(len(own), 5)
        for a, b in zip(own, converted, strict=True):
            self.assertEqual((a.item, a.period_end, b.unit[:3]), (b.item, b.period_end, "EUR"))
            self.assertTrue(a.percent == b.percent or math.isclose(a.percent, b.percent), (a, b))
            if a.unit == "USD" and a.new:
                form = {3: "q", 6: "h", 12: "fy"}.get(
                    round((a.period_end - a.period_start).days / 30.4)
                )
                if form:
                    said = self.ledger.explain(
                        a.company, f"{a.item}.{form}", "2024-12-31",
                        period_end=str(a.period_end), currency="EUR",
                    ).answer  # fmt: skip
                    self.assertTrue(math.isclose(b.latest, said.value, rel_tol=1e-9), (b, said))

    def test_what_a_call_does_not_take_is_refused_in_python_too(self) -> None:
        for ask, name in (
            (lambda how: self.ledger.series("OUTPUT/Q.XA", **how), {"currency": "EUR"}),
            (lambda how: self.ledger.levels("index-of-aldmoor", **how), {"currency": "EUR"}),
            (lambda how: self.ledger.panel("first-look", "close", **how), {"hindsight": True}),
            (lambda how: self.ledger.market(**how), {"curency": "EUR"}),
            (lambda how: self.ledger.screen("active", **how), {"as_recorded_by": 3}),
        ):
            with self.subTest(name), self.assertRaisesRegex(InputRefused, next(iter(name))):
                ask(name)
