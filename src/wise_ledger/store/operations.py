"""The service's own state: runs and outcomes, what is remembered of sources.

Unlike the ledger it changes.
"""

import json
from dataclasses import asdict, dataclass, field, replace
from datetime import date, datetime
from typing import Any

from sqlalchemy import Connection, func, insert, select, update

from wise_ledger.core.time.instants import as_instant, micros
from wise_ledger.store.rowwriting import driver_of, insert_rows
from wise_ledger.store.statetables import digests, outcomes, runs, source_state

OPEN = ("queued", "running")
COLLECTION = "collection"
_BASE = ("statements", "attributes", "identifiers", "lists", "rates")


@dataclass(frozen=True)
class Asked:
    """What a collection is to fetch: for a list, for `subjects` (the source's keys),
    or for all; what; since when.

    `failed_of` is the run whose failed companies it tries again.
    """

    source: str
    list: str | None = None
    subjects: tuple[str, ...] = ()
    what: tuple[str, ...] = (*_BASE, "venues", "market", "estimates", "series")
    since: date | None = None
    failed_of: int | None = None

    @property
    def whole(self) -> bool:
        """Everything that the source has, so that next time only what changed need be asked for."""
        return self == Asked(self.source, what=self.what) and set(self.what) >= set(_BASE)

    @property
    def everything_of_some(self) -> bool:
        """All that the source has of some companies:
        what did not change since everything was asked for is known.
        """
        return set(self.what) >= set(_BASE) and self.since is None and self.failed_of is None

    def text(self) -> str:
        """As kept."""
        return json.dumps(
            {**asdict(self), "since": None if self.since is None else self.since.isoformat()}
        )

    @classmethod
    def read(cls, source: str, text: str) -> "Asked":
        """As it was kept."""
        given: dict[str, Any] = {"source": source, **json.loads(text)}
        since = given.get("since")
        plain = cls(**{**given, "since": None if since is None else date.fromisoformat(since)})
        return replace(plain, subjects=tuple(plain.subjects), what=tuple(plain.what))


@dataclass(frozen=True)
class Run:
    """Long work: queued, running, paused, finished, partly_finished, failed or cancelled.

    A `collection` has what is `asked` and outcomes by company; any other kind a `title`, what is
    `given` to it as JSON, and how much of its total is `done`.
    """

    id: int
    kind: str
    source: str
    list: str | None
    state: str
    problem: str | None
    total: int | None
    created_at: datetime
    ended_at: datetime | None
    asked: Asked
    batch: int | None
    requests: int
    bytes: int
    schedule: int | None
    title: str
    done: int
    given: str


@dataclass(frozen=True)
class Outcome:
    """What became of one company (or other subject) in a run: stored,
    unchanged or failed, and why.
    """

    subject: str
    company: str | None
    state: str
    reason: str
    facts: int
    tries: int
    batch: int | None = field(default=None, compare=False)


@dataclass(frozen=True)
class Tally:
    """How many subjects of a run came to which end, and how many facts are new."""

    stored: int
    unchanged: int
    failed: int
    facts: int

    @property
    def done(self) -> int:
        """All that came to an end."""
        return self.stored + self.unchanged + self.failed


def add_run(
    connection: Connection,
    asked: Asked,
    now: datetime,
    *,
    request_key: str | None = None,
    schedule: int | None = None,
) -> int:
    """Queue a collection and return its id;
    the id of the run that this `request_key` queued before, if it did.
    """
    values = {"kind": COLLECTION, "source": asked.source, "list": asked.list, "asked": asked.text()}
    return _queued(connection, values, now, request_key, schedule)


def add_work(
    connection: Connection,
    kind: str,
    title: str,
    given: str,
    now: datetime,
    request_key: str | None,
) -> int:
    """Queue long work that is no collection;
    the id of the run that this `request_key` queued before, if it did.
    """
    return _queued(
        connection, {"kind": kind, "source": "", "title": title, "asked": given}, now, request_key
    )


def _queued(
    connection: Connection,
    values: dict[str, Any],
    now: datetime,
    key: str | None,
    schedule: int | None = None,
) -> int:
    if key is not None:
        before = connection.execute(select(runs.c.id).where(runs.c.request_key == key)).scalar()
        if before is not None:
            return int(before)
    values |= {
        "state": "queued",
        "created_at": micros(now),
        "request_key": key,
        "schedule": schedule,
    }
    values |= {"requests": 0, "bytes": 0}
    return int(connection.execute(insert(runs).values(**values)).inserted_primary_key[0])


