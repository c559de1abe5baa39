"""Schedules, digests and deliveries: kept beside the runs."""

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import Connection, delete, insert, select, update

from wise_ledger.core.time.instants import as_instant, micros
from wise_ledger.store.statetables import deliveries, digests, schedules


@dataclass(frozen=True)
class ScheduleRow:
    """A schedule as kept: what is asked, when and who is notified are JSON."""

    id: int
    name: str
    asked: str
    timing: str
    notify: str
    who: str
    paused: bool
    created_at: datetime
    next_at: datetime | None


@dataclass(frozen=True)
class Delivery:
    """A message about a run: sent or failed, and why."""

    run: int
    channel: str
    target: str
    state: str
    reason: str
    tries: int
    ended_at: datetime


def keep_digest(connection: Connection, run: int, now: int, content: str) -> None:
    """Keep a run's digest, in place of an earlier one."""
    row = {"run": run, "made_at": now, "content": content}
    connection.execute(insert(digests).prefix_with("OR REPLACE").values(**row))


def find_digest(connection: Connection, run: int) -> tuple[int, str] | None:
    """When a run's digest was made, and its content."""
    found = connection.execute(select(digests).where(digests.c.run == run)).first()
    return None if found is None else (found.made_at, found.content)


def newest_digests(connection: Connection, limit: int, before: int | None = None) -> list[int]:
    """The runs with a digest, the newest first, those before one of them."""
    query = select(digests.c.run).order_by(digests.c.run.desc()).limit(limit)
    if before is not None:
        query = query.where(digests.c.run < before)
    return [r.run for r in connection.execute(query)]


def add_schedule(
    connection: Connection, name: str, asked: str, timing: str, notify: str, who: str, now: datetime
) -> int:
    """Keep a schedule; returns its id."""
    row = {"name": name, "asked": asked, "timing": timing, "notify": notify, "who": who}
    values = {**row, "paused": False, "created_at": micros(now)}
    return int(connection.execute(insert(schedules).values(**values)).inserted_primary_key[0])


def set_schedule(connection: Connection, id_: int, **values: object) -> None:
    """Change a schedule."""
    plain = {k: micros(v) if isinstance(v, datetime) else v for k, v in values.items()}
    connection.execute(update(schedules).where(schedules.c.id == id_).values(**plain))


def remove_schedule(connection: Connection, id_: int) -> None:
    """Forget a schedule; its runs stay."""
    connection.execute(delete(schedules).where(schedules.c.id == id_))


def all_schedules(connection: Connection) -> list[ScheduleRow]:
    """Every schedule by name."""
    return [
        ScheduleRow(
            r.id, r.name, r.asked, r.timing, r.notify, r.who, r.paused, as_instant(r.created_at),
            None if r.next_at is None else as_instant(r.next_at),
        )
        for r in connection.execute(select(schedules).order_by(schedules.c.name))
    ]  # fmt: skip


def add_delivery(connection: Connection, delivery: Delivery) -> None:
    """Keep what became of a message."""
    connection.execute(
        insert(deliveries).values(**{**delivery.__dict__, "ended_at": micros(delivery.ended_at)})
    )


def deliveries_of(connection: Connection, run: int) -> list[Delivery]:
    """The messages about a run."""
    query = select(deliveries).where(deliveries.c.run == run).order_by(deliveries.c.id)
    return [
        Delivery(r.run, r.channel, r.target, r.state, r.reason, r.tries, as_instant(r.ended_at))
        for r in connection.execute(query)
    ]
