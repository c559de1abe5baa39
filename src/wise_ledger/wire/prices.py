"""Prices on the wire."""

from collections.abc import Sequence
from datetime import date
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import AfterValidator, ConfigDict, Field

from wise_ledger.wire.figures import Reason
from wise_ledger.wire.layout import Layout, laid
from wise_ledger.wire.model import Model
from wise_ledger.wire.rows import Rows, Tabled, context_of
from wise_ledger.wire.tables import frame
from wise_ledger.wire.viewpoint import Mark, Marks, Seen, SeenOfCompanies, Viewpoint
from wise_ledger.words import counted

if TYPE_CHECKING:
    import pandas as pd

Words = list[str]
Day = date
Numbers = list[float]
Frequency = Literal["day", "week", "month", "quarter", "year"]
PriceColumn = Literal[
    "date",
    "open",
    "high",
    "low",
    "close",
    "volume",
    "factor",
    "change",
    "total_return",
    "complete",
    "reason",
    "currency",
]
PriceColumns = Annotated[
    list[PriceColumn], AfterValidator(lambda names: [*dict.fromkeys(names)])
]  # each once
STANDARD: tuple[PriceColumn, ...] = (
    *("date", "open", "high", "low", "close", "volume", "reason", "currency"),
)
OWNER = ("company", "name", "symbol")


class PricesRequest(Viewpoint):
    """Prices of listings or companies from a day to a day, both included."""

    model_config = ConfigDict(
        extra="forbid",
        json_schema_extra={
            "examples": [
                {
                    "companies": ["AGK@ZALD"],
                    "start": "2023-01-01",
                    "end": "2023-12-31",
                    "frequency": "month",
                }
            ]
        },
    )

    list: str | None = None
    companies: Words = Field([], description="any identifier of a listing, a security or a company")
    start: str | None = Field(
        None, description="YYYY-MM-DD, included; a year before the end without it"
    )
    end: str | None = Field(
        None, description="YYYY-MM-DD, included; the cut-off's own day without it"
    )
    frequency: Frequency = Field("day", description="day, week, month, quarter or year")
    columns: PriceColumns = Field([*STANDARD], description="which, in this order")
    adjusted: bool = Field(
        True, description="for the splits known by the cut-off; as traded without"
    )
    sort: Literal["oldest", "newest"] = "oldest"
    layout: Layout = Field(
        "tidy", description="wide: listings across; turned: days across; of one column, in files"
    )


class Bar(Model):
    """The prices of a day, or of a stretch of days under its last trading day."""

    date: Day
    open: float | None
    high: float | None
    low: float | None
    close: float | None
    volume: float | None
    factor: float = Field(description="what prices of that day were divided by for later splits")
    change: float | None = Field(description="of the price since the last close before, a fraction")
    total_return: float | None = Field(description="the same with dividends reinvested")
    complete: bool = Field(description="the stretch is over, and lies within the range asked for")
    reason: Reason | None = Field(None, description="why there is no close")


Bars = list[Bar]


class PriceHistory(Model):
    """The prices of a listing, in the order asked for."""

    company: str
    name: str
    listing: str
    symbol: str
    currency: str
    since: Day | None = Field(
        description="the first day with a price, as known then; none where nothing is known"
    )
    bars: Bars


Histories = list[PriceHistory]


class PricesAnswer(SeenOfCompanies):
    """Prices, listing by listing; both ends of the range are included."""

    start: Day
    end: Day
    frequency: Frequency
    adjusted: bool
    histories: Histories

    def rows(self, columns: Sequence[str] = STANDARD, layout: Layout = "tidy") -> Rows:
        """One row a bar; wide or turned with one value each (`close`,
        or the first other column).
        """
        context = context_of(self, "histories")
        if layout != "tidy":
            columns = ("date", _one_of(columns))
        names = (*OWNER, *columns)

        def row(history: PriceHistory, bar: Bar) -> dict[str, Any]:
            values = {**bar.model_dump(), "currency": history.currency}
            return {"company": history.company, "name": history.name, "symbol": history.symbol} | {
                c: values[c] for c in columns
            }

        rows = Rows(names, (row(h, b) for h in self.histories for b in h.bars), context)
        if layout == "tidy":
            return rows
        return laid(rows, layout, down="date", across="symbol", value=_one_of(columns))

    def frame(self) -> "pd.DataFrame":
        """One row a bar, with types."""
        return frame(self.rows((*STANDARD, "factor", "change", "total_return", "complete")))

    def __repr__(self) -> str:
        span = f"{self.start} to {self.end}, both included, known on {self.known_on:%Y-%m-%d}"
        listings = counted(len(self.histories), "listing")
        return f"<prices of {listings} by {self.frequency}, {span}>"


def _one_of(columns: Sequence[str]) -> str:
    values = [c for c in columns if c not in ("date", "reason", "currency")]
    return "close" if "close" in values or not values else values[0]


class TradedCompany(Model):
    """A company on the market."""

    company: str
    name: str
    symbol: str | None
    currency: str | None = Field(description="of the close")
    date: Day | None = Field(description="of the close")
    close: float | None
    reason: Reason | None = Field(description="why there is no close")
    day: float | None = Field(description="change to the close before, a fraction")
    week: float | None = Field(description="change to the close 7 days before")
    month: float | None
    year: float | None
    year_to_date: float | None = Field(description="change since the last close of the year before")
    market_value: float | None
    market_value_currency: str | None
    market_value_reason: Reason | None
    market_value_marks: Marks
    closes: Numbers = Field(description="the last 60 closes, adjusted, the oldest first")


TradedCompanies = list[TradedCompany]


class MarketAnswer(SeenOfCompanies):
    """How companies stand on the market at a cut-off."""

    list: str | None
    list_title: str
    companies: TradedCompanies

    def rows(self) -> Rows:
        """One row a company."""
        names = [n for n in TradedCompany.model_fields if n != "closes"]
        rows = ({n: _flat(getattr(c, n)) for n in names} for c in self.companies)
        return Rows(names, rows, context_of(self, "companies"))

    def frame(self) -> "pd.DataFrame":
        """One row a company, with types."""
        return frame(self.rows())

    def __repr__(self) -> str:
        who = f"{counted(len(self.companies), 'company')} on the market, {self.list_title}"
        return f"<{who}, known on {self.known_on:%Y-%m-%d}>"


class Level(Model):
    """A list's own level on a day."""

    date: Day
    level: float | None
    total_return_level: float | None


Levels = list[Level]


class LevelsAnswer(Seen, Tabled):
    """The levels of a list; both ends of the range are included."""

    part = "levels"

    list: str
    list_title: str
    start: Day
    end: Day
    levels: Levels


def _flat(value: Any) -> Any:
    return " ".join(value) if isinstance(value, list) else value


__all__ = ["Mark", "MarketAnswer", "PricesAnswer", "PricesRequest"]
