"""measures: twenty measures that ship, ranks within industry among them,
of every company at every month end.

Each engine does the same: of the newest quarter published by a date the figures as last known then,
those of the seven quarters before it likewise, trailing sums, quotients, growth and ranks. By hand
in pandas and Polars that is an as-of join for each quarter back; ours is a panel. All tables, and
our timelines, are made beforehand.
"""

from collections.abc import Callable
from typing import Any

import numpy as np
import pandas as pd
import polars as pl

from benchmarks.as_of import month_ends
from benchmarks.timing import Result, best_of
from wise_ledger.core.catalogue.items import ITEMS, Nature
from wise_ledger.core.dated.attributes import Attribute, Attributes
from wise_ledger.core.language.counted import Counted
from wise_ledger.core.language.view import LedgerView
from wise_ledger.core.panels.panel import Question, blocks, plan_columns
from wise_ledger.core.records.facts import FactColumns
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import ABSENT

SIZES = {"small": (150, 48, 20), "full": (3000, 180, 60)}  # companies, dates, quarters
INDUSTRIES = 20
FLOWS = (
    "revenue", "gross_profit", "operating_income", "ebitda", "net_income", "interest_expense", "operating_cash_flow",
    "capital_expenditure",
)  # fmt: skip
BALANCES = (
    "current_assets",
    "current_liabilities",
    "total_assets",
    "total_liabilities",
    "shareholders_equity",
)
MEASURES = (
    "current_ratio", "gross_margin", "operating_margin", "ebitda_margin", "net_margin", "cash_margin",
    "free_cash_margin", "interest_coverage", "return_on_assets", "return_on_equity", "asset_turnover",
    "revenue_growth", "earnings_growth", "equity_ratio", "liabilities_to_assets", "gross_profit_to_assets", "accruals",
    "cash_conversion", "margin_rank: rank(operating_margin, within=industry)",
    "return_rank: rank(return_on_equity, within=industry)",
)  # fmt: skip
_BACK = 8  # quarters
Table = dict[str, np.ndarray[Any, Any]]


def make_filings(companies: int, quarters: int) -> Table:
    """Quarterly filings of all items, 15 % of them published again once,
    in order of publication.
    """
    rng = np.random.default_rng(5)
    company, quarter = (
        np.repeat(np.arange(companies), quarters),
        np.tile(np.arange(quarters), companies),
    )
    ends = (np.datetime64("2009-04") + 3 * np.arange(quarters)).astype("M8[D]").astype(np.int64) - 1
    at = (ends[quarter] + rng.integers(20, 85, len(company))) * DAY + rng.integers(
        0, DAY, len(company)
    )
    again = np.flatnonzero(rng.random(len(company)) < 0.15)
    company, quarter = (np.concatenate([c, c[again]]) for c in (company, quarter))
    at = np.concatenate([at, at[again] + rng.integers(1, 700, len(again)) * DAY])
    order = np.argsort(at, kind="stable")
    table = {
        "company": company[order],
        "quarter": quarter[order],
        "end": ends[quarter][order],
        "known_at": at[order],
    }
    return table | {
        item: rng.integers(1, 10**6, len(order)).astype(np.float64) for item in (*FLOWS, *BALANCES)
    }


def _columns(filings: Table, item: str) -> FactColumns:
    count = len(filings["end"])
    none = np.zeros(count, np.int64)
    end = filings["end"]
    start = ((end + 1).astype("M8[D]").astype("M8[M]") - 3).astype("M8[D]").astype(np.int64)
    flow = ITEMS[item].nature is Nature.FLOW
    return FactColumns.of(
        {
            "company": filings["company"],
            "start": start if flow else none + ABSENT,
            "end": end,
            "declared_end": none + ABSENT,
            "at": filings["known_at"],
            "batch": none + 1,
            "position": np.arange(count),
            "source": none,
            "value": filings[item],
            "currency": none,
            "assumed": none,
            "fact": np.arange(count),
        }
    )


def view_of(filings: Table, companies: int) -> LedgerView:
    """What an evaluation stands on: these filings, every company in one of some industries."""
    kept: dict[str, FactColumns] = {}

    def columns(item: str) -> FactColumns:
        if item not in kept:
            kept[item] = _columns(filings, item) if item in filings else FactColumns.empty()
        return kept[item]

    long_ago = -100_000
    attributes = [
        Attribute(c, name, value, long_ago, long_ago * DAY, 0)
        for c in range(companies)
        for name, value in (("fiscal_year_end", "12"), ("industry", str(10 + c % INDUSTRIES)))
    ]
    return LedgerView(companies, columns, Attributes(attributes), traced=False)


def _reckoned(ttm: Callable[[str, int], Any], balance: Callable[[str, int], Any]) -> dict[str, Any]:
    """The measures but ranks, of trailing sums and balances so many quarters back."""
    revenue, income = ttm("revenue", 0), ttm("net_income", 0)
    assets, equity = balance("total_assets", 0), balance("shareholders_equity", 0)
    mean_assets = (assets + balance("total_assets", 4)) / 2
    cash = ttm("operating_cash_flow", 0)
    return {
        "current_ratio": balance("current_assets", 0) / balance("current_liabilities", 0),
        "gross_margin": ttm("gross_profit", 0) / revenue,
        "operating_margin": ttm("operating_income", 0) / revenue,
        "ebitda_margin": ttm("ebitda", 0) / revenue,
        "net_margin": income / revenue,
        "cash_margin": cash / revenue,
        "free_cash_margin": (cash - ttm("capital_expenditure", 0)) / revenue,
        "interest_coverage": ttm("operating_income", 0) / ttm("interest_expense", 0),
        "return_on_assets": income / mean_assets,
        "return_on_equity": income / ((equity + balance("shareholders_equity", 4)) / 2),
        "asset_turnover": revenue / mean_assets,
        "revenue_growth": revenue / ttm("revenue", 4) - 1,
        "earnings_growth": income / ttm("net_income", 4) - 1,
        "equity_ratio": equity / assets,
        "liabilities_to_assets": balance("total_liabilities", 0) / assets,
        "gross_profit_to_assets": ttm("gross_profit", 0) / assets,
        "accruals": (income - cash) / mean_assets,
        "cash_conversion": cash / income,
    }


