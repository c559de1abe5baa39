"""Statements, restatements and the catalogue, through client,
HTTP and command line (F1 to F13, N, Q3, T5, T9).
"""

import json

from tests.live import Live
from wise_ledger.client import InputRefused

ON = "2024-06-30"


class Statements(Live):
    def lines(self, *asked: str, **how: object) -> dict[str, list[object]]:
        answer = self.ledger.statement(*asked, **how).answer  # type: ignore[arg-type]
        return {x.item: [c.reason or c.value for c in x.cells] for x in answer.lines}

    def test_columns_are_headed_by_period_period_end_and_publication_oldest_first_f2_f4_f5(
        self,
    ) -> None:
        found = self.ledger.statement("FLM@ZALD", "income", "quarter", ON, periods=3)
        columns = found.answer.columns
        self.assertEqual([c.label for c in columns], ["FY2024Q3", "FY2024Q4", "FY2025Q1"])
        self.assertEqual(
            [str(c.period_end) for c in columns], ["2023-10-28", "2024-02-03", "2024-05-04"]
        )
        self.assertEqual([c.calendar for c in columns], ["2023Q3", "2023Q4", "2024Q1"])
        for frequency in ("annual", "half", "quarter", "trailing", "cumulative"):
            heads = self.ledger.statement("FLM@ZALD", "income", frequency, ON).frame(calendar=True)
            self.assertTrue(heads.columns.get_level_values("period").is_unique, frequency)
        frame = found.frame()
        self.assertEqual(
            list(frame.columns.names), ["period", "period_end", "first_public_at", "currency"]
        )
        self.assertEqual((frame.attrs["currency"], frame.attrs["frequency"]), ("USD", "quarter"))
        self.assertEqual(found.frame(periods_down=True).shape, frame.shape[::-1])
        tidy = found.tidy()
        self.assertEqual({*tidy["currency"]}, {"USD"})
        self.assertEqual(list(tidy.columns[:3]), ["company", "name", "frequency"])
        self.assertEqual(len(tidy), frame.size)

    def test_every_form_agrees_with_the_measure_language_f7_f8(self) -> None:
        forms = {
            "quarter": "q",
            "half": "h",
            "annual": "fy",
            "trailing": "ttm",
            "cumulative": "ytd",
        }
        for frequency, selector in forms.items():
            # Cumulative, half-yearly, quarters missed, a year to June, weeks: each form
            # by two, trailing sums by all.
            styles = ("QNK@ZALD", "MRB@ZBRE", "LDL@ZALD", "CLW@ZBRE", "FLM@ZALD")
            for company in styles if frequency == "trailing" else styles[:2]:
                answer = self.ledger.statement(company, "income", frequency, ON, periods=4).answer
                for line in answer.lines:
                    for column, cell in zip(answer.columns, line.cells, strict=True):
                        explained = self.ledger.explain(
                            company, f"{line.item}.{selector}", ON, period_end=column.nominal_end
                        )
                        self.assertEqual(
                            (explained.answer.value, explained.answer.reason),
                            (cell.value, cell.reason),
                            (company, line.item, column.label, frequency),
                        )

    def test_known_on_first_reported_and_as_reported(self) -> None:
        before = self.lines("AGK@ZALD", "income", "annual", "2024-01-14", periods=1)[
            "operating_income"
        ]
        after = self.ledger.statement(
            "AGK@ZALD", "income", "annual", "2024-01-31", periods=1
        ).answer
        (line,) = (x for x in after.lines if x.item == "operating_income")
        self.assertTrue(line.cells[0].restated)
        self.assertLess(line.cells[0].value, before[0])
        first = self.lines(
            "AGK@ZALD", "income", "annual", "2024-01-31", periods=1, versions="first"
        )
        self.assertEqual(first["operating_income"], before)
        hindsight = self.ledger.statement(
            "AGK@ZALD", "income", "annual", "2024-01-14", periods=1, hindsight=True
        )
        self.assertTrue(hindsight.answer.lines[0].cells[0].restated_later is False)
        formed, plain = (
            self.by_label("QNK@ZALD", "quarter", f) for f in ("normalised", "as_reported")
        )
        self.assertLess(plain.items(), formed.items())  # what is left is the same
        # it reports cumulative figures
        self.assertTrue(all(label.endswith("Q1") for label in plain))

    def by_label(self, company: str, frequency: str, figures: str) -> dict[str, float]:
        answer = self.ledger.statement(company, "income", frequency, ON, figures=figures).answer  # type: ignore[arg-type]
        cells = zip(answer.columns, answer.lines[0].cells, strict=True)
        return {column.label: cell.value for column, cell in cells if cell.value is not None}

    def test_growth_shares_and_lines_outside_the_template(self) -> None:
        amounts = self.lines("AGK@ZALD", "income", "annual", ON, periods=2)
        growth = self.lines("AGK@ZALD", "income", "annual", ON, periods=1, show="growth")
        shares = self.lines("AGK@ZALD", "income", "annual", ON, periods=1, show="common_size")
        before, now = amounts["net_income"]
        self.assertAlmostEqual(growth["net_income"][0], now / before - 1)
        self.assertAlmostEqual(shares["net_income"][0], now / amounts["revenue"][1])
        bank = self.lines("DMB@ZALD", "balance", "annual", ON, periods=1, lines="all")
        self.assertEqual(bank["current_assets"], ["not_applicable"])
        self.assertNotIn(
            "current_assets", self.lines("DMB@ZALD", "balance", "annual", ON, lines="template")
        )
        self.assertEqual(bank["minority_interests"], [0.0])  # F13: absence means zero

    def test_restatements_show_from_to_when_and_by_which_document(self) -> None:
        found = self.ledger.restatements("AGK@ZALD", known_on=ON)
        year = next(
            r for r in found.restatements if r.item == "operating_income" and r.period == "FY2022"
        )
        self.assertEqual(str(year.published_at)[:16], "2024-01-15 07:30")
        self.assertEqual(year.document, "Restated accounts 2022 and 2023")
        self.assertAlmostEqual(year.percent, (year.new / year.old - 1) * 100)
        self.assertEqual((year.original, year.latest), (year.old, year.new))
        self.assertEqual(self.ledger.restatements("AGK@ZALD", known_on="2024-01-14").total, 0)  # T9
        overall = self.ledger.restatements(known_on="2024-12-31", least=5)
        self.assertEqual(
            {r.name for r in overall.restatements}, {"Ashgrove Kilnworks", "Penhollow Clocks"}
        )
        self.assertIn(None, {r.new for r in overall.restatements})  # the withdrawal

    def test_the_finder_knows_synonyms_slips_and_filters_q3(self) -> None:
        for asked, item in (
            ("turnover", "revenue"),
            ("sharehlders funds", "shareholders_equity"),
            ("creditors", "payables"),
            ("EBIT", "operating_income"),
            ("net incom", "net_income"),
            ("head count", "employees"),
            ("operating_cash_flow", "operating_cash_flow"),
            ("equity", "shareholders_equity"),
            ("exchange", "venue"),
            ("ranking", "rank"),
        ):
            self.assertEqual(self.ledger.find(asked).entries[0].name, item, asked)
        found = self.ledger.find("debt", statement="balance", template="bank", kind=["item"])
        self.assertEqual({e.statement for e in found.entries}, {"balance"})
        self.assertTrue(all("bank" in e.templates for e in found.entries))
        (revenue,) = self.ledger.find("revenue", company="AGK@ZALD", limit=1).entries
        self.assertEqual((revenue.coverage.companies, revenue.value.currency), (24, "USD"))
        self.assertTrue(
            all(e.coverage.share >= 0.5 for e in self.ledger.find(kind=["item"], least=0.5).entries)
        )
        page = self.ledger.item("shareholders_equity")
        self.assertIn("total_equity", [n.item for n in page.neighbours])
        self.assertIn("equity_total", [t.tag for t in page.tags])
        self.assertEqual(sum(s.companies for s in page.spreads), 24)
        with self.assertRaisesRegex(InputRefused, "did you mean balance"):
            self.ledger.find("debt", statement="balanc")

    def test_a_range_of_periods_both_ends_included_and_its_layouts(self) -> None:
        ends = [
            c.nominal_end for c in self.ledger.statement("AGK@ZALD", known_on=ON).answer.columns
        ]
        start, end = f"{ends[1]}", f"{ends[-2]}"
        found = self.ledger.statement("AGK@ZALD", known_on=ON, start=start, end=end)
        self.assertEqual([c.nominal_end for c in found.answer.columns], ends[1:-1])
        statement = self.ledger.statements(
            ["AGK@ZALD", "PTP@ZBRE"], known_on=ON, start=start, end=end
        )
        wide = statement.rows(layout="wide")
        cell = {(r["name"], r["item"], p): r[p] for r in wide for p in wide.columns[2:]}
        for row in statement.rows():
            self.assertEqual(cell[row["name"], row["item"], row["period"]], row["value"])
        for layout, down in (("wide", "item"), ("turned", "period")):
            asked = {
                "company": "AGK@ZALD",
                "known_on": ON,
                "format": "csv",
                "layout": layout,
                "start": start,
            }
            head = self.live.http("GET", "/statements", params=asked).text.splitlines()[0]
            self.assertEqual(head.split(",")[0].strip("\ufeff"), down)
        command = ("statements", "AGK@ZALD", "--known-on", ON, "--from", start, "--to", end)
        shown = self.live.command(
            *command, "--columns", "period", "--sort", "newest", "--no-header"
        ).stdout.split()
        self.assertEqual(list(dict.fromkeys(shown)), [c.label for c in found.answer.columns[::-1]])
        wrong = self.live.command(
            "statements", "AGK@ZALD", "--from", "2024-01-01", "--to", "2023-01-01"
        )
        self.assertIn("swap the two dates", wrong.stderr)

    def test_exports_and_the_command_line(self) -> None:
        path = "/statements?company=AGK@ZALD&known_on=2024-06-30&format="
        self.assertIn("FY2023", self.live.http("GET", path + "csv").text)
        self.assertEqual(self.live.http("GET", path + "xlsx").content[:2], b"PK")
        done = self.live.command("statements", "AGK@ZALD", "--known-on", ON, "--format", "json")
        self.assertEqual(json.loads(done.stdout)["columns"][-1]["label"], "FY2023")
        done = self.live.command(
            "statements", "AGK@ZALD", "--known-on", ON, "--frequency", "weekly"
        )
        self.assertEqual(done.returncode, 2)
        for command in (
            ("restatements", "AGK@ZALD", "--known-on", ON),
            ("catalogue", "show", "revenue"),
        ):
            self.assertEqual(self.live.command(*command).returncode, 0)
        with self.assertRaisesRegex(InputRefused, "cash_flow"):
            self.ledger.statement("AGK@ZALD", "cashflow", known_on=ON)
