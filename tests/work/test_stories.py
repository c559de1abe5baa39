"""The stories among the crowd, from the source to an answer (F3, F7, F8, M2, T5)."""

import unittest
from contextlib import ExitStack
from typing import ClassVar

from tests.live import LiveLedger, LiveSource
from wise_ledger.client import InputRefused, NotThere
from wise_ledger.standins.fernmark import World, make_whole_world

KEYS = ("FM-0072", "FM-0084", "FM-0113", "FM-0114", "FM-0121", "FM-0188", "FM-0075")


def world_of(*keys: str) -> World:
    whole = make_whole_world()
    listed = [{"company": k, "from": "2012-01-01", "to": None} for k in keys]
    reported = {"name": "stories", "title": "Stories", "members": listed}
    return World(
        [c for c in whole.companies if c["key"] in keys],
        {k: whole.filings[k] for k in keys},
        [reported],
        whole.rates,
    )


class Stories(unittest.TestCase):
    live: ClassVar[LiveLedger]

    @classmethod
    def setUpClass(cls) -> None:
        stack = ExitStack()
        cls.addClassCleanup(stack.close)
        source = LiveSource(stack, world_of(*KEYS))
        cls.live = LiveLedger(stack, source)
        run = cls.live.ledger.collect("fernmark")
        assert run.state == "finished", run

    def read(self, company: str, expression: str, on: str) -> tuple[object, str | None]:
        answer = self.live.ledger.explain(f"fernmark:{company}", expression, on).answer
        return answer.reason or answer.value, answer.period_end and str(answer.period_end)

    def test_a_year_end_that_moved_and_the_months_between_f3(self) -> None:
        self.assertEqual(
            self.read("FM-0072", "revenue.fy", "2019-01-15"), (103_302_000, "2018-06-30")
        )
        self.assertEqual(
            self.read("FM-0072", "revenue.h", "2019-03-01"), (51_248_000, "2018-12-31")
        )
        self.assertEqual(
            self.read("FM-0072", "revenue.q", "2019-03-01"), (25_836_000, "2018-12-31")
        )
        trailing = 103_302 - 50_727 + 51_248
        self.assertEqual(
            self.read("FM-0072", "revenue.ttm", "2019-03-01"), (trailing * 1e3, "2018-12-31")
        )
        # A transition forms no fiscal year (F7).
        self.assertEqual(
            self.read("FM-0072", "revenue.fy", "2019-03-01"), (103_302_000, "2018-06-30")
        )
        self.assertEqual(
            self.read("FM-0072", "revenue.fy", "2020-06-01"), (106_570_000, "2019-12-31")
        )
        self.assertEqual(
            self.read("FM-0072", "revenue.ytd", "2019-12-01"), (79_850_000, "2019-09-30")
        )
        # Nine months since January do not compare with the three since July of the year before.
        growth = [
            self.read("FM-0072", "growth(revenue.ytd, 1y)", f"{y}-12-01")[0]
            for y in range(2018, 2021)
        ]
        self.assertEqual(growth[1], "not_meaningful")
        self.assertTrue(all(abs(growth[n]) < 0.1 for n in (0, 2)), growth)
        # Those that are looked at but not chosen compare nothing.
        chosen = "growth(where(revenue.ytd > 0, revenue.q, revenue.ytd), 1y)"
        found = [
            self.read("FM-0072", text, "2019-12-01")[0]
            for text in (chosen, "growth(revenue.q, 1y)")
        ]
        self.assertEqual(found[0], found[1])
        self.assertNotEqual(found[0], "not_meaningful")
        for frequency in ("annual", "cumulative"):
            how = {"frequency": frequency, "known_on": "2020-06-10", "show": "growth"}
            frame = self.live.ledger.statement("fernmark:FM-0072", **how).frame()
            self.assertTrue(frame.columns.get_level_values("currency").isna().all())
            revenue = dict(
                zip(frame.columns.get_level_values("period"), frame.loc["revenue"], strict=True)
            )
            self.assertTrue(abs(revenue["FY2018"]) < 0.1 and revenue["FY2019"] != revenue["FY2019"])

    def test_a_sum_across_a_change_of_currency_is_in_the_newer_one_f8_m2(self) -> None:
        value, end = self.read("FM-0113", "revenue.ttm", "2020-12-01")
        quarters = [
            self.read("FM-0113", "revenue.q", on)[0]
            for on in ("2020-05-31", "2020-09-01", "2020-12-01")
        ]
        before = self.read("FM-0113", "revenue.q", "2020-03-01")[0]  # the last one in JPY
        days = [
            r["rates"]
            for r in make_whole_world().rates
            if "2019-10-01" <= r["date"] <= "2019-12-31"
        ]
        rate = sum(day["USD"] / day["JPY"] for day in days) / len(days)
        self.assertEqual(end, "2020-09-30")
        self.assertAlmostEqual(value, sum(quarters) + before * rate, 2)  # type: ignore[arg-type, operator]
        self.assertEqual(
            self.read("FM-0113", "revenue.ttm", "2021-04-01"), (3_683_520e3, "2020-12-31")
        )
        currency = self.live.ledger.screen(
            'currency == "JPY"', list="stories", known_on="2020-03-31"
        ).answer
        self.assertEqual(
            [c.verdict for c in currency.companies if c.name.startswith("Farrowdon")], ["pass"]
        )

    def test_a_scale_slip_is_quarantined_until_a_person_accepts_it_q2_t7(self) -> None:
        ledger = self.live.ledger
        found = ledger.quality(state="quarantined", limit=500)
        self.assertEqual(
            {(f.name, f.check) for f in found.findings}, {("Haverscroft Hotels N.V.", "scale")}
        )
        flagged = {(f.name, f.check) for f in ledger.quality(state="flagged").findings}
        self.assertEqual(flagged, {("Tolmarsh Metals", "balance"), ("Tolmarsh Metals", "subtotal")})
        # Until it was corrected three weeks later the half year was not known, rather
        # than a thousandth of itself.
        self.assertEqual(self.read("FM-0084", "revenue.h", "2019-08-20")[1], "2018-12-31")
        self.assertEqual(self.read("FM-0084", "revenue.h", "2019-08-28"), (237_571e3, "2019-06-30"))
        self.assertEqual(ledger.restatements("fernmark:FM-0084", known_on="2020-01-01").total, 0)
        revenue = next(f for f in found.findings if f.item == "revenue" and f.period == "FY2019H1")
        batch = ledger.quality().batch
        for accept, expected in ((True, 237_571.0), (False, None)):
            ledger.decide_quarantine([revenue.fact], accept, "Ada", "looked at the report")
            value, end = self.read("FM-0084", "revenue.h", "2019-08-20")
            self.assertEqual(value if end == "2019-06-30" else None, expected)
        before = ledger.explain(
            "fernmark:FM-0084", "revenue.h", "2019-08-20", recorded_by=batch
        ).answer
        self.assertEqual(str(before.period_end), "2018-12-31")
        reported = ledger.quality(state="rejected").findings
        self.assertEqual(
            [(f.fact, f.who, f.why) for f in reported],
            [(revenue.fact, "Ada", "looked at the report")],
        )
        for facts, who, words in (
            ([1], "Ada", "not in quarantine"),
            ([revenue.fact], "", "say who"),
            ([], "Ada", "none"),
        ):
            with self.assertRaisesRegex((InputRefused, NotThere), words):
                ledger.decide_quarantine(facts, True, who, "because")
        self.live.ledger.verify()

    def test_flags_stand_on_cells_and_coverage_in_a_matrix_q3(self) -> None:
        answer = self.live.ledger.statement(
            "fernmark:FM-0188", "balance", "annual", "2018-12-31"
        ).answer
        (assets,) = (x for x in answer.lines if x.item == "total_assets")
        self.assertEqual([c.flags for c in assets.cells][-1], ["balance"])
        # The mark travels to what is formed of it, the names of the checks stay with the figure.
        ratio = self.live.ledger.explain(
            "fernmark:FM-0188", "total_assets.fy / net_income.fy", "2018-06-30"
        ).answer
        self.assertIn("flagged", ratio.marks)
        screened = self.live.ledger.screen(
            "total_assets.fy / net_income.fy != 0", "stories", "2018-06-30"
        ).answer
        marked = {c.name for c in screened.companies if "flagged" in c.cells[0].marks}
        self.assertEqual(marked, {"Tolmarsh Metals"})
        matrix = self.live.ledger.coverage("stories", "balance")
        counts = {r.item: dict(zip(matrix.years, r.companies, strict=True)) for r in matrix.items}
        self.assertEqual((matrix.members, counts["total_assets"][2015]), (7, 7))
        self.assertNotIn("revenue", counts)
        for command in (("quality",), ("quality", "coverage", "stories")):
            self.assertEqual(self.live.command(*command).returncode, 0)

    def test_a_split_moves_what_was_reported_before_it_m3(self) -> None:
        values = [self.read("FM-0075", "diluted_eps.fy", f"2023-06-0{day}")[0] for day in (4, 5)]
        self.assertEqual(values, [2.01, 2.01 / 4])
        self.assertEqual(
            self.live.ledger.restatements("fernmark:FM-0075", item="shares_outstanding").total, 0
        )
        year = self.read("FM-0075", "diluted_eps.fy", "2024-06-30")[0]
        self.assertLess(
            abs(
                self.read("FM-0075", "growth(diluted_eps.fy, 1y)", "2024-06-30")[0]
                - (year / (2.01 / 4) - 1)
            ),
            1e-9,
        )

    def test_equity_below_nothing_and_hardly_any_earnings(self) -> None:
        value, _ = self.read("FM-0121", "shareholders_equity", "2018-06-30")
        self.assertLess(value, 0)
        self.assertEqual(
            self.read("FM-0121", "growth(shareholders_equity, 1y)", "2019-06-30")[0],
            "not_meaningful",
        )
        self.assertEqual(self.read("FM-0114", "diluted_eps.fy", "2022-06-30")[0], 0.01)
