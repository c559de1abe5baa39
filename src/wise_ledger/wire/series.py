"""Economic series on the wire."""

from datetime import date, datetime
from typing import TYPE_CHECKING, Any, Literal

from pydantic import ConfigDict, Field

from wise_ledger.wire.columns import OBSERVED
from wise_ledger.wire.figures import Reason
from wise_ledger.wire.layout import Layout, laid
from wise_ledger.wire.model import Model, Number, iso_text
from wise_ledger.wire.rows import Rows, Tabled, context_of
from wise_ledger.wire.tables import frame
from wise_ledger.wire.viewpoint import PlainViewpoint, Seen

if TYPE_CHECKING:
    import pandas as pd

Words = list[str]
Day = date
Which = Literal["known", "first", "last"]
Counts = dict[str, int]
_KEY = "a key, or one with wildcards: HOUSE_PRICES/M.*.NSA"
_STEPS = "in the order they apply: quarterly mean, growth on a year ago, rebased to 2015 …"


class SeriesEntry(Model):
    """A series: what is said of it, and its span as known then."""

    key: str
    title: str
    unit: str
    frequency: str
    area: str
    subject: str
    adjustment: str
    family: str
    base: str = Field(description="what an index is 100 for, such as 2015=100")
    first_period: str | None
    last_period: str | None
    last_release: datetime | None


class FacetCode(Model):
    """A code of a dimension, and how many series have it."""

    code: str
    name: str
    count: Number


class Facet(Model):
    """A dimension of a family of series; its codes may be asked for by `where`."""

    id: str
    title: str
    codes: list[FacetCode]


Entries = list[SeriesEntry]


class SeriesFound(Seen, Tabled):
    """Series that were found, the best first, and what they could be narrowed by."""

    part = "series"

    total: Number
    series: Entries
    filters: dict[str, Counts] = Field(
        description="subject, area, frequency, adjustment, family: values with counts"
    )
    dimensions: list[Facet] = Field(description="of a single family")
    next: str | None = Field(None, description="the cursor of the next page, where there is one")

    def rows(self) -> Rows:
        """One row a series."""
        found = super().rows()
        for name in ("filters", "dimensions"):
            found.context.pop(name, None)
        return found


class Base(Model):
    """What an index was 100 for, from a release on."""

    base: str
    since: datetime


class SeriesDescription(Seen, SeriesEntry):
    """A series, and how it is released."""

    dimensions: list[FacetCode] = Field(
        description="title of the dimension as code, its value as name"
    )
    observations: Number
    releases: Number
    days_late: int | None = Field(
        description="from a period's end to its first release, the median"
    )
    revised: float | None = Field(description="the share of periods that were ever revised")
    revision: float | None = Field(
        description="by how much a revised period moved in all, the median, a fraction"
    )
    next_period: str | None
    next_release: Day | None = Field(description="expected")
    bases: list[Base]
    state: Literal["current", "discontinued"]
    notes: str


class SeriesAsked(Model):
    """A series with transforms of its own; a wildcard key stands for many."""

    model_config = ConfigDict(extra="forbid")

    key: str = Field(description=_KEY)
    transforms: Words | None = Field(
        None, description=f"{_STEPS}; those of the question without them"
    )
    title: str = ""


Asked = list[SeriesAsked | str]


class SeriesRequest(PlainViewpoint):
    """Series side by side from a period to a period, both included."""

    model_config = ConfigDict(
        extra="forbid",
        json_schema_extra={
            "examples": [
                {
                    "series": ["HOUSE_PRICES/M.*.NSA"],
                    "transforms": ["quarterly mean", "growth on a year ago"],
                    "start": "2015",
                    "known_on": "2023-06-30",
                }
            ]
        },
    )

    series: Asked
    transforms: Words = Field([], description=_STEPS)
    start: str | None = Field(None, description="a period or a day, included")
    end: str | None = Field(None, description="a period or a day, included")
    which: Which = Field(
        "known",
        description="first: as first released by then; last: as last revised, looking ahead",
    )
    sort: Literal["oldest", "newest"] = "oldest"
    layout: Layout = Field(
        "tidy", description="wide: series across; turned: periods across, in files"
    )


