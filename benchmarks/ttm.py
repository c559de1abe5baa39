"""ttm: trailing twelve months at each month end, of flow items reported cumulatively,
restated now and then.

Every engine does the same: of the newest period known by a date, the figure since the start of its
year, and, but at a year's end, the whole year before less the same stretch of it, each in its last
version by then. Ours answers from timelines of trailing sums; the others get their tables sorted
beforehand.
"""

from typing import Any

import duckdb
import numpy as np
import pandas as pd

from benchmarks.as_of import month_ends
from benchmarks.timing import Result, best_of
from wise_ledger.core.fiscal.calendar import FiscalCalendar
from wise_ledger.core.fiscal.forming import Forming
from wise_ledger.core.records.facts import FactColumns
from wise_ledger.core.time.instants import DAY
from wise_ledger.core.time.periods import ABSENT
from wise_ledger.core.timelines.asof import latest_values
from wise_ledger.core.timelines.timeline import Timeline
from wise_ledger.core.timelines.versions import Reported

# companies, dates, items, quarters
SIZES = {"small": (200, 60, 3, 24), "full": (3000, 180, 10, 60)}
_CONNECTION = duckdb.connect()


def make_facts(companies: int, quarters: int, seed: int) -> FactColumns:
    """Figures since the start of each calendar year, 15 % of them restated once,
    in the order of publication.
    """
    rng = np.random.default_rng(seed)
    months = np.datetime64("2009-04") + 3 * np.arange(quarters)
    ends = months.astype("M8[D]").astype(np.int64) - 1
    starts = (months - 1).astype("M8[Y]").astype("M8[D]").astype(np.int64)
    company = np.repeat(np.arange(companies), quarters)
    end, start = np.tile(ends, companies), np.tile(starts, companies)
    # Published in the order of the periods: no report is later than the next one.
    at = (end + rng.integers(20, 85, len(end))) * DAY + rng.integers(0, DAY, len(end))
    value = rng.integers(1, 10**9, len(end)).astype(np.float64)
    again = np.flatnonzero(rng.random(len(end)) < 0.15)
    later = at[again] + rng.integers(1, 700, len(again)) * DAY
    company, end, start = (np.concatenate([c, c[again]]) for c in (company, end, start))
    at = np.concatenate([at, later])
    value = np.concatenate([value, rng.integers(1, 10**9, len(again)).astype(np.float64)])
    order = np.argsort(at, kind="stable")
    count, none = len(order), np.zeros(len(order), np.int64)
    return FactColumns.of(
        {
            "company": company[order],
            "start": start[order],
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


_SQL = """
with newest_known as (  -- the newest period known at each publication
  select company, known_at, max(period_end) over (partition by company order by known_at, position) as newest from facts
), asked_of as (
  select asked.company, asked.known_at, newest_known.newest from asked asof left join newest_known
  on asked.company = newest_known.company and asked.known_at >= newest_known.known_at
), ends as (
  select *, make_date(year(newest) - 1, 12, 31) as year_before,
    last_day(newest - interval 12 month) as same_before from asked_of
)
select ends.company, ends.known_at,
  case when month(newest) = 12 then now_.value else now_.value + whole.value - part.value end as value
from ends
asof left join facts now_ on ends.company = now_.company and ends.newest = now_.period_end
  and ends.known_at >= now_.known_at
asof left join facts whole on ends.company = whole.company and ends.year_before = whole.period_end
  and ends.known_at >= whole.known_at
asof left join facts part on ends.company = part.company and ends.same_before = part.period_end
  and ends.known_at >= part.known_at
order by ends.company, ends.known_at
"""


def run(size: str) -> list[Result]:
    """One row an engine, ours first."""
    companies, dates, items, quarters = SIZES[size]
    facts = [make_facts(companies, quarters, seed) for seed in range(items)]
    cutoffs = month_ends(dates)[12:]  # before that no year is known whole
    calendar = FiscalCalendar.plain((n, 12) for n in range(companies))

    def timelines() -> list[Timeline]:
        return [Forming(Reported(f), calendar).form("ttm") for f in facts]

    for i, f in enumerate(facts):
        frame = pd.DataFrame(
            {
                "company": f.company,
                "period_end": f.end.astype("M8[D]").astype("M8[s]"),
                "known_at": f.at,
                "position": f.position,
                "value": f.value,
            }
        )
        _CONNECTION.register("frame", frame)
        _CONNECTION.execute(
            f"create or replace table facts_{i} as select * replace (period_end::date as period_end) from frame"
            " order by company, known_at, position"
        )
    asked = pd.DataFrame(
        {
            "company": np.repeat(np.arange(companies), len(cutoffs)),
            "known_at": np.tile(cutoffs, companies),
        }
    )
    _CONNECTION.register("given", asked)
    _CONNECTION.execute("create or replace table asked as select * from given")

    times = 3 if size == "small" else 2
    made = timelines()
    ours, answer = best_of(times, lambda: [latest_values(t, companies, cutoffs) for t in made])
    plain = np.array(answer)
    results = [Result("ttm", size, "wise ledger", ours, 1.0, True)]
    seconds, again = best_of(1, lambda: [latest_values(t, companies, cutoffs) for t in timelines()])
    same = np.array_equal(np.array(again), plain, equal_nan=True)
    results.append(
        Result("ttm", size, "wise ledger, timelines made again", seconds, seconds / ours, same)
    )

    def by_duckdb() -> list[Any]:
        return [
            _CONNECTION.execute(_SQL.replace("facts", f"facts_{i}")).fetchnumpy()["value"]
            for i in range(items)
        ]

    seconds, found = best_of(times, by_duckdb)
    filled = np.array([np.ma.filled(np.ma.asarray(f, np.float64), np.nan) for f in found]).reshape(
        plain.shape
    )
    equal = bool(np.allclose(filled, plain, rtol=1e-9, atol=1e-3, equal_nan=True))
    results.append(Result("ttm", size, "duckdb", seconds, seconds / ours, equal))
    return results
