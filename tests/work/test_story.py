"""Story 1 and its neighbours through client, API and command line:
one answer everywhere (F11, F12, N, T9).
"""

from datetime import UTC, date, datetime
from typing import Any

from tests.live import RULE, Live
from wise_ledger.client import InputRefused, NotThere
from wise_ledger.wire.screens import ScreenedCompany

JUNE, BEFORE, RESTATED = "2023-06-30", "2024-01-14", "2024-01-15"


class Story(Live):
    def verdicts(self, known_on: str, rule: str = RULE, **how: Any) -> dict[str, ScreenedCompany]:
        found = self.ledger.screen(rule, "first-look", known_on, **how).answer
        return {c.name: c for c in found.companies}

    def test_a_restatement_turns_pass_into_fail_on_its_day_and_not_before(self) -> None:
        june, before, after = (
            self.verdicts(d)["Ashgrove Kilnworks"] for d in (JUNE, BEFORE, RESTATED)
        )
        self.assertEqual([c.verdict for c in (june, before, after)], ["pass", "pass", "fail"])
        self.assertEqual((june.cells[0].period, june.cells[0].restated), ("FY2023Q1", False))
        self.assertEqual((after.cells[0].period, after.cells[0].restated), ("FY2023Q3", True))
        at_seven = self.verdicts("2024-01-15T07:00:00Z")["Ashgrove Kilnworks"]
        self.assertEqual(at_seven.verdict, "pass")  # it became public at half past

    def test_hindsight_is_there_only_when_asked_for_t9(self) -> None:
        plain, seen = self.verdicts(JUNE), self.verdicts(JUNE, hindsight=True)
        self.assertEqual({c.restated_later for x in plain.values() for c in x.cells}, {None})
        later = {n for n, x in seen.items() if x.cells[0].restated_later}
        self.assertEqual(later, {"Ashgrove Kilnworks"})

    def test_everybody_on_the_list_is_in_the_answer_with_a_reason_where_unknown(self) -> None:
        june = self.verdicts(JUNE)
        self.assertEqual(len(june), 23)  # Ravensedge joins in 2024
        self.assertNotIn("Ravensedge Optics", june)
        unknown = {n: c.reason for n, c in june.items() if c.verdict == "unknown"}
        self.assertEqual(
            unknown,
            {"Dunmarsh Bank": "not_applicable", "Eskwith Mutual Insurance": "not_applicable"},
        )
        self.assertEqual(self.verdicts("2024-01-31")["Ravensedge Optics"].reason, "not_known")
        self.assertEqual(self.verdicts("2024-06-30")["Ravensedge Optics"].reason, "incomplete")

    def test_a_withdrawn_figure_is_unknown_until_it_is_restated_t6(self) -> None:
        reasons = [
            self.verdicts(d)["Penhollow Clocks"].reason
            for d in ("2024-05-05", "2024-05-06", "2024-07-18")
        ]
        self.assertEqual(reasons, [None, "withdrawn", None])

    def test_what_is_too_old_is_stale_f12(self) -> None:
        fallowmere = [
            self.verdicts(d)["Fallowmere Stores"].reason for d in ("2026-08-04", "2026-08-05")
        ]
        self.assertEqual(fallowmere, [None, "stale"])

    def test_assumed_publication_dates_are_marked_and_can_be_left_out_t4(self) -> None:
        self.assertEqual(self.verdicts(JUNE)["Orrin Salt"].cells[0].marks, ["assumed"])
        self.assertEqual(
            self.verdicts(JUNE, without_assumed=True)["Orrin Salt"].reason, "not_known"
        )

    def test_attributes_and_logic(self) -> None:
        found = self.verdicts(
            JUNE,
            'country in ("XA", "XB") and (operating_income / revenue > 15% or template == "bank")',
        )
        passing = {n for n, c in found.items() if c.verdict == "pass"}
        self.assertIn("Dunmarsh Bank", passing)
        self.assertNotIn("Oxlade Instruments", passing)
        self.assertEqual(found["Eskwith Mutual Insurance"].reason, "not_applicable")

    def test_ranks_are_over_the_list(self) -> None:
        found = self.verdicts(JUNE, "rank(operating_income / revenue) <= 3")
        passing = sorted(n for n, c in found.items() if c.verdict == "pass")
        self.assertEqual(
            passing, ["Oxlade Instruments", "Pellam Tide Power", "Vennet Harbour Lines"]
        )
        within = self.verdicts(JUNE, "rank(operating_income / revenue, within=industry) == 1")
        self.assertEqual(within["Ashgrove Kilnworks"].verdict, "pass")
        self.assertEqual(within["Brackwater Glass"].verdict, "fail")

    def test_client_api_and_command_line_give_one_answer(self) -> None:
        for known_on, count in ((JUNE, 12), (RESTATED, 11)):
            by_client = self.ledger.screen(RULE, "first-look", date.fromisoformat(known_on))
            self.assertEqual(by_client.counts.passed, count)
            question = {"rule": RULE, "list": "first-look", "known_on": known_on}
            self.assertEqual(
                self.live.http("POST", "/screens", json=question).json(),
                by_client.answer.model_dump(mode="json"),
            )
            ended = self.live.command(
                "screen", RULE, "--list", "first-look", "--known-on", known_on
            )
            self.assertEqual((ended.returncode, ended.stderr), (0, ""))
            lines = [line.split("\t") for line in ended.stdout.splitlines()]
            rows = [dict(zip(lines[0], line, strict=True)) for line in lines[1:]]
            verdicts = [(c.verdict, c.name) for c in by_client.answer.companies]
            self.assertEqual([(row["verdict"], row["name"]) for row in rows], verdicts)
            # One table through every door: the same columns in the same order.
            exported = self.live.http(
                "POST", "/screens?format=csv", json=question
            ).text.splitlines()
            self.assertEqual(lines[0], exported[0].split(","))
            frame = by_client.frame().reset_index()
            self.assertEqual(sorted(lines[0]), sorted(frame.columns))
            self.assertEqual([h for h in lines[0] if h != "company"], list(frame.columns[1:]))

    def test_marked_figures_can_be_left_out_of_every_answer_t4(self) -> None:
        how = {"leave_out": ["assumed"]}
        screened = self.ledger.screen("revenue > 0", "first-look", JUNE, **how).answer
        self.assertEqual((screened.leave_out, screened.recorded_by), (["assumed"], None))
        orrin = next(c for c in screened.companies if c.name == "Orrin Salt").company
        self.assertEqual(
            self.ledger.explain(orrin, "revenue", JUNE, **how).answer.reason, "not_known"
        )
        self.assertEqual(self.ledger.statement(orrin, known_on=JUNE, **how).answer.columns, [])
        listed = self.ledger.members("first-look", JUNE, show=["revenue"], **how).answer.members
        self.assertEqual(next(m for m in listed if m.id == orrin).cells[0].reason, "not_known")
        with self.assertRaises(InputRefused):
            self.live.ledger.statement(orrin, known_on=JUNE, leave_out=["asumed"])  # type: ignore[list-item]


