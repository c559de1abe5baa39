"""Another day in an expression is that day's own answer (M2, M4): random expressions on the date
axis, and what a panel says of the same companies on the other days themselves.
"""

import os
import re
from collections.abc import Iterator, Sequence
from datetime import date, timedelta
from functools import partial
from random import Random
from typing import Any

import numpy as np
import pandas as pd

from tests.service.questions import Followed

# Fractions, so that no split between two days matters, and amounts of a whole company.
FRACTIONS = (
    "price_return(30d)",
    "total_return(3mo)",
    "close / high_52w",
    "dividend_12mo / close",
    "close / diluted_eps.fy",
    "market_value / revenue",
    "enterprise_value / operating_income",
    "surprise(eps, relative)",
    "surprise(revenue, deviations)",
    "growth(revenue.q, 1y) * close / close",
    "shareholders_equity / market_value",
    "at_period_end(close) / diluted_eps.fy - price_return(1mo)",
    'price_return(2mo, over="index-of-aldmoor")',
)
AMOUNTS = (
    "market_value",
    "enterprise_value",
    "market_value - revenue",
    "2 * market_value",
    "max(market_value, enterprise_value)",
    "market_value * price_return(30d)",
    "where(close > ago(close, 1mo), market_value, enterprise_value)",
)
TESTS = ("close > low_52w * 1.2", 'currency == "EUR"', "market_value > 200mn USD", "active")
SHAPES = (
    "({a} {sign} {b})",
    "coalesce({a}, {b})",
    "where({test}, {a}, {b})",
    "log(abs({a}) + 1)",
    "max({a}, {b})",
)
WINDOWS = {
    "mean": np.mean,
    "median": np.median,
    "lowest": np.min,
    "highest": np.max,
    "stdev": partial(np.std, ddof=1),
}
PRICED = re.compile("close|52w|dividend|return|_value")  # sampled on days with a price
CLOSE = "lowest(close, 1d)"  # there on days with a price, as its listing of the day has it
Cells = dict[tuple[str, date], Any]


def fraction(random: Random, deep: int = 0) -> str:
    """A random expression that is a plain number."""
    if deep > 2 or random.random() < 0.5:
        return random.choice(FRACTIONS)
    a, b = (fraction(random, deep + 1) for _ in range(2))
    shape = random.choice(SHAPES)
    return shape.format(a=a, b=b, sign=random.choice("+-*"), test=random.choice(TESTS))


def before(on: date, count: int, unit: str) -> date:
    """A day so long before another; month ends go to month ends."""
    if unit == "d":
        return on - timedelta(count)
    then = pd.Timestamp(on) - pd.DateOffset(months=count * {"mo": 1, "y": 12}[unit])
    return (then + pd.offsets.MonthEnd(0) if pd.Timestamp(on).is_month_end else then).date()


def days_of(random: Random) -> date:
    on = date(2020, 6, 1) + timedelta(random.randint(0, 1600))
    return (pd.Timestamp(on) + pd.offsets.MonthEnd(0)).date() if random.random() < 0.3 else on


class Days(Followed):
    about: tuple[int, str]  # what is tried

    def cells(self, columns: dict[str, str], days: Sequence[date], **how: Any) -> dict[str, Cells]:
        """By name of a column what each company has on each day, values or reasons;
        by `currency` in which the first column is.
        """
        frame = self.ledger.panel(self.who, columns, [str(d) for d in days], **how).frame()
        keys = [(company, day.date()) for day, company in frame.index]
        found = {
            name: frame[name].astype(object).where(frame[name].notna(), frame[f"{name}.reason"])
            for name in columns
        }
        first = next(iter(columns))
        found["currency"] = frame.get(f"{first}.currency", frame[first] * np.nan)
        return {name: dict(zip(keys, cells, strict=True)) for name, cells in found.items()}

    def asked(self, count: int) -> Iterator[tuple[Random, str, str, bool]]:
        """Random expressions, and whether each is an amount."""
        worlds = int(os.environ.get("WORLDS", "1"))
        for seed in range(count * worlds):
            random = Random(seed if worlds == 1 else None)
            amount = random.random() < 0.35
            text = random.choice(AMOUNTS) if amount else fraction(random)
            self.about = (seed, text)
            yield random, text, random.choice(["EUR", "USD"]), amount

    def test_what_it_was_before_is_what_it_is_known_as_on_that_day(self) -> None:
        for random, text, currency, amount in self.asked(10):
            count, unit = random.choice([(7, "d"), (91, "d"), (1, "mo"), (13, "mo"), (2, "y")])
            on, span = days_of(random), f"{count}{unit}"
            then = before(on, count, unit)
            how = {"currency": currency, "at_close": random.random() < 0.2} if amount else {}
            columns = {
                "x": text,
                "ago": f"ago({text}, {span})",
                "change": f"change({text}, {span})",
                "less": f"({text}) - ago({text}, {span})",
            }
            now = self.cells(columns, [on], **how)
            own = self.cells({"x": text}, [then], **how)["x"]
            for company, _ in now["ago"]:
                if (company, then) in own:  # who was in the list
                    self.same(now["ago"][company, on], own[company, then], company, on, *self.about)
                self.same(
                    now["change"][company, on], now["less"][company, on], company, on, *self.about
                )

    def test_samples_are_the_answers_of_the_days_with_a_price(self) -> None:
        for random, text, _, amount in self.asked(6):
            count, unit = random.choice([(7, "d"), (30, "d"), (1, "mo"), (2, "mo")])
            name, on = random.choice([*WINDOWS]), days_of(random)
            if (amount and random.random() < 0.5) or self.about[0] == 0:  # in two currencies
                text, amount = random.choice(AMOUNTS), True
                on = date(2023, 3, random.randint(4, 30))
            first = before(on, count, unit) + timedelta(1)
            days = [first + timedelta(n) for n in range((on - first).days + 1)]
            sampled = self.cells({"x": f"{name}({text}, {count}{unit})"}, [on])
            every = self.cells({"x": text, "close": CLOSE}, days)
            into = {c for c in sampled["currency"].values() if amount and isinstance(c, str)}
            converted = {c: self.cells({"x": text}, days, currency=c)["x"] for c in into}
            weekdays = sum(d.weekday() < 5 for d in days)
            for (company, _), got in sampled["x"].items():
                dated = [(company, d) for d in days if (company, d) in every["x"]]
                if len(dated) < len(days):
                    continue  # a member for a part of the time
                own = [k for k in dated if not isinstance(every["close"][k], str)]
                if not PRICED.search(text):
                    own = [k for k in dated if k[1].weekday() < 5]
                there = [k for k in own if not isinstance(every["x"][k], str)]
                several = amount and len({every["currency"][k] for k in there}) > 1
                where = (name, company, on, count, unit, self.about)
                if several and isinstance(got, str):  # too few, or one of them without a rate
                    self.assertIn(got, ("incomplete", "no_rate"), where)
                    continue
                given = converted[sampled["currency"][company, on]] if several else every["x"]
                values = [given[k] for k in there]
                if not values:
                    self.assertIsInstance(got, str, where)
                elif 2 * len(values) < weekdays or (name == "stdev" and len(values) < 2):
                    self.assertEqual(got, "incomplete", where)
                else:
                    scale = max(abs(v) for v in values)
                    self.same(got, float(WINDOWS[name](values)), *where, *self.about, scale=scale)
