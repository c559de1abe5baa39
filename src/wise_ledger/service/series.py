"""/series: found, described, side by side, with all vintages, compared, kept as sheets."""

import math
from collections.abc import Callable, Sequence
from typing import Annotated, Any

from fastapi import Query, Response
from pydantic import BaseModel

from wise_ledger.service import asof
from wise_ledger.service.access import OpenDesk
from wise_ledger.service.paging import Cursor, following
from wise_ledger.service.representations import (
    Form,
    FormOf,
    FormOrSdmx,
    represent,
    represent_sdmx,
)
from wise_ledger.service.routes import calls
from wise_ledger.wire.releases import ReleasesAnswer
from wise_ledger.wire.rows import Rows
from wise_ledger.wire.series import (
    ComparisonAnswer,
    ComparisonRequest,
    RevisionsAnswer,
    SeriesAnswer,
    SeriesAsked,
    SeriesDescription,
    SeriesFound,
    SeriesRequest,
    VintagesAnswer,
)
from wise_ledger.wire.seriessheets import (
    SheetArchive,
    SheetChanges,
    SheetInfo,
    SheetRequest,
    Sheets,
)
from wise_ledger.work import seriessheets
from wise_ledger.work.dates import as_date, as_instant
from wise_ledger.work.series import Described, find_series, read_description
from wise_ledger.work.seriescompare import compare_series
from wise_ledger.work.seriesreading import Sheet, Wanted, observed, read_sheet
from wise_ledger.work.seriessheets import KeptSheet
from wise_ledger.work.viewpoint import Viewpoint
from wise_ledger.work.vintages import read_histories, read_revisions, read_triangle

router = calls("series", "/series")
Key = Annotated[str, Query(description="such as CONSUMER_PRICES/M.XA.00")]


@router.get("", response_model=SeriesFound)
def find(
    desk: OpenDesk,
    form: FormOf,
    viewpoint: asof.AskedPlain,
    text: Annotated[str, Query(description="words; slips are allowed")] = "",
    key: Annotated[
        str | None, Query(description="a key with wildcards, such as HOUSE_PRICES/M.*.NSA")
    ] = None,
    subject: str | None = None,
    area: str | None = None,
    frequency: Annotated[
        str | None, Query(description="daily, weekly, monthly, quarterly, yearly")
    ] = None,
    adjustment: str | None = None,
    family: str | None = None,
    where: Annotated[
        list[str] | None, Query(description="a code of a dimension, REGION=R01+R02")
    ] = None,
    limit: Annotated[int, Query(ge=1, le=1000)] = 50,
    cursor: Cursor = 0,
) -> Any:
    """Series by words, subject, area, frequency, adjustment, family,
    or the dimensions of a family.
    """
    filters = {
        "subject": subject,
        "area": area,
        "frequency": frequency,
        "adjustment": adjustment,
        "family": family,
    }
    found = find_series(
        desk, viewpoint, text, filters, key=key, where=tuple(where or ()), limit=limit, skip=cursor
    )
    dimensions = [
        {
            "id": id_,
            "title": title,
            "codes": [{"code": c, "name": n, "count": k} for c, (n, k) in codes.items()],
        }
        for id_, (title, codes) in found.facets.dimensions.items()
    ]
    answer = SeriesFound.model_validate(
        {
            "total": found.total,
            "series": [_entry(d) for d in found.series],
            "filters": found.facets.filters,
            "dimensions": dimensions,
            "next": following(cursor, len(found.series), found.total),
            **asof.seen(viewpoint, found.batch),
        }
    )
    return _represented(form, answer, answer.rows, "series")


@router.get("/description")
def description(desk: OpenDesk, viewpoint: asof.AskedPlain, key: Key) -> SeriesDescription:
    """A series: what is said of it, how late it comes, how much it is revised, what comes next."""
    about, how, batch = read_description(desk, viewpoint, key)
    return SeriesDescription.model_validate(
        {
            **_entry(about),
            "observations": how.observations,
            "releases": how.releases,
            "days_late": how.late,
            "revised": how.revised,
            "revision": how.revision,
            "next_period": how.next_period,
            "next_release": None if how.next_release is None else as_date(how.next_release),
            "dimensions": [
                {"code": t, "name": f"{n} ({c})", "count": 1}
                for t, c, n in about.dimensions.values()
            ],
            "bases": [{"base": b, "since": as_instant(at)} for b, at in how.bases],
            "state": how.state,
            "notes": how.notes,
            **asof.seen(viewpoint, batch),
        }
    )


