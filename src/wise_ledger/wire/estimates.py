"""Estimates on the wire."""

from collections.abc import Sequence
from datetime import date, datetime
from typing import TYPE_CHECKING, Any, Literal

from pydantic import Field

from wise_ledger.wire.columns import ANNOUNCED, CALENDAR, EXPECTED
from wise_ledger.wire.figures import Reason
from wise_ledger.wire.layout import Layout, laid
from wise_ledger.wire.model import Model
from wise_ledger.wire.rows import Rows, context_of
from wise_ledger.wire.tables import frame
from wise_ledger.wire.viewpoint import Seen, SeenOfCompanies
from wise_ledger.words import counted

if TYPE_CHECKING:
    import pandas as pd

Day = date  # where a field is called date itself
Kind = Literal["fy", "q"]
State = Literal[
    "in",
    "no rate",
    "too old",
    "withdrawn",
    "another source goes first",
    "after the actual",
    "replaced",
]


class Consensus(Model):
    """Statistics over the contributions that stood; where `reason` is given there is none."""

    mean: float | None
    median: float | None
    high: float | None
    low: float | None
    stdev: float | None = Field(description="n - 1; none for a single contribution")
    count: int | None
    raised: int | None = Field(
        description="contributors who raised against their own value 30 days before"
    )
    cut: int | None
    reason: Reason | None


class Announcement(Model):
    """What was announced of a period, beside what was expected the instant before."""

    company: str
    name: str
    symbol: str | None
    period: str
    period_kind: Kind
    period_end: date
    announced_at: datetime
    actual: float | None = Field(description="as first reported, on the share basis of the cut-off")
    mean: float | None
    median: float | None
    high: float | None
    low: float | None
    stdev: float | None
    count: int | None
    surprise: float | None = Field(description="actual less mean")
    surprise_relative: float | None = Field(description="over the absolute mean, a fraction")
    surprise_deviations: float | None
    reason: Reason | None = Field(description="why there is no surprise, or none as a fraction")
    currency: str | None


class ExpectedPeriod(Model):
    """A period of a company with its consensus, and what was announced of it by the cut-off."""

    period: str
    period_kind: Kind
    period_end: date
    consensus: Consensus
    announced: Announcement | None


class Contribution(Model):
    """What a contributor said of a period by the cut-off."""

    contributor: str
    value: float | None
    published_at: datetime
    state: State = Field(
        description="in the consensus, or why not; replaced by a later one of the same contributor"
    )


class SuppliedConsensus(Model):
    """A consensus as a source supplied it ready-made, on the share basis of the cut-off."""

    source: str
    published_at: datetime
    mean: float | None
    median: float | None
    high: float | None
    low: float | None
    stdev: float | None
    count: float | None


class WalkPoint(Model):
    """The consensus of a period at the end of a day."""

    date: date
    mean: float | None
    median: float | None
    high: float | None
    low: float | None
    count: int | None
    reason: Reason | None = Field(description="why there is none")


Periods = list[ExpectedPeriod]
Contributions = list[Contribution]
SuppliedOnes = list[SuppliedConsensus]
Walk = list[WalkPoint]
Announcements = list[Announcement]


class CalendarEntry(Model):
    """A period that was announced or is expected to be, and what is expected of it."""

    company: str
    name: str
    symbol: str | None
    period: str
    period_kind: Kind
    period_end: date
    at: datetime = Field(description="when it was announced, or is expected to be")
    state: Literal["announced", "expected", "assumed", "overdue"] = Field(
        description="expected as a source says; assumed 364 days after the same period of the year before; overdue "
        "where that has passed"
    )
    mean: float | None = Field(description="of what was announced, the instant before")
    count: int | None
    actual: float | None
    surprise_relative: float | None = Field(description="over the absolute mean, a fraction")
    reason: Reason | None = Field(
        description="why there is no mean; of what was announced, no surprise"
    )
    currency: str | None


CalendarEntries = list[CalendarEntry]
PERIOD_COLUMNS = (
    "period", "period_kind", "period_end", "mean", "median", "high", "low", "stdev", "count", "raised", "cut", "reason",
    "announced_at", "actual", "surprise", "surprise_relative", "surprise_deviations",
)  # fmt: skip


class EstimatesAnswer(Seen):
    """What was expected of a company in one measure, the newest period first;
    of one period who and how it walked.
    """

    company: str
    name: str
    symbol: str | None
    measure: str
    unit: str
    estimate_currency: str | None = Field(description="of all amounts")
    max_age: int = Field(description="days that a contribution stands")
    periods: Periods
    period: str | None = Field(description="the one that contributions and walk are of")
    contributions: Contributions = Field(
        description="of that period, those that count first, then by publication"
    )
    supplied: SuppliedOnes = Field(
        description="the last of each source, beside ours, never mixed with it"
    )
    walk: Walk

    def rows(self) -> Rows:
        """One row a period."""
        rows = []
        for p in self.periods:
            announced = {} if p.announced is None else p.announced.model_dump(mode="json")
            both = {
                **p.consensus.model_dump(mode="json"),
                **p.model_dump(mode="json", include=set(PERIOD_COLUMNS[:3])),
            }
            later = {n: announced.get(n) for n in PERIOD_COLUMNS[12:]}
            rows.append({n: {**both, **later}.get(n) for n in PERIOD_COLUMNS})
        return Rows(
            PERIOD_COLUMNS, rows, context_of(self, "periods", "contributions", "supplied", "walk")
        )

    def frame(self) -> "pd.DataFrame":
        """One row a period, with types."""
        return frame(self.rows())

    def __repr__(self) -> str:
        periods = counted(len(self.periods), "period")
        return f"<{self.name}: {self.measure} of {periods}, known on {self.known_on:%Y-%m-%d}>"


