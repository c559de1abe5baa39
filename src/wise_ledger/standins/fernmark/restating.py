"""What companies correct of their reports: restated years, a withdrawal."""

import random
from collections.abc import Iterator
from dataclasses import replace
from datetime import date, time, timedelta
from typing import Any

from wise_ledger.standins.fernmark import stories
from wise_ledger.standins.fernmark.cast import Cast
from wise_ledger.standins.fernmark.filing import Filing
from wise_ledger.standins.fernmark.quarters import Quarter, widened
from wise_ledger.standins.fernmark.reports import figures_of, on_a_weekday, report, reports_of

_COSTS = frozenset({
    "cost_of_sales", "operating_profit", "profit_for_owners", "earnings_per_share_diluted",
    "gross_result", "result_before_tax", "tax_charge",
})  # fmt: skip
_SALES = frozenset({"sales", "cost_of_sales"})
_TAX = frozenset({"profit_for_owners", "earnings_per_share_diluted", "tax_charge"})
_OFTEN = 0.07  # of the years of a company of the crowd


def with_restatement(cast: Cast, quarters: list[Quarter], seed: int) -> list[Filing]:
    """Story 1: on 15 January 2024 costs that had been carried as assets are
    charged to 2022 and 2023 after all.
    """
    charged = []
    for quarter in quarters:
        share = 0.0 if quarter.year < 2022 else 0.055
        extra = round(quarter.flows["revenue"] * share)
        charged.append(replace(quarter, flows=_charged(quarter.flows, extra)))
    if quarters[0].more_balances:
        charged = widened(cast, charged, seed)
    moment = date(2024, 1, 15)
    before = [f for f in reports_of(cast, quarters, seed) if f.published < str(moment)]
    after = [f for f in reports_of(cast, charged, seed) if f.published >= str(moment)]
    figures = []
    for index, quarter in enumerate(charged):
        if quarter.year in (2022, 2023) and quarter.end <= date(2023, 9, 30):
            so_far = charged[index + 1 - quarter.number : index + 1]
            figures += [f for f in figures_of(cast, so_far) if f["tag"] in _COSTS]
    last = charged[[q.end for q in charged].index(date(2023, 9, 30))]
    restated = report(
        cast,
        last,
        moment,
        time(7, 30),
        lambda: figures,
        filing=f"{cast.key}-2023-R1",
        title="Restated accounts 2022 and 2023",
        kind="restatement",
        fiscal_period=None,
    )
    return [*before, restated, *after]


def with_withdrawal(cast: Cast, filings: list[Filing], quarters: list[Quarter]) -> list[Filing]:
    """The operating profit of the year 2023 is withdrawn in May 2024 and reported again in July."""
    year = [q for q in quarters if q.year == 2023]
    figure = next(f for f in figures_of(cast, year) if f["tag"] == "operating_profit")

    def notice(number: int, day: date, title: str, amount: int | None) -> Filing:
        head = {"filing": f"{cast.key}-2023-W{number}", "title": title, "kind": "correction"}
        return report(
            cast, year[-1], day, time(12, 0), lambda: [{**figure, "amount": amount}], **head
        )

    back = notice(1, date(2024, 5, 6), "Operating profit 2023 withdrawn", None)
    again = notice(
        2, date(2024, 7, 18), "Operating profit 2023 corrected", round(figure["amount"] * 0.97)
    )
    return sorted([*filings, back, again], key=lambda f: f.published)


def with_corrections(
    cast: Cast, filings: list[Filing], quarters: list[Quarter], seed: int
) -> list[Filing]:
    """What a company of the crowd restates: some year in every fourteen, months after its report.

    Costs that were charged late, or sales presented net, change every period of the year; a tax
    that was reckoned again the year alone, so that its quarters no longer add to it.
    """
    if cast.publishes == "never" or cast.key in stories.TELLING:
        return filings
    rng = random.Random(f"{seed}:{cast.key}:corrections")
    annual = {f.id: f for f in filings if f.kind == "annual_report"}
    out = list(filings)
    for index, last in enumerate(quarters):
        drawn, share = rng.random(), rng.uniform(0.01, 0.05)
        days, kind = rng.randint(40, 330), rng.choice(("costs", "costs", "sales", "tax"))
        whole = last.number == 4 and not any(q.transition for q in quarters[index - 3 : index + 1])
        filed = annual.get(f"{cast.key}-{last.year}-FY")
        if drawn > _OFTEN or not whole or filed is None:
            continue
        kind = "tax" if cast.template != "industrial" else kind
        day = on_a_weekday(filed.public.date() + timedelta(days))
        out.append(_corrected(cast, quarters[index - 3 : index + 1], kind, share, day))
    return sorted(out, key=lambda f: f.public)


def _corrected(cast: Cast, year: list[Quarter], kind: str, share: float, day: date) -> Filing:
    """A year as it is restated: every figure that differs."""
    tags, title = {
        "costs": (_COSTS, "Restated accounts {}"),
        "sales": (_SALES, "Sales of {} presented net"),
        "tax": (_TAX, "Tax charge of {} corrected"),
    }[kind]
    year = [stories.on_its_basis(cast.key, q, day) for q in year]
    now = [_changed(q, kind, share) for q in year]

    def figures() -> Iterator[dict[str, Any]]:
        for length in (4,) if kind == "tax" else (2, 4) if cast.style == "half" else (1, 2, 3, 4):
            before = figures_of(cast, year[:length])
            for old, new in zip(before, figures_of(cast, now[:length]), strict=True):
                if new["tag"] in tags and new["amount"] != old["amount"]:
                    yield new

    last, named = year[-1], title.format(year[-1].year)
    head = {"filing": f"{cast.key}-{last.year}-R1", "title": named, "kind": "restatement"}
    return report(cast, last, day, time(7, 30), figures, fiscal_period=None, **head)


def _charged(flows: dict[str, int], extra: int) -> dict[str, int]:
    """The flows of a quarter with a cost more, a quarter of which the tax bears."""
    changes = {"cost": extra, "operating": -extra, "net": -round(extra * 0.75)}
    return {name: amount + changes.get(name, 0) for name, amount in flows.items()}


def _changed(quarter: Quarter, kind: str, share: float) -> Quarter:
    """A quarter's headline figures, and the lines between them, as they are restated."""
    flows, more = dict(quarter.flows), dict(quarter.more_flows)
    extra = round(flows["revenue"] * share)
    if kind == "sales":
        flows["revenue"] -= extra
        flows["cost"] -= extra
    elif kind == "costs":
        flows = _charged(flows, extra)
        for tag in ("gross_result", "result_before_tax"):
            more[tag] -= extra
        more["tax_charge"] -= extra - (quarter.flows["net"] - flows["net"])
    else:
        extra = round(extra * 0.4)
        flows["net"] -= extra
        more["tax_charge"] += extra
    return replace(quarter, flows=flows, more_flows=more)
