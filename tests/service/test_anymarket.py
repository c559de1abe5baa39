"""Random markets at the service's doors: primaries that move, classes, receipts, prices with gaps
and late rows, dividends in other currencies, houses that change their minds. What is held of the
companies that are collected holds of these too.
"""

import os
from collections.abc import Iterator
from random import Random
from typing import Any

from tests.core.worlds import world
from tests.service import test_days, test_estimated, test_explained
from tests.service.anyfiles import brought, keys_of, market
from tests.service.questions import Followed

FISCAL = (
    "revenue.ttm",
    "diluted_eps.q",
    "growth(revenue.q, 1y)",
    "first_reported(revenue.fy)",
    "mean(revenue.q, 1y)",
    "goodwill / total_assets",
    "total_debt",
    "currency",
    "fiscal_year_end",
    "average_balance(total_assets)",
    "slope(revenue.q, 1y)",
    "venue",
)
ESTIMATED = (
    "estimate(eps, fy1)",
    "estimate(revenue, ntm)",
    "estimate(net_income, q1, stdev)",
    "surprise(eps)",
    "surprise(revenue, relative)",
    "high_52w",
    "dividend_12mo",
)


class Traded(Followed):
    @classmethod
    def bring(cls) -> None:
        random = Random(int(os.environ.get("SEED", "7")))
        worlds = [world(random.randrange(2**32)) for _ in range(4)]
        brought(cls.ledger, market(random, worlds))
        cls.who = [key for n in range(4) for key in keys_of(n)]


class Doors(Traded):
    """Whatever the axis: what one door says of a company on a day, the others say."""

    def asked(self) -> Iterator[tuple[Random, str, dict[str, Any]]]:
        random = Random(int(os.environ.get("SEED", "11")))
        for _ in range(int(os.environ.get("WORLDS", "3")) * 4):
            how = {"currency": random.choice(("EUR", "USD", "GBP"))}
            yield random, str(test_days.days_of(random)), how if random.random() < 0.3 else {}

    def panel(self, columns: dict[str, str], on: str, how: Any) -> dict[str, dict[str, Any]]:
        """By company the values of a day, or the reasons for which they are missing."""
        frame = self.ledger.panel(self.who, columns, on, **how).frame().droplevel(0)
        for name in columns:
            values = frame[name].astype(object)
            frame[name] = values.where(frame[name].notna(), frame[f"{name}.reason"])
        return {company: row.to_dict() for company, row in frame.iterrows()}

    def test_a_screen_a_panel_and_explain(self) -> None:
        for random, on, how in self.asked():
            kinds = [FISCAL, test_days.AMOUNTS, (test_days.fraction(random),), ESTIMATED]
            columns = {f"c{n}": random.choice(random.choice(kinds)) for n in range(4)}
            show = [f"{name}: {text}" for name, text in columns.items()]
            asked = {"companies": self.who, "show": show, "known_on": on, **how}
            screened = self.ledger.screen("1 == 1 or active", **asked).answer
            rows = self.panel(columns, on, how)
            for company in screened.companies:
                row, cells = rows[company.company], company.cells[-len(columns) :]
                named = [*zip(cells, columns.items(), strict=True)]
                for cell, (name, text) in named:
                    where = (company.name, text, on, how)
                    self.same(row[name], cell.reason or cell.value, *where)
                    if f"{name}.currency" in row and cell.value is not None:
                        self.same(row[f"{name}.currency"], cell.currency, *where)
                cell, (_, text) = random.choice(named)
                told = self.ledger.explain(company.company, text, on, **how).answer
                wanted = cell.reason or cell.value
                self.same(told.reason or told.value, wanted, company.name, text, on, how)

    def test_the_market_its_last_prices_and_the_language_m4_m5(self) -> None:
        columns = {name: name for name in ("close", "open", "volume", "market_value")}
        spans = {"week": "7d", "month": "1mo", "year": "1y"}
        columns |= {name: f"price_return({span})" for name, span in spans.items()}
        for random, on, how in self.asked():
            rows = self.panel(columns, on, how)
            for m in self.ledger.market(on, companies=self.who, **how).companies:
                row, where = rows[m.company], (m.name, on, how)
                self.same(row["close"], m.reason or m.close, *where)
                worth = m.market_value_reason or m.market_value
                self.same(row["market_value"], worth, *where)
                for name in spans:
                    wanted = None if isinstance(row[name], str) else row[name]
                    self.same(getattr(m, name), wanted, name, *where)
            company = random.choice([*rows])
            bars = self.ledger.prices([company], "2019-01-01", on, on, **how).frame()
            if len(bars) and not isinstance(rows[company]["close"], str):
                last, row = bars.iloc[-1], rows[company]
                for name in ("close", "open", "volume"):
                    wanted = None if isinstance(row[name], str) else row[name]
                    self.same(last[name], wanted, name, company, on, how)


class AnyDays(Traded, test_days.Days):
    """M2, M4."""


class AnyEstimates(Traded, test_estimated.Estimated):
    """E2 to E4, M2."""

    split = True


class AnyExplanation(Traded, test_explained.Explained):
    """F7, M2 to M5, E2 to E4, T4, T9."""
