"""How a question is asked, and what every answer says of that."""

from datetime import datetime
from typing import Literal

from pydantic import Field

from wise_ledger.wire.model import Model, Number

Mark = Literal["assumed", "approximate", "mixed_basis", "implied", "flagged", "extreme"]
Marks = list[Mark]
# an extreme ratio is marked for the eye: it is as good a figure as any
MarkLeftOut = Literal["assumed", "approximate", "mixed_basis", "implied", "flagged"]
LeftOut = list[MarkLeftOut]


class PlainViewpoint(Model):
    """As known on a date (its end, UTC) or at an instant, as recorded by a
    batch, without marked figures: of what stands in the unit it was published in.
    """

    known_on: str | None = Field(
        None,
        description="YYYY-MM-DD (its end, UTC), or an instant with its time zone; by default now",
        examples=["2023-06-30"],
    )
    recorded_by: Number | None = Field(None, description="ignore every batch after this one")
    leave_out: LeftOut = Field([], description="figures with these marks do not count")


class Viewpoint(PlainViewpoint):
    """The same, of what can be shown in a currency of choice."""

    currency: str | None = Field(None, description="ISO 4217: amounts are shown and compared in it")


class CellViewpoint(Viewpoint):
    """The same, of figures in cells, which can say whether they read differently later."""

    hindsight: bool = Field(False, description="also say what reads differently later")


class Seen(Model):
    """How the question was asked, and the newest batch that the answer rests on."""

    known_on: datetime
    recorded_by: Number | None = None
    leave_out: LeftOut = []
    currency: str | None = None  # asked for: amounts come in it
    batch: int


class Unanswered(Model):
    """Somebody who was asked for and is not found, as they were named: the others are answered."""

    asked: str
    problem: str
    mend: str


class SeenOfCompanies(Seen):
    """The same, of an answer about companies that were named."""

    failed: list[Unanswered] = Field(
        [], description="who was named and is not found, in the order given"
    )