class Explained(Live):
    def test_what_is_reckoned_over_a_list_is_not_explained_for_one_company(self) -> None:
        for text in ("rank(revenue)", "zscore(revenue) * 2"):
            with self.assertRaises(InputRefused) as caught:
                self.ledger.explain("AGK@ZALD", text, JUNE)
            self.assertIn("screen a list", caught.exception.problems[0].mend)

    def test_a_figure_is_explained_down_to_the_document(self) -> None:
        found = self.ledger.explain("AGK@ZALD", "operating_income / revenue", JUNE, hindsight=True)
        now, later = found.answer.versions
        self.assertTrue(now.standing and later.later)
        self.assertEqual([d.title for d in later.documents], ["Restated accounts 2022 and 2023"])
        self.assertEqual(later.known_from, datetime(2024, 1, 15, 7, 30, tzinfo=UTC))
        (income, revenue) = found.answer.inputs
        self.assertEqual(
            (income.expression, income.form, income.period),
            ("operating_income.ttm", "four quarters", "FY2023Q1"),
        )
        total = sum(f.sign * (f.value or 0) for f in income.facts)
        self.assertAlmostEqual(total, income.value or 0)
        self.assertAlmostEqual((income.value or 0) / (revenue.value or 1), now.value or 0)
        fact = income.facts[0]
        info, raw = self.ledger.document(fact.document.sha256[:10])
        self.assertEqual(info.title, fact.document.title)
        self.assertIn(fact.reported.encode(), raw)

    def test_without_hindsight_nothing_later_is_shown_t9(self) -> None:
        found = self.ledger.explain("AGK@ZALD", "operating_income / revenue", JUNE)
        self.assertEqual(len(found.answer.versions), 1)
        self.assertNotIn("2024", str([v.known_from for v in found.answer.versions]))

    def test_what_is_missing_is_explained_too(self) -> None:
        bank = self.ledger.explain("DMB@ZALD", "operating_income / revenue", JUNE).answer
        self.assertEqual((bank.value, bank.reason, bank.versions), (None, "not_applicable", []))
        clocks = self.ledger.explain("PHC@ZBRE", "operating_income.fy", "2024-06-30").answer
        self.assertEqual([v.reason for v in clocks.versions], [None, "withdrawn"])
        self.assertEqual(clocks.reason, "withdrawn")

    def test_unknown_companies_and_documents_are_refused_with_the_nearest(self) -> None:
        with self.assertRaises(NotThere) as caught:
            self.ledger.explain("AGKK@ZALD", "revenue", JUNE)
        self.assertIn("AGK@ZALD", caught.exception.problems[0].mend)
        for address in ("0" * 64, "ab", "%"):
            with self.assertRaises(NotThere):
                self.ledger.document(address)
        for wrong in ("revenue +", "revenue > 1 USD"):
            with self.assertRaises(InputRefused):
                self.ledger.explain("AGK@ZALD", wrong, JUNE)