@router.post("/observations", response_model=SeriesAnswer)
def observations(asked: SeriesRequest, desk: OpenDesk, form: FormOf) -> Any:
    """Series from a period to a period, both included, each after its transforms,
    as known, first or last.
    """
    viewpoint = asof.read(desk, asked)
    found = read_sheet(
        desk,
        viewpoint,
        _wanted(asked.series),
        steps=asked.transforms,
        start=asked.start,
        end=asked.end,
        which=asked.which,
    )
    answer = _sheet(found, viewpoint, newest_first=asked.sort == "newest")
    return _represented(form, answer, lambda: answer.rows(asked.layout, asked.sort), "series")


@router.get("/vintages", response_model=VintagesAnswer)
def vintages(
    desk: OpenDesk,
    form: FormOf,
    viewpoint: asof.AskedPlain,
    key: Key,
    start: Annotated[str | None, Query(description="a period, included")] = None,
    end: Annotated[str | None, Query(description="a period, included")] = None,
    most: Annotated[int, Query(description="of releases, the last ones by the cut-off")] = 60,
    layout: Annotated[str, Query(pattern="^(tidy|wide|turned)$")] = "wide",
) -> Any:
    """The triangle of vintages of a series: periods down, its last releases across."""
    found = read_triangle(desk, viewpoint, key, start=start, end=end, most=most)
    releases = [
        {"at": as_instant(int(at)), "new": n, "revised": r, "base": b}
        for at, n, r, b in zip(
            found.releases.tolist(), found.new, found.revised, found.bases, strict=True
        )
    ]
    about = {n: getattr(found.about, n) for n in ("key", "title", "unit", "frequency")}
    values = [_numbers(row) for row in found.values.tolist()]
    answer = VintagesAnswer.model_validate(
        {**about, "periods": found.periods, "releases": releases, "values": values,
         **asof.seen(viewpoint, found.batch)}
    )  # fmt: skip
    return _represented(form, answer, lambda: answer.rows(layout), "vintages")  # type: ignore[arg-type]


@router.get("/releases", response_model=ReleasesAnswer)
def releases(
    desk: OpenDesk,
    form: FormOrSdmx,
    viewpoint: asof.AskedPlain,
    key: Annotated[
        list[str], Query(description="keys, or such with wildcards: HOUSE_PRICES/M.*.SA")
    ],
    start: Annotated[str | None, Query(description="a period, included")] = None,
    end: Annotated[str | None, Query(description="a period, included")] = None,
) -> Any:
    """Every release of series by the cut-off: what was said of each period, and when."""
    found, batch = read_histories(desk, viewpoint, key, start=start, end=end)
    series = [
        {
            **{n: getattr(h.about, n) for n in ("key", "title", "unit", "frequency")},
            **{n: getattr(h, n) for n in ("flow", "codes", "periods", "bases")},
            "values": _numbers(h.values.tolist()),
            "released_at": [as_instant(at) for at in h.known.tolist()],
            "assumed": h.assumed.tolist(),
        }
        for h in found
    ]
    count = sum(len(h.periods) for h in found)
    answer = ReleasesAnswer.model_validate(
        {"start": start, "end": end, "observations": count, "series": series,
         **asof.seen(viewpoint, batch)}
    )  # fmt: skip
    if form.name == "sdmx" and not form.schema:
        return represent_sdmx(answer, "releases")
    return _represented(form, answer, answer.rows, "releases")


