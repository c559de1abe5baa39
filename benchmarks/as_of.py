"""as_of: the newest balance known at each month end, several items, restated now and then.

Every engine does the same: of all figures published by a date, take those of the greatest period
end, and of its versions the last. Ours answers from timelines that were made when the facts came
in; the others get their tables sorted beforehand too.
"""

from typing import Any

import duckdb
import numpy as np
import pandas as pd

from benchmarks.timing import Result, best_of
from wise_ledger.core.records.facts import FactColumns
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import ABSENT
from wise_ledger.core.timelines.asof import latest_values
from wise_ledger.core.timelines.versions import Reported

# companies, dates, items, quarters
SIZES = {"small": (200, 60, 3, 24), "full": (3000, 180, 10, 60)}


def make_facts(companies: int, quarters: int, seed: int) -> FactColumns:
    """Quarterly balances of one item, 15 % of them restated once or twice,
    in the order of publication.
    """
    rng = np.random.default_rng(seed)
    ends = (np.datetime64("2009-04") + 3 * np.arange(quarters)).astype("M8[D]").astype(np.int64) - 1
    company = np.repeat(np.arange(companies), quarters)
    end = np.tile(ends, companies)
    at = (end + rng.integers(20, 90, len(end))) * DAY + rng.integers(0, DAY, len(end))
    value = rng.uniform(1, 1e9, len(end))
    for turn, share in enumerate((0.12, 0.03), start=1):
        again = rng.random(companies * quarters) < share
        again = np.flatnonzero(again)
        company, end = np.concatenate([company, company[again]]), np.concatenate([end, end[again]])
        at = np.concatenate([at, at[again] + rng.integers(30, 700, len(again)) * DAY + turn])
        value = np.concatenate([value, rng.uniform(1, 1e9, len(again))])
    count = len(company)
    order = np.argsort(at, kind="stable")
    none = np.zeros(count, np.int64)
    return FactColumns.of(
        {
            "company": company[order],
            "start": none + ABSENT,
            "end": end[order],
            "declared_end": none + ABSENT,
            "at": at[order],
            "batch": none + 1,
            "position": np.arange(count),
            "source": none,
            "value": value[order],
            "currency": none,
            "assumed": none,
            "fact": np.arange(count),
        }
    )


def month_ends(dates: int) -> np.ndarray[Any, np.dtype[np.int64]]:
    """The cut-offs: ends of so many months from January 2010 on, in microseconds."""
    months = (np.datetime64("2010-02") + np.arange(dates)).astype("M8[D]").astype(np.int64)
    return months * DAY - 1


STEPS_AT = """
with steps as (  -- drop what is older than the newest period already known, keep the last word of each instant
  select company, known_at, period_end, value from (
    select *, max(period_end) over (partition by company order by known_at, position) as newest from facts
  ) where period_end >= newest
)
select asked.company, asked.known_at, steps.period_end, steps.value
from asked asof left join steps on asked.company = steps.company and asked.known_at >= steps.known_at
order by asked.company, asked.known_at
"""


def _by_duckdb(tables: list[pd.DataFrame], asked: pd.DataFrame) -> list[np.ndarray[Any, Any]]:
    return [
        _CONNECTION.execute(STEPS_AT.replace("facts", f"facts_{i}")).fetchnumpy()["value"]
        for i in range(len(tables))
    ]


_CONNECTION = duckdb.connect()


def _by_pandas(tables: list[pd.DataFrame], asked: pd.DataFrame) -> list[np.ndarray[Any, Any]]:
    out = []
    for table in tables:
        steps = table[table["period_end"] >= table.groupby("company")["period_end"].cummax()]
        found = pd.merge_asof(
            asked, steps[["company", "known_at", "value"]], on="known_at", by="company"
        )
        out.append(found.sort_values(["company", "known_at"])["value"].to_numpy())
    return out


def run(size: str) -> list[Result]:
    """One row an engine, ours first."""
    companies, dates, items, quarters = SIZES[size]
    facts = [make_facts(companies, quarters, seed) for seed in range(items)]
    cutoffs = month_ends(dates)
    timelines = [Reported(f).any_source(0) for f in facts]

    tables = []
    for i, f in enumerate(facts):
        names = {
            "company": f.company,
            "period_end": f.end,
            "known_at": f.at,
            "position": f.position,
            "value": f.value,
        }
        frame = pd.DataFrame(names)
        tables.append(frame)
        _CONNECTION.execute(
            f"create or replace table facts_{i} as select * from frame order by company, known_at"
        )
    asked = pd.DataFrame(
        {"company": np.repeat(np.arange(companies), dates), "known_at": np.tile(cutoffs, companies)}
    )
    _CONNECTION.execute("create or replace table asked as select * from asked")
    by_time = asked.sort_values("known_at", kind="stable").astype({"company": np.int32})

    times = 5 if size == "small" else 3
    ours, answer = best_of(times, lambda: [latest_values(t, companies, cutoffs) for t in timelines])
    plain = np.array(answer)
    results = [Result("as_of", size, "wise ledger", ours, 1.0, True)]

    def from_facts() -> list[np.ndarray[Any, Any]]:
        return [latest_values(Reported(f).any_source(0), companies, cutoffs) for f in facts]

    first, again = best_of(times, from_facts)
    same = np.array_equal(np.array(again), plain, equal_nan=True)
    results.append(
        Result("as_of", size, "wise ledger, timelines made again", first, first / ours, same)
    )
    copy, _ = best_of(times, plain.copy)
    results.append(Result("as_of", size, "one copy of the output", copy, copy / ours, True))
    for name, engine, given in (("duckdb", _by_duckdb, asked), ("pandas", _by_pandas, by_time)):
        seconds, found = best_of(times, lambda engine=engine, given=given: engine(tables, given))
        filled = [np.ma.filled(np.ma.asarray(f, np.float64), np.nan) for f in found]
        equal = np.array_equal(np.array(filled).reshape(plain.shape), plain, equal_nan=True)
        results.append(Result("as_of", size, name, seconds, seconds / ours, bool(equal)))
    return results
