"""What a report of a company says: its figures at the end of a quarter, and its head."""

import random
from collections.abc import Callable, Iterable, Iterator
from datetime import UTC, date, datetime, time, timedelta
from functools import partial
from typing import Any

from wise_ledger.standins.fernmark import statements, stories
from wise_ledger.standins.fernmark.cast import Cast
from wise_ledger.standins.fernmark.filing import Filing, as_written
from wise_ledger.standins.fernmark.quarters import SCALE, Quarter

_FLOWS = {  # tag: (figure, only for industrial companies)
    "sales": ("revenue", False),
    "cost_of_sales": ("cost", True),
    "operating_profit": ("operating", True),
    "profit_for_owners": ("net", False),
    "cash_from_operations": ("cash", False),
    "capital_spending": ("capital", False),
}
_CASH = {"cash_from_operations", "capital_spending"}  # reported cumulatively by every company
_BALANCES = {
    "assets_current": ("current", True),
    "assets_total": ("assets", False),
    "liabilities_total": ("liabilities", False),
    "equity_total": ("equity", False),
}


def reports_of(cast: Cast, quarters: list[Quarter], seed: int) -> Iterator[Filing]:
    """The reports of its quarters, as first published."""
    rng = random.Random(f"{seed}:{cast.key}:dates")
    for index, quarter in enumerate(quarters):
        days, hour = rng.randint(33, 48), rng.choice((6, 7, 16, 21))
        if cast.style == "half" and quarter.number in (1, 3):
            continue
        if f"{quarter.year}Q{quarter.number}" in cast.missed:
            continue
        annual = quarter.number == 4
        day = quarter.end + timedelta(days + (18 if annual else 0) + cast.lag)
        day = on_a_weekday(day)
        year = [
            stories.on_its_basis(cast.key, q)
            for q in quarters[index + 1 - quarter.number : index + 1]
        ]
        reported = [stories.in_dollars(cast, q) for q in year]
        as_of_then = reported[-1][0]
        figures = partial(figures_of, as_of_then, [q for _, q in reported])
        yield report(as_of_then, quarter, day, time(hour, rng.choice((0, 4, 30))), figures)


def figures_of(cast: Cast, so_far: list[Quarter]) -> Iterator[dict[str, Any]]:
    """What a company reports at the end of the last of its fiscal year's quarters so far."""
    last, number = so_far[-1], len(so_far)
    runs = {"discrete": (1,), "cumulative": (number,), "both": (1, number), "half": (number,)}[
        cast.style
    ]
    if number == 4:
        runs = (4,)
    for tag, (figure, industrial) in _FLOWS.items():
        if industrial and cast.template != "industrial":
            continue
        for length in dict.fromkeys((number,) if tag in _CASH else runs):
            amount = sum(q.flows[figure] for q in so_far[-length:])
            yield _flow(tag, so_far[-length].start, last.end, amount)
    for length in dict.fromkeys(runs):
        net = sum(q.flows["net"] for q in so_far[-length:]) * 10 ** SCALE[cast.currency]
        yield _flow(
            "earnings_per_share_diluted",
            so_far[-length].start,
            last.end,
            round(net / last.shares, 2),
            0,
        )
    for tag, (figure, industrial) in _BALANCES.items():
        if not industrial or cast.template == "industrial":
            yield {"tag": tag, "at": str(last.end), "amount": last.balances[figure]}
    yield {"tag": "shares_in_issue", "at": str(last.end), "amount": last.shares, "scale": 0}
    if last.more_balances:
        yield from _more(cast, so_far, runs)


def _more(cast: Cast, so_far: list[Quarter], runs: tuple[int, ...]) -> Iterator[dict[str, Any]]:
    """The rest of the statements: all of it once a year, the main lines at the other quarters."""
    last, annual = so_far[-1], len(so_far) == 4
    length = runs[0]
    for tag in {t: None for q in so_far[-length:] for t in q.more_flows}:
        if annual or tag in statements.INTERIM:
            amount = sum(q.more_flows.get(tag, 0) for q in so_far[-length:])
            yield _flow(tag, so_far[-length].start, last.end, amount)
    yield _flow("average_shares", so_far[-length].start, last.end, last.shares, 0)
    for tag, amount in last.more_balances.items():
        if annual or tag in statements.INTERIM:
            yield {"tag": tag, "at": str(last.end), "amount": amount}
    for tag, amount in last.beside.items():
        scale = {} if tag == "orders_in_hand" else {"scale": 0}
        yield {"tag": tag, "at": str(last.end), "amount": amount, **scale}


def _flow(
    tag: str, start: date, end: date, amount: float, scale: int | None = None
) -> dict[str, Any]:
    figure = {"tag": tag, "from": str(start), "to": str(end), "amount": amount}
    return figure if scale is None else {**figure, "scale": scale}


def on_a_weekday(day: date) -> date:
    """A day, or the Monday after it."""
    return day + timedelta({5: 2, 6: 1}.get(day.weekday(), 0))


def part_of(quarter: Quarter) -> str:
    """How the filing of a quarter is named within its year."""
    if quarter.transition:
        return f"TP{quarter.number}"
    return "FY" if quarter.number == 4 else f"Q{quarter.number}"


_WORDS = {1: "first quarter", 2: "half year", 3: "nine months"}


def report(
    cast: Cast,
    quarter: Quarter,
    day: date,
    hour: time,
    figures: Callable[[], Iterable[dict[str, Any]]],
    **other: Any,
) -> Filing:
    """A filing on a quarter, published on a day at an hour; `other` says what its head has else."""
    year, annual = quarter.year, quarter.number == 4
    part = part_of(quarter)
    words = (
        {1: "first quarter", 2: "second quarter", 3: "third quarter"}
        if cast.style == "discrete"
        else _WORDS
    )
    title = f"Annual report {year}" if annual else f"Results, {words[quarter.number]} {year}"
    kind = "annual_report" if annual else "interim_results"
    period: str | None = f"FY{year}" if annual else f"FY{year}Q{quarter.number}"
    if quarter.transition:
        period = f"TP{year}" if quarter.number == 2 else None
        title = f"{'Transition report' if period else 'Results, first quarter of the transition'} {year}"
    head: dict[str, Any] = {
        "filing": f"{cast.key}-{year}-{part}",
        "company": cast.key,
        "title": title,
        "kind": kind,
        "fiscal_period": period,
        "currency": cast.currency,
        "scale": SCALE[cast.currency],
    }
    if cast.publishes == "instant":
        head["published_at"] = datetime.combine(day, hour, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
    elif cast.publishes == "date":
        head["published_on"] = str(day)
    head |= other
    published = head.get("published_at") or head.get("published_on") or ""
    known = datetime.combine(day + timedelta(1) if cast.publishes == "date" else day, hour, UTC)
    return Filing(
        head["filing"],
        head["title"],
        head["kind"],
        published,
        lambda: as_written(head, list(figures())),
        known,
    )
