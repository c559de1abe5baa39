"""Items, batches and publications on the wire."""

from datetime import date, datetime
from typing import Literal

from pydantic import BaseModel


class Health(BaseModel):
    """The service answers; nothing about its contents."""

    status: Literal["ok"] = "ok"
    version: str


class Month(BaseModel):
    """How many facts became public in a month (YYYY-MM)."""

    month: str
    facts: int


class Publications(BaseModel):
    """When what the ledger holds became public."""

    months: list[Month]
    first: date | None
    last: date | None
    batch: int


class Batch(BaseModel):
    """One atomic write."""

    number: int
    recorded_at: datetime
    kind: str
    note: str
    rows: int
    hash: str


class Batches(BaseModel):
    """The newest batches first; `next` is the cursor of the following page."""

    batches: list[Batch]
    next: str | None


class Verification(BaseModel):
    """The hash chain was recomputed and holds."""

    batches: int
    facts: int
    hash: str
