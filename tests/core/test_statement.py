"""Sheets and labels of one company: transitions, years named by their start,
what is not additive (F3, F4, F5, F9).
"""

import unittest
from datetime import date
from typing import Any

import numpy as np

from tests.core.small_ledger import LONG_AGO, SmallLedger
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.dated.attributes import Attribute, Attributes
from wise_ledger.core.dated.series import Steps
from wise_ledger.core.fiscal.calendar import FiscalCalendar
from wise_ledger.core.fiscal.yearends import Periods, YearEnd, learn
from wise_ledger.core.fiscal.zeros import Templates
from wise_ledger.core.records.facts import FactColumns
from wise_ledger.core.statements.sheet import Sheet
from wise_ledger.core.statements.statement import Laid, Show, lay_out
from wise_ledger.core.time.instants import DAY, micros, read_cutoff
from wise_ledger.core.time.periods import BALANCE, day

Fact = tuple[Any, ...]  # item, start, end, value, public since, unit if not EUR


def end(text: str) -> int:
    return day(date.fromisoformat(text))


def calendar(
    *declared: tuple[str | None, int], company: int = 0, by_start: bool = False
) -> FiscalCalendar:
    """Of one company whose source declares, from a day on or from always,
    in which month years end.
    """
    days = [(LONG_AGO if since is None else end(since), month) for since, month in declared]
    stages = learn(
        [YearEnd(company, d, month, d * DAY) for d, month in days], Periods.of(FactColumns.empty())
    )
    named = (
        Steps(np.array([company]), np.array([LONG_AGO * DAY]), np.array([1])) if by_start else None
    )
    return FiscalCalendar(stages, named)


NOW = micros(read_cutoff("2024-12-31", ""))


class Labels(unittest.TestCase):
    moved = calendar((None, 6), ("2018-10-15", 12))

    def test_a_transition_is_set_apart_and_its_parts_are_named_f3_f5(self) -> None:
        for text, span, label in (
            ("2018-06-30", 12, "FY2018"),
            ("2018-06-30", 3, "FY2018Q4"),
            ("2018-09-30", 3, "TP2018Q1"),
            ("2018-12-31", 3, "TP2018Q2"),
            ("2018-12-31", 6, "TP2018"),
            ("2018-12-31", BALANCE, "TP2018"),
            ("2018-09-30", BALANCE, "TP2018Q1"),
            ("2019-03-31", 3, "FY2019Q1"),
            ("2019-12-31", 12, "FY2019"),
        ):
            self.assertEqual(self.moved.label(0, end(text), NOW, span), label, (text, span))

    def test_a_year_may_be_named_by_its_start_f4(self) -> None:
        for by_start, label in ((True, "FY2023"), (False, "FY2024")):
            named = calendar((None, 3), company=1, by_start=by_start)
            self.assertEqual(named.label(1, end("2024-03-31"), NOW, 12), label)

    def test_a_label_is_what_was_known_of_the_year_end_t9(self) -> None:
        before = micros(read_cutoff("2018-10-14", ""))
        self.assertEqual(self.moved.label(0, end("2018-12-31"), before, 3), "FY2019Q2")
        late = calendar(("2020-01-01", 6))
        self.assertEqual(late.label(0, end("2018-06-30"), before, 12), "FY2018")
        self.assertEqual(late.label(0, end("2018-06-30"), before), "FY2018Q2")
        self.assertEqual(late.label(0, end("2018-06-30"), NOW), "FY2018")


