"""The checks of Q1 on made-up companies: each finds its own slip and nothing else."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.quality.checks import Held, examine

DAY0, QUARTER = 18_000, 91
LINES = {  # one quarter's statements, which add up
    "revenue": 1000, "cost_of_revenue": 600, "gross_profit": 400, "selling_general_administrative": 250,
    "operating_income": 150, "net_change_in_cash": 10,
}  # fmt: skip
SHEET = {"total_assets": 5000, "total_liabilities": 3000, "shareholders_equity": 2000}


def company(quarters: int, growth: float = 1.02) -> list[Held]:
    """Quarters whose lines add up and whose cash rolls forward."""
    out: list[Held] = []

    def add(item: str, start: int | None, end: int, value: float, document: int) -> None:
        span = 0 if start is None else 3
        out.append(Held(len(out), item, start, end, span, end + 40, value, "EUR", 3, document, 0, True))

    cash = 100.0
    for n in range(quarters):
        start, end, factor = DAY0 + n * QUARTER, DAY0 + (n + 1) * QUARTER - 1, growth**n
        for item, value in LINES.items():
            add(item, start, end, value * factor, n)
        cash += LINES["net_change_in_cash"] * factor
        for item, value in SHEET.items():
            add(item, None, end, value * factor, n)
        add("cash_and_equivalents", None, end, cash, n)
    return out


def checks(held: list[Held]) -> set[tuple[int, str]]:
    return {(f.fact, f.check) for f in examine(ITEMS, held, "industrial")}


class Checks(unittest.TestCase):
    def one(self, held: list[Held], item: str, document: int) -> Held:
        return next(h for h in held if (h.item, h.document) == (item, document))

    def changed(self, item: str, document: int, **how: object) -> set[str]:
        held = company(8)
        h = self.one(held, item, document)
        return {c for _, c in checks([x._replace(**how) if x is h else x for x in held])}  # type: ignore[arg-type]

    @settings(max_examples=30, deadline=None)
    @given(st.integers(1, 14), st.floats(0.9, 1.15))
    def test_what_adds_up_is_never_flagged(self, quarters: int, growth: float) -> None:
        self.assertEqual(checks(company(quarters, growth)), set())

    def test_each_slip_is_found_by_its_own_check(self) -> None:
        self.assertEqual(self.changed("revenue", 3, unit="shares"), {"unit"})
        self.assertEqual(self.changed("revenue", 3, start=DAY0 + 9 * QUARTER), {"period_order"})
        self.assertEqual(self.changed("revenue", 3, published=DAY0), {"published_early"})
        self.assertEqual(self.changed("total_assets", 3, value=6000.0), {"balance"})
        self.assertEqual(self.changed("gross_profit", 3, value=300.0), {"subtotal"})
        self.assertEqual(self.changed("net_change_in_cash", 3, value=40.0), {"cash"})
        self.assertEqual(self.changed("cash_and_equivalents", 7, value=-5.0), {"sign", "cash"})

    def test_a_document_in_the_wrong_scale_is_quarantined_whole_and_no_other(self) -> None:
        held = company(10)
        wrong = [h._replace(value=(h.value or 0) / 1000) if h.document == 4 else h for h in held]
        found = checks(wrong)
        self.assertEqual({f for f, c in found if c == "scale"}, {h.fact for h in held if h.document == 4})
        self.assertEqual({c for _, c in found}, {"scale"})
        # Growth, loss and a company that shrinks are no slips of scale.
        for growth in (0.4, 3.0):
            self.assertNotIn("scale", {c for _, c in checks(company(8, growth))})

    def test_a_year_is_its_quarters_and_sources_are_compared_in_one_currency(self) -> None:
        held = company(4)
        total = sum(h.value or 0 for h in held if h.item == "revenue")
        year = Held(999, "revenue", DAY0, DAY0 + 4 * QUARTER - 1, 12, DAY0 + 500, total, "EUR", 3, 99, 0, True)
        self.assertEqual(checks([*held, year]), set())
        self.assertEqual(checks([*held, year._replace(value=total * 1.1)]), {(999, "quarters")})
        other = self.one(held, "revenue", 2)._replace(fact=998, source=1, value=1.0e3, document=98)
        self.assertEqual(checks([*held, other]), {(998, "sources"), (self.one(held, "revenue", 2).fact, "sources")})
        self.assertEqual(checks([*held, other._replace(unit="USD")]), set())
        twice = self.one(held, "revenue", 2)._replace(fact=997, value=2.0e3)
        self.assertIn((997, "duplicate"), checks([*held, twice]))

    def test_only_what_is_new_is_looked_at(self) -> None:
        held = [h._replace(new=False, value=-1.0) for h in company(3)]
        self.assertEqual(checks(held), set())
