"""The measure language: what is refused and how it is shown, units, limits (2-measures)."""

import time
import unittest
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from tests.properties import examples
from wise_ledger.core.catalogue.items import ITEMS
from wise_ledger.core.errors import BadInput
from wise_ledger.core.language.check import plan, plan_rule
from wise_ledger.core.language.functions import FUNCTIONS
from wise_ledger.core.language.mistakes import ExpressionError
from wise_ledger.core.language.parse import parse
from wise_ledger.core.language.units import Axis
from wise_ledger.core.language.vocabulary import vocabulary

# expression: (line and column, quote, a word of the problem, a word of the mend)
REFUSED = {
    "revnue > 3": ("line 1, column 1", "revnue", "no item", "revenue"),
    "turnover > 3": ("line 1, column 1", "turnover", "no item", "did you mean revenue?"),
    'sector == "23"': (
        "line 1, column 1",
        "sector",
        "no item, attribute or measure",
        "did you mean industry?",
    ),
    "qwzx > 3": ("line 1, column 1", "qwzx", "no item", "in the catalogue"),
    "operating_income > 5": ("line 1, column 20", "5", "operating_income is money", "5mn EUR"),
    "operating_income > 500mn": ("line 1, column 20", "500mn", "is money", "500mn EUR"),
    "diluted_eps > 2": ("line 1, column 15", "2", "money_per_share", "2 EUR"),
    "revenue > 5%": ("line 1, column 11", "5%", "is money", "EUR"),
    "revenue + shares_outstanding": (
        "line 1, column 1",
        "revenue + shares_outstanding",
        "shares",
        "one unit",
    ),
    "total_assets.q": ("line 1, column 1", "total_assets.q", "balance", "total_assets.fy"),
    'country.fy == "XA"': ("line 1, column 1", "country.fy", "no .fy", "country"),
    'country > "XA"': ("line 1, column 1", 'country > "XA"', "no order", "=="),
    "country + 1": ("line 1, column 1", "country", "text", "number"),
    'country in ("XA", 3)': ("line 1, column 19", "3", "text", 'quotes: "3"'),
    "fiscal_year_end == 6": ("line 1, column 20", "6", "is text", 'quotes: "6"'),
    'revenue == "much"': ("line 1, column 1", "revenue", "is money", "texts with texts"),
    "revenue and active": ("line 1, column 1", "revenue", "money", "compare"),
    "mediann(revenue)": ("line 1, column 1", "mediann(revenue)", "no function", "mean"),
    "growth(revenue)": ("line 1, column 1", "growth(revenue)", "a span is needed", "1y"),
    "ago(revenue, 30d)": ("line 1, column 14", "30d", "days", "1q"),
    "growth(revenue, 5mo) > 0": ("line 1, column 17", "5mo", "whole number of quarters", "6mo"),
    "revenue > 500mn XYZ": ("line 1, column 11", "500mn XYZ", "XYZ is no currency", "ISO 4217"),
    "revenue > 500mn EUO": ("line 1, column 11", "500mn EUO", "EUO is no currency", "EUR"),
    "percentile(revenue) >= 90": ("line 1, column 24", "90", "fraction", "write 90%"),
    "5 < percentile(revenue)": ("line 1, column 1", "5", "fraction", "write 5%"),
    "revenue / employees > 30": ("line 1, column 23", "30", "money_per_count", "30 EUR"),
    "shares_outstanding > 3 EUR": (
        "line 1, column 1",
        "shares_outstanding > 3 EUR",
        "is money",
        "one unit",
    ),
    "ago(country, 1y)": ("line 1, column 5", "country", "text, not a number", "number"),
    "ago(3, 1y)": ("line 1, column 5", "3", "shifted", "item"),
    "abs(revenue, 2)": ("line 1, column 1", "abs(revenue, 2)", "1 argument", "abs(x)"),
    "rank(revenue, within=3)": ("line 1, column 22", "3", "attribute", "within=industry"),
    "abs(revenue, within=industry)": ("line 1, column 14", "within=industry", "takes no", "abs(x)"),
    "bucket(revenue, 0)": ("line 1, column 17", "0", "plain number", "whole"),
    "winsor(revenue, 60%)": ("line 1, column 17", "60%", "plain number", "1%"),
    "sqrt(revenue)": ("line 1, column 1", "sqrt(revenue)", "root of money", "divide"),
    "revenue ^ 0.5": ("line 1, column 11", "0.5", "whole number", "2"),
    "2 ^ revenue": ("line 1, column 5", "revenue", "exponent is money", "plain number"),
    "revenue * net_income": ("line 1, column 1", "revenue * net_income", "money^2", "divide"),
    "net_income\n  / revenue >\n 15% EUR": (
        "line 3, column 2",
        "15% EUR",
        "no amount of money",
        "percent",
    ),
    "rank": ("line 1, column 1", "rank", "a function", "rank(x)"),
    "net_income = 3": ("line 1, column 12", "=", "compares nothing", "=="),
    "net_income > 1 15": ("line 1, column 16", "15", "not expected", "take"),
    "1y": ("line 1, column 1", "1y", "only inside a function", "ago(x, 1y)"),
    "net_income $ 3": ("line 1, column 12", "$", "ends with its currency", "500mn EUR"),
}


