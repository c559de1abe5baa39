"""/estimates: what was expected of companies as known on a date, and what they announced."""

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request, Response

from wise_ledger.service import asof
from wise_ledger.service.access import OpenDesk
from wise_ledger.service.representations import Raw, represent, wanted
from wise_ledger.wire.estimates import AnnouncementsAnswer, EstimatesAnswer
from wise_ledger.wire.layout import Layout
from wise_ledger.work.dates import as_date, as_instant, read_date
from wise_ledger.work.estimates import KINDS, Announced, Expectation, read_announcements, read_estimates

router = APIRouter(tags=["market"])
Format = Annotated[str | None, Query(description="json, csv, arrow, parquet or xlsx")]
Measure = Annotated[str, Query(description="eps, revenue, or the item that is estimated")]
_MAX_AGE = 120


@router.get("/estimates", response_model=EstimatesAnswer)
def estimates(
    desk: OpenDesk,
    request: Request,
    response: Response,
    company: Annotated[str, Query(description="any identifier of the company")],
    viewpoint: asof.Asked,
    measure: Measure = "eps",
    period: Annotated[str | None, Query(description="FY2024 or FY2024Q2: whose contributions and walk")] = None,
    format: Format = None,
    raw: Raw = False,
) -> EstimatesAnswer | Response:
    """A company's periods with their consensus; of one of them who is in it, who is not and why, and its walk."""
    found = read_estimates(desk, viewpoint, company, measure, period)

    def told(e: Expectation) -> dict[str, Any]:
        label = found.labels[e.kind, e.end]
        named = found.company, found.name, found.symbol, label
        return {
            "period": label, "period_kind": KINDS[e.kind], "period_end": as_date(e.end),
            "consensus": {**e.values, "reason": e.reasons["count"]},
            "announced": None if e.announced is None else _announced(e.announced, found.currency, *named),
        }  # fmt: skip

    chosen = found.chosen
    answer = EstimatesAnswer.model_validate(
        {
            **asof.seen(viewpoint, found.batch), "company": found.company, "name": found.name, "symbol": found.symbol,
            "measure": measure, "unit": found.unit, "estimate_currency": found.currency, "max_age": _MAX_AGE,
            "periods": [told(e) for e in found.periods],
            "period": None if chosen is None else found.labels[chosen.kind, chosen.end],
            "contributions": [
                {"contributor": found.houses[o.contributor], "value": o.value, "published_at": as_instant(o.at),
                 "state": o.state}
                for o in found.opinions
            ],
            "walk": [
                {"date": d, **{name: found.walk[name][n] for name in ("mean", "median", "high", "low", "count")}}
                for n, d in enumerate(found.walk_days)
            ],
        }
    )  # fmt: skip
    asof.tag(response, answer)
    form = wanted(request.headers.get("accept", ""), format)
    if form == "json":
        return answer
    name = f"{(found.symbol or found.company).replace('@', ' ')} {measure} estimates"
    return represent(form, answer.rows(), name, schema=None, headers=dict(response.headers), raw=raw)


@router.get("/estimates/announcements", response_model=AnnouncementsAnswer)
def announcements(
    desk: OpenDesk,
    request: Request,
    response: Response,
    viewpoint: asof.Asked,
    start: Annotated[str | None, Query(description="YYYY-MM-DD, included; a year before the end without it")] = None,
    end: Annotated[str | None, Query(description="YYYY-MM-DD, included")] = None,
    list: Annotated[str | None, Query(description="without a list and companies: everybody active then")] = None,
    company: Annotated[list[str] | None, Query(description="any identifier; may be given several times")] = None,
    measure: Measure = "eps",
    layout: Layout = "tidy",
    format: Format = None,
    raw: Raw = False,
) -> AnnouncementsAnswer | Response:
    """What companies announced from a day to a day, both included, beside what was expected the instant before."""
    first = None if start is None else read_date(start, "start")
    last = None if end is None else read_date(end, "end")
    found = read_announcements(desk, viewpoint, first, last, list, company or (), measure)
    rows = [_announced(a, _name(a.currency), id_, name, symbol, label) for a, id_, name, symbol, label in found.rows]
    answer = AnnouncementsAnswer.model_validate(
        {**asof.seen(viewpoint, found.batch), "measure": measure, "start": found.first, "end": found.last,
         "announcements": rows}
    )  # fmt: skip
    asof.tag(response, answer)
    form = wanted(request.headers.get("accept", ""), format)
    if form == "json":
        return answer
    rows_ = answer.rows(layout=layout)
    return represent(form, rows_, "announcements", schema=None, headers=dict(response.headers), raw=raw)


def _name(currency: int) -> str | None:
    from wise_ledger.work.estimates import currency_name

    return currency_name(currency)


def _announced(
    a: Announced, currency: str | None, company: str, name: str, symbol: str | None, label: str
) -> dict[str, Any]:
    return {
        "company": company, "name": name, "symbol": symbol, "period": label, "period_kind": KINDS[a.kind],
        "period_end": as_date(a.end), "announced_at": as_instant(a.at), "actual": a.actual, **a.expected,
        "surprise": a.amount, "surprise_relative": a.relative, "surprise_deviations": a.deviations,
        "currency": currency,
    }  # fmt: skip
