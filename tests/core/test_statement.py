"""Sheets and labels of one company: transitions, years named by their start, what is not additive (F3, F4, F5, F9)."""

import unittest
from datetime import date
from typing import Any

from tests.core.small_ledger import LONG_AGO, SmallLedger
from wise_ledger.core.facts.columns import FactColumns
from wise_ledger.core.facts.instants import micros, read_cutoff
from wise_ledger.core.facts.items import ITEMS
from wise_ledger.core.fiscal.calendar import FiscalCalendar, YearEnd
from wise_ledger.core.fiscal.periods import BALANCE, day
from wise_ledger.core.statements.sheet import Sheet
from wise_ledger.core.statements.statement import Laid, lay_out

Fact = tuple[str, str | None, str, float | None, str]


def end(text: str) -> int:
    return day(date.fromisoformat(text))


class Labels(unittest.TestCase):
    moved = FiscalCalendar([YearEnd(0, LONG_AGO, 6), YearEnd(0, end("2018-10-15"), 12)], by_start=[1])

    def test_a_transition_is_told_apart_and_its_parts_are_named_f3_f5(self) -> None:
        for text, span, label in (
            ("2018-06-30", 12, "FY2018"), ("2018-06-30", 3, "FY2018Q4"), ("2018-09-30", 3, "TP2018Q1"),
            ("2018-12-31", 3, "TP2018Q2"), ("2018-12-31", 6, "TP2018"), ("2018-12-31", BALANCE, "TP2018"),
            ("2018-09-30", BALANCE, "TP2018Q1"), ("2019-03-31", 3, "FY2019Q1"), ("2019-12-31", 12, "FY2019"),
        ):  # fmt: skip
            self.assertEqual(self.moved.label(0, end(text), span), label, (text, span))

    def test_a_year_may_be_named_by_its_start_f4(self) -> None:
        calendar = FiscalCalendar([YearEnd(1, LONG_AGO, 3)], by_start=[1])
        self.assertEqual(calendar.label(1, end("2024-03-31"), 12), "FY2023")
        self.assertEqual(FiscalCalendar([YearEnd(1, LONG_AGO, 3)]).label(1, end("2024-03-31"), 12), "FY2024")


class Sheets(unittest.TestCase):
    def laid(self, items: list[str], *facts: Fact, **how: Any) -> Laid:
        """The quarterly lines of a company out of (item, start, end, value, published)."""
        told = [
            {"item": i, "period_start": s, "period_end": e, "value": v, "unit": "EUR", "published_at": p,
             "company": items.index(i)}
            for i, s, e, v, p in facts
        ]  # fmt: skip
        ledger = SmallLedger(told)
        import numpy as np

        columns = [ledger.columns(i) for i in items]
        names = FactColumns.__dataclass_fields__
        whole = FactColumns.of({n: np.concatenate([getattr(c, n) for c in columns]) for n in names})
        wanted = [ITEMS[i] for i in items]
        calendar = how.pop("calendar", FiscalCalendar([YearEnd(0, LONG_AGO, 12)]))
        sheet = Sheet(wanted, whole, calendar.of_rows(0, len(wanted)), [0], "industrial")
        cutoff = micros(read_cutoff("2024-12-31", ""))
        return lay_out(sheet, wanted, "quarter", cutoff, {}, every_line=True, template="industrial", **how)

    def rows(self, items: list[str], *facts: Fact, **how: Any) -> dict[str, list[object]]:
        laid = self.laid(items, *facts, **how)
        self.assertEqual([c.label for c in laid.columns], sorted(c.label for c in laid.columns))
        return {x.item.code: [c.reason or c.value for c in x.cells] for x in laid.lines}

    def test_what_is_not_additive_is_not_derived_and_other_templates_lines_do_not_apply_f9_n(self) -> None:
        rows = self.rows(
            ["revenue", "weighted_average_shares", "premiums_earned", "net_income"],
            ("revenue", "2023-01-01", "2023-03-31", 10, "2023-05-01"),
            ("revenue", "2023-01-01", "2023-06-30", 25, "2023-08-01"),
            ("weighted_average_shares", "2023-01-01", "2023-03-31", 7, "2023-05-01"),
            ("weighted_average_shares", "2023-01-01", "2023-06-30", 8, "2023-08-01"),
            ("net_income", "2023-01-01", "2023-03-31", None, "2023-06-01"),
        )
        self.assertEqual(rows["revenue"], [10, 15])
        self.assertEqual(rows["weighted_average_shares"], [7, "not_derivable"])
        self.assertEqual(rows["premiums_earned"], ["not_applicable", "not_applicable"])
        self.assertEqual(rows["net_income"], ["withdrawn", "not_reported"])

    def test_columns_are_named_as_the_company_names_its_years_f4(self) -> None:
        calendar = FiscalCalendar([YearEnd(0, LONG_AGO, 1)], by_start=[0])
        fact = ("revenue", "2023-11-01", "2024-01-31", 10.0, "2024-03-01")
        self.assertEqual([c.label for c in self.laid(["revenue"], fact, calendar=calendar).columns], ["FY2023Q4"])