# What people write out of habit: the expression, what is quoted of it, a word of the mend.
HABITS = {
    "active && revenue > 1 EUR": ("&&", "write and"),
    "active || revenue > 1 EUR": ("||", "write or"),
    "active AND revenue > 1 EUR": ("AND", "write and"),
    "NOT active": ("NOT", "write not"),
    "!active": ("!", "write not"),
    "revenue = 1 EUR": ("=", "write =="),
    "revenue <> 1 EUR": ("<>", "write !="),
    "revenue => 1 EUR": ("=>", "write >="),
    "country == 'XB'": ("'XB'", 'write "…"'),
    "country == “XB”": ("“XB”", 'write "…"'),
    "country == ‘XB’": ("‘XB’", 'write "…"'),
    'country in "XB"': ('"XB"', 'write in ("XB")'),
    'country IN ("XB")': ("IN", "write in"),
    'country like "X%"': ("like", 'in ("…"'),
    "revenue − net_income": ("−", "plain -"),
    "revenue ≥ 5 EUR": ("≥", "write >="),
    "revenue × 2": ("×", "write *"),
    "revenue ** 2 / revenue": ("**", "write ^"),
    "net_income / revenue > 5 %": ("5 %", "write 5%"),
    "net_income / revenue > 5 percent": ("percent", "5%"),
    "revenue > 500 mn EUR": ("500 mn", "write 500mn"),
    "revenue > 500mn eur": ("500mn eur", "write 500mn EUR"),
    "revenue > 500 million EUR": ("500 million", "write 500mn"),
    "employees > 1,000": ("1,000", "without the comma"),
    "revenue > $5": ("$", "500mn EUR"),
    "active == true": ("true", "write active"),
    "revenue is null": ("is null", "missing(x)"),
    "revenue is not null": ("is not null", "not missing(x)"),
    "revenue between 1 EUR and 2 EUR": ("between", "x >= low and x <= high"),
    "rank(revenue, by=industry)": ("by=industry", "within=industry"),
    "ago(revenue, -1y)": ("-", "ago(x, 1y)"),
    "ago(revenue, 1y, 2)": ("2", "write ago(x, span)"),
    "avg(revenue, 1y)": ("avg(revenue, 1y)", "write mean(x, span)"),
    "if(active, 1, 2)": ("if(active, 1, 2)", "write where(test, a, b)"),
    "pow(revenue, 2)": ("pow(revenue, 2)", "operator ^"),
    "revenue[1]": ("[1]", "ago(x, 1y)"),
    "revenue.TTM": (".TTM", "revenue.ttm"),
    "ebit > 1 EUR": ("ebit", "operating_income"),
    "sales > 1 EUR": ("sales", "revenue"),
    "active ? 1 : 2": ("?", "where(test, a, b)"),
    "revenue > 1 EUR;": (";", "take it out"),
}


