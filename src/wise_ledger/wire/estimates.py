"""Estimates on the wire."""

from collections.abc import Sequence
from datetime import date, datetime
from typing import TYPE_CHECKING, Literal

from pydantic import Field

from wise_ledger.wire.figures import Reason
from wise_ledger.wire.layout import Layout, laid
from wise_ledger.wire.model import Model
from wise_ledger.wire.rows import Rows, context_of
from wise_ledger.wire.tables import frame
from wise_ledger.wire.viewpoint import Seen

if TYPE_CHECKING:
    import pandas as pd

Kind = Literal["fy", "q"]


class Consensus(Model):
    """Statistics over the contributions that stood; where `reason` is given there is none."""

    mean: float | None
    median: float | None
    high: float | None
    low: float | None
    stdev: float | None = Field(description="n - 1; none for a single contribution")
    count: float | None
    raised: float | None = Field(description="contributors who raised against their own value 30 days before")
    cut: float | None
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
    count: float | None
    surprise: float | None = Field(description="actual less mean")
    surprise_relative: float | None = Field(description="over the absolute mean, a fraction")
    surprise_deviations: float | None
    currency: str | None


class ExpectedPeriod(Model):
    """A period of a company with its consensus, and what was announced of it by the cut-off."""

    period: str
    period_kind: Kind
    period_end: date
    consensus: Consensus
    announced: Announcement | None


class Contribution(Model):
    """A contributor's last word on a period by the cut-off."""

    contributor: str
    value: float | None
    published_at: datetime
    state: Literal["in", "withdrawn", "too old", "no rate"] = Field(description="in the consensus, or why not")


class WalkPoint(Model):
    """The consensus of a period at the end of a day."""

    date: date
    mean: float | None
    median: float | None
    high: float | None
    low: float | None
    count: float | None


Periods = list[ExpectedPeriod]
Contributions = list[Contribution]
Walk = list[WalkPoint]
Announcements = list[Announcement]
PERIOD_COLUMNS = (
    "period", "period_kind", "period_end", "mean", "median", "high", "low", "stdev", "count", "raised", "cut", "reason",
    "announced_at", "actual", "surprise", "surprise_relative", "surprise_deviations",
)  # fmt: skip
ANNOUNCED_COLUMNS = tuple(Announcement.model_fields)


class EstimatesAnswer(Seen):
    """What was expected of a company in one measure, the newest period first; of one period who and how it walked."""

    company: str
    name: str
    symbol: str | None
    measure: str
    unit: str
    estimate_currency: str | None = Field(description="of all amounts")
    max_age: int = Field(description="days that a contribution stands")
    periods: Periods
    period: str | None = Field(description="the one that contributions and walk are of")
    contributions: Contributions
    walk: Walk

    def rows(self) -> Rows:
        """One row a period."""
        rows = []
        for p in self.periods:
            told = {} if p.announced is None else p.announced.model_dump(mode="json")
            both = {**p.consensus.model_dump(mode="json"), **p.model_dump(mode="json", include=set(PERIOD_COLUMNS[:3]))}
            later = {n: told.get(n) for n in PERIOD_COLUMNS[12:]}
            rows.append({n: {**both, **later}.get(n) for n in PERIOD_COLUMNS})
        return Rows(PERIOD_COLUMNS, rows, context_of(self, "periods", "contributions", "walk"))

    def frame(self) -> "pd.DataFrame":
        """One row a period, with types."""
        return frame(self.rows())

    def __repr__(self) -> str:
        return f"<{self.name}: {self.measure} of {len(self.periods)} periods, known on {self.known_on:%Y-%m-%d}>"


class AnnouncementsAnswer(Seen):
    """What companies announced; both ends of the range are included."""

    measure: str
    start: date
    end: date
    announcements: Announcements

    def rows(self, columns: Sequence[str] = ANNOUNCED_COLUMNS, layout: Layout = "tidy", sort: str = "newest") -> Rows:
        """One row an announcement; wide or turned with one value each, companies across."""
        found = self.announcements if sort == "oldest" else self.announcements[::-1]
        names = columns if layout == "tidy" else ("period_end", "symbol", _one_of(columns))
        plain = (a.model_dump(mode="json") for a in found)
        rows = Rows(names, ({n: row[n] for n in names} for row in plain), context_of(self, "announcements"))
        return rows if layout == "tidy" else laid(rows, layout, down="period_end", across="symbol", value=names[2])

    def frame(self) -> "pd.DataFrame":
        """One row an announcement, with types."""
        return frame(self.rows())

    def __repr__(self) -> str:
        return f"<{len(self.announcements)} announcements of {self.measure}, {self.start} to {self.end}, both included>"


def _one_of(columns: Sequence[str]) -> str:
    about = ("company", "name", "symbol", "period", "period_kind", "period_end", "announced_at", "currency")
    return next((c for c in columns if c not in about), "actual")