def _needed(back: int) -> list[str]:
    """The items that are looked at in a quarter so far back."""
    flows = FLOWS if back < 4 else ("revenue", "net_income")
    return [
        *flows,
        *(BALANCES if back == 0 else ("total_assets", "shareholders_equity") if back == 4 else ()),
    ]


def by_pandas(
    table: pd.DataFrame, steps: pd.DataFrame, asked: pd.DataFrame
) -> dict[str, np.ndarray[Any, Any]]:
    """By hand: an as-of join for the newest quarter, one for each quarter
    back, columns, ranks by group.
    """
    now = pd.merge_asof(asked, steps, on="known_at", by="company")
    parts = {}
    for back in range(_BACK):
        key = now[["company", "known_at"]].assign(
            quarter=(now["quarter"] - back).fillna(-99).astype(np.int64)
        )
        wanted = table[["company", "quarter", "known_at", *_needed(back)]]
        parts[back] = pd.merge_asof(key, wanted, on="known_at", by=["company", "quarter"])
    found = pd.DataFrame(
        _reckoned(
            lambda item, back: sum(parts[back + n][item] for n in range(4)),
            lambda item, back: parts[back][item],
        )
    )
    groups = [asked["known_at"], asked["industry"]]
    found["margin_rank"] = found["operating_margin"].groupby(groups).rank(ascending=False)
    found["return_rank"] = found["return_on_equity"].groupby(groups).rank(ascending=False)
    order = np.lexsort((asked["known_at"], asked["company"]))
    return {name: found[name].to_numpy()[order] for name in found}


def by_polars(
    table: pl.DataFrame, steps: pl.DataFrame, asked: pl.DataFrame
) -> dict[str, np.ndarray[Any, Any]]:
    """The same in Polars."""
    now = asked.join_asof(steps, on="known_at", by="company")
    for back in range(_BACK):
        wanted = table.select("company", "known_at", pl.col("quarter").alias("own"), *_needed(back))
        wanted = wanted.rename({item: f"{item}_{back}" for item in _needed(back)})
        now = now.with_columns(own=(pl.col("quarter") - back).fill_null(-99))
        now = now.join_asof(wanted, on="known_at", by=["company", "own"])
    col = pl.col
    made = _reckoned(
        lambda item, back: sum(
            (col(f"{item}_{back + n}") for n in range(1, 4)), col(f"{item}_{back}")
        ),
        lambda item, back: col(f"{item}_{back}"),
    )
    found = now.select("company", "known_at", "industry", **made)
    over = ["known_at", "industry"]
    found = found.with_columns(
        margin_rank=col("operating_margin").rank(descending=True).over(over),
        return_rank=col("return_on_equity").rank(descending=True).over(over),
    ).sort("company", "known_at")
    return {name: found[name].to_numpy() for name in found.columns[3:]}


def run(size: str) -> list[Result]:
    """Ours, pandas, Polars."""
    companies, dates, quarters = SIZES[size]
    filings = make_filings(companies, quarters)
    cutoffs = month_ends(dates)
    view = view_of(filings, companies)
    columns = plan_columns(MEASURES, view.vocabulary)
    asked_of = Question(
        columns, np.arange(companies), cutoffs, Counted(np.ones((companies, dates), np.bool_))
    )

    def ours() -> dict[str, np.ndarray[Any, Any]]:
        out = {column.name: np.empty((companies, dates)) for column in columns}
        for part in blocks(view, asked_of):
            for column, figures in zip(columns, part.columns, strict=True):
                values = figures.values
                filled = out[column.name][:, part.first : part.first + values.value.shape[1]]
                np.copyto(filled, values.value)
                filled[~values.there] = np.nan
        return out

    ours()  # timelines are formed
    times = 3 if size == "small" else 2
    seconds, answer = best_of(times, ours)
    results = [
        Result(
            "measures",
            size,
            f"wise ledger, {len(columns)} x {companies} x {dates}",
            seconds,
            1.0,
            True,
        )
    ]

    frame = pd.DataFrame(filings).drop(columns="end")
    steps = frame[frame["quarter"] >= frame.groupby("company")["quarter"].cummax()][
        ["company", "known_at", "quarter"]
    ]
    asked = pd.DataFrame(
        {"company": np.repeat(np.arange(companies), dates), "known_at": np.tile(cutoffs, companies)}
    )
    asked["industry"] = asked["company"] % INDUSTRIES
    asked = asked.sort_values("known_at", kind="stable").reset_index(drop=True)
    tables = [frame, steps, asked]
    engines = (
        ("pandas", by_pandas, tables),
        ("polars", by_polars, [pl.from_pandas(t) for t in tables]),
    )
    for name, engine, given in engines:
        taken, found = best_of(times, lambda engine=engine, given=given: engine(*given))
        equal = all(
            np.allclose(
                np.asarray(found[n], np.float64).reshape(a.shape),
                a,
                rtol=1e-9,
                atol=1e-12,
                equal_nan=True,
            )
            for n, a in answer.items()
        )
        results.append(Result("measures", size, name, taken, taken / seconds, equal))
    return results
