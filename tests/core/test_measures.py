"""Measures: those that ship, expansion, canonical form, words (2-measures)."""

import unittest
from collections.abc import Callable
from dataclasses import replace
from datetime import date
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from tests.core.small_ledger import SmallLedger, at_end_of
from tests.properties import examples
from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.catalogue.measures import (
    SHIPPED,
    SUBJECTS,
    Measure,
    read_measures,
    write_measures,
)
from wise_ledger.core.errors import BadInput
from wise_ledger.core.language.check import plan
from wise_ledger.core.language.evaluate import Evaluation
from wise_ledger.core.language.format import formatted
from wise_ledger.core.language.functions import FUNCTIONS
from wise_ledger.core.language.mistakes import ExpressionError
from wise_ledger.core.language.parse import parse
from wise_ledger.core.language.plan import Constant, Leaf, Step
from wise_ledger.core.language.tree import Node
from wise_ledger.core.language.units import Axis
from wise_ledger.core.language.vocabulary import FIELDS, STANDARD, vocabulary
from wise_ledger.core.language.words import meaning

SPANS = {"q": 3, "h": 6, "fy": 12, "ttm": 12}


def replaced(step: Step, known: dict[Step, float]) -> Step:
    """The plan with what lives on dates and is given as a number in its place."""
    if step in known:
        return Constant(step.unit.plain(), Axis.CONSTANT, step.place, known[step])
    changed: dict[str, Any] = {}
    for name in ("operand", "left", "right"):
        if isinstance(part := getattr(step, name, None), Step):
            changed[name] = replaced(part, known)
    if operands := getattr(step, "operands", ()):
        changed["operands"] = tuple(replaced(o, known) for o in operands)
    return replace(step, **changed) if changed else step


