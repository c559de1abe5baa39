"""Random companies at the service's doors: their year ends move, their template, currency, sources
and splits change, figures come late, are restated and withdrawn. What one door says another says.
"""

import os
from collections.abc import Iterator
from datetime import date, timedelta
from random import Random
from typing import Any, ClassVar

from tests.core.worlds import BALANCES, FLOWS, world
from tests.service.anyfiles import SHARE, brought, companies, file_of, keys_of, listed
from tests.service.questions import Compared
from wise_ledger.core.catalogue.items import ITEMS

MANY = int(os.environ.get("WORLDS", "1"))
FORMS = {"annual": "fy", "half": "h", "quarter": "q", "trailing": "ttm", "cumulative": "ytd"}
MARKS = ("assumed", "approximate", "mixed_basis", "implied", "flagged")


class AnyWorld(Compared):
    who: ClassVar[list[str]]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        random = cls.random()
        cls.who = [key for n in range(6) for key in keys_of(n)]
        rows = dict(companies([world(random.randrange(2**32)) for _ in range(6)]))
        listings = [listed(key, SHARE) for key in cls.who]
        brought(cls.ledger, {**rows, "listings": listings})

    @classmethod
    def random(cls) -> Random:
        """The same each time, others with another SEED."""
        return Random(int(os.environ.get("SEED", "11")))

    def asked(self, count: int) -> Iterator[tuple[Random, str, date, dict[str, Any]]]:
        """Random companies, days and ways to look at them."""
        random = self.random()
        for _ in range(count * MANY):
            how: dict[str, Any] = {}
            if random.random() < 0.3:
                how["currency"] = random.choice(("USD", "EUR", "GBP"))
            if random.random() < 0.3:
                how["leave_out"] = [random.choice(MARKS)]
            day = date(2020, 6, 1) + timedelta(random.randint(0, 1700))
            yield random, random.choice(self.who), day, how

    def test_a_cell_of_any_statement_is_what_explain_says(self) -> None:
        """Value, reason, marks, and since when it is known (F7, F13, M2, N, T4, T9)."""
        for random, company, on, how in self.asked(25):
            frequency, first = random.choice([*FORMS]), random.random() < 0.3
            show = random.choice(("amounts", "amounts", "growth", "common_size"))
            statement = random.choice(("income", "balance", "per_share"))
            asked = {
                "versions": "first" if first else "latest",
                "show": show,
                "lines": "all",
                **how,
            }
            answer = self.ledger.statement(company, statement, frequency, str(on), **asked).answer
            shown = [(line, n) for line in answer.lines for n in range(len(answer.columns))]
            shown = [s for s in shown if s[0].item in FLOWS + BALANCES]
            for line, n in random.sample(shown, min(4, len(shown))):
                cell, column = line.cells[n], answer.columns[n]
                transition = frequency == "annual" and column.label.startswith("TP")
                text = self.expression(line.item, FORMS[frequency], show, transition)
                if text is None:
                    continue
                text = f"first_reported({text})" if first else text
                where = (company, on, frequency, column.label, text, how)
                told = self.ledger.explain(
                    company, text, str(on), period_end=str(column.nominal_end), **how
                ).answer
                self.same(cell.value, told.value, *where)
                self.assertEqual(cell.reason, told.reason, where)
                if show == "amounts" and cell.value is not None:
                    if line.unit.startswith("money"):
                        self.assertEqual(cell.currency or column.currency, told.currency, where)
                    self.assertEqual(set(cell.marks), set(told.marks), where)
                    if not first:
                        (since,) = (v.known_from for v in told.versions if v.standing)
                        self.assertEqual(cell.known_at, since, (where, told.versions, told.inputs))

    def test_zeros_of_a_sheet_in_two_currencies_convert_nothing_f13(self) -> None:
        totals = {"total_assets": "USD", "shareholders_equity": "EUR"}
        about = {"period_end": "2021-12-31", "value": 100, "published_at": "2022-02-01"}
        rows = [{"company": "W9", "item": i, "unit": unit, **about} for i, unit in totals.items()]
        self.ledger.load("companies", b"company,name,valid_from\nW9,World of two,2015-01-01\n")
        self.assertEqual(self.ledger.load("facts", file_of(rows)).new, 2)
        found = self.ledger.explain("W9", "short_term_debt", "2022-06-30", currency="GBP").answer
        self.assertEqual((found.value, found.marks), (0, ["implied"]))
        self.assertEqual([(c.source, c.target) for c in found.conversions], [("USD", "GBP")])

    def expression(self, item: str, form: str, show: str, transition: bool) -> str | None:
        """What a cell shows, in the language; None where it has no words for it."""
        whole = f"{item}.{'ytd' if transition else form}" if item in FLOWS else item
        if show == "growth":
            return None if transition and item in FLOWS else f"growth({whole}, 1y)"
        if show == "common_size":
            if ITEMS[item].unit != "money":
                return None
            of = f"revenue.{'ytd' if transition else form}" if item in FLOWS else "total_assets"
            return f"{whole} / {of}"
        return f"{item}.fy" if form == "fy" and item in BALANCES and not transition else whole

    def test_a_panel_by_period_is_the_statement_of_each(self) -> None:
        for random, company, on, how in self.asked(10):
            frequency = random.choice(("annual", "quarter"))
            form, part = FORMS[frequency], "Q1" if frequency == "quarter" else ""
            periods = f"FY2020{part}/FY2023{part.replace('1', '4')}"
            columns = {item: f"{item}.{form}" for item in FLOWS}
            asked = {"periods": periods, "known_on": str(on), "beside": ["period_end"], **how}
            panel = self.ledger.panel([company], columns, **asked).frame()
            cells = {}
            for statement in ("income", "per_share"):
                answer = self.ledger.statement(
                    company, statement, frequency, str(on), lines="all", **how
                ).answer
                for line in answer.lines:
                    for column, cell in zip(answer.columns, line.cells, strict=True):
                        cells[line.item, column.label, column.nominal_end] = cell
            for (label, _), row in panel.iterrows():
                end = row["period_end"]
                for item in FLOWS:
                    cell = cells.get((item, str(label), None if end != end else end.date()))
                    if cell is not None:
                        self.same(row[item], cell.value, company, on, item, label, how)

    def test_hindsight_is_what_reads_differently_later(self) -> None:
        """Of every instant at which something of the company became known (T9)."""
        for random, company, on, how in self.asked(12):
            item = random.choice(FLOWS)
            text = f"{item}.{random.choice([*FORMS.values()])}"
            asked = {"show": [f"x: {text}"], "known_on": str(on), "companies": [company], **how}
            (row,) = self.ledger.screen(
                "1 == 1 or active", hindsight=True, **asked
            ).answer.companies
            cell = row.cells[-1]
            if cell.value is None:
                continue
            whole = self.ledger.explain(company, text, str(on), hindsight=True, **how).answer
            where = (company, on, text, how, whole.versions)
            # The second company of a world has no splits.
            self.assertFalse(
                company[-1] == "1" and any(v.because == "split" for v in whole.versions), where
            )
            units = {fact.unit for given in whole.inputs for fact in given.facts}
            rates = [v for v in whole.versions if v.because == "rate"]
            self.assertTrue(not rates or how or len(units) > 1, where)
            later = [v for v in whole.versions if v.known_from.date() > on]
            moved = any(v.because != "split" for v in later)  # a split alone restates nothing (M3)
            self.assertEqual(cell.restated_later, moved, where)
            (since,) = (v.known_from for v in whole.versions if v.standing)
            self.assertEqual(cell.known_at, since, where)