class AnnouncementsAnswer(SeenOfCompanies):
    """What companies announced; both ends of the range are included."""

    measure: str
    start: date
    end: date
    max_age: int = Field(description="days that a contribution stands")
    announcements: Announcements

    def rows(
        self, columns: Sequence[str] = ANNOUNCED, layout: Layout = "tidy", sort: str = "newest"
    ) -> Rows:
        """One row an announcement; wide or turned with one value each, companies across."""
        found = self.announcements if sort == "oldest" else self.announcements[::-1]
        down = ("period_end", "period")  # a quarter and its year end on one day
        names = columns if layout == "tidy" else (*down, "symbol", _one_of(columns))
        plain = (_headed(a.model_dump(mode="json"), layout) for a in found)
        rows = Rows(
            names, ({n: row[n] for n in names} for row in plain), context_of(self, "announcements")
        )
        if layout == "tidy":
            return rows
        return laid(rows, layout, down=down, across="symbol", value=names[-1])

    def frame(self) -> "pd.DataFrame":
        """One row an announcement, with types."""
        return frame(self.rows())

    def __repr__(self) -> str:
        found = counted(len(self.announcements), "announcement")
        return f"<{found} of {self.measure}, {self.start} to {self.end}, both included>"


class CalendarAnswer(SeenOfCompanies):
    """What companies announced and are expected to announce, in that order;
    both ends of the range are included.
    """

    measure: str
    start: date
    end: date
    entries: CalendarEntries

    def rows(self, columns: Sequence[str] = CALENDAR) -> Rows:
        """One row an announcement."""
        plain = (e.model_dump(mode="json") for e in self.entries)
        return Rows(
            columns, ({n: row[n] for n in columns} for row in plain), context_of(self, "entries")
        )

    def frame(self) -> "pd.DataFrame":
        """One row an announcement, with types."""
        return frame(self.rows())

    def __repr__(self) -> str:
        found = counted(len(self.entries), "announcement")
        return f"<calendar of {found}, {self.start} to {self.end}, both included>"


Statistic = Literal["mean", "median", "high", "low", "stdev", "count", "raised", "cut"]


class ExpectedOn(Model):
    """The consensus of a company's horizon as known on a day."""

    date: date
    period: str | None = Field(description="the target period; none for the next twelve months")
    period_end: Day | None
    mean: float | None
    median: float | None
    high: float | None
    low: float | None
    stdev: float | None
    count: int | None
    raised: int | None
    cut: int | None
    reason: Reason | None


Expectations = list[ExpectedOn]


class CompanyHistory(Model):
    """A company with its consensus day by day;
    `since` is the first day on which anybody had contributed.
    """

    company: str
    name: str
    symbol: str | None
    currency: str | None
    since: Day | None
    days: Expectations


Histories = list[CompanyHistory]


class EstimateHistoryAnswer(SeenOfCompanies):
    """The consensus of companies over a range of days, each as known on its
    own day; both ends are included.
    """

    measure: str
    horizon: str
    start: date
    end: date
    both_ends_included: Literal[True] = True
    frequency: str
    histories: Histories

    def rows(
        self, columns: Sequence[str] = EXPECTED, layout: Layout = "tidy", sort: str = "oldest"
    ) -> Rows:
        """One row a company and day; wide or turned with one value each, companies across."""
        names = columns if layout == "tidy" else ("date", "symbol", _one_of(columns, "mean"))
        made = []
        for h in self.histories:
            about = _headed(h.model_dump(mode="json", exclude={"days"}), layout)
            days = h.days if sort == "oldest" else h.days[::-1]
            made += [
                {n: row[n] for n in names}
                for d in days
                for row in ({**about, **d.model_dump(mode="json")},)
            ]
        rows = Rows(names, made, context_of(self, "histories"))
        return (
            rows
            if layout == "tidy"
            else laid(rows, layout, down="date", across="symbol", value=names[2])
        )

    def frame(self) -> "pd.DataFrame":
        """One row a company and day, with types."""
        return frame(self.rows())

    def __repr__(self) -> str:
        span = f"{self.start} to {self.end}, both included"
        whom = counted(len(self.histories), "company")
        return f"<{self.measure} {self.horizon} of {whom} by {self.frequency}, {span}>"


def _headed(row: dict[str, Any], layout: Layout) -> dict[str, Any]:
    """A row for a grid of companies: one without a symbol stands under its id."""
    return row if layout == "tidy" else row | {"symbol": row["symbol"] or row["company"]}


def _one_of(columns: Sequence[str], standard: str = "actual") -> str:
    about = (
        "date",
        "company",
        "name",
        "symbol",
        "period",
        "period_kind",
        "period_end",
        "announced_at",
        "currency",
    )
    return next((c for c in columns if c not in about), standard)
