"""Kept sheets of series: named, described, versioned, shared; and what a refresh changes."""

import json
import re
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from datetime import datetime

import numpy as np

from wise_ledger.core.answers.viewpoint import Viewpoint
from wise_ledger.core.errors import NotFound, Problem, bad_input
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.records import kinds
from wise_ledger.core.records.records import SeriesSheetRecord
from wise_ledger.core.series.steps import read_steps
from wise_ledger.core.time.instants import as_instant
from wise_ledger.store import seriesreading
from wise_ledger.store.ledger import Ledger
from wise_ledger.work.desk import Desk
from wise_ledger.work.series import Wanted, read_sheet

_NAME = re.compile(r"[a-z0-9]+(-[a-z0-9]+)*")
MOST_SERIES = 200


@dataclass(frozen=True)
class KeptSheet:
    """A version of a sheet: which series with which steps, from when on, who kept it, in which batch."""

    name: str
    title: str
    description: str
    series: tuple[Wanted, ...]
    start: str | None
    version: int
    who: str
    kept_at: datetime
    batch: int
    archived: bool = False


def all_sheets(ledger: Ledger, *, archived: bool = False) -> list[KeptSheet]:
    """The newest version of each sheet, by name."""
    newest: dict[str, KeptSheet] = {}
    for version in _versions(ledger):
        newest[version.name] = version
    return [s for _, s in sorted(newest.items()) if archived or not s.archived]


def find_sheet(ledger: Ledger, name: str, version: int | None = None) -> KeptSheet:
    """A sheet, its newest version without one; raises `NotFound`."""
    versions = [v for v in _versions(ledger) if v.name == name]
    if not versions:
        known = [s.name for s in all_sheets(ledger)]
        raise NotFound(Problem("sheet", name, "there is no such sheet", mend_for(name, known)))
    if version is None:
        return versions[-1]
    if not 1 <= version <= len(versions):
        raise NotFound(Problem("version", str(version), "there is no such version", f"the newest is {len(versions)}"))
    return versions[version - 1]


def sheet_versions(ledger: Ledger, name: str) -> list[KeptSheet]:
    """Every version of a sheet, the newest first; raises `NotFound`."""
    find_sheet(ledger, name)
    return [v for v in _versions(ledger) if v.name == name][::-1]


def keep_sheet(
    desk: Desk, name: str, title: str, description: str, series: Sequence[Wanted], start: str | None, who: str
) -> KeptSheet:
    """Keep a sheet: new, or another version; what it asks for is tried first. Raises `BadInput`."""
    if not _NAME.fullmatch(name) or len(name) > 60:
        raise bad_input("name", name, "this is no name of a sheet", "write small letters, digits and -: house-prices")
    if not who.strip():
        raise bad_input("who", "", "nobody is named", "say who keeps it")
    if not 1 <= len(series) <= MOST_SERIES:
        raise bad_input("series", len(series), "a sheet has between 1 and 200 of them", "use a wildcard key")
    for one in series:
        read_steps(one.steps or ())
    read_sheet(desk, Viewpoint(desk.ledger.now()), series, start=start)
    content = json.dumps({"start": start, "series": [asdict(s) for s in series]}, ensure_ascii=False)
    return _write(desk.ledger, SeriesSheetRecord(name, title.strip() or name, description, content, False, who))


def archive_sheet(ledger: Ledger, name: str, who: str, *, archived: bool = True) -> KeptSheet:
    """Put a sheet away, or bring it back; nothing of it is lost. Raises `NotFound`."""
    kept = find_sheet(ledger, name)
    content = json.dumps({"start": kept.start, "series": [asdict(s) for s in kept.series]}, ensure_ascii=False)
    return _write(ledger, SeriesSheetRecord(name, kept.title, kept.description, content, archived, who))


def _write(ledger: Ledger, record: SeriesSheetRecord) -> KeptSheet:
    with ledger.batch("sheet", f"sheet {record.name}, by {record.who}") as batch:
        batch.add(kinds.SERIES_SHEETS, [record])
        refused = [p for problems in batch.refused.values() for p in problems]
    for problem in refused:
        raise bad_input(problem.at, problem.value, problem.problem, problem.mend)
    return find_sheet(ledger, record.name)


def _versions(ledger: Ledger) -> list[KeptSheet]:
    """All versions of all sheets, in the order they were kept."""
    out: list[KeptSheet] = []
    count: dict[str, int] = {}
    with ledger.database.read() as connection:
        for r in seriesreading.series_sheets(connection, ledger.last_batch()):
            count[r.name] = count.get(r.name, 0) + 1
            told = json.loads(r.content)
            series = tuple(
                Wanted(s["key"], None if s.get("steps") is None else tuple(s["steps"]), s.get("title", ""))
                for s in told["series"]
            )
            out.append(
                KeptSheet(r.name, r.title, r.description, series, told.get("start"), count[r.name], r.who,
                          as_instant(r.recorded_at), r.batch, bool(r.archived))
            )  # fmt: skip
    return out


@dataclass(frozen=True)
class SheetChange:
    """What is new of a series between two cut-offs: a period that came, or one that reads otherwise."""

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
        raise bad_input("since", since.isoformat(), "it is after the cut-off", "write an earlier date")
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
            about = (series.about.key, series.title or series.about.title, labels[n], series.head, series.percent)
            out.append(SheetChange(*about, kind, a, b))
    return out
