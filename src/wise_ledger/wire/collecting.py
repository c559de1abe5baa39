"""Collections, runs, sources and their tags, schedules, digests and loads on the wire."""

from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import ConfigDict, Field

from wise_ledger.wire.model import Model

RunState = Literal[
    "queued", "running", "paused", "finished", "partly_finished", "failed", "cancelled"
]
What = Literal[
    "statements",
    "attributes",
    "identifiers",
    "lists",
    "rates",
    "venues",
    "market",
    "estimates",
    "series",
]
ALL_OF_IT: list[What] = [
    "statements",
    "attributes",
    "identifiers",
    "lists",
    "rates",
    "venues",
    "market",
    "estimates",
    "series",
]


class SourceInfo(Model):
    """A source: what it gives, how fast it may be asked, and what was used today."""

    name: str
    title: str
    offers: list[str]
    per_second: float | None
    per_day: int | None
    at_once: int
    used_today: int
    left_alone_until: datetime | None = Field(
        description="after many failures it is given a rest until then"
    )
    last_run: int | None
    last_ended: datetime | None


class Sources(Model):
    """All sources."""

    sources: list[SourceInfo]


class CollectionRequest(Model):
    """Collect from a source, for everybody, for those on a list, or for
    companies named; some or all it gives.
    """

    model_config = ConfigDict(
        extra="forbid", json_schema_extra={"examples": [{"source": "fernmark"}]}
    )

    source: str
    list: str | None = None
    companies: "Names" = Field([], description="any identifiers")
    what: "Whats" = Field(ALL_OF_IT)
    since: date | None = Field(None, description="only what was published on this day or later")
    confirmed: bool = Field(
        True, description="false: refuse it where it takes more calls than the threshold"
    )


Names = list[str]
Whats = list[What]


class Plan(Model):
    """What a collection will take."""

    companies: int = Field(description="to be asked for")
    unchanged: int = Field(description="known to be as they were")
    filings: int = Field(description="new documents")
    calls: int
    seconds: float = Field(description="at the pace that the source allows")
    used_today: int
    per_day: int | None
    needs_confirmation: bool
    confirm_above: int = Field(description="calls")


class Outcome(Model):
    """What became of one company in a run."""

    subject: str = Field(description="the source's own key")
    company: str | None
    state: Literal["stored", "unchanged", "failed"]
    reason: str
    facts: int = Field(description="new facts")
    tries: int = Field(description="requests made for it")
    batch: int | None = Field(description="where it stands in the ledger")


Outcomes = list[Outcome]


class Run(Model):
    """Long work and how far it is."""

    id: int
    kind: Literal["collection", "verification", "match", "meaning"]
    title: str = Field(description="what it is, in words")
    source: str = Field(description="of a collection; empty for other kinds")
    list: str | None
    failed_of: int | None = Field(description="the run whose failed companies it tries again")
    schedule: str | None = Field(description="the schedule that queued it")
    state: RunState
    problem: str | None
    total: int | None = Field(
        description="companies, rows, terms or documents; null while it is not known"
    )
    done: int
    stored: int
    unchanged: int
    failed: int
    facts: int
    records: dict[str, int] = Field(
        description="new ones other than facts, by kind: prices, estimates, observations …"
    )
    requests: int
    bytes: int = Field(description="that came over the line")
    seconds_left: float | None = Field(description="at the speed so far")
    waits_until: datetime | None = Field(description="its source is left alone until then")
    created_at: datetime
    ended_at: datetime | None
    outcomes: Outcomes


class Runs(Model):
    """The newest runs first, without their outcomes."""

    runs: list[Run]
    next: str | None = Field(None, description="the cursor of the next page, where there is one")


class TagRule(Model):
    """A source's tag means an item of ours."""

    model_config = ConfigDict(
        extra="forbid",
        json_schema_extra={
            "examples": [{"tag": "orders_in_hand", "item": "order_backlog", "who": "Ada"}]
        },
    )

    tag: str
    item: str
    sign: Literal[1, -1] = Field(1, description="-1 turns amounts")
    power: int = Field(0, description="amounts are moved by this power of ten")
    unit: str | None = Field(None, description="where it is not the filing's own")
    template: str | None = Field(None, description="only for companies of this template")
    expected: bool = Field(False, description="no document has the tag yet: it is yet to come")
    who: str = ""
    why: str = ""


class Mapping(Model):
    """A rule in force; `shipped` ones come with the adapter."""

    tag: str
    item: str
    sign: int
    power: int
    unit: str | None
    template: str | None
    shipped: bool


class UnmappedTag(Model):
    """A tag that no item is known for."""

    tag: str
    documents: int
    companies: int
    example: str = Field(description="the name of a company that uses it")


class Tags(Model):
    """What a source's tags mean, and those that mean nothing yet, the most frequent first."""

    source: str
    rules: list[Mapping]
    unmapped: list[UnmappedTag]


class Applied(Model):
    """What a new meaning of a tag did to the documents already kept."""

    documents: int
    facts: int
    withdrawn: int
    batch: int