@router.get("/revisions", response_model=RevisionsAnswer)
def revisions(
    desk: OpenDesk,
    form: FormOf,
    viewpoint: asof.AskedPlain,
    key: Key,
    period: Annotated[str, Query(description="such as 2023Q2 or 2023-06")],
) -> Any:
    """Every release of one period of a series, the oldest first."""
    about, label, found, batch = read_revisions(desk, viewpoint, key, period)
    rows = [
        {"released_at": as_instant(r.at), "value": r.value, "base": r.base, "assumed": r.assumed}
        for r in found
    ]
    answer = RevisionsAnswer.model_validate(
        {
            "key": about.key,
            "title": about.title,
            "unit": about.unit,
            "period": label,
            "revisions": rows,
            **asof.seen(viewpoint, batch),
        }
    )
    return _represented(form, answer, answer.rows, "revisions")


@router.post("/comparison", response_model=ComparisonAnswer)
def comparison(
    asked: ComparisonRequest,
    desk: OpenDesk,
    form: FormOf,
) -> Any:
    """Series of one frequency compared: correlation, distance from the mean,
    half-life, leads and lags.
    """
    viewpoint = asof.read(desk, asked)
    found = compare_series(
        desk, viewpoint, _wanted(asked.series), steps=asked.transforms, changes=asked.changes,
        spread_to=asked.spread_to, start=asked.start, end=asked.end, lags=asked.lags,
    )  # fmt: skip
    of = found.found
    columns = (of.distance, of.half_life, of.lead, of.lead_correlation)
    numbers = [_numbers(c.tolist()) for c in columns]
    series = []
    for n, shown in enumerate(found.series):
        values = _numbers(found.levels[n].tolist())
        others = [
            c for m, c in enumerate(of.correlation[n].tolist()) if m != n and not math.isnan(c)
        ]
        series.append(
            {
                "key": shown.about.key,
                "title": shown.title or shown.about.title,
                "last": next((v for v in reversed(values) if v is not None), None),
                "distance": numbers[0][n],
                "half_life": numbers[1][n],
                "lead": numbers[2][n],
                "lead_correlation": numbers[3][n],
                "mean_correlation": sum(others) / len(others) if others else None,
                "by_lag": _numbers(of.by_lag[n].tolist()),
                "values": values,
            }
        )
    answer = ComparisonAnswer.model_validate(
        {
            "frequency": found.frequency.adverb,
            "head": found.head,
            "percent": found.percent,
            "changes": found.changes,
            "spread_to": found.spread_to,
            "periods": found.periods,
            "lags": of.lags.tolist(),
            "mean": _numbers(of.mean.tolist()),
            "series": series,
            "correlation": [_numbers(row) for row in of.correlation.tolist()],
            **asof.seen(viewpoint, found.batch),
        }
    )
    return _represented(form, answer, answer.rows, "comparison")


@router.get("/sheets")
def sheets(
    desk: OpenDesk, archived: Annotated[bool, Query(description="archived ones too")] = False
) -> Sheets:
    """Kept sheets, by name."""
    return Sheets(
        sheets=[_info(s) for s in seriessheets.all_sheets(desk.ledger, archived=archived)]
    )


@router.get("/sheets/{name}")
def sheet(desk: OpenDesk, name: str, version: int | None = None) -> SheetInfo:
    """A kept sheet, its newest version without one."""
    return _info(seriessheets.find_sheet(desk.ledger, name, version))


@router.get("/sheets/{name}/versions")
def versions(desk: OpenDesk, name: str) -> Sheets:
    """Every version of a sheet, the newest first."""
    return Sheets(sheets=[_info(s) for s in seriessheets.sheet_versions(desk.ledger, name)])


@router.put("/sheets/{name}")
def keep(desk: OpenDesk, name: str, asked: SheetRequest) -> SheetInfo:
    """Keep a sheet: new, or another version; what it asks for is tried first."""
    wanted = _wanted(asked.series)
    return _info(
        seriessheets.keep_sheet(
            desk, name, asked.title, asked.description, wanted, asked.start, asked.who
        )
    )


@router.patch("/sheets/{name}")
def archive(desk: OpenDesk, name: str, asked: SheetArchive) -> SheetInfo:
    """Archive a sheet, or bring it back; its versions stay."""
    return _info(seriessheets.archive_sheet(desk.ledger, name, asked.who, archived=asked.archived))