def reckoned(measure: Measure) -> float:
    """The measure of a company with just the figures of its example:
    of 2023 and years before, as known in 2024.
    """
    assert measure.example is not None
    facts, known = [], {}
    for text, value in measure.example.given.items():
        step = plan(text)
        if not isinstance(step, Leaf):
            known[step] = value
            continue
        end = date(2023 - step.months // 12, 12, 31)
        start = date(end.year, 13 - SPANS[step.form], 1) if step.form in SPANS else None
        unit = {"money": "EUR", "money_per_share": "EUR/shares"}.get(step.item.unit, step.item.unit)
        facts.append(
            {
                "item": step.item.code,
                "period_start": None if start is None else str(start),
                "period_end": str(end),
                "value": value,
                "unit": unit,
                "published_at": f"{end.year + 1}-03-01",
            }
        )
    cutoffs = np.array([at_end_of(date(2024, 3, 31))])
    step = replaced(plan(measure.formula), known)
    values, _ = Evaluation(SmallLedger(facts).view(), np.arange(1), cutoffs).run(step)
    assert values.there[0, 0], f"{measure.name}: reason {values.reason[0, 0]}"
    return float(values.value[0, 0])


class Shipped(unittest.TestCase):
    def test_each_gives_what_its_example_reckoned_by_hand_says(self) -> None:
        for measure in SHIPPED.values():
            with self.subTest(measure.name):
                self.assertAlmostEqual(reckoned(measure), measure.example.result, 9)  # type: ignore[union-attr]

    def test_there_are_many_of_each_subject_named_and_explained(self) -> None:
        self.assertGreaterEqual(len(SHIPPED), 80)
        self.assertEqual({m.subject for m in SHIPPED.values()}, set(SUBJECTS) - {"other"})
        for name, measure in SHIPPED.items():
            self.assertTrue(
                measure.title and measure.meaning.endswith(".") and measure.example, name
            )
            self.assertFalse(name in ITEMS or name in FIELDS or name in FUNCTIONS, name)
            self.assertEqual(plan(name), plan(measure.formula), name)
            explained = meaning(measure.formula)
            self.assertTrue(
                set(explained.templates) >= measure.templates, f"{name}: {explained.templates}"
            )
            self.assertTrue(explained.words and explained.missing, name)

    def test_a_file_of_definitions_reads_back_as_it_was_written(self) -> None:
        text = write_measures(SHIPPED.values())
        self.assertEqual({m.name: m for m in read_measures(text)}, dict(SHIPPED))
        self.assertEqual(write_measures(read_measures(text)), text)

    def test_a_wrong_file_is_refused_where_and_how(self) -> None:
        for text, at, word in (
            ("a: [", "line 2", "no YAML"),
            ("a: 1", "file", "no list"),
            ("- 3", "measure 1", "no measure"),
            ("- {name: x}", "measure 1 (x)", "no formula"),
            ("- {name: x, formula: 3}", "measure 1 (x)", "no text"),
            ("- {name: x, formula: '1', color: red}", "measure 1 (x)", "no such field"),
            ("- {name: x, formula: '1', templates: [fund]}", "measure 1 (x)", "no list of them"),
            ("- {name: x, formula: '1', subject: odd}", "measure 1 (x)", "no such subject"),
            ("- {name: x, formula: '1', example: 3}", "measure 1 (x)", "no example"),
        ):
            with self.assertRaises(BadInput, msg=text) as caught:
                read_measures(text)
            problem = caught.exception.problems[0]
            self.assertEqual(problem.at, at)
            self.assertIn(word, problem.problem)
            self.assertTrue(problem.mend)


def words(**formulas: str) -> Any:
    """A vocabulary with these measures beside those that ship."""
    own = {name: Measure(name, name, formula, owner="ada") for name, formula in formulas.items()}
    return vocabulary(ITEMS, measures={**SHIPPED, **own})


class Expanded(unittest.TestCase):
    def test_a_measure_is_what_it_stands_for(self) -> None:
        own = words(mine="net_income / revenue", twice="2 * mine")
        self.assertEqual(plan("twice > 5%", own), plan("2 * (net_income / revenue) > 5%"))
        self.assertEqual(
            plan("growth(operating_margin, 1y)"), plan("growth(operating_income / revenue, 1y)")
        )

    def test_a_selector_goes_to_every_flow_that_has_none_of_its_own(self) -> None:
        own = words(
            mine="net_income / revenue.fy + net_income / total_assets",
            outer="mine + revenue / revenue",
        )
        reported = "net_income.q / revenue.fy + net_income.q / total_assets"
        self.assertEqual(plan("mine.q", own), plan(reported))
        self.assertEqual(plan("outer.q", own), plan(f"{reported} + revenue.q / revenue.q"))

    def test_a_circle_is_refused_with_its_path(self) -> None:
        with self.assertRaises(ExpressionError) as caught:
            plan("1 + a", words(a="b / 2", b="1 + c", c="a"))
        self.assertIn("a → b → c → a", caught.exception.problems[0].problem)
        self.assertEqual(caught.exception.problems[0].value, "a")

    def test_a_mistake_inside_quotes_the_name_that_was_written(self) -> None:
        with self.assertRaises(ExpressionError) as caught:
            plan("revenue + mine", words(mine="shares_outstanding * 2"))
        self.assertIn("mine is shares", caught.exception.problems[0].problem)

    def test_an_item_goes_before_a_measure_and_words_of_estimates_are_none(self) -> None:
        own = words(revenue="net_income", fy1="net_income", eps="net_income")
        self.assertEqual(plan("revenue", own), plan("revenue"))
        self.assertEqual(plan("estimate(eps, fy1)", own), plan("estimate(eps, fy1)"))

    def test_limits_hold_of_what_is_expanded(self) -> None:
        own = words(
            **{f"m{n}": f"m{n - 1} + m{n - 1}" for n in range(1, 9)}, m0="revenue / revenue"
        )
        with self.assertRaisesRegex(ExpressionError, "parts"):
            plan("m8", own)
        deep = words(**{f"d{n}": f"-abs(d{n - 1})" for n in range(1, 40)}, d0="revenue / revenue")
        with self.assertRaisesRegex(ExpressionError, "deeper than 50"):
            plan("d39", deep)


_leaf = st.sampled_from(
    [
        "revenue",
        "net_income.q",
        "total_assets.fy",
        "5%",
        "1.50",
        "2mn",
        "active",
        "operating_margin",
        "2mn  EUR",
    ]
)
_number = st.recursive(
    _leaf,
    lambda x: st.one_of(
        st.tuples(x, st.sampled_from(["+", "-", "*", "/", "^", " - ", "  *  "]), x).map("".join),
        x.map(lambda a: f"({a})"),
        x.map(lambda a: f"-{a}"),
        x.map(lambda a: f"ago({a},1y)"),
        st.tuples(x, x).map(lambda a: f"coalesce({a[0]} , {a[1]})"),
        x.map(lambda a: f"rank({a},within=industry)"),
    ),
    max_leaves=8,
)
_test = st.recursive(
    st.one_of(
        st.tuples(_number, st.sampled_from(["<", ">=", "=="]), _number).map("".join),
        _number.map(lambda a: f"{a} not in (1, -2 , 3%)"), st.just('country in ("XA","X\\"B")'),
    ),
    lambda x: st.one_of(
        st.tuples(x, st.sampled_from([" and ", " or "]), x).map("".join), x.map(lambda a: f"({a})"),
        x.map(lambda a: f"not {a}"),
    ),
    max_leaves=4,
)  # fmt: skip


def shape(node: Node) -> Any:
    """A tree without places; what is between parentheses of one operator stays apart."""
    parts = {k: v for k, v in vars(node).items() if k != "place"}
    return type(node).__name__, {
        k: shape(v) if isinstance(v, Node) else [shape(x) for x in v] if isinstance(v, tuple) else v
        for k, v in parts.items()
    }


class Canonical(unittest.TestCase):
    @examples(300)
    @given(st.one_of(_number, _test))
    def test_the_canonical_form_means_the_same_and_is_its_own_form(self, text: str) -> None:
        found = formatted(text)
        self.assertEqual(shape(parse(found)), shape(parse(text)), found)
        self.assertEqual(formatted(found), found)

    def test_forms(self) -> None:
        long = " and ".join(f"operating_income / revenue > {n}%" for n in range(4))
        for text, form in (
            ("((a))+( b*c )", "a + b * c"),
            ("-2^2", "-2 ^ 2"),
            ("(-2)^2", "(-2) ^ 2"),
            ("2^3^2", "2 ^ 3 ^ 2"),
            ("(2^3)^2", "(2 ^ 3) ^ 2"),
            ("a-(b-c)", "a - (b - c)"),
            ("a/(b/c)", "a / (b / c)"),
            ("not(a>b)and c>d", "not a > b and c > d"),
            ("a > 1 # why\n and b > 2", "# why\na > 1 and b > 2"),
            (long, long.replace(" and ", "\nand ")),
            ("500mn   EUR", "500mn EUR"),
            ("5%", "5%"),
        ):
            self.assertEqual(formatted(text), form)


class Words(unittest.TestCase):
    def test_what_an_expression_means_is_shown(self) -> None:
        cases: tuple[tuple[str, Callable[[Any], Any], Any], ...] = (
            ("operating_margin.q > 5%", lambda m: m.words, "operating margin of the quarter is above 0.05"),
            ("(revenue - cost_of_revenue) / total_assets", lambda m: m.words,
             "(revenue of twelve months less cost of revenue of twelve months) over total assets"),
            ("rank(net_margin, within=industry)", lambda m: m.words, "the rank of net margin within its industry"),
            ("growth(revenue.q, 1y)", lambda m: m.words, "the growth of revenue of the quarter over a year"),
            ("return_on_invested_capital", lambda m: set(m.measures),
             {"return_on_invested_capital", "effective_tax_rate", "invested_capital"}),
            ("current_ratio", lambda m: m.templates, ("industrial",)),
            ("price_to_earnings", lambda m: (m.fields, m.items, m.unit), (("close",), ("diluted_eps",), "pure")),
        )  # fmt: skip
        for text, of, explained in cases:
            self.assertEqual(of(meaning(text, STANDARD)), explained, text)

    def test_what_is_missing_and_which_period_is_shown(self) -> None:
        explained = meaning("(total_debt - short_term_investments) / positive(ebitda)")
        self.assertIn(
            "0 where the sheet is there without the line: short_term_investments.",
            explained.missing,
        )
        self.assertIn("Not meaningful where a base is not above zero.", explained.missing)
        self.assertIn(
            "the newest at which total_debt and short_term_investments and ebitda are known",
            explained.periods[0],
        )