class Timing(Model):
    """When a schedule is due: one of `every`, `at`, `older_than`;
    with none only when somebody says so.
    """

    model_config = ConfigDict(extra="forbid")

    every: Annotated[str | None, Field(description="a span: 30min, 6h, 1d")] = None
    at: Annotated[list[str], Field(description="times of day, UTC: 07:00")] = []
    days: Annotated[
        str, Field(description="for `at`: mon-fri, or mon,thu; fri-mon is four days")
    ] = "mon-sun"
    older_than: Annotated[
        str | None, Field(description="when somebody asks for data and the last run is older")
    ] = None


class ScheduleRequest(Model):
    """A collection at set times."""

    model_config = ConfigDict(
        extra="forbid",
        json_schema_extra={
            "examples": [
                {
                    "name": "nightly",
                    "collection": {"source": "fernmark"},
                    "timing": {"at": ["02:30"]},
                    "who": "Ada",
                }
            ]
        },
    )

    name: str
    collection: CollectionRequest
    timing: Timing = Timing()
    notify: list[str] = Field(
        [], description="mailto:name@host, or an http address that is called, signed"
    )
    who: str


class ScheduleChange(Model):
    """Hold a schedule, or let it go on."""

    model_config = ConfigDict(extra="forbid", json_schema_extra={"examples": [{"paused": True}]})

    paused: bool


class Schedule(Model):
    """A schedule with its last run and when it is due next."""

    name: str
    source: str
    list: str | None
    timing: Timing
    notify: Names
    who: str
    paused: bool
    next_at: datetime | None
    last_run: int | None
    last_state: RunState | None
    last_ended: datetime | None
    last_facts: int | None = Field(description="what changed: new facts of the last run")
    problem: str | None = Field(description="why it cannot run any more")


class Schedules(Model):
    """Every schedule by name."""

    schedules: list[Schedule]


class Delivery(Model):
    """What became of a message about a run."""

    channel: Literal["mail", "call"]
    target: str
    state: Literal["sent", "failed"]
    reason: str
    tries: int
    ended_at: datetime


class DigestCompany(Model):
    """A company that is new to the ledger."""

    company: str
    name: str


class DigestPeriods(DigestCompany):
    """The new periods of a company: how many, the first and the last end, and their facts."""

    periods: int
    first: date
    last: date
    facts: int


class DigestChange(DigestCompany):
    """A figure restated, or withdrawn where `new` is missing."""

    item: str
    period_start: date | None
    period_end: date
    unit: str = Field(description="a currency, a currency per share, shares, pure or count")
    old: float | None
    new: float | None
    original: float | None = Field(description="as first published")
    latest: float | None = Field(description="as last published")
    percent: float | None = Field(description="by how much it changed, in percent of what it was")
    published_at: datetime
    document: str
    sha256: str
    source: str


class DigestTag(Model):
    """A tag that no item has, and in how many new documents it stands."""

    tag: str
    documents: int


class DigestFailure(Model):
    """A company, or what the source calls it, that could not be collected."""

    subject: str
    company: str | None
    reason: str


class Digest(Model):
    """What came in with a run: `counts` of all, and of each kind the first five hundred."""

    run: int
    source: str
    state: RunState
    made_at: datetime
    counts: dict[str, int]
    records: dict[str, int] = Field(description="new ones other than facts, by kind")
    companies: list[DigestCompany]
    periods: list[DigestPeriods]
    restatements: list[DigestChange]
    withdrawn: list[DigestChange]
    unmapped: list[DigestTag]
    failed: list[DigestFailure]
    deliveries: list[Delivery]


class Digests(Model):
    """The newest digests first, only their counts."""

    digests: list[Digest]
    next: str | None = Field(None, description="the cursor of the next page, where there is one")


class BadRow(Model):
    """A row of a file that was not loaded."""

    line: int
    column: str
    value: str
    problem: str
    mend: str


class PathOutcome(Model):
    """What became of a folder or page."""

    path: str
    company: str | None
    state: Literal["stored", "unchanged", "empty", "failed"]
    reason: str
    facts: int = Field(description="those that the ledger did not have")


class LoadAnswer(Model):
    """What a load did; without `batch` nothing was written."""

    kind: str
    rows: int
    batch: int | None
    bad: list[BadRow]
    new: int | None = Field(description="of facts, those that the ledger did not have")
    outcomes: list[PathOutcome] = Field(
        default=[], description="of a tree of pages, what became of each"
    )
    unmapped: dict[str, int] = Field(
        default={}, description="labels of pages without a meaning, and on how many"
    )
    notes: list[str] = Field(default=[], description="what should be known of what was loaded")
    quarantined: int = Field(
        default=0, description="prices, levels or rates that cannot be: kept, and not used"
    )


class SourceOrder(Model):
    """Which sources go first: for all, for an item, for a company, or for an item of a company."""

    item: str | None
    company: str | None
    name: str | None
    sources: list[str]


class SourceOrders(Model):
    """The orders that stand, the general one first."""

    orders: list[SourceOrder]


class SourceOrderRequest(Model):
    """Say which sources go first; an empty list takes an earlier word back."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [
                {
                    "sources": ["tolvane"],
                    "item": "long_term_debt",
                    "company": "BWG@ZALD",
                    "who": "Ada",
                    "why": "audited",
                }
            ]
        }
    )

    sources: list[str]
    who: str
    why: str = ""
    item: str | None = None
    company: str | None = None