class Observation(Model):
    """The value of a period, or why there is none."""

    period: str
    date: Day = Field(description="its last day")
    value: float | None
    reason: Reason | None
    known_at: datetime | None
    assumed: bool = Field(False, description="the source does not say when it was released")
    base: str = Field("", description="what an index is 100 for there")


Observations = list[Observation]


class SeriesLine(Model):
    """A series on a sheet, after its transforms."""

    key: str
    title: str
    head: str = Field(description="its transforms in words, the last first; level without any")
    unit: str
    frequency: str = Field(description="after its transforms")
    percent: bool = Field(description="a fraction that people read as percent")
    base: str
    since: str | None = Field(description="the first period with a value in the range")
    observations: Observations


Lines = list[SeriesLine]


class SeriesAnswer(Seen):
    """Series side by side; both ends of the range are included."""

    start: str | None
    end: str | None
    which: Which
    series: Lines

    def rows(self, layout: Layout = "tidy", sort: Literal["oldest", "newest"] = "oldest") -> Rows:
        """One row an observation; or periods and series as a grid, aligned by date."""
        context = context_of(self, "series") | {"both_ends_included": True}
        several = len({(s.key, s.head) for s in self.series}) > len({s.key for s in self.series})

        def row(line: SeriesLine, seen: Observation) -> dict[str, Any]:
            own = {
                "series": f"{line.key}: {line.head}" if several and layout != "tidy" else line.key
            }
            about = {"title": line.title, "transform": line.head, "unit": line.unit}
            return own | about | seen.model_dump(mode="json")

        made = [row(line, seen) for line in self.series for seen in line.observations]
        rows = Rows(OBSERVED, ({c: r[c] for c in OBSERVED} for r in made), context)
        if sort == "newest":
            rows = Rows(OBSERVED, reversed(rows), context)
        if layout == "tidy":
            return rows
        rows.sort(key=lambda r: r["date"], reverse=sort == "newest")
        one = len({s.frequency for s in self.series}) < 2
        return laid(
            rows, layout, down=("period", "date") if one else "date", across="series", value="value"
        )

    def frame(self) -> "pd.DataFrame":
        """Periods down and series across: a `PeriodIndex`,
        of several frequencies the dates of their ends.

        `attrs` hold how it was asked, and under `series` what each column is: title, unit,
        transforms.
        """
        import pandas as pd

        names = [s.key for s in self.series]
        heads = (
            names if len(set(names)) == len(names) else [f"{s.key}: {s.head}" for s in self.series]
        )
        columns = {
            head: pd.Series(
                [o.value for o in s.observations],
                pd.DatetimeIndex([o.date for o in s.observations]),
                "float64",
            )
            for head, s in zip(heads, self.series, strict=True)
        }
        made = pd.DataFrame(columns)
        made.index.name = "period"
        letters = {s.frequency: _LETTERS[s.frequency] for s in self.series}
        if len(letters) == 1 and (letter := next(iter(letters.values()))) != "D":
            made.index = pd.DatetimeIndex(made.index).to_period(letter).rename("period")
        about = {
            h: s.model_dump(exclude={"observations"})
            for h, s in zip(heads, self.series, strict=True)
        }
        made.attrs.update(context_of(self, "series") | {"series": about})
        return made

    def reasons(self) -> "pd.DataFrame":
        """The cells without a value, one row each: series, period, reason."""
        rows = self.rows()
        found = [
            {n: r[n] for n in ("series", "period", "date", "reason")} for r in rows if r["reason"]
        ]
        return frame(Rows(("series", "period", "date", "reason"), found, rows.context))

    def __repr__(self) -> str:
        return f"<{len(self.series)} series, {self.which}, known on {self.known_on:%Y-%m-%d}>"


_LETTERS = {"yearly": "Y", "quarterly": "Q", "monthly": "M", "weekly": "W-SUN", "daily": "D"}


class Release(Model):
    """A release: how many periods it brought first, and how many it changed."""

    at: datetime
    new: Number
    revised: Number
    base: str = Field("", description="what an index stood on from it on")


Grid = list[list[float | None]]
Releases = list[Release]