class Sheets(unittest.TestCase):
    def laid(self, items: list[str], *facts: Fact, **how: Any) -> Laid:
        """The quarterly lines of a company out of (item, start, end, value, published)."""
        reported = [
            {
                "item": i,
                "period_start": s,
                "period_end": e,
                "value": v,
                "unit": unit[0] if unit else "EUR",
                "published_at": p,
                "company": items.index(i),
            }
            for i, s, e, v, p, *unit in facts
        ]
        ledger = SmallLedger(reported)
        columns = [ledger.columns(i) for i in items]
        names = FactColumns.__dataclass_fields__
        whole = FactColumns.of({n: np.concatenate([getattr(c, n) for c in columns]) for n in names})
        wanted = [ITEMS[i] for i in items]
        own = how.pop("calendar", calendar((None, 12)))
        template = Templates.of(
            Attributes([Attribute(0, "template", "industrial", LONG_AGO, LONG_AGO * DAY, 0)])
        )
        count = len(wanted)
        sheet = Sheet(wanted, whole, own.of_rows(0, count), template.of_rows(0, count))
        return lay_out(
            sheet,
            wanted,
            how.pop("frequency", "quarter"),
            Viewpoint.at(NOW),
            {},
            every_line=True,
            **how,
        )

    def rows(self, items: list[str], *facts: Fact, **how: Any) -> dict[str, list[object]]:
        laid = self.laid(items, *facts, **how)
        self.assertEqual([c.label for c in laid.columns], sorted(c.label for c in laid.columns))
        return {x.item.code: [c.reason or c.value for c in x.cells] for x in laid.lines}

    def test_what_is_not_additive_is_not_derived_and_other_templates_lines_do_not_apply_f9_n(
        self,
    ) -> None:
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

    def test_an_amount_says_its_currency_where_it_is_another_than_its_columns(self) -> None:
        year = ("2023-01-01", "2023-12-31")
        items = ["revenue", "net_income", "operating_income"]
        facts = [
            ("revenue", *year, 9, "2024-02-01", "USD"),
            ("net_income", *year, 3, "2024-02-01", "EUR"),
            ("operating_income", *year, 5, "2024-02-01", "EUR"),
        ]
        laid = self.laid(items, *facts, frequency="annual")
        self.assertEqual((laid.currency, laid.currencies), (None, ("EUR",)))
        self.assertEqual([x.cells[0].currency for x in laid.lines], ["USD", None, None])
        two = self.laid(items[:2], *facts[:2], frequency="annual")  # the first line's, of as many
        self.assertEqual((two.currencies, two.lines[1].cells[0].currency), (("USD",), "EUR"))
        share = self.laid(items[1:], *facts[1:], frequency="annual", show=Show.GROWTH)
        self.assertEqual((share.currencies, share.lines[0].cells[0].currency), ((None,), None))
        one = self.laid(items[1:], *facts[1:], frequency="annual")
        self.assertEqual((one.currency, one.lines[0].cells[0].currency), ("EUR", None))

    def test_columns_are_named_as_the_company_names_its_years_f4(self) -> None:
        own = calendar((None, 1), by_start=True)
        fact = ("revenue", "2023-11-01", "2024-01-31", 10.0, "2024-03-01")
        self.assertEqual(
            [c.label for c in self.laid(["revenue"], fact, calendar=own).columns], ["FY2023Q4"]
        )

    def test_cumulative_columns_are_headed_by_their_own_span_and_a_transition_by_its_name_f5_f7(
        self,
    ) -> None:
        facts = [
            ("revenue", "2017-07-01", "2018-06-30", 40.0, "2018-08-01"),
            ("revenue", "2018-07-01", "2018-09-30", 11.0, "2018-11-01"),
            ("revenue", "2018-07-01", "2018-12-31", 23.0, "2019-02-01"),
            ("revenue", "2019-01-01", "2019-06-30", 24.0, "2019-08-01"),
            ("revenue", "2019-01-01", "2019-09-30", 36.0, "2019-11-01"),
            ("revenue", "2019-01-01", "2019-12-31", 50.0, "2020-02-01"),
        ]
        own = calendar((None, 6), ("2018-10-15", 12))
        cumulative = self.laid(["revenue"], *facts, calendar=own, frequency="cumulative")
        labels = ["FY2018", "TP2018Q1", "TP2018", "FY2019H1", "FY2019-9M", "FY2019"]
        self.assertEqual([c.label for c in cumulative.columns], labels)
        years = self.laid(["revenue"], *facts, calendar=own, frequency="annual")
        self.assertEqual([c.label for c in years.columns], ["FY2018", "TP2018", "FY2019"])
        self.assertEqual([c.value for c in years.lines[0].cells], [40.0, 23.0, 50.0])
        # F6: each by the time that it lasts, a trailing sum by the quarter that it ends with.
        quarters = ["2018Q3", "2018Q4", "2019Q2", "2019Q3"]
        self.assertEqual([c.calendar for c in cumulative.columns], ["2017", *quarters, "2019"])
        self.assertEqual([c.calendar for c in years.columns], ["2017", "2018Q4", "2019"])
        trailing = self.laid(["revenue"], *facts, calendar=own, frequency="trailing")
        self.assertEqual([c.calendar for c in trailing.columns], ["2018Q2", "2019Q2", "2019Q4"])