# More of what is written wrong: the expression, what is quoted of it, what to write.
WRONG = (Path(__file__).parent / "wrong_expressions.tsv").read_text("utf-8").splitlines()[1:]


class Refused(unittest.TestCase):
    def test_each_of_some_hundred_wrong_expressions_is_quoted_with_its_mend(self) -> None:
        self.assertGreater(len(WRONG) + len(REFUSED) + len(HABITS), 300)
        for line in WRONG:
            text, quote, mend = line.split("\t")
            with self.subTest(text):
                with self.assertRaises(ExpressionError) as caught:
                    plan(text)
                problem = caught.exception.problems[0]
                self.assertEqual((problem.value, problem.mend), (quote, mend))
                self.assertRegex(problem.at, r"^line \d+, column \d+$")

    def test_habits_are_known_with_what_to_write_here(self) -> None:
        for text, (quote, mend) in HABITS.items():
            with self.subTest(text):
                with self.assertRaises(ExpressionError) as caught:
                    plan(text)
                problem = caught.exception.problems[0]
                self.assertEqual((problem.value, problem.line), (quote, text), problem)
                self.assertIn(mend, problem.mend)

    def test_every_mistake_is_refused_with_place_quote_and_mend(self) -> None:
        for text, (at, quote, problem, mend) in REFUSED.items():
            with self.subTest(text):
                with self.assertRaises(ExpressionError) as caught:
                    plan(text)
                wrong = caught.exception.problems[0]
                self.assertEqual((wrong.at, wrong.value), (at, quote))
                self.assertIn(problem, wrong.problem)
                self.assertIn(mend, wrong.mend)

    def test_limits_of_length_depth_and_parts(self) -> None:
        for text in (
            "1" + " + 1" * 1500,
            "(" * 51 + "1" + ")" * 51,
            "1" + " + 1" * 120,
            "-" * 300 + "1",
            "2" + "^2" * 1900,
        ):
            with self.assertRaises(ExpressionError):
                plan(text)
        plan("(" * 50 + "1" + ")" * 50)

    def test_a_rule_must_say_yes_or_no(self) -> None:
        with self.assertRaises(ExpressionError) as caught:
            plan_rule("net_income / revenue")
        self.assertIn("net_income / revenue > 0", caught.exception.problems[0].mend)

    @given(st.text(alphabet='abrevnu_ ().,<>=!+-*/^0159%"qfy\n#EURmo', max_size=40))
    def test_any_text_parses_or_is_refused_with_why(self, text: str) -> None:
        try:
            plan(text)
        except ExpressionError as error:
            problem = error.problems[0]
            self.assertRegex(problem.at, r"^line \d+, column \d+$")
            self.assertTrue(problem.problem and problem.value)


class Bounded(unittest.TestCase):
    """However functions stand within one another, an expression is typed in moments or refused."""

    @examples(120)
    @given(
        st.lists(
            st.tuples(
                st.sampled_from(sorted(FUNCTIONS)),
                st.sampled_from(["", "1y", "5y", "10y", "30d", "2"]),
            ),
            min_size=1,
            max_size=49,
        ),
        st.integers(1, 5),
        st.sampled_from(
            ("revenue", "revenue.q", "total_assets", "close", "active", "estimate(eps, fy1)")
        ),
    )
    def test_in_moments(self, names: list[tuple[str, str]], kinds: int, leaf: str) -> None:
        text = leaf  # of few kinds, so that they go deep before one does not fit
        for name, span in (names[:kinds] * 49)[:49]:
            text = f"{name}({text}{f', {span}' if span else ''})"
            began = time.process_time()
            try:
                plan(text)
            except ExpressionError as error:
                self.assertTrue(error.problems[0].mend)
                break
            finally:
                self.assertLess(time.process_time() - began, 5.0, text[:200])


