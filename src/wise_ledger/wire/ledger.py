"""Lists, items, sources, batches, runs and publications on the wire."""

from datetime import date, datetime
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

RunState = Literal["queued", "running", "finished", "partly_finished", "failed"]


class Health(BaseModel):
    """The service answers; nothing about its contents."""

    status: Literal["ok"] = "ok"
    version: str


class Item(BaseModel):
    """One kind of figure."""

    code: str
    title: str
    statement: str
    nature: str
    unit: str
    definition: str
    templates: list[str]


class Catalogue(BaseModel):
    """The items, and the functions and attributes that an expression may use."""

    items: list[Item]
    attributes: list[str]
    functions: dict[str, str] = Field(description="how each is called, and what it does")


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


class SourceInfo(BaseModel):
    """A source that can be collected from."""

    name: str


class Sources(BaseModel):
    """All sources."""

    sources: list[SourceInfo]


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


class CollectionRequest(BaseModel):
    """Collect from a source, for everybody or for those on a list."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"source": "fernmark"}]})

    source: str
    list: str | None = None


class BadRow(BaseModel):
    """A row of a file that was not loaded."""

    line: int
    column: str
    value: str
    problem: str
    mend: str


class LoadAnswer(BaseModel):
    """What a load did; without `batch` nothing was written."""

    kind: str
    rows: int
    batch: int | None
    bad: list[BadRow]


class Outcome(BaseModel):
    """What became of one company in a run."""

    subject: str = Field(description="the source's own key")
    company: str | None
    state: Literal["stored", "unchanged", "failed"]
    reason: str
    facts: int = Field(description="new facts")
    tries: int = Field(description="requests made for it")


Outcomes = list[Outcome]


class Run(BaseModel):
    """Long work and how far it is."""

    id: int
    kind: str
    source: str
    list: str | None
    state: RunState
    problem: str | None
    total: int | None
    done: int
    failed: int
    facts: int
    created_at: datetime
    ended_at: datetime | None
    outcomes: Outcomes


class Runs(BaseModel):
    """The newest runs first, without their outcomes."""

    runs: list[Run]
