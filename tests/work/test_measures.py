"""Measures that people keep: versions, use, archive, definitions as a file, what one means."""

import unittest

from tests.live import Live
from wise_ledger.client import InputRefused, NotThere

LIST = "first-look"


class Measures(Live):
    def test_a_kept_measure_stands_in_every_expression_and_has_versions_t7(self) -> None:
        ledger = self.ledger
        first = ledger.keep_measure(
            "cash_return", "free_cash_flow/invested_capital", "ada", title="Cash return"
        )
        self.assertEqual(
            (first.version, first.formula, first.owner),
            (1, "free_cash_flow / invested_capital", "ada"),
        )
        then = ledger.screen("cash_return > 5%", LIST, "2024-06-30").answer
        ledger.keep_measure("cash_return", "free_cash_flow / total_assets", "bob")
        now = ledger.screen("cash_return > 5%", LIST, "2024-06-30").answer
        self.assertNotEqual([c.cells for c in now.companies], [c.cells for c in then.companies])
        again = ledger.screen(
            "cash_return > 5%", LIST, "2024-06-30", recorded_by=first.batch
        ).answer
        self.assertEqual([c.cells for c in again.companies], [c.cells for c in then.companies])
        self.assertEqual(
            [v.owner for v in ledger.measure_versions("cash_return").versions], ["bob", "ada"]
        )
        self.assertEqual(
            ledger.measure("cash_return", 1).formula, "free_cash_flow / invested_capital"
        )
        self.assertIn("cash_return", [e.name for e in ledger.find("cash return").entries])

    def test_one_in_use_stays_and_an_edit_breaks_nothing_that_rests_on_it(self) -> None:
        ledger = self.ledger
        ledger.keep_measure("base_of_it", "net_income / revenue", "ada")
        ledger.keep_measure("rests_on_it", "2 * base_of_it", "ada")
        for work, word in (
            (lambda: ledger.archive_measure("base_of_it", "ada"), "in use: measure rests_on_it"),
            (
                lambda: ledger.keep_measure("base_of_it", "rests_on_it / 2", "ada"),
                "rests on itself",
            ),
            (
                lambda: ledger.keep_measure("base_of_it", 'country == "XA"', "ada"),
                "could no longer be used",
            ),
            (lambda: ledger.keep_measure("net_margin", "1 / 2", "ada"), "ships with the product"),
            (lambda: ledger.keep_measure("revenue", "1 / 2", "ada"), "an item of this name"),
            (lambda: ledger.keep_measure("close", "1 / 2", "ada"), "this word already"),
            (lambda: ledger.keep_measure("Odd-Name", "1 / 2", "ada"), "no name of a measure"),
            (lambda: ledger.keep_measure("odd", "1 / 2", " "), "nobody is named"),
            (
                lambda: ledger.keep_measure("odd", "1 / revnue", "ada"),
                "no item, attribute or measure revnue",
            ),
            (
                lambda: ledger.keep_measure("odd", "1 / 2", "ada", subject="oddities"),
                "no such subject",
            ),
            (lambda: ledger.archive_measure("net_margin", "ada"), "ships"),
        ):
            with self.assertRaises(InputRefused) as caught:
                work()
            self.assertIn(word, caught.exception.problems[0].problem)
        ledger.archive_measure("rests_on_it", "ada")
        self.assertTrue(ledger.archive_measure("base_of_it", "ada").archived)
        with self.assertRaises(InputRefused):
            ledger.screen("base_of_it > 0", LIST)
        with self.assertRaises(NotThere):
            ledger.measure("never_kept")

    def test_definitions_leave_as_a_file_and_come_back_all_or_none(self) -> None:
        ledger = self.ledger
        ledger.keep_measure(
            "left_and_back", "net_income / total_assets", "ada", title="A title: with a colon"
        )
        text = ledger.measure_definitions(["left_and_back"])
        self.assertEqual(ledger.keep_definitions(text.encode(), "bob"), [])
        changed = text.replace("total_assets", "revenue")
        self.assertEqual(ledger.keep_definitions(changed.encode(), "bob"), ["left_and_back"])
        both = "- {name: fine_one, formula: net_income / revenue}\n- {name: bad_one, formula: revenue +}"
        with self.assertRaises(InputRefused):
            ledger.keep_definitions(both.encode(), "bob")
        self.assertNotIn("fine_one", [m.name for m in ledger.measures().measures])
        self.assertEqual(
            ledger.keep_definitions(ledger.measure_definitions(shipped=True).encode(), "bob"), []
        )

    def test_the_command_line_says_what_an_expression_means(self) -> None:
        ended = self.live.command("measures", "check", "growth(operating_margin.q, 1y) > 5%")
        self.assertIn(
            "the growth of operating margin of the quarter over a year is above 0.05", ended.stdout
        )
        self.assertIn("sources: fernmark", ended.stdout)
        self.assertEqual(
            self.live.command("measures", "format", "(a)/( b+1mn  EUR)>5%").stdout.strip(),
            "a / (b + 1mn EUR) > 5%",
        )
        wrong = self.live.command("measures", "check", "revenue && active")
        self.assertEqual(wrong.returncode, 2)
        self.assertIn("        ^^", wrong.stderr)
        shown = self.live.command("measures", "show", "combined_ratio")
        self.assertIn("loss_ratio + expense_ratio", shown.stdout)
        listed = self.live.command(
            "measures", "list", "--subject", "banks", "--format", "tsv"
        ).stdout
        self.assertIn("net_interest_margin\t", listed)


if __name__ == "__main__":
    unittest.main()