class Typed(unittest.TestCase):
    def test_units_combine(self) -> None:
        units = {
            "net_income / shares_outstanding": "money_per_share",
            "diluted_eps * shares_outstanding": "money",
            "net_income / revenue": "pure",
            "shares_outstanding / 2": "shares",
            "max(net_income, 0)": "money",
            "where(active, revenue, 0)": "money",
            "growth(revenue.q, 1y)": "pure",
            "log(revenue / ago(revenue, 1y))": "pure",
            "rank(revenue)": "count",
            "winsor(diluted_eps, 1%)": "money_per_share",
            "country": "text",
            'country == "XA" or not active': "truth",
            "500mn EUR - revenue": "money",
            "diluted_eps.fy - 0.8 EUR": "money_per_share",
            "diluted_eps.fy > 0.80 EUR": "truth",
            "revenue / employees": "money_per_count",
            "revenue / employees > 30k EUR and percentile(revenue) >= 90%": "truth",
            "max(3 EUR, revenue / employees)": "money_per_count",
        }
        for text, unit in units.items():
            self.assertEqual(plan(text).unit.plain().name, unit, text)

    def test_axes(self) -> None:
        axes = {
            "3 * 2": Axis.CONSTANT,
            "revenue.q": Axis.FISCAL,
            'revenue > 1 EUR and country == "XA"': Axis.DATE,
            "rank(revenue) <= 10": Axis.CROSS,
        }
        for text, axis in axes.items():
            self.assertEqual(plan(text).axis, axis, text)

    def test_comments_blanks_and_lines_change_nothing(self) -> None:
        plain = plan("net_income / revenue > 5% and active")
        spread = plan("net_income  # profit\n  / revenue\n > 5%\nand\tactive # still trading")
        self.assertEqual(plain, spread)

    def test_keywords_are_whole_words(self) -> None:
        self.assertEqual(type(parse("notes")).__name__, "Name")
        self.assertEqual(type(parse("orders_in_hand")).__name__, "Name")
        self.assertEqual(type(parse("not active")).__name__, "Not")


class Codes(unittest.TestCase):
    def test_a_value_beside_an_attribute_is_a_code_or_the_name_shown_for_it(self) -> None:
        for text, code in (
            ('industry == "23"', "23"),
            ('industry == "Glass and ceramics"', "23"),
            ('"glass and ceramics" != industry', "23"),
            ('fiscal_year_end == "06"', "6"),
            ('industry in ("Food", "11")', "10"),
            ('template == "bank"', "bank"),
            ('country == "XB"', "XB"),
        ):
            step = plan(text)
            found = [
                getattr(s, "value", None)
                for s in (getattr(step, "left", None), getattr(step, "right", None))
            ]
            found += [m.value for m in getattr(step, "members", ())]  # type: ignore[attr-defined]
            self.assertIn(code, found, text)
        known = {"venue": {"ZALD": "Aldmoor Exchange", "ZBRE": "ZBRE"}, "country": {"XA": "XA"}}
        words = vocabulary(ITEMS, lambda attribute: known.get(attribute, {}))
        self.assertEqual(plan('venue == "aldmoor exchange"', words).right.value, "ZALD")  # type: ignore[attr-defined]
        for text, mend in (
            ('venue == "QQQQ"', "ZALD Aldmoor Exchange, ZBRE"),
            ('country != "ZZ"', "write XA"),
            ('currency == "EUO"', "ISO 4217, such as EUR"),
        ):
            with self.assertRaises(BadInput, msg=text) as caught:
                plan(text, words)
            self.assertIn(mend, caught.exception.problems[0].mend, text)
        for text, mend in (
            ('industry == "Glass"', "23 Glass and ceramics"),
            ('template == "fund"', "bank, industrial, insurer"),
            ('industry in ("Food", "Glas")', ""),
            ('fiscal_year_end == "13"', "write 1, 2"),
            ("ago(revenue, 2020y) > 0", "shorter"),
        ):
            with self.assertRaises(BadInput, msg=text) as caught:
                plan(text)
            self.assertIn(mend, caught.exception.problems[0].mend, text)
