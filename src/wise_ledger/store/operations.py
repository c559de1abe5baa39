"""The service's own state: tokens, runs and their outcomes. Unlike the ledger, it changes."""

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import Connection, insert, select, update

from wise_ledger.core.facts.instants import as_instant, micros
from wise_ledger.store.tables import outcomes, runs, tokens


@dataclass(frozen=True)
class Run:
    """Long work: queued, running, finished, partly_finished or failed."""

    id: int
    kind: str
    source: str
    list: str | None
    state: str
    problem: str | None
    total: int | None
    created_at: datetime
    ended_at: datetime | None


@dataclass(frozen=True)
class Outcome:
    """What became of one company (or other subject) in a run: stored, unchanged or failed, and why."""

    subject: str
    company: str | None
    state: str
    reason: str
    facts: int
    tries: int


def add_token(connection: Connection, id_: str, name: str, hash_: str, now: datetime) -> None:
    """Keep a token's hash."""
    connection.execute(insert(tokens).values(id=id_, name=name, hash=hash_, created_at=micros(now)))


def token_hash(connection: Connection, id_: str) -> str | None:
    """The hash of a token that is not revoked."""
    return connection.execute(select(tokens.c.hash).where(tokens.c.id == id_, tokens.c.revoked_at.is_(None))).scalar()


def has_tokens(connection: Connection) -> bool:
    """Whether anybody can sign in."""
    return connection.execute(select(tokens.c.id).where(tokens.c.revoked_at.is_(None)).limit(1)).first() is not None


def add_run(
    connection: Connection, kind: str, source: str, list_: str | None, now: datetime, request_key: str | None = None
) -> int:
    """Queue a run and return its id; the id of the run that this `request_key` queued before, if it did."""
    if request_key is not None:
        asked = connection.execute(select(runs.c.id).where(runs.c.request_key == request_key)).scalar()
        if asked is not None:
            return int(asked)
    values = {"kind": kind, "source": source, "list": list_, "state": "queued", "created_at": micros(now)}
    values["request_key"] = request_key
    return int(connection.execute(insert(runs).values(**values)).inserted_primary_key[0])


def set_run(connection: Connection, run: int, **values: object) -> None:
    """Change a run's state, total, problem or end."""
    plain = {k: micros(v) if isinstance(v, datetime) else v for k, v in values.items()}
    connection.execute(update(runs).where(runs.c.id == run).values(**plain))


def add_outcome(connection: Connection, run: int, outcome: Outcome, now: datetime) -> None:
    """Keep what became of a subject; a run that goes on after a crash may say it anew."""
    values = {**outcome.__dict__, "run": run, "ended_at": micros(now)}
    connection.execute(insert(outcomes).prefix_with("OR REPLACE").values(**values))


def find_run(connection: Connection, run: int) -> Run | None:
    """A run by its id."""
    found = connection.execute(select(runs).where(runs.c.id == run)).first()
    return None if found is None else _run(found)


def newest_runs(connection: Connection, limit: int) -> list[Run]:
    """The newest runs first."""
    return [_run(r) for r in connection.execute(select(runs).order_by(runs.c.id.desc()).limit(limit))]


def open_runs(connection: Connection) -> list[Run]:
    """Runs that have not ended, the oldest first."""
    query = select(runs).where(runs.c.state.in_(("queued", "running"))).order_by(runs.c.id)
    return [_run(r) for r in connection.execute(query)]


def outcomes_of(connection: Connection, run: int) -> list[Outcome]:
    """The outcomes of a run by subject."""
    query = select(outcomes).where(outcomes.c.run == run).order_by(outcomes.c.subject)
    return [Outcome(r.subject, r.company, r.state, r.reason, r.facts, r.tries) for r in connection.execute(query)]


def _run(row) -> Run:  # type: ignore[no-untyped-def]
    ended = None if row.ended_at is None else as_instant(row.ended_at)
    return Run(
        row.id, row.kind, row.source, row.list, row.state, row.problem, row.total, as_instant(row.created_at), ended
    )
