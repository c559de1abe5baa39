"""Q1, Q2: what cannot be among prices and rates is kept and not used until a person accepts it;
what is odd is flagged.
"""

from datetime import date, timedelta
from typing import Any

from tests.live import Live
from wise_ledger.client import InputRefused, NotThere

FIRST = date(2024, 7, 1)
PRICES = "listing,date,close\n"
LISTED = """company,security,security_type,symbol,mic,currency,valid_from,primary
{0},S-{0},ordinary,{0},ZALD,USD,2012-01-01,yes
"""


class MarketQuality(Live):
    def listed(self, symbol: str) -> None:
        head = "company,name,country,currency,template,fiscal_year_end,valid_from\n"
        made = f"{head}register:{symbol},{symbol} Works,XA,USD,industrial,12,2012-01-01\n"
        self.assertIsNotNone(self.ledger.load("companies", made.encode()).batch)
        listed = LISTED.format(symbol).replace(f"{symbol},S-", f"register:{symbol},S-", 1)
        self.assertIsNotNone(self.ledger.load("listings", listed.encode()).batch)

    def priced(self, symbol: str, values: list[float], skip: int = 0) -> Any:
        days = [FIRST + timedelta(n + (skip if n >= 3 else 0)) for n in range(len(values))]
        rows = [f"{symbol}@ZALD,{d},{v}" for d, v in zip(days, values, strict=True)]
        return self.ledger.load("prices", (PRICES + "\n".join(rows)).encode())

    def odd(self, symbol: str) -> list[tuple[str, str]]:
        return [
            (f.check, f.state)
            for f in self.ledger.market_quality(company=f"{symbol}@ZALD").findings
        ]

    def close(self, symbol: str, on: date, currency: str | None = None) -> Any:
        found = self.ledger.screen(
            "active",
            companies=[f"{symbol}@ZALD"],
            known_on=f"{on}",
            show=["close"],
            currency=currency,
        )
        return found.answer.companies[0].cells[-1].value

    def test_a_price_a_hundred_times_off_is_not_used_until_it_is_accepted_q2_t7(self) -> None:
        self.listed("QQA")
        self.assertEqual(self.priced("QQA", [40.0, 41.0, 4050.0, 40.7]).quarantined, 1)
        bad = FIRST + timedelta(2)
        before = self.ledger.market_quality().batch
        self.assertEqual(self.odd("QQA"), [("scale", "quarantined")])
        self.assertEqual(self.close("QQA", bad), 41.0)
        self.assertEqual(len(self.ledger.prices(["QQA@ZALD"], f"{FIRST}", f"{bad}")), 2)
        done = self.live.command(
            "quality",
            "market",
            "accept",
            "prices",
            "QQA@ZALD",
            f"{bad}",
            "--who",
            "Ada",
            "--why",
            "seen on the tape",
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertEqual(self.close("QQA", bad), 4050.0)
        old = self.ledger.prices(["QQA@ZALD"], f"{FIRST}", f"{bad}", recorded_by=before)
        self.assertEqual(len(old), 2)
        # What follows is held against what was accepted; taken back, all is as before.
        self.assertEqual(self.odd("QQA"), [("scale", "quarantined"), ("scale", "accepted")])
        self.ledger.decide_market_quarantine(
            [("prices", "QQA@ZALD", bad)], False, "Ada", "a slip after all"
        )
        self.assertEqual(self.odd("QQA"), [("scale", "rejected")])
        self.assertEqual(self.close("QQA", bad), 41.0)
        with self.assertRaises(NotThere):
            self.ledger.decide_market_quarantine(
                [("prices", "QQA@ZALD", FIRST)], True, "Ada", "why not"
            )
        with self.assertRaises(InputRefused):
            self.ledger.decide_market_quarantine([("prices", "QQA@ZALD", bad)], True, " ", "nobody")

    def test_what_looks_odd_is_used_and_flagged_q1(self) -> None:
        self.listed("QQB")
        self.priced("QQB", [40.0, 40.2, 40.1, 10.02, 10.1], skip=20)
        self.assertEqual({c for c, _ in self.odd("QQB")}, {"jump", "hole"})
        ex_date = FIRST + timedelta(23)
        for ratio, expected in (("0.25", {"split", "hole"}), ("4", {"hole"})):
            self.ledger.load(
                "splits", f"security,ex_date,ratio\nQQB@ZALD,{ex_date},{ratio}\n".encode()
            )
            self.assertEqual({c for c, _ in self.odd("QQB")}, expected, ratio)
        paid = f"security,ex_date,amount,currency,kind\nQQB@ZALD,{FIRST + timedelta(1)},55,USD,special\n"
        self.assertEqual(self.ledger.load("dividends", paid.encode()).bad, [])
        self.assertEqual({c for c, _ in self.odd("QQB")}, {"hole", "dividend"})
        shown = self.live.command(
            "quality", "market", "--company", "QQB@ZALD", "--format", "csv"
        ).stdout
        self.assertIn("a dividend of 55 is above the price before it", shown)

    def test_a_rate_upside_down_or_a_hundred_times_off_is_not_used_m2(self) -> None:
        days = [FIRST + timedelta(n) for n in range(4)]
        rows = [f"USD,SEK,{d},{v}" for d, v in zip(days, (0.5, 2.0, 51.0, 0.51), strict=True)]
        loaded = self.ledger.load("rates", ("base,quote,date,rate\n" + "\n".join(rows)).encode())
        self.assertEqual((loaded.bad, loaded.quarantined), ([], 2))
        found = [f for f in self.ledger.market_quality().findings if f.subject == "USD/SEK"]
        self.assertEqual(
            [(f.check, f.date) for f in found], [("scale", days[2]), ("inverted", days[1])]
        )

        def rate(on: date) -> float:
            return float(self.close("AGK", on, "SEK") / self.close("AGK", on))

        self.assertAlmostEqual(rate(days[2]), 0.5)
        self.ledger.decide_market_quarantine(
            [("rates", "USD/SEK", days[1])], True, "Ada", "so it was"
        )
        self.assertAlmostEqual(rate(days[1]), 2.0)
