"""panel_http: twenty measures of every company at every month end as Arrow over HTTP into a frame,
against core alone.

The service runs on loopback, in a process of its own, over a ledger that was loaded from a file.
"""

import multiprocessing
import tempfile
from contextlib import ExitStack, closing
from datetime import UTC, datetime
from io import BytesIO
from pathlib import Path

import numpy as np
import pyarrow as pa
import pyarrow.parquet as pq

from benchmarks.history import serve
from benchmarks.market import list_companies, symbol
from benchmarks.measures import BALANCES, FLOWS, MEASURES, make_filings
from benchmarks.timing import Result, best_of
from wise_ledger.client import connect
from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.work.desk import Desk
from wise_ledger.work.load import load_file
from wise_ledger.work.panels import PanelAsked, read_panel

SIZES = {
    "small": (40, 16, "2011-01-01/2013-12-31 monthly"),
    "full": (1_000, 60, "2010-01-01/2024-12-31 monthly"),
}
BOUND = 2.0  # times core alone
_AT = datetime(2027, 6, 30, 12, tzinfo=UTC)


def run(size: str) -> list[Result]:
    """Over HTTP into a frame, and the core alone."""
    companies, quarters, dates = SIZES[size]
    # Ranks within industry need industries, which these companies have not: they are ranked among
    # all.
    measures = tuple(m.replace(", within=industry", "") for m in MEASURES)
    asked = PanelAsked(measures, dates=(dates,), beside=("reason",))
    with ExitStack() as stack:
        folder = Path(stack.enter_context(tempfile.TemporaryDirectory()))
        with closing(Desk.open(folder, {}, lambda: _AT)) as desk:
            list_companies(desk.ledger, companies)
            load_file(desk.ledger, desk.snapshots, "facts", _file(companies, quarters))
            _, token = desk.tokens.make("benchmarks")
            panel = read_panel(desk, Viewpoint(_AT), asked)
            list(panel.blocks())
            core, found = best_of(3, lambda: list(panel.blocks()))
            rows = sum(int(b.rows.sum()) for b in found)
        context = multiprocessing.get_context("spawn")
        here, there = context.Pipe()
        service = context.Process(target=serve, args=(folder, there), daemon=True)
        service.start()
        stack.callback(service.terminate)
        ledger = stack.enter_context(connect(here.recv(), token, timeout=300))
        ledger.panel(None, measures, dates).frame()  # timelines are formed
        http, frame = best_of(3, lambda: ledger.panel(None, measures, dates).frame())
    margins = [b.columns[2].values for b in found]
    value = np.concatenate([v.value[b.rows & v.there] for b, v in zip(found, margins, strict=True)])
    equal = len(frame) == rows and np.array_equal(
        np.sort(frame["operating_margin"].dropna()), np.sort(value)
    )
    size_in_words = f"{rows:,} rows x {len(measures)}"
    return [
        Result(
            "panel_http",
            size,
            f"as Arrow over HTTP into a frame, {size_in_words}",
            http,
            1.0,
            equal,
        ),
        Result(
            "panel_http", size, f"core alone ({BOUND:g} x it is aimed at)", core, core / http, equal
        ),
    ]


def _file(companies: int, quarters: int) -> bytes:
    """Filings as a file of facts."""
    filings = make_filings(companies, quarters)
    count, items = len(filings["end"]), (*FLOWS, *BALANCES)
    end = filings["end"]
    start = ((end + 1).astype("M8[D]").astype("M8[M]") - 3).astype("M8[D]").astype(np.int64)
    names = np.array([f"{symbol(n)}@ZALD" for n in range(companies)])[filings["company"]]
    at = pa.array(filings["known_at"], pa.timestamp("us", "UTC"))
    parts = []
    for item in items:
        flow = item in FLOWS
        starts = (
            pa.array(start.astype(np.int32)).cast(pa.date32())
            if flow
            else pa.nulls(count, pa.date32())
        )
        parts.append(
            pa.table(
                {
                    "company": names,
                    "item": [item] * count,
                    "period_start": starts,
                    "period_end": pa.array(end.astype(np.int32)).cast(pa.date32()),
                    "value": filings[item],
                    "unit": ["USD"] * count,
                    "published_at": at,
                }
            )
        )
    out = BytesIO()
    pq.write_table(pa.concat_tables(parts), out)
    return out.getvalue()
