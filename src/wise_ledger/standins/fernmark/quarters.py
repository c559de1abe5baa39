"""The quarters of made-up companies: figures by which everything else of them is made."""

import random
from calendar import monthrange
from dataclasses import dataclass, field, replace
from datetime import date, timedelta

from wise_ledger.standins import economy
from wise_ledger.standins.fernmark import statements, stories
from wise_ledger.standins.fernmark.cast import Cast

BASE_YEAR, HISTORY = 2021, 2012  # in which the small world begins, and the whole one
SCALE = {"USD": 3, "EUR": 3, "JPY": 6}  # powers of ten in which amounts are stated


@dataclass(frozen=True)
class Quarter:
    """A quarter of a made-up company, which of its fiscal year it is, and its days."""

    year: int
    number: int
    start: date
    end: date
    flows: dict[str, int]
    balances: dict[str, int]
    shares: int
    more_flows: dict[str, int] = field(default_factory=dict)
    more_balances: dict[str, int] = field(default_factory=dict)
    beside: dict[str, int] = field(default_factory=dict)
    transition: bool = False  # between two fiscal years (story 3)


def _month_end(year: int, month: int) -> date:
    year, month = year + (month - 1) // 12, (month - 1) % 12 + 1
    return date(year, month, monthrange(year, month)[1])


def _year_end(cast: Cast, year: int) -> date:
    end = _month_end(year, cast.year_end)
    if not cast.weeks:
        return end
    away = (end.weekday() - 5) % 7  # days since Saturday
    return end - timedelta(away) if away <= 3 else end + timedelta(7 - away)


def _span(cast: Cast, year: int, number: int) -> tuple[date, date]:
    """First and last day of a fiscal quarter."""
    if cast.weeks:
        begin = _year_end(cast, year - 1) + timedelta(1)
        end = _year_end(cast, year) if number == 4 else begin + timedelta(13 * 7 * number - 1)
        return begin + timedelta(13 * 7 * (number - 1)), end
    end = _month_end(year, cast.year_end - 12 + 3 * number)
    return _month_end(year, cast.year_end - 15 + 3 * number) + timedelta(1), end


def quarters_of(cast: Cast, seed: int, last: int) -> list[Quarter]:
    """The quarters of a company from its first year to a last one, the same for the same seed."""
    rng = random.Random(f"{seed}:{cast.key}")
    unit = 10 ** (6 - SCALE[cast.currency])
    season = [rng.uniform(0.9, 1.1) for _ in range(4)]
    season = [s * 4 / sum(season) for s in season]
    shares = round(
        cast.revenue * rng.uniform(40_000, 90_000) / (100 if cast.currency == "JPY" else 1), -3
    )
    equity = cast.revenue * unit * rng.uniform(0.5, 0.9)
    out = []
    for year in range(cast.first_year, last + 1):
        for number in (1, 2, 3, 4):
            start, end = _span(cast, year, number)
            age = year - cast.first_year + number / 4
            revenue = cast.revenue * unit / 4 * (1 + cast.growth) ** age * season[number - 1]
            revenue = round(revenue * rng.uniform(0.985, 1.015))
            margin = cast.margin + rng.uniform(-0.006, 0.006)
            if cast.crowd and cast.key not in stories.TELLING:
                revenue, margin = _in_its_economy(cast, end, revenue, margin)
            operating = round(revenue * margin)
            interest = round(revenue * 0.011)
            net = round((operating - interest) * 0.75)
            equity += round(net * 0.6)
            liabilities = round(
                revenue * 4 * rng.uniform(0.68, 0.72) * (9 if cast.template != "industrial" else 1)
            )
            assets = round(equity) + liabilities
            flows = {
                "revenue": revenue,
                "cost": round(revenue * (1 - margin - rng.uniform(0.14, 0.16))),
                "operating": operating,
                "net": net,
                "cash": round(net * rng.uniform(1.15, 1.45)),
                "capital": round(revenue * rng.uniform(0.03, 0.06)),
            }
            current = round(assets * rng.uniform(0.37, 0.41))
            balances = {
                "current": current,
                "assets": assets,
                "liabilities": liabilities,
                "equity": assets - liabilities,
            }
            out.append(Quarter(year, number, start, end, flows, balances, int(shares)))
    return out


def _in_its_economy(cast: Cast, end: date, revenue: int, margin: float) -> tuple[int, float]:
    """Revenue and margin moved by where the company's branch stands in its cycle;
    a bank's by the interest rate.
    """
    month = (end.year - economy.FIRST_YEAR) * 12 + end.month - 1
    branch = economy.branch_cycle(cast.country, cast.industry)[month - 2 : month + 1].mean()
    swing = max(-2.0, min(2.0, float(branch)))
    if cast.template == "bank":
        swing = max(-2.0, min(2.0, float(economy.policy_rate(cast.country)[month]) - 2.0))
    return round(revenue * (1 + 0.02 * swing)), margin * (1 + 0.12 * swing)


def past_of(cast: Cast, quarters: list[Quarter], seed: int) -> list[Quarter]:
    """The years before the small world: the same company, smaller,
    its equity growing to what it is in the first.
    """
    first, rng = quarters[0], random.Random(f"{seed}:{cast.key}:past")
    if cast.first_year != BASE_YEAR:
        return []
    out: list[Quarter] = []
    steps = (BASE_YEAR - HISTORY) * 4
    for step in range(steps):
        year, number = HISTORY + step // 4, step % 4 + 1
        like = quarters[number - 1]
        shrink = (1 + cast.growth) ** (year - BASE_YEAR) * rng.uniform(0.985, 1.015)
        flows = {name: round(amount * shrink) for name, amount in like.flows.items()}
        flows["operating"] = round(flows["revenue"] * (cast.margin + rng.uniform(-0.012, 0.012)))
        flows["net"] = round((flows["operating"] - round(flows["revenue"] * 0.011)) * 0.75)
        flows["cost"] = round(flows["revenue"] * 0.85) - flows["operating"]
        liabilities = round(like.balances["liabilities"] * shrink)
        equity = round(first.balances["equity"] * (0.55 + 0.43 * step / steps))
        assets = liabilities + equity
        balances = {"current": round(assets * rng.uniform(0.37, 0.41)), "assets": assets}
        balances |= {"liabilities": liabilities, "equity": equity}
        start, end = _span(cast, year, number)
        out.append(Quarter(year, number, start, end, flows, balances, first.shares))
    return out


def widened(cast: Cast, quarters: list[Quarter], seed: int) -> list[Quarter]:
    """The same quarters with whole statements."""
    out, cash = [], 0
    for index, q in enumerate(quarters):
        rng = random.Random(f"{seed}:{cast.key}:{q.year}:{q.number}")
        sheet = statements.balances(cast, q.balances, quarters[0].balances, rng)
        change = sheet["cash_in_hand"] - cash if index else round(sheet["cash_in_hand"] * 0.04)
        cash = sheet["cash_in_hand"]
        flows = statements.flows(cast, q.flows, change, rng)
        year = [x.flows for x in quarters[max(0, index - 3) : index + 1]]
        beside = statements.beside(cast, year, q.shares, rng) if q.number == 4 else {}
        out.append(replace(q, more_flows=flows, more_balances=sheet, beside=beside))
    return out
