"""Kept sheets of series: named, described, versioned, shared; and what a refresh changes."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from datetime import datetime

import numpy as np

from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.errors import bad_input
from wise_ledger.core.series.steps import read_steps
from wise_ledger.store.ledger import Ledger
from wise_ledger.work.desk import Desk
from wise_ledger.work.kept import SHEETS, Kept, check_name
from wise_ledger.work.seriesreading import Wanted, read_sheet

MOST_SERIES = 200


@dataclass(frozen=True)
class KeptSheet:
    """A version of a sheet: which series with which steps, and from when on."""

    kept: Kept
    series: tuple[Wanted, ...]
    start: str | None


def all_sheets(ledger: Ledger, *, archived: bool = False) -> list[KeptSheet]:
    """The newest version of each sheet, by name."""
    return [_sheet(k) for k in SHEETS.all(ledger, archived=archived)]


def find_sheet(
    ledger: Ledger, name: str, version: int | None = None, batch: int | None = None
) -> KeptSheet:
    """A sheet, its newest version (up to a batch) without one; raises `NotFound`."""
    return _sheet(SHEETS.find(ledger, name, version, batch))


def sheet_versions(ledger: Ledger, name: str) -> list[KeptSheet]:
    """Every version of a sheet, the newest first; raises `NotFound`."""
    return [_sheet(k) for k in SHEETS.versions(ledger, name)]


def keep_sheet(
    desk: Desk,
    name: str,
    title: str,
    description: str,
    series: Sequence[Wanted],
    start: str | None,
    who: str,
) -> KeptSheet:
    """Keep a sheet: new, or another version; what it asks for is tried first. Raises `BadInput`."""
    check_name(name, "sheet", "house-prices")
    if not 1 <= len(series) <= MOST_SERIES:
        raise bad_input(
            "series", len(series), "a sheet has between 1 and 200 of them", "use a wildcard key"
        )
    for one in series:
        read_steps(one.steps or ())
    read_sheet(desk, Viewpoint(desk.ledger.now()), series, start=start)
    content = {"start": start, "series": [asdict(s) for s in series]}
    return _sheet(SHEETS.keep(desk.ledger, name, title, description, content, who))


def archive_sheet(ledger: Ledger, name: str, who: str, *, archived: bool = True) -> KeptSheet:
    """Archive a sheet, or bring it back; nothing of it is lost. Raises `NotFound`."""
    return _sheet(SHEETS.archive(ledger, name, who, archived=archived))


def _sheet(kept: Kept) -> KeptSheet:
    series = tuple(
        Wanted(s["key"], None if s.get("steps") is None else tuple(s["steps"]), s.get("title", ""))
        for s in kept.content["series"]
    )
    return KeptSheet(kept, series, kept.content.get("start"))


@dataclass(frozen=True)
class SheetChange:
    """What is new of a series between two cut-offs: a period that came,
    or one that reads otherwise.
    """

    key: str
    title: str
    period: str
    head: str  # the steps in words
    percent: bool
    kind: str  # new, revised, withdrawn
    before: float | None
    after: float | None


def sheet_changes(
    desk: Desk, viewpoint: Viewpoint, since: datetime, wanted: Sequence[Wanted], start: str | None
) -> list[SheetChange]:
    """What a sheet shows at the viewpoint that it did not show, known on an earlier instant."""
    if since > viewpoint.known_on:
        raise bad_input(
            "since", since.isoformat(), "it is after the cut-off", "write an earlier date"
        )
    now = read_sheet(desk, viewpoint, wanted, start=start)
    then = {
        s.about.key + s.head: s
        for s in read_sheet(desk, replace(viewpoint, known_on=since), wanted, start=start).series
    }
    out = []
    for series in now.series:
        before = then[series.about.key + series.head].line
        place = before.places(series.line.period)
        old = (
            np.where(place >= 0, before.value[np.maximum(place, 0)], np.nan)
            if len(before)
            else np.full(len(series.line), np.nan)
        )
        new = series.line.value
        differs = ~((old == new) | (np.isnan(old) & np.isnan(new)))
        labels = series.line.labels
        for n in np.flatnonzero(differs).tolist():
            a, b = (None if np.isnan(v[n]) else float(v[n]) for v in (old, new))
            kind = "new" if a is None else "withdrawn" if b is None else "revised"
            about = (
                series.about.key,
                series.title or series.about.title,
                labels[n],
                series.head,
                series.percent,
            )
            out.append(SheetChange(*about, kind, a, b))
    return out
