"""Stories planted among the crowd of the whole world:
what happens to a company's quarters and filings.
"""

import json
from collections.abc import Callable
from dataclasses import replace
from datetime import date, timedelta
from typing import Any

from wise_ledger.standins.fernmark.filing import as_written

MOVED, TURNED, OWING, THIN, THOUSANDS, LOPSIDED = (
    "FM-0072",
    "FM-0113",
    "FM-0121",
    "FM-0114",
    "FM-0084",
    "FM-0188",
)
NEW_YEAR_END, TOLD_OF_IT = date(2018, 12, 31), "2018-10-15"
DOLLARS_FROM = 2020
SCALE_SLIP, SLIP_MENDED = "FM-0084-2019-Q2", "FM-0084-2019-Q2C"
LOPSIDED_REPORT = "FM-0188-2017-FY"

SPLIT = "FM-0075"
# New shares for an old one from a day on, when no report of a period before it is still to come.
SPLITS: dict[str, tuple[tuple[date, float], ...]] = {
    SPLIT: ((date(2023, 6, 5), 4),),
    "FM-0046": ((date(2016, 6, 13), 2),),
    "FM-0064": ((date(2017, 9, 27), 0.1),),
    "FM-0109": ((date(2018, 12, 10), 1.5),),
    "FM-0152": ((date(2021, 9, 28), 5),),
    "FM-0196": ((date(2019, 6, 17), 3),),
    "FM-0216": ((date(2014, 6, 16), 2), (date(2020, 12, 14), 2)),
    "FM-0220": ((date(2020, 9, 21), 0.2),),
    "FM-0233": ((date(2022, 6, 20), 10),),
}
# not moved by their economy
TELLING = frozenset({MOVED, TURNED, OWING, THIN, THOUSANDS, LOPSIDED, SPLIT})

# Attributes that were another before: the value, from and to which day.
CHANGES: dict[str, list[dict[str, str]]] = {
    MOVED: [
        {"attribute": "fiscal_year_end", "value": "6", "from": "2012-01-01", "to": "2018-10-14"}
    ],
    TURNED: [{"attribute": "currency", "value": "JPY", "from": "2012-01-01", "to": "2020-03-31"}],
}
NOW: dict[str, dict[str, Any]] = {MOVED: {"fiscal_year_end": 12}, TURNED: {"currency": "USD"}}


def splits_of(key: str) -> list[dict[str, Any]]:
    """The splits of a company's ordinary share."""
    return [
        {"ex_date": str(ex), "ratio": ratio, "announced": f"{ex - timedelta(28)}T06:00:00Z"}
        for ex, ratio in SPLITS.get(key, ())
    ]


def on_its_basis(key: str, quarter: Any, on: date | None = None) -> Any:
    """A quarter as its report has it, or one of a later day: in the shares there are then."""
    shares = quarter.shares
    for ex, ratio in SPLITS.get(key, ()):
        shares *= ratio if (on or quarter.end) > ex else 1
    return replace(quarter, shares=round(shares))


def quarters_of(key: str, quarters: list[Any]) -> list[Any]:
    """The quarters of a company as its story has them, before its statements are made whole."""
    changes: dict[str, Callable[[list[Any]], list[Any]]] = {
        MOVED: _moved,
        OWING: _owing,
        THIN: _thin,
    }
    return changes[key](quarters) if key in changes else quarters


def _moved(quarters: list[Any]) -> list[Any]:
    """Story 3: years to June until 2018, then six months that are neither,
    then years to December.
    """
    out = []
    for q in quarters:
        if q.end <= date(2018, 6, 30):
            out.append(q)
        elif q.end <= NEW_YEAR_END:
            out.append(replace(q, year=2018, number=1 if q.end.month == 9 else 2, transition=True))
        else:
            out.append(replace(q, year=q.end.year, number=q.end.month // 3))
    return out


def _owing(quarters: list[Any]) -> list[Any]:
    """Story 10: equity that sinks below nothing in 2017 and stays there."""
    out = []
    for step, q in enumerate(quarters):
        assets = q.balances["assets"]
        equity = max(round(q.balances["equity"] * (1 - step / 22)), -round(assets * 0.3))
        out.append(
            replace(q, balances={**q.balances, "liabilities": assets - equity, "equity": equity})
        )
    return out


def _thin(quarters: list[Any]) -> list[Any]:
    """Story 10: from 2021 on hardly any profit,
    so that a price is over a thousand times the earnings.
    """
    out = []
    for q in quarters:
        if q.year >= 2021:
            revenue, net = q.flows["revenue"], round(q.shares * 0.0026 / 1000)
            operating = round(revenue * 0.011) + net
            changed = {
                "operating": operating,
                "net": net,
                "cost": round(revenue * 0.84),
                "cash": round(revenue * 0.05),
            }
            q = replace(q, flows={**q.flows, **changed})
        out.append(q)
    return out


def in_dollars(cast: Any, quarter: Any) -> tuple[Any, Any]:
    """Story 7: from 2020 on the company reports in USD;
    millions of JPY become thousands of USD at 100 JPY each.
    """
    if cast.key != TURNED or quarter.year < DOLLARS_FROM:
        return cast, quarter

    def turned(amounts: dict[str, int]) -> dict[str, int]:
        return {name: amount * 10 for name, amount in amounts.items()}

    beside = {n: a * 10 if n == "orders_in_hand" else a for n, a in quarter.beside.items()}
    other = replace(
        quarter,
        flows=turned(quarter.flows),
        balances=turned(quarter.balances),
        more_flows=turned(quarter.more_flows),
        more_balances=turned(quarter.more_balances),
        beside=beside,
    )
    return replace(cast, currency="USD"), other


def filings_of(key: str, filings: list[Any]) -> list[Any]:
    """The filings of a company with the slips of story 11."""
    if key == LOPSIDED:
        return [_with(f, _lopsided) if f.id == LOPSIDED_REPORT else f for f in filings]
    if key != THOUSANDS:
        return filings
    out = []
    for filing in filings:
        if filing.id != SCALE_SLIP:
            out.append(filing)
            continue
        out.append(_with(filing, lambda body: {**body, "scale": 0}))
        day = f"{filing.published[:8]}28T16:30:00Z"
        title = f"{filing.title}, corrected: amounts are in thousands"
        mended = _with(filing, lambda body, t=title, d=day: {
            **body, "filing": SLIP_MENDED, "title": t, "kind": "correction", "published_at": d})  # fmt: skip
        out.append(replace(mended, id=SLIP_MENDED, title=title, kind="correction", published=day))
    return sorted(out, key=lambda f: f.published)


def _lopsided(body: dict[str, Any]) -> dict[str, Any]:
    """A balance sheet in which assets are not liabilities and equity."""
    figures = [{**f, "amount": round(f["amount"] * 1.04)} if f["tag"] == "liabilities_total" else f
               for f in body["figures"]]  # fmt: skip
    return {**body, "figures": figures}


def _with(filing: Any, change: Callable[[dict[str, Any]], dict[str, Any]]) -> Any:
    body = change(json.loads(filing.body))
    figures = body.pop("figures")
    return replace(filing, made=as_written(body, figures))
