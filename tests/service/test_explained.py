"""What `explain` shows is what a figure was reckoned of: from its parts it is the same again (F7,
M2 to M5, E2 to E4), what it shows of another day is what was to see on that day (T9), and each
of its versions is what was to see when it became known (T4).
"""

import math
import os
import statistics
from collections.abc import Sequence
from datetime import date
from random import Random
from statistics import mean, median
from typing import Any

from tests.service.questions import Followed
from tests.service.test_days import before, days_of, fraction
from wise_ledger.wire.figures import Conversion, Explanation, InputOnDate, Node

STATISTICS = {"mean": mean, "median": median, "high": max, "low": min, "count": len}
DATED = (
    "market_value",
    "dividend_12mo",
    "high_52w",
    "low_52w",
    "price_return(30d)",
    "total_return(1y)",
    'total_return(6mo, over="index-of-aldmoor")',
    "estimate(eps, fy1)",
    "estimate(eps, q1, median)",
    "estimate(net_income, fy2, high)",
    "estimate(revenue, fy1, low)",
    "estimate(revenue, fy2, count)",
    "estimate(eps, ntm)",
    "mean(close, 2mo)",
    "median(close, 30d)",
    "lowest(close, 1y)",
    "highest(market_value, 30d)",
    "stdev(estimate(revenue, fy1), 20d)",
    "surprise(eps)",
    "surprise(eps, relative)",
    "surprise(revenue, deviations)",
)
FISCAL = (
    "revenue.ttm",
    "revenue.q",
    "operating_income.fy",
    "net_income.h",
    "total_assets",
    "diluted_eps.fy",
    "diluted_eps.q",
    "shares_outstanding",
)
ANY_MONEY = ("market_value", "revenue.ttm", "total_assets", "estimate(revenue, fy1)")


ENDS = {"lowest": min, "highest": max}
SAMPLED = ENDS | {"mean": statistics.fmean, "median": statistics.median, "stdev": statistics.stdev}


class Rates:
    """The rates that an answer shows: by currencies and day, or the period's end."""

    def __init__(self, conversions: Sequence[Conversion]) -> None:
        self.of = {(c.source, c.target, c.end): c.rate for c in conversions}

    def into(self, target: str | None, source: str | None, on: date | None) -> float:
        """For one of `source`, of a day."""
        if source == target or None in (source, target):
            return 1.0
        return self.of[source, target, on] or math.nan


def reckoned(d: InputOnDate, rates: Rates, cutoff: date) -> float | None:
    """A value out of its parts; None where they do not make it up alone."""
    word, parts = d.expression.split("(")[0], d.parts
    if word in ("market_value", "class") and parts[0].expression == "class":
        return sum(p.value or 0 for p in parts)
    if word in ("market_value", "class"):
        close, shares = parts
        return close.value * shares.value * rates.into(d.currency, close.currency, cutoff)
    if word == "dividend_12mo":
        return sum(p.value * rates.into(d.currency, p.currency, p.day) for p in parts)
    if word in ("price_return", "total_return"):
        ends = [p.value for p in parts if p.expression == "close"]
        level = [p.value for p in parts if p.expression.startswith("level")]
        final = [p.value for p in parts if p.expression == "final return"]
        if any("dividend" in p.expression for p in parts):
            return None
        index = level[1] / level[0] - 1 if level else 0.0
        return ends[1] / ends[0] * (1 + (final[0] if final else 0.0)) - 1 - index
    if word in SAMPLED and (word in ENDS or "shown are" not in d.about):
        return SAMPLED[word]([p.value for p in parts])
    if word == "estimate" and not d.expression.endswith("ntm)"):
        statistic = d.expression[:-1].split(", ")[2:] or ["mean"]
        into = next((p.currency for p in parts), None) if statistic == ["count"] else d.currency
        given = [p.value * rates.into(into, p.currency, p.known_at.date()) for p in parts]
        return STATISTICS[statistic[0]](given)
    if word == "surprise":
        actual, expected, *spread = (p.value for p in parts)
        if "deviations" in d.expression:
            return (actual - expected) / spread[0]
        return (actual - expected) / (abs(expected) if "relative" in d.expression else 1)
    return None