@router.get("/sheets/{name}/observations", response_model=SeriesAnswer)
def sheet_observations(
    desk: OpenDesk,
    form: FormOf,
    viewpoint: asof.AskedPlain,
    name: str,
    version: int | None = None,
    layout: Annotated[str, Query(pattern="^(tidy|wide|turned)$")] = "wide",
) -> Any:
    """The series of a kept sheet as known on a date."""
    kept = seriessheets.find_sheet(desk.ledger, name, version, viewpoint.recorded_by)
    answer = _sheet(read_sheet(desk, viewpoint, kept.series, start=kept.start), viewpoint)
    return _represented(form, answer, lambda: answer.rows(layout), name)  # type: ignore[arg-type]


@router.get("/sheets/{name}/changes", response_model=SheetChanges)
def changes(
    desk: OpenDesk,
    form: FormOf,
    viewpoint: asof.AskedPlain,
    name: str,
    since: Annotated[str, Query(description="an earlier cut-off: a date or an instant")],
) -> Any:
    """What a sheet shows that it did not show at an earlier cut-off: new periods,
    revised ones and by how much.
    """
    kept = seriessheets.find_sheet(desk.ledger, name, batch=viewpoint.recorded_by)
    before = asof.cutoff(since)
    found = seriessheets.sheet_changes(desk, viewpoint, before, kept.series, kept.start)
    batch = desk.snapshots.of(viewpoint).batch
    answer = SheetChanges.model_validate(
        {
            "name": name,
            "since": before,
            "changes": [vars(c) for c in found],
            **asof.seen(viewpoint, batch),
        }
    )
    return _represented(form, answer, answer.rows, f"{name} changes")


def _wanted(asked: Sequence[SeriesAsked | str]) -> list[Wanted]:
    return [
        Wanted(a) if isinstance(a, str)
        else Wanted(a.key, None if a.transforms is None else tuple(a.transforms), a.title)
        for a in asked
    ]  # fmt: skip


def _entry(about: Described) -> dict[str, Any]:
    made = {k: v for k, v in vars(about).items() if k != "dimensions"}
    return made | {
        "last_release": None if about.last_release is None else as_instant(about.last_release)
    }


def _sheet(found: Sheet, viewpoint: Viewpoint, *, newest_first: bool = False) -> SeriesAnswer:
    series = []
    for shown in found.series:
        rows = observed(shown.line, found.bases)
        made = [
            {"period": p, "date": as_date(d), "value": v, "reason": why,
             "known_at": None if at is None else as_instant(at), "assumed": assumed, "base": base}
            for p, d, v, why, at, assumed, base in (reversed(rows) if newest_first else rows)
        ]  # fmt: skip
        series.append(
            {
                "key": shown.about.key,
                "title": shown.title or shown.about.title,
                "head": shown.head,
                "unit": shown.about.unit,
                "frequency": shown.line.frequency.adverb,
                "percent": shown.percent,
                "base": shown.about.base,
                "since": shown.since,
                "observations": made,
            }
        )
    return SeriesAnswer.model_validate(
        {"start": found.start, "end": found.end, "which": found.which, "series": series,
         **asof.seen(viewpoint, found.batch)}
    )  # fmt: skip


def _info(kept: KeptSheet) -> SheetInfo:
    series = [
        SeriesAsked(key=s.key, transforms=None if s.steps is None else list(s.steps), title=s.title)
        for s in kept.series
    ]
    return SheetInfo.model_validate({**vars(kept.kept), "series": series, "start": kept.start})


def _numbers(row: Sequence[float]) -> list[float | None]:
    return [None if v != v else v for v in row]  # a NaN is not itself


def _represented(form: Form, answer: BaseModel, rows: Callable[[], Rows], name: str) -> Any:
    """The answer as JSON, written once, since there may be many observations;
    or its rows as a file.
    """
    if form.is_answer:
        return Response(answer.model_dump_json(), media_type="application/json")
    return represent(form, rows(), name)
