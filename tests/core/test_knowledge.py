"""What is known and when, over random worlds: no answer from later (T9),
statements agree with the language.
"""

import unittest
from datetime import date, timedelta
from itertools import product
from random import Random
from typing import Any

import numpy as np
from hypothesis import example, given
from hypothesis import strategies as st

from tests.core.small_ledger import at_end_of
from tests.core.worlds import BALANCES, FLOWS, World, order_of_sources, sheet_of, world
from tests.properties import examples
from wise_ledger.core.answers.reasons import Reason
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.dated.attributes import Attribute, Attributes
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.evaluate import Evaluation
from wise_ledger.core.screening.figures import figures
from wise_ledger.core.screening.screen import screen
from wise_ledger.core.statements.money import Money
from wise_ledger.core.statements.sheet import Sheet
from wise_ledger.core.statements.statement import FREQUENCIES, TOTALS, Show, lay_out
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import day
from wise_ledger.core.timelines.preference import Preference

COLUMNS = (
    *(f"{code}.{form}" for code in FLOWS for form in ("q", "h", "fy", "ttm", "ytd")),
    *BALANCES, *(f"{code}.fy" for code in BALANCES),
    "growth(revenue, 1y)", "first_reported(revenue.q)", "first_reported(total_assets)", "ago(inventory, 1q)",
    "operating_income / revenue", "goodwill / total_assets", "diluted_eps * shares_outstanding",
    "coalesce(operating_income.q, revenue.q)", "where(inventory > 0, revenue.fy, total_assets)",
    "revenue - operating_income", "mean(revenue.q, 1y)",
    "industry", "template",
)  # fmt: skip
OF_EVENTS = (
    "where(missing(operating_income / revenue), 0, 1)", "coalesce(growth(revenue, 1y), 0) + goodwill / total_assets",
    "percentile(operating_income / revenue) + shares_outstanding / ago(shares_outstanding, 1y)",
    "where(revenue.q > ago(revenue.q, 1q) and inventory > 0, revenue.ttm / total_assets, goodwill / total_assets)",
    "where(missing(positive(inventory)), 1, 0) * 2", "average_balance(total_assets) / total_debt",
)  # fmt: skip
RULE = (
    'rank(revenue) <= 1 or inventory > 0 or template in ("bank") or active and revenue.fy > 100 USD'
)
SEEDS, DAYS = st.integers(0, 2**32), st.dates(date(2020, 6, 1), date(2024, 6, 1))


def answers(of: World, on: date, preference: Preference) -> list[Any]:
    """Columns, verdicts and statements of both companies, with labels, as known on a day."""
    made, cutoff = of.ledger(), at_end_of(on)
    view = made.view(preference=preference)
    out: list[Any] = []
    for currency in (None, "USD" if on.day % 2 else "GBP"):
        table = figures(view, COLUMNS, [0, 1], Viewpoint.at(cutoff, currency))
        out += [
            (e, *cells) for e, cells in zip(COLUMNS, zip(*table.rows, strict=True), strict=True)
        ]
    out += [
        (r.company, r.verdict, r.reason)
        for r in screen(view, RULE, [0, 1], Viewpoint.at(cutoff)).rows
    ]
    for company in (0, 1):
        sheet = sheet_of(made, view, company)
        for frequency in FREQUENCIES:
            laid = lay_out(sheet, sheet.items, frequency, Viewpoint.at(cutoff), {}, every_line=True)
            out.append((company, frequency, laid.columns))
            out += [
                (company, frequency, line.item.code, line.applies,
                 [(c.value, c.reason, c.marks, c.formed, c.restated, c.known) for c in line.cells])
                for line in laid.lines
            ]  # fmt: skip
    return out


