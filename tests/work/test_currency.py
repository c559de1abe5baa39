"""Amounts in a currency of choice, through client, HTTP and command line;
files of rates (M2, T7, T8).
"""

import json
from datetime import date
from typing import Any

from tests.live import WORLD, Live
from wise_ledger.client import InputRefused

ON = "2024-06-30"
BAD = {  # a row: the column and a word of the problem
    "EUR,usd,2023-01-02,1.1": ("quote", "no currency"),
    "EUR,EUR,2023-01-02,1.1": ("quote", "to itself"),
    "EUR,USD,02/01/2023,1.1": ("date", "ambiguous"),
    "EUR,USD,2123-01-02,1.1": ("date", "not come"),
    "EUR,USD,2023-01-02,-1": ("rate", "not above 0"),
    "EUR,USD,2023-01-02,nan": ("rate", "no number"),
    "EUR,USD,2023-01-02,": ("rate", "empty"),
    "EUR,CHF,2023-01-02,1.2\nEUR,CHF,2023-01-02,1.3": ("rate", "line 2 says otherwise"),
}


def mean(quote: str, start: date, end: date) -> float:
    """Units of `quote` for one USD, day by day through the EUR."""
    days = [r["rates"] for r in WORLD.rates if str(start) <= r["date"] <= str(end)]
    reported = [{"EUR": 1.0, **day}[quote] / day["USD"] for day in days]
    return sum(reported) / len(reported)


class Currency(Live):
    def test_a_statement_in_another_currency_takes_means_for_flows_and_days_for_balances(
        self,
    ) -> None:
        for statement, frequency in (
            ("income", "quarter"),
            ("cash_flow", "annual"),
            ("balance", "quarter"),
        ):
            plain = self.ledger.statement("AGK@ZALD", statement, frequency, ON, periods=3).answer
            asked = self.ledger.statement(
                "AGK@ZALD", statement, frequency, ON, periods=3, currency="JPY"
            ).answer
            self.assertEqual((plain.currency, asked.currency), ("USD", "JPY"))
            months = {"quarter": 3, "annual": 12}[frequency]
            for own, line in zip(plain.lines, asked.lines, strict=True):
                for column, a, b in zip(asked.columns, own.cells, line.cells, strict=True):
                    end = column.nominal_end
                    first = date(end.year - (end.month < months), (end.month - months) % 12 + 1, 1)
                    if statement == "balance" and end.weekday() > 4:
                        continue  # the last rate before: the rule's own test has it
                    rate = mean("JPY", end if statement == "balance" else first, end)
                    self.assertAlmostEqual(
                        b.value / a.value if a.value else rate, rate, 6, (line.item, column.label)
                    )
        for show in ("growth", "common_size"):
            same = [
                [
                    c.value
                    for x in self.ledger.statement(
                        "AGK@ZALD", show=show, known_on=ON, currency=c
                    ).answer.lines
                    for c in x.cells
                ]
                for c in (None, "JPY")
            ]
            self.assertEqual(*same)

    def test_screens_lists_and_explanations_show_the_rate(self) -> None:
        found = self.ledger.screen("net_income > 10mn EUR", "first-look", ON).answer
        (ashgrove,) = (c for c in found.companies if c.symbol == "AGK@ZALD")
        own = self.ledger.explain("AGK@ZALD", "net_income", ON).answer
        explained = self.ledger.explain("AGK@ZALD", "net_income", ON, currency="EUR").answer
        (used,) = explained.conversions
        self.assertEqual((used.source, used.target, used.start), ("USD", "EUR", date(2023, 4, 1)))
        self.assertAlmostEqual(used.rate, mean("EUR", used.start, used.end), 9)
        self.assertAlmostEqual(explained.value, own.value * used.rate, 3)
        self.assertEqual(
            (ashgrove.cells[0].value, ashgrove.cells[0].currency), (explained.value, "EUR")
        )
        self.assertEqual({c.reason for c in found.companies} & {"no_rate"}, set())
        members = self.ledger.members(
            "first-look", ON, show=["total_assets"], currency="JPY"
        ).answer.members
        self.assertEqual(
            {c.cells[0].currency for c in members if c.cells[0].value is not None}, {"JPY"}
        )
        yen = self.ledger.screen("rank(revenue) <= 5", "first-look", ON, currency="JPY").answer
        self.assertEqual(sum(c.verdict == "pass" for c in yen.companies), 5)

    def test_the_command_line_says_it_and_a_currency_without_rates_is_named(self) -> None:
        how = ("--known-on", ON, "--currency", "EUR", "--format", "json")
        ended = json.loads(self.live.command("explain", "AGK@ZALD", "net_income", *how).stdout)
        self.assertEqual([c["expression"] for c in ended["conversions"]], ["net_income"])
        rows = self.live.command("statements", "AGK@ZALD", *how)
        self.assertEqual(json.loads(rows.stdout)["currency"], "EUR")
        for wrong in ("CHX", "euro"):
            with self.assertRaises(InputRefused) as caught:
                self.ledger.statement("AGK@ZALD", known_on=ON, currency=wrong)
            (problem,) = caught.exception.problems
            self.assertEqual((problem.at, problem.value), ("currency", wrong))
            self.assertIn("EUR", problem.mend)

    def test_rates_from_a_file_count_from_their_batch_on_t7_t8(self) -> None:
        rows = b"base,quote,date,rate\nEUR,CHF,2024-03-29,2.0\nEUR,CHF,2024-06-28,4.0\n"
        found = self.ledger.load("rates", rows)
        self.assertEqual((found.rows, found.new, found.bad), (2, 2, []))
        self.assertIsNone(self.ledger.load("rates", rows).batch)

        def equity(on: str | None = ON, **how: Any) -> float:
            answer = self.ledger.statement(
                "PTP@ZBRE", "balance", "quarter", on, currency="CHF", **how
            ).answer
            (line,) = (x for x in answer.lines if x.item == "total_assets")
            ends = [str(c.nominal_end) for c in answer.columns]
            return line.cells[ends.index("2024-03-31")].value  # type: ignore[return-value]

        own = self.ledger.statement("PTP@ZBRE", "balance", "quarter", ON, periods=1).answer
        (assets,) = (x.cells[0].value for x in own.lines if x.item == "total_assets")
        self.assertAlmostEqual(equity(), assets * 2)
        later = self.ledger.load("rates", b"base,quote,date,rate\nEUR,CHF,2024-03-29,3.0\n").batch
        # What replaces an earlier rate is known since it was recorded: the past stays
        # (T9), from now on it counts.
        self.assertAlmostEqual(equity(), assets * 2)
        self.assertAlmostEqual(equity(on=None), assets * 3)
        self.assertAlmostEqual(equity(recorded_by=later - 1), assets * 2)
        self.live.desk.ledger.verify()

    def test_every_bad_row_of_rates_is_named_and_nothing_is_written(self) -> None:
        before = self.live.desk.ledger.last_batch()
        for row, (column, problem) in BAD.items():
            found = self.ledger.load("rates", f"base,quote,date,rate\n{row}\n".encode())
            wrong = found.bad[-1]
            self.assertEqual(
                (found.batch, wrong.line, wrong.column), (None, row.count("\n") + 2, column), row
            )
            self.assertIn(problem, wrong.problem)
            self.assertTrue(wrong.mend)
        self.assertEqual(self.live.desk.ledger.last_batch(), before)
