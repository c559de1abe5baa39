"""/estimates: what was expected of companies as known on a date, and what they announced."""

from math import isnan
from typing import Annotated, Any

from fastapi import Query, Response

from wise_ledger.service import asof
from wise_ledger.service.access import OpenDesk
from wise_ledger.service.representations import Columns, FormOf, Sort, chosen, represented
from wise_ledger.service.routes import calls
from wise_ledger.wire.columns import ANNOUNCED, CALENDAR, EXPECTED
from wise_ledger.wire.estimates import (
    AnnouncementsAnswer,
    CalendarAnswer,
    EstimateHistoryAnswer,
    EstimatesAnswer,
)
from wise_ledger.wire.layout import Layout
from wise_ledger.work.dates import as_date, as_instant, read_date
from wise_ledger.work.estimatehistory import (
    BLENDED_FIRST,
    NOTHING,
    STATISTICS,
    AskedHistory,
    EstimateHistory,
    read_estimate_history,
)
from wise_ledger.work.estimates import (
    KINDS,
    Announced,
    CalendarEntry,
    Expectation,
    currency_name,
    read_announcements,
    read_calendar,
    read_estimates,
)

router = calls("market")
Measure = Annotated[str, Query(description="eps, revenue, or the item that is estimated")]
MaxAge = Annotated[
    int | None,
    Query(ge=1, le=3650, description="days that a contribution stands; else as the limit is set"),
]


@router.get("/estimates", response_model=EstimatesAnswer)
def estimates(
    desk: OpenDesk,
    form: FormOf,
    company: Annotated[str, Query(description="any identifier of the company")],
    viewpoint: asof.Asked,
    measure: Measure = "eps",
    period: Annotated[
        str | None, Query(description="FY2024 or FY2024Q2: whose contributions and walk")
    ] = None,
    max_age: MaxAge = None,
) -> EstimatesAnswer | Response:
    """A company's periods with their consensus; of one of them who is in it,
    who is not and why, and its walk.
    """
    found = read_estimates(desk, viewpoint, company, measure, period, max_age)

    def shown(e: Expectation) -> dict[str, Any]:
        label = found.labels[e.kind, e.end]
        named = found.company, found.name, found.symbol, label
        return {
            "period": label,
            "period_kind": KINDS[e.kind],
            "period_end": as_date(e.end),
            "consensus": {**e.values, "reason": e.reasons["count"]},
            "announced": None
            if e.announced is None
            else _announced(e.announced, found.currency, *named),
        }

    chosen = found.chosen
    answer = EstimatesAnswer.model_validate(
        {
            **asof.seen(viewpoint, found.batch),
            "company": found.company,
            "name": found.name,
            "symbol": found.symbol,
            "measure": measure,
            "unit": found.unit,
            "estimate_currency": found.currency,
            "max_age": found.max_age,
            "periods": [shown(e) for e in found.periods],
            "period": None if chosen is None else found.labels[chosen.kind, chosen.end],
            "contributions": [
                {
                    "contributor": found.houses[o.contributor],
                    "value": o.value,
                    "published_at": as_instant(o.at),
                    "state": o.state,
                }
                for o in found.opinions
            ],
            "supplied": [
                {"source": found.sources[g.source], "published_at": as_instant(g.at), **g.values}
                for g in found.supplied
            ],
            "walk": [
                {
                    "date": d,
                    "reason": found.walk_reasons[n],
                    **{
                        name: found.walk[name][n]
                        for name in ("mean", "median", "high", "low", "count")
                    },
                }
                for n, d in enumerate(found.walk_days)
            ],
        }
    )
    name = f"{(found.symbol or found.company).replace('@', ' ')} {measure} estimates"
    return represented(form, answer, answer.rows, name)


@router.get("/estimates/announcements", response_model=AnnouncementsAnswer)
def announcements(
    desk: OpenDesk,
    form: FormOf,
    viewpoint: asof.Asked,
    start: Annotated[
        str | None, Query(description="YYYY-MM-DD, included; a year before the end without it")
    ] = None,
    end: Annotated[str | None, Query(description="YYYY-MM-DD, included")] = None,
    list: Annotated[
        str | None, Query(description="without a list and companies: everybody active then")
    ] = None,
    company: Annotated[
        list[str] | None, Query(description="any identifier; may be given several times")
    ] = None,
    measure: Measure = "eps",
    max_age: MaxAge = None,
    columns: Columns = None,
    sort: Sort = "newest",
    layout: Layout = "tidy",
) -> AnnouncementsAnswer | Response:
    """What companies announced from a day to a day, both included,
    beside what was expected the instant before.
    """
    first = None if start is None else read_date(start, "start")
    last = None if end is None else read_date(end, "end")
    found = read_announcements(desk, viewpoint, first, last, list, company or (), measure, max_age)
    rows = [
        _announced(a, currency_name(a.currency), id_, name, symbol, label)
        for a, id_, name, symbol, label in found.rows
    ]
    answer = AnnouncementsAnswer.model_validate(
        {
            **asof.seen(viewpoint, found.batch),
            "measure": measure,
            "start": found.first,
            "end": found.last,
            "max_age": found.max_age,
            "announcements": rows,
            "failed": asof.unanswered(found.failed),
        }
    )
    return represented(
        form, answer, lambda: answer.rows(chosen(columns, ANNOUNCED), layout, sort), "announcements"
    )