class Knowledge(unittest.TestCase):
    maxDiff = 2000

    @examples(25)
    @given(SEEDS, DAYS)
    # total debt of a source whose first short-term debt is published later
    @example(5150274, date(2020, 6, 1))
    def test_nothing_that_became_public_later_changes_an_answer_t9(
        self, seed: int, on: date
    ) -> None:
        whole, order = world(seed), order_of_sources(seed)
        for now, known in zip(
            answers(whole, on, order), answers(whole.upto(on), on, order), strict=True
        ):
            self.assertEqual(repr(now), repr(known))

    @examples(18)
    @given(SEEDS, st.sampled_from([None, None, "EUR"]), st.sampled_from([(0, 1), (1,)]))
    def test_many_dates_at_once_are_the_dates_one_by_one(
        self, seed: int, currency: str | None, who: tuple[int, ...]
    ) -> None:
        random, members = Random(seed), np.array(who)
        made = world(seed).ledger()
        asked = {"preference": order_of_sources(seed)}
        instants = sorted(
            random.sample(range(day(date(2020, 2, 1)) * 86400, day(date(2026, 3, 1)) * 86400), 25)
        )
        cutoffs = np.array(instants, np.int64) * 1_000_000
        if random.random() < 0.5:  # as panels have them: ends of days
            cutoffs = (cutoffs // DAY + 1) * DAY - 1
        together = made.view(**asked)
        many = Evaluation(together, members, cutoffs, currency=currency)
        steps = [plan(text) for text in (*random.sample(COLUMNS[:-2], 8), *OF_EVENTS)]
        many.share(steps)
        for step in steps:
            values, ends = many.run(step)
            for n, cutoff in enumerate(cutoffs):
                alone, end = Evaluation(
                    together, members, np.array([cutoff]), currency=currency
                ).run(step)
                for row in range(len(members)):
                    self.assertEqual(
                        (
                            _cell(
                                values.value[row, n], values.reason[row, n], values.marks[row, n]
                            ),
                            ends[row, n],
                        ),
                        (
                            _cell(alone.value[row, 0], alone.reason[row, 0], alone.marks[row, 0]),
                            end[row, 0],
                        ),
                        (seed, step, cutoff),
                    )
        self.assertTrue(
            any(name[0] == "events" and len(made) for name, made in together.reckoned.items())
        )

    @examples(18)
    @given(SEEDS, DAYS, st.sampled_from([None, "USD", "EUR", "GBP"]), st.booleans())
    @example(2212631, date(2023, 3, 1), None, False)  # a year end that moves twice within a year
    def test_a_statement_says_what_the_language_says_at_each_end(
        self, seed: int, on: date, currency: str | None, first: bool
    ) -> None:
        made, cutoff = world(seed).ledger(), at_end_of(on)
        view = made.view(preference=order_of_sources(seed))
        for company in (0, 1):
            sheet = sheet_of(made, view, company, currency)
            for frequency, form in FREQUENCIES.items():
                ends = sheet.ends(form, cutoff)
                plain = sheet.grid(form, ends, cutoff, first=first)
                grid = Money(sheet, cutoff, currency).whole(plain)
                stage = np.full(len(ends), view.calendar.known(company, cutoff))
                transitions = view.calendar.closes_transition(stage, ends)
                for row, item in enumerate(sheet.items):
                    for column, end in enumerate(ends.tolist()):
                        text = _expression(item.code, form, bool(transitions[column]))
                        text = f"first_reported({text})" if first else text
                        given_end = np.full((1, 1), end, np.int32)
                        evaluation = Evaluation(
                            view,
                            np.array([company]),
                            np.array([cutoff]),
                            ends=given_end,
                            currency=currency,
                        )
                        values, _ = evaluation.run(plan(text))
                        self.assertEqual(
                            _cell(values.value[0, 0], values.reason[0, 0], values.marks[0, 0]),
                            _cell(
                                grid.value[row, column],
                                grid.reason[row, column],
                                grid.marks[row, column],
                            ),
                            (seed, company, frequency, text, np.datetime64(end, "D"), on),
                        )

    @examples(10)
    @given(SEEDS, DAYS, st.sampled_from([None, "USD", "EUR"]))
    def test_growth_and_shares_in_a_statement_are_those_of_the_language(
        self, seed: int, on: date, currency: str | None
    ) -> None:
        """Growth of flows over equally long times alone, whatever the year end was (F7)."""
        made, cutoff = world(seed).ledger(), at_end_of(on)
        view = made.view(preference=order_of_sources(seed))
        viewpoint = Viewpoint.at(cutoff, currency)
        shows = (Show.GROWTH, Show.COMMON_SIZE)
        for company, (frequency, form), show in product((0, 1), FREQUENCIES.items(), shows):
            sheet = sheet_of(made, view, company, currency)
            laid = lay_out(sheet, sheet.items, frequency, viewpoint, {}, show=show, every_line=True)
            for n, column in enumerate(laid.columns):
                end = day(column.nominal_end)
                closes = view.calendar.closes_transition_at(company, end, cutoff)
                for line in laid.lines:
                    code, cell = line.item.code, line.cells[n]
                    whole = _expression(code, form, closes)
                    if show is Show.COMMON_SIZE:
                        of = TOTALS[line.item.statement] if line.item.unit == "money" else None
                        if of is None:
                            self.assertEqual(cell.reason is None, False)
                            continue
                        text = f"{whole} / {_expression(of, form, closes)}"
                    elif closes and form == "fy" and code in FLOWS:
                        self.assertIsNone(cell.value)
                        continue
                    else:
                        text = f"growth({code if code in BALANCES else whole}, 1y)"
                    who, at = np.array([company]), np.array([cutoff])
                    ends = np.full((1, 1), end, np.int32)
                    asked = Evaluation(view, who, at, ends=ends, currency=currency)
                    found, _ = asked.run(plan(text))
                    wanted = _cell(found.value[0, 0], found.reason[0, 0], 0)
                    got = cell.reason or (round(float(cell.value or 0.0), 9), 0)
                    self.assertEqual(got, wanted, (seed, company, text, column.nominal_end, on))


def _expression(code: str, form: str, transition: bool) -> str:
    if code in BALANCES:
        return f"{code}.fy" if form == "fy" and not transition else code
    return f"{code}.ytd" if transition and form == "fy" else f"{code}.{form}"


def _cell(value: float, reason: int, marks: int) -> Any:
    return Reason(int(reason)).code if reason else (round(float(value), 9), int(marks))


class Together(unittest.TestCase):
    @examples(15)
    @given(SEEDS, DAYS, st.sampled_from([None, "EUR"]), st.booleans())
    def test_sheets_formed_together_are_the_sheets_alone(
        self, seed: int, on: date, currency: str | None, first: bool
    ) -> None:
        cutoff, pairs = at_end_of(on), []
        for n in range(2):
            made = world(seed + n).ledger()
            view = made.view(preference=order_of_sources(seed))
            pairs += [(made, view, company) for company in (0, 1)]
        for made, _, _ in pairs:  # one ledger's rates and order of sources
            made.rates = pairs[0][0].rates
        alone = [sheet_of(made, view, company, currency) for made, view, company in pairs]
        many = [sheet_of(made, view, company, currency) for made, view, company in pairs]
        Sheet.form_together(many)
        for a, b in zip(alone, many, strict=True):
            for form in FREQUENCIES.values():
                ends = a.ends(form, cutoff)
                grids = [s.grid(form, ends, cutoff, first=first) for s in (a, b)]
                for name in (
                    "value",
                    "reason",
                    "marks",
                    "currency",
                    "known",
                    "formed",
                    "restated",
                    "restated_later",
                ):
                    np.testing.assert_array_equal(
                        *(getattr(g, name) for g in grids), err_msg=f"{seed} {form} {name}"
                    )


class DatedAttributes(unittest.TestCase):
    @examples(100)
    @given(
        st.lists(st.tuples(st.integers(0, 2), st.integers(0, 40), st.integers(0, 60)), max_size=25)
    )
    @example([(0, 5, 30), (0, 2, 31)])
    def test_the_version_in_force_is_that_of_a_plain_search_t9(
        self, rows: list[tuple[int, int, int]]
    ) -> None:
        first = day(date(2020, 1, 1))

        def at(n: int) -> int:
            return at_end_of(date(2020, 1, 1) + timedelta(n))

        versions = [
            Attribute(c, "name", str(n), first + since, at(public), 0)
            for n, (c, since, public) in enumerate(rows)
        ]
        read = Attributes(versions)
        cutoffs = np.array([at(n) for n in range(0, 70, 3)])
        values = read.read("name", np.arange(3), cutoffs)
        for company in range(3):
            for place, cutoff in enumerate(cutoffs.tolist()):
                known = [
                    (a.valid_from, a.at, n)
                    for n, a in enumerate(versions)
                    if a.company == company
                    and a.at <= cutoff
                    and a.valid_from * 86_400_000_000 <= cutoff
                ]
                expected = versions[max(known)[2]].value if known else None
                found = None if values.reason[company, place] else values.value[company, place]
                self.assertEqual((found, read.of(company, "name", cutoff)), (expected, expected))
