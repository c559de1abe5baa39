"""Items, batches and publications on the wire."""

from datetime import date, datetime
from typing import Literal

from pydantic import Field

from wise_ledger.wire.model import Model


class Health(Model):
    """The service answers; nothing about its contents."""

    status: Literal["ok"] = "ok"
    version: str


class Month(Model):
    """How many facts became public in a month (YYYY-MM)."""

    month: str
    facts: int


class Publications(Model):
    """When what the ledger holds became public."""

    months: list[Month]
    first: date | None
    last: date | None
    batch: int


class Batch(Model):
    """One atomic write."""

    number: int
    recorded_at: datetime
    kind: str
    note: str
    rows: int
    hash: str


class Batches(Model):
    """The newest batches first; `next` is the cursor of the following page."""

    batches: list[Batch]
    next: str | None


class Verification(Model):
    """The hash chain was recomputed and holds."""

    batches: int
    facts: int
    hash: str
    columns: int = Field(0, description="files of columns that were compared with the ledger")
    made_again: int = Field(
        0, description="of these, files that did not agree with it: they are made again"
    )
    notes: list[str] = Field(
        [], description="what a person should look at, though nothing is broken"
    )
