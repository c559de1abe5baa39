"""The made-up world hangs together: statements balance, cash rolls forward,
quarters add to the year.
"""

import json
import time
import unittest
from typing import Any, ClassVar

import numpy as np

from wise_ledger.sources.mapping import shipped
from wise_ledger.standins import economy
from wise_ledger.standins.fernmark import World, make_whole_world, make_world
from wise_ledger.standins.ostrin import make_releases
from wise_ledger.standins.ostrin.flows import FLOWS

SAMPLE = (
    "FM-0002",
    "FM-0007",
    "FM-0011",
    "FM-0012",
    "FM-0013",
    "FM-0040",
    "FM-0077",
    "FM-0120",
    "FM-0200",
    "FM-0239",
)


def figures(body: bytes) -> dict[tuple[str, str | None], Any]:
    """Amounts by tag and, of flows, the first day of the period."""
    return {(f["tag"], f.get("from")): f["amount"] for f in json.loads(body)["figures"]}


class WholeWorld(unittest.TestCase):
    world: ClassVar[World]

    @classmethod
    def setUpClass(cls) -> None:
        cls.world = make_whole_world()

    def plain(self, body: bytes) -> dict[str, Any]:
        return {tag: amount for (tag, _), amount in figures(body).items()}

    def by_period(self, body: bytes) -> dict[tuple[str, tuple[str, str]], Any]:
        flows = (f for f in json.loads(body)["figures"] if "from" in f)
        return {(f["tag"], (f["from"], f["to"])): f["amount"] for f in flows}

    def test_its_size_and_its_companies(self) -> None:
        began = time.perf_counter()
        filings = [f for key in self.world.filings for f in self.world.filings[key]]
        self.assertLess(time.perf_counter() - began, 60)
        self.assertLess(sum(len(f.body) for f in filings), 40e6)
        self.assertEqual(len(self.world.companies), 240)
        self.assertEqual(sum(c["ended"] is not None for c in self.world.companies), 36)
        for what in ("name", "symbol", "key"):
            found = [c[what] for c in self.world.companies]
            # one symbol is taken over
            self.assertGreaterEqual(len(set(found)), 239 if what == "symbol" else 240)
        tags = {tag for f in filings for tag, _ in figures(f.body)}
        self.assertGreater(len(tags), 85)
        self.assertEqual({t for t in tags if shipped("fernmark").rule(t, None) is None},
                         {"training_hours", "water_drawn", "orders_in_hand"})  # fmt: skip
        self.assertEqual(
            {json.loads(f.body)["fiscal_period"][2:6] for f in filings if b'"FY' in f.body}
            - {None},
            {str(y) for y in range(2012, 2025)},
        )

    def test_nothing_is_published_after_a_company_has_ended(self) -> None:
        for company in self.world.companies:
            if company["ended"]:
                last = max((f.published for f in self.world.filings[company["key"]]), default="")
                self.assertLess(last[:10], company["ended"], company["key"])

    def test_statements_balance_and_their_parts_add_up(self) -> None:
        for key in SAMPLE:
            for filing in self.world.filings[key]:
                if filing.kind not in ("annual_report", "interim_results"):
                    continue
                f = self.plain(filing.body)
                self.assertEqual(
                    f["assets_total"], f["liabilities_total"] + f["equity_total"], filing.id
                )
                self.assertEqual(
                    f["result_before_tax"], f["profit_for_owners"] + f["tax_charge"], filing.id
                )
                if filing.kind != "annual_report":
                    continue
                equity = (
                    f["capital_nominal"]
                    + f["capital_premium"]
                    + f["retained_result"]
                    + f["reserves_other"]
                )
                self.assertEqual(equity - f["own_shares_held"], f["equity_total"], filing.id)
                if "assets_current" in f:
                    self.assertEqual(f["assets_current"] + f["assets_lasting"], f["assets_total"])
                    self.assertEqual(
                        f["liabilities_current"] + f["liabilities_lasting"], f["liabilities_total"]
                    )
                    self.assertEqual(f["gross_result"], f["sales"] - f["cost_of_sales"])

    def test_a_day_has_one_share_whatever_was_split_on_it(self) -> None:
        market = self.world.market
        assert market is not None
        for one in market.traded:
            spread = np.log(one.columns["high"] / one.columns["low"])
            self.assertLess(spread.max(), 0.35, one.security)

    def test_what_the_crowd_restates_still_adds_up(self) -> None:
        corrected = [
            (key, f)
            for key in self.world.filings
            for f in self.world.filings[key]
            if f.kind == "restatement"
        ]
        self.assertGreater(len({key for key, _ in corrected}), 90)
        for key, filing in corrected:
            first = {
                figure: amount
                for f in self.world.filings[key]
                if f.kind in ("annual_report", "interim_results") and f.public < filing.public
                for figure, amount in self.by_period(f.body).items()
            }
            now = self.by_period(filing.body)
            self.assertTrue(now)
            self.assertTrue(all(first[figure] != amount for figure, amount in now.items()), key)
            for period in {period for _, period in now}:
                f = {t: amount for (t, p), amount in (first | now).items() if p == period}
                with self.subTest(filing.id, period=period):
                    if "result_before_tax" in f:
                        taxed = f["profit_for_owners"] + f["tax_charge"]
                        self.assertEqual(f["result_before_tax"], taxed)
                    if "gross_result" in f:
                        self.assertEqual(f["gross_result"], f["sales"] - f["cost_of_sales"])

    def test_cash_rolls_forward_from_year_to_year(self) -> None:
        for key in SAMPLE:
            before = None
            for filing in self.world.filings[key]:
                if filing.kind != "annual_report":
                    continue
                f = self.plain(filing.body)
                moved = (
                    f["cash_from_operations"] + f["cash_from_investing"] + f["cash_from_financing"]
                )
                self.assertEqual(moved, f["cash_movement"], filing.id)
                if before is not None:
                    self.assertEqual(f["cash_in_hand"] - before, moved, filing.id)
                before = f["cash_in_hand"]

    def test_quarters_add_to_the_year(self) -> None:
        for key in ("FM-0002", "FM-0006", "FM-0011"):
            year = [
                f
                for f in self.world.filings[key]
                if json.loads(f.body)["fiscal_period"][:6] == "FY2018"
            ]
            self.assertEqual(len(year), 4, key)
            sums = [figures(f.body) for f in year]
            for tag in ("sales", "profit_for_owners"):
                quarters = sum(amount for f in sums[:3] for (t, _), amount in f.items() if t == tag)
                (annual,) = (amount for (t, _), amount in sums[3].items() if t == tag)
                self.assertLess(quarters, annual)
                self.assertGreater(quarters, annual * 0.6)

    def test_the_same_seed_gives_the_same_bytes_and_the_small_world_the_same_headlines(
        self,
    ) -> None:
        again = make_whole_world()
        small = make_world()
        for key in SAMPLE[:6]:
            self.assertEqual(
                [f.body for f in again.filings[key]], [f.body for f in self.world.filings[key]]
            )
        for key in SAMPLE[:5]:
            whole = {f.id: figures(f.body) for f in self.world.filings[key]}
            for filing in small.filings[key]:
                if filing.id in whole:
                    for name, amount in figures(filing.body).items():
                        self.assertEqual(whole[filing.id][name], amount, (filing.id, name))

    def test_margins_go_with_the_cycle_of_their_branch(self) -> None:
        """Rates and industry cycles move the margins of the crowd:
        its yearly margins lean on its branch's cycle.
        """
        reported = []
        for company in self.world.companies[32:120]:
            for filing in self.world.filings[company["key"]]:
                own = self.plain(filing.body)
                head = json.loads(filing.body)
                if (
                    "operating_profit" in own
                    and head["kind"] == "annual_report"
                    and company["template"] == "industrial"
                ):
                    year, end = int(head["fiscal_period"][-4:]), company["fiscal_year_end"]
                    month = (year - economy.FIRST_YEAR) * 12 + end
                    cycle = economy.branch_cycle(company["country"], company["industry"])[
                        month - 12 : month
                    ].mean()
                    reported.append((company["key"], own["operating_profit"] / own["sales"], cycle))
        by = {key: [(m, c) for k, m, c in reported if k == key] for key in {t[0] for t in reported}}
        leans = [np.corrcoef(np.array(rows).T)[0, 1] for rows in by.values() if len(rows) >= 6]
        self.assertGreater(np.nanmedian(leans), 0.5)


class Economies(unittest.TestCase):
    def test_the_past_is_the_same_on_whatever_day_it_is_asked(self) -> None:
        one, other = (
            make_releases([f for f in FLOWS if f.id == "HOUSE_PRICES"])["HOUSE_PRICES"]
            for _ in range(2)
        )
        np.testing.assert_array_equal(one.value, other.value)
        self.assertEqual(sum(len(f.keys) for f in FLOWS), 395)
        for flow in FLOWS:  # nothing is released before its period has begun
            self.assertGreater(flow.lag, -31 if flow.frequency == "M" else -1)