class Explained(Followed):
    def explain(self, company: str, text: str, on: Any, **how: Any) -> Explanation:
        return self.ledger.explain(company, text, str(on), **how).answer

    def asked(self) -> Any:
        """Random companies and days."""
        random = Random(int(os.environ.get("SEED", "20261128")))
        for _ in range(int(os.environ.get("WORLDS", "4")) * 6):
            yield random, random.choice(self.who), days_of(random)

    def test_what_lives_on_dates_is_made_of_its_parts(self) -> None:
        for random, company, on in self.asked():
            text = random.choice(DATED)
            found = self.explain(company, text, on)
            (d,), rates = found.dated, Rates(found.conversions)
            self.assertEqual((d.expression, d.value), (text, found.value))
            if d.value is None:
                lacks = [part.reason for part in d.parts if part.value is None]
                of_market = text == "market_value" or "return" in text
                self.assertTrue(
                    lacks or not of_market or d.reason in ("no_rate", "stale", "inactive"),
                    (text, company, on),
                )
                continue
            shows = d.parts or d.day or "days from" in d.about or text == "dividend_12mo"
            self.assertTrue(shows, (text, company, on))
            self.seen_by(d, on)
            if (again := reckoned(d, rates, on)) is not None:
                self.same(d.value, again, text, company, on)

    def seen_by(self, d: InputOnDate, on: date) -> None:
        """Nothing of it was known, or is of a day, later than the cut-off (T9)."""
        for part in d.parts:
            self.seen_by(part, on)
            self.assertLessEqual(part.day or on, on, part)
            self.assertLessEqual(part.known_at.date() if part.known_at else on, on, part)

    def test_what_was_read_on_another_day_is_what_that_day_shows(self) -> None:
        for random, company, on in self.asked():
            text, (count, unit) = fraction(random), random.choice([(30, "d"), (6, "mo"), (1, "y")])
            (now,) = self.explain(company, f"ago({text}, {count}{unit})", on).dated
            then = self.explain(company, text, before(on, count, unit))
            inputs = [(i.expression, i.value, i.currency) for i in then.inputs]
            dated = [(d.expression, d.value, d.currency, d.about) for d in then.dated]
            shown = [(p.expression, p.value, p.currency, p.about) for p in now.parts]
            where = (text, company, on, count, unit)
            self.assertEqual([s[:3] for s in shown[: len(inputs)]], inputs, where)
            self.assertEqual(shown[len(inputs) :], dated, where)
            self.assertIn(f"as known on {before(on, count, unit)}", now.about)

    def test_a_quotient_is_that_of_what_it_shows(self) -> None:
        for random, company, on in self.asked():
            a, b = random.sample(ANY_MONEY, 2)
            how = {"currency": random.choice(["EUR", "USD"])} if random.random() < 0.3 else {}
            found = self.explain(company, f"{a} / {b}", on, **how)
            if found.value is None:
                continue
            values = {d.expression: (d.value, d.currency) for d in found.dated}
            values |= {i.expression: (i.value, i.currency) for i in found.inputs}
            met = {
                c.expression: c
                for c in found.conversions
                if c.expression in (a, b) and c.source == values[c.expression][1]
            }
            sides = [values[x][0] * (met[x].rate if x in met else 1) for x in (a, b)]
            ends = {met[x].target if x in met else values[x][1] for x in (a, b)}
            self.assertEqual(len(ends), 1, (a, b, company, on))
            self.same(found.value, sides[0] / sides[1], a, b, company, on)

    def test_a_figure_is_the_sum_of_what_hangs_below_it(self) -> None:
        for random, company, on in self.asked():
            text = random.choice(FISCAL)
            found = self.explain(company, text, on)
            for given in found.inputs:
                self.same(given.value, given.tree and given.tree.value, text, company, on)
                if given.tree and given.unit == "money":
                    self.added_up(given.tree, (text, company, on))

    def added_up(self, node: Node, where: Any) -> None:
        for part in node.parts:
            self.added_up(part, where)
            if part.value is None or part.currency != node.currency:
                return
        if node.parts and node.value is not None:
            self.same(node.value, sum(p.sign * p.value for p in node.parts), node.form, *where)

    def test_each_version_is_what_was_to_see_when_it_became_known(self) -> None:
        for random, company, on in self.asked():
            text = random.choice([*FISCAL, "operating_income / revenue", "growth(revenue.q, 1y)"])
            found = self.explain(company, text, on, hindsight=True)
            for version in found.versions if found.period_end else ():
                instant = version.known_from.isoformat()
                then = self.ledger.explain(
                    company, text, instant, period_end=str(found.period_end)
                ).answer
                self.same(then.value, version.value, text, company, on, instant)
                self.assertEqual(then.reason, version.reason, (text, company, on, instant))
            standing = [v for v in found.versions if v.standing]
            if found.period_end and found.reason not in ("stale",):
                self.same(found.value, standing[0].value if standing else None, text, company, on)

    def test_a_cell_of_a_statement_is_explained_at_its_own_end(self) -> None:
        """Amounts, growth and shares of revenue alike, the end as it was reported (F2)."""
        shapes = {
            "amounts": "{0}.fy",
            "growth": "growth({0}.fy, 1y)",
            "common_size": "{0}.fy / revenue.fy",
        }
        for random, company, on in self.asked():
            show, text = random.choice([*shapes.items()])
            how = {"currency": random.choice(["EUR", "USD"])} if random.random() < 0.3 else {}
            found = self.ledger.statements([company], known_on=str(on), show=show, **how)
            rows = [*found.frame().itertuples()]
            for row in random.sample(rows, min(3, len(rows))):
                expression, where = text.format(row.item), (company, on, show, how)
                end = str(row.period_end)[:10]
                told = self.explain(company, expression, on, period_end=end, **how)
                self.same(row.value, told.value, *where, expression, end)
                self.assertEqual(row.unit, told.unit, where)
                self.same(row.currency, told.currency, *where)

    def test_a_row_without_a_close_is_told_as_what_is_missing(self) -> None:
        self.ledger.load(
            "prices", b"listing,date,open,close\nAGK@ZALD,2024-11-06,20.5,\n", name="odd.csv"
        )
        self.ledger.prefer_sources(["files", "fernmark"], "Ada", why="for one day")
        for text in ("market_value", "price_return(7d)", "close / ago(close, 1d)"):
            found = self.explain("AGK@ZALD", text, "2024-11-06")
            self.assertEqual((found.value, found.reason), (None, "not_reported"), text)
            lacks = [p.reason for d in found.dated for p, _ in d.each("") if p.value is None]
            self.assertIn("not_reported", lacks, text)