def set_run(connection: Connection, run: int, **values: object) -> None:
    """Change a run's state, total, problem or end."""
    plain = {k: micros(v) if isinstance(v, datetime) else v for k, v in values.items()}
    connection.execute(update(runs).where(runs.c.id == run).values(**plain))


def begin_run(connection: Connection, run: int) -> bool:
    """Say that a run is worked on; False where it is no longer to be,
    as somebody held or ended it meanwhile.
    """
    open_still = (runs.c.id == run) & runs.c.state.in_(OPEN)
    return connection.execute(update(runs).where(open_still).values(state="running")).rowcount == 1


def count_traffic(connection: Connection, run: int, requests: int, size: int) -> None:
    """Add to what a run asked for and got."""
    more = {"requests": runs.c.requests + requests, "bytes": runs.c.bytes + size}
    connection.execute(update(runs).where(runs.c.id == run).values(**more))


def add_outcomes(connection: Connection, run: int, found: list[Outcome], now: datetime) -> None:
    """Keep what became of subjects; a run that goes on after a crash may report it again."""
    rows = [
        # in the table's order
        (run, o.subject, o.company, o.state, o.reason, o.facts, o.tries, micros(now), o.batch)
        for o in found
    ]
    insert_rows(connection, outcomes, rows, "REPLACE")


def find_run(connection: Connection, run: int) -> Run | None:
    """A run by its id."""
    found = connection.execute(select(runs).where(runs.c.id == run)).first()
    return None if found is None else _run(found)


def newest_runs(
    connection: Connection, limit: int, schedule: int | None = None, *, before: int | None = None
) -> list[Run]:
    """The newest runs first, of all or of one schedule, those before one of them."""
    query = select(runs).order_by(runs.c.id.desc()).limit(limit)
    if schedule is not None:
        query = query.where(runs.c.schedule == schedule)
    if before is not None:
        query = query.where(runs.c.id < before)
    return [_run(r) for r in connection.execute(query)]


def open_runs(connection: Connection) -> list[Run]:
    """Runs that have not ended and are not paused, the oldest first."""
    query = select(runs).where(runs.c.state.in_(OPEN)).order_by(runs.c.id)
    return [_run(r) for r in connection.execute(query)]


def runs_without_digest(connection: Connection) -> list[int]:
    """Collections that came to their end, but nobody was notified of what
    they brought, the oldest first.
    """
    ended = (runs.c.kind == COLLECTION) & runs.c.state.in_(
        ("finished", "partly_finished", "failed")
    )
    digested = select(digests.c.run)
    return list(
        connection.execute(
            select(runs.c.id).where(ended, runs.c.id.not_in(digested)).order_by(runs.c.id)
        ).scalars()
    )


def outcomes_of(connection: Connection, run: int) -> list[Outcome]:
    """The outcomes of a run by subject."""
    query = select(outcomes).where(outcomes.c.run == run).order_by(outcomes.c.subject)
    rows = connection.execute(query)
    return [
        Outcome(r.subject, r.company, r.state, r.reason, r.facts, r.tries, r.batch) for r in rows
    ]


def tally(connection: Connection, run: int) -> Tally:
    """The outcomes of a run, counted."""
    query = select(outcomes.c.state, func.count(), func.sum(outcomes.c.facts)).where(
        outcomes.c.run == run
    )
    count = {
        state: (n, facts)
        for state, n, facts in connection.execute(query.group_by(outcomes.c.state))
    }
    by_state = [count.get(s, (0, 0))[0] for s in ("stored", "unchanged", "failed")]
    return Tally(*by_state, facts=sum(facts for _, facts in count.values()))


def remembered(connection: Connection, source: str, name: str) -> str | None:
    """What is remembered of a source under a name."""
    query = "SELECT value FROM source_state WHERE source = ? AND name = ?"
    found = driver_of(connection).execute(query, (source, name)).fetchone()
    return None if found is None else str(found[0])


def remember(connection: Connection, source: str, marks: dict[str, str]) -> None:
    """Remember things of a source, in place of what was."""
    insert_rows(
        connection,
        source_state,
        [(source, name, value) for name, value in marks.items()],
        "REPLACE",
    )


def _run(row) -> Run:  # type: ignore[no-untyped-def]
    return Run(
        row.id,
        row.kind,
        row.source,
        row.list,
        row.state,
        row.problem,
        row.total,
        as_instant(row.created_at),
        None if row.ended_at is None else as_instant(row.ended_at),
        Asked.read(row.source, row.asked) if row.kind == COLLECTION else Asked(row.source),
        row.batch,
        row.requests,
        row.bytes,
        row.schedule,
        row.title,
        row.done,
        row.asked,
    )
