"""Files of splits, through client and command line (M3, T7, T8)."""

from tests.live import Live

HEAD = "security,ex_date,ratio,published_at\n"
BAD = {  # a row: the column and a word of the problem
    "Nobody At All,2023-06-05,4,": ("security", "no single company"),
    "AGK@ZALD,05/06/2023,4,": ("ex_date", "ambiguous"),
    "AGK@ZALD,2023-06-05,1,": ("ratio", "no ratio"),
    "AGK@ZALD,2023-06-05,0,": ("ratio", "not above 0"),
    "AGK@ZALD,2023-06-05,5000,": ("ratio", "no ratio"),
    "AGK@ZALD,2023-06-05,four for one,": ("ratio", "no number"),
}


class Splits(Live):
    def read(self, expression: str, on: str, **how: int) -> float:
        value = self.ledger.explain("BWG@ZALD", expression, on, **how).answer.value  # type: ignore[arg-type]
        assert isinstance(value, float)
        return value

    def test_a_loaded_split_moves_what_was_reported_before_it(self) -> None:
        before = {
            e: self.read(e, "2023-06-04")
            for e in ("diluted_eps.fy", "shares_outstanding", "net_income")
        }
        batch = self.live.desk.ledger.last_batch()
        rows = (HEAD + "BWG@ZALD,2023-06-05,4,2023-05-08T06:00:00Z\n").encode()
        found = self.ledger.load("splits", rows)
        self.assertEqual((found.rows, found.new, found.bad), (1, 1, []))
        self.assertIsNone(self.ledger.load("splits", rows).batch)  # T8
        for expression, factor in (
            ("diluted_eps.fy", 0.25),
            ("shares_outstanding", 4),
            ("net_income", 1),
        ):
            self.assertEqual(self.read(expression, "2023-06-04"), before[expression])
            self.assertAlmostEqual(self.read(expression, "2023-06-05"), before[expression] * factor)
            # T7
            self.assertEqual(
                self.read(expression, "2023-06-05", recorded_by=batch), before[expression]
            )
        explained = self.ledger.explain("BWG@ZALD", "diluted_eps.fy", "2023-06-05").answer
        self.assertEqual([v.because for v in explained.versions], [None, "split"])
        taken_back = (HEAD + "BWG@ZALD,2023-06-05,,2023-07-20T06:00:00Z\n").encode()
        # M3: from then on there was no split
        self.assertEqual(self.ledger.load("splits", taken_back).new, 1)
        read = [self.read("diluted_eps.fy", on) for on in ("2023-07-19", "2023-07-20")]
        self.assertEqual(read, [before["diluted_eps.fy"] / 4, before["diluted_eps.fy"]])
        tree = explained.inputs[0].tree
        assert tree and tree.fact and tree.fact.value
        self.assertAlmostEqual(tree.value, tree.fact.value / 4)
        self.assertEqual(self.ledger.restatements("BWG@ZALD", item="diluted_eps").total, 0)
        line = self.ledger.statement(
            "BWG@ZALD", "per_share", "annual", "2023-06-05", periods=1
        ).answer.lines[0]
        self.assertEqual((line.cells[0].value, line.cells[0].restated), (explained.value, False))
        self.live.desk.ledger.verify()

    def test_what_waited_for_its_fiscal_year_is_not_taken_for_a_split_f3(self) -> None:
        self.ledger.load("companies", b"company,name,country,currency\nW-1,Waitby Mills,XA,USD\n")
        head = "company,item,period_start,period_end,value,unit,published_at\n"
        rows = ("files:W-1,revenue,2023-01-01,2023-03-31,5,USD,2023-05-01\n"
                "files:W-1,revenue,2022-01-01,2022-12-31,18,USD,2023-06-01\n")  # fmt: skip
        self.assertEqual(self.ledger.load("facts", (head + rows).encode()).new, 2)
        explained = self.ledger.explain("files:W-1", "revenue.ytd", "2023-06-30").answer
        self.assertEqual(
            [(str(v.known_from.date()), v.value, v.because) for v in explained.versions],
            [("2023-06-01", 5, "fiscal_year")],
        )

    def test_a_file_of_facts_may_state_the_share_basis(self) -> None:
        head = "company,item,period_start,period_end,value,unit,published_at,share_basis_date\n"
        row = "TSB@ZALD,adjusted_eps,2022-01-01,2022-12-31,3,USD/shares,2023-05-10,2023-06-05\n"
        self.assertEqual(self.ledger.load("facts", (head + row).encode()).new, 1)
        self.ledger.load("splits", (HEAD + "TSB@ZALD,2023-06-05,2,2023-04-01T00:00:00Z\n").encode())
        read = [
            self.ledger.explain("TSB@ZALD", "adjusted_eps.fy", on).answer.value
            for on in ("2023-06-04", "2023-06-05")
        ]
        self.assertEqual(read, [6.0, 3.0])  # it was reported ahead of the split, on the new shares
        wrong = row.replace("adjusted_eps", "revenue").replace("USD/shares", "USD")
        (problem,) = self.ledger.load("facts", (head + wrong).encode()).bad
        self.assertEqual((problem.column, problem.value), ("share_basis_date", "2023-06-05"))
        self.live.desk.ledger.verify()

    def test_every_bad_row_is_named_and_nothing_is_written(self) -> None:
        batch = self.live.desk.ledger.last_batch()
        for row, (column, problem) in BAD.items():
            (wrong,) = self.ledger.load("splits", f"{HEAD}{row}\n".encode()).bad
            self.assertEqual((wrong.line, wrong.column), (2, column), row)
            self.assertIn(problem, wrong.problem)
            self.assertTrue(wrong.mend)
        self.assertEqual(self.live.desk.ledger.last_batch(), batch)
