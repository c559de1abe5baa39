"""Models of the limits that people set."""

from typing import ClassVar, Literal

from pydantic import ConfigDict, Field

from wise_ledger.wire.model import Model
from wise_ledger.wire.rows import Tabled

LimitName = Literal["stale_after", "lag_of_year", "lag_of_other", "estimate_stands"]


class Limit(Model):
    """A limit that stands, of all sources or of one."""

    name: LimitName
    source: str | None = Field(description="nothing: of all that have none of their own")
    days: int
    usual: int = Field(description="days where nobody says otherwise")
    meaning: str = Field(description="what happens so many days")
    who: str | None = Field(None, description="who said so; nothing: it is as usual")
    why: str | None = None
    since: int | None = Field(None, description="the batch since which it counts")


class LimitList(Tabled):
    """The limits that stand, those of sources after those of all."""

    part: ClassVar[str] = "limits"

    limits: list[Limit]
    batch: int = Field(description="the batch as of which they stand")


class LimitRequest(Model):
    """Say how many days a limit is; without days an earlier word is taken back."""

    model_config = ConfigDict(
        extra="forbid",
        json_schema_extra={
            "examples": [
                {"name": "lag_of_year", "days": 75, "source": "files", "who": "Ada",
                 "why": "it publishes by the middle of March"},
            ]
        },
    )  # fmt: skip

    name: str = Field(description="such as stale_after or lag_of_year")
    days: int | None = Field(None, description="how many; nothing takes an earlier word back")
    source: str | None = Field(None, description="only of what comes from it; lags alone")
    who: str = Field(description="who says so")
    why: str = Field("", description="kept beside it")