@router.get("/estimates/calendar", response_model=CalendarAnswer)
def calendar(
    desk: OpenDesk,
    form: FormOf,
    viewpoint: asof.Asked,
    start: Annotated[
        str | None, Query(description="YYYY-MM-DD, included; 30 days back without it")
    ] = None,
    end: Annotated[
        str | None, Query(description="YYYY-MM-DD, included; 60 days ahead without it")
    ] = None,
    list: Annotated[
        str | None, Query(description="without a list and companies: everybody active then")
    ] = None,
    company: Annotated[
        list[str] | None, Query(description="any identifier; may be given several times")
    ] = None,
    measure: Measure = "eps",
    columns: Columns = None,
) -> CalendarAnswer | Response:
    """What companies announced, and are expected to announce, from a day to a
    day, both included.
    """
    first = None if start is None else read_date(start, "start")
    last = None if end is None else read_date(end, "end")
    found = read_calendar(desk, viewpoint, first, last, list, company or (), measure)
    answer = CalendarAnswer.model_validate(
        {
            **asof.seen(viewpoint, found.batch),
            "measure": measure,
            "start": found.first,
            "end": found.last,
            "entries": [_entry(e) for e in found.entries],
            "failed": asof.unanswered(found.failed),
        }
    )
    return represented(form, answer, lambda: answer.rows(chosen(columns, CALENDAR)), "calendar")


@router.get("/estimates/history", response_model=EstimateHistoryAnswer)
def history(
    desk: OpenDesk,
    form: FormOf,
    viewpoint: asof.Asked,
    list: Annotated[str | None, Query(description="its members, in the place of companies")] = None,
    company: Annotated[
        list[str] | None, Query(description="any identifier; may be given several times")
    ] = None,
    measure: Measure = "eps",
    horizon: Annotated[str, Query(description="q1, q2, fy1, fy2, fy3 or ntm")] = "fy1",
    start: Annotated[
        str | None, Query(description="YYYY-MM-DD, included; a year before the end without it")
    ] = None,
    end: Annotated[str | None, Query(description="YYYY-MM-DD, included")] = None,
    frequency: Annotated[
        str, Query(description="day, week, month, quarter or year: the last weekday of each")
    ] = "month",
    columns: Columns = None,
    sort: Sort = "oldest",
    layout: Layout = "tidy",
) -> EstimateHistoryAnswer | Response:
    """The consensus of companies over a range of days, both ends included,
    each as known on its own day.
    """
    first = None if start is None else read_date(start, "start")
    last = None if end is None else read_date(end, "end")
    names = chosen(columns, EXPECTED)
    statistics = tuple(BLENDED_FIRST if horizon == "ntm" else STATISTICS)
    asked = AskedHistory(measure, horizon, first, last, frequency, statistics)
    found = read_estimate_history(desk, viewpoint, asked, list, company or ())
    answer = EstimateHistoryAnswer.model_validate(
        {
            **asof.seen(viewpoint, found.batch),
            "measure": measure,
            "horizon": horizon,
            "start": found.first,
            "end": found.last,
            "frequency": frequency,
            "histories": _histories(found),
            "failed": asof.unanswered(found.failed),
        }
    )
    return represented(
        form, answer, lambda: answer.rows(names, layout, sort), f"{measure} {horizon}"
    )


def _histories(found: EstimateHistory) -> "list[dict[str, Any]]":
    out = []
    for n, c in enumerate(found.companies):
        days = []
        for d, on in enumerate(found.days):
            end = int(found.history.period_end[n, d])
            values = {s: _number(found.history.values[s][n, d]) for s in found.history.values}
            period = {
                "period": found.labels[n][d],
                "period_end": None if end == NOTHING else as_date(end),
            }
            days.append(
                {
                    **dict.fromkeys(STATISTICS),
                    **values,
                    **period,
                    "date": on,
                    "reason": found.reasons[n][d],
                }
            )
        out.append({**vars(c), "days": days})
    return out


def _number(value: float) -> float | None:
    return None if isnan(value) else float(value)


def _entry(e: CalendarEntry) -> dict[str, Any]:
    announced = e.announced
    return {
        "company": e.company,
        "name": e.name,
        "symbol": e.symbol,
        "period": e.label,
        "period_kind": KINDS[e.kind],
        "period_end": as_date(e.end),
        "at": as_instant(e.at),
        "state": e.state,
        "mean": e.mean,
        "count": e.count,
        "actual": announced.actual if announced else None,
        "surprise_relative": announced.relative if announced else None,
        "reason": e.reason,
        "currency": e.currency,
    }


def _announced(
    a: Announced, currency: str | None, company: str, name: str, symbol: str | None, label: str
) -> dict[str, Any]:
    return {
        "company": company,
        "name": name,
        "symbol": symbol,
        "period": label,
        "period_kind": KINDS[a.kind],
        "period_end": as_date(a.end),
        "announced_at": as_instant(a.at),
        "actual": a.actual,
        **a.expected,
        "surprise": a.amount,
        "surprise_relative": a.relative,
        "surprise_deviations": a.deviations,
        "reason": a.reason,
        "currency": currency,
    }
