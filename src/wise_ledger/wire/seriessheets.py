"""Sheets of series that people keep, on the wire."""

from datetime import datetime
from typing import TYPE_CHECKING, Literal

from pydantic import ConfigDict, Field

from wise_ledger.wire.model import Model
from wise_ledger.wire.rows import Tabled
from wise_ledger.wire.series import Asked, SeriesAsked
from wise_ledger.wire.viewpoint import Seen

if TYPE_CHECKING:
    pass


class SheetRequest(Model):
    """Keep a sheet: new, or another version of one."""

    model_config = ConfigDict(
        extra="forbid",
        json_schema_extra={
            "examples": [
                {
                    "title": "Inflation of three economies",
                    "who": "ada",
                    "start": "2010",
                    "series": [
                        {"key": "CONSUMER_PRICES/M.*.00", "transforms": ["growth on a year ago"]}
                    ],
                }
            ]
        },
    )

    title: str = ""
    description: str = ""
    series: Asked
    start: str | None = None
    who: str


class SheetInfo(Model):
    """A kept sheet of series."""

    name: str
    title: str
    description: str
    series: list[SeriesAsked]
    start: str | None
    version: int
    who: str
    kept_at: datetime
    batch: int
    archived: bool


class Sheets(Tabled):
    """Kept sheets, or versions of one."""

    part = "sheets"
    without = ("series",)

    sheets: list[SheetInfo]


class SheetArchive(Model):
    """Archive a sheet, or bring it back."""

    model_config = ConfigDict(
        extra="forbid", json_schema_extra={"examples": [{"archived": True, "who": "ada"}]}
    )

    archived: bool = True
    who: str


class SheetChanged(Model):
    """What is new of a series: a period that came, one that reads otherwise,
    one that was taken back.
    """

    key: str
    title: str
    period: str
    head: str = Field(description="its transforms in words")
    percent: bool
    kind: Literal["new", "revised", "withdrawn"]
    before: float | None
    after: float | None


class SheetChanges(Seen, Tabled):
    """What changed on a sheet since an earlier cut-off."""

    part = "changes"

    name: str
    since: datetime
    changes: list[SheetChanged]