class VintagesAnswer(Seen):
    """The triangle of vintages: periods down, releases across."""

    key: str
    title: str
    unit: str
    frequency: str
    periods: Words
    releases: Releases
    values: Grid

    def rows(self, layout: Layout = "wide") -> Rows:
        """A row a period, a column a release; or one row for each of both."""
        context = context_of(self, "periods", "releases", "values")
        heads = [f"{r.at:%Y-%m-%d %H:%M}" for r in self.releases]
        if len(set(heads)) < len(heads):
            heads = [iso_text(r.at) for r in self.releases]
        tidy = Rows(
            ("period", "released_at", "value"),
            (
                {"period": p, "released_at": h, "value": v}
                for p, row in zip(self.periods, self.values, strict=True)
                for h, v in zip(heads, row, strict=True)
                if v is not None
            ),
            context,
        )
        return (
            tidy
            if layout == "tidy"
            else laid(tidy, layout, down="period", across="released_at", value="value")
        )

    def frame(self) -> "pd.DataFrame":
        """Periods down, releases across."""
        import pandas as pd

        made = pd.DataFrame(self.values, self.periods, [r.at for r in self.releases], "float64")
        made.attrs.update(context_of(self, "periods", "releases", "values"))
        return made


class PeriodRelease(Model):
    """What was said of a period at a release; no value where it was taken back."""

    released_at: datetime
    value: float | None
    base: str
    assumed: bool


PeriodReleases = list[PeriodRelease]


class RevisionsAnswer(Seen, Tabled):
    """Every release of one period, the oldest first."""

    part = "revisions"

    key: str
    title: str
    unit: str
    period: str
    revisions: PeriodReleases


class ComparisonRequest(PlainViewpoint):
    """Series of one frequency compared over a window."""

    model_config = ConfigDict(
        extra="forbid",
        json_schema_extra={
            "examples": [
                {"series": ["HOUSE_PRICES/M.*.SA"], "transforms": ["log"], "start": "2010"}
            ]
        },
    )

    series: Asked
    transforms: Words = Field([], description=_STEPS)
    changes: str | None = Field(
        None, description="of what correlations and leads are; by default log growth"
    )
    spread_to: str | None = Field(None, description="a key that is taken from all")
    start: str | None = None
    end: str | None = None
    lags: int = Field(12, description="periods within which leads are looked for")


class ComparedSeries(Model):
    """A series beside the others."""

    key: str
    title: str
    last: float | None
    distance: float | None = Field(description="of the last value from the group's mean")
    half_life: float | None = Field(
        description="periods in which half of a distance is gone; none where it does not go"
    )
    lead: float | None = Field(
        description="periods by which it goes before the others; negative: behind"
    )
    lead_correlation: float | None = Field(description="with the mean of the others there")
    mean_correlation: float | None = Field(description="with each of the others, the mean")
    by_lag: list[float | None]
    values: list[float | None]


ComparedList = list[ComparedSeries]


class ComparisonAnswer(Seen):
    """Series compared: together, apart, before and behind."""

    frequency: str
    head: str
    percent: bool
    changes: str
    spread_to: str | None
    periods: Words
    lags: list[int]
    mean: list[float | None]
    series: ComparedList
    correlation: Grid

    def rows(self) -> Rows:
        """One row a series."""
        context = context_of(self, "series", "periods", "mean", "correlation", "lags")
        names = [n for n in ComparedSeries.model_fields if n not in ("by_lag", "values")]
        return Rows(names, ({n: getattr(s, n) for n in names} for s in self.series), context)

    def frame(self) -> "pd.DataFrame":
        """One row a series, indexed by key."""
        return frame(self.rows()).set_index("key")

    def matrix(self) -> "pd.DataFrame":
        """The correlations, keys down and across."""
        import pandas as pd

        keys = [s.key for s in self.series]
        return pd.DataFrame(self.correlation, keys, keys, "float64")

    def values(self) -> "pd.DataFrame":
        """What was compared: periods down, keys across."""
        import pandas as pd

        return pd.DataFrame({s.key: s.values for s in self.series}, self.periods, dtype="float64")
