"""Reading lists: what they are, who stood on them, and the versions they went through."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import Connection, func, select

from wise_ledger.core.time.instants import as_instant
from wise_ledger.store.tables import batches, list_notes, lists, members, sources

_HANDS = ("people", "files")  # the sources by which people keep lists themselves


@dataclass(frozen=True)
class ListInfo:
    """A list, and how many companies ever stood on it;
    `rule` or source (`kept_by`) that keeps it.
    """

    name: str
    title: str
    companies: int
    rule: str | None = None
    description: str = ""
    archived: bool = False
    kept_by: str | None = None


@dataclass(frozen=True)
class Stay:
    """A company's stay on a list."""

    company: int
    valid_from: int
    valid_to: int | None
    weight: float | None


@dataclass(frozen=True)
class ListVersion:
    """What one batch changed about a list: companies (numbers) that came and left,
    what was said, and by whom.
    """

    batch: int
    recorded_at: datetime
    who: str | None
    note: str
    joined: tuple[int, ...]
    left: tuple[int, ...]
    title: str | None
    description: str | None
    archived: bool | None


def all_lists(connection: Connection, batch: int | None = None) -> list[ListInfo]:
    """Every list, with what was last said about it: of all batches, or up to one."""
    upto = 2**62 if batch is None else batch
    query = (
        select(
            lists.c.number,
            lists.c.name,
            lists.c.title,
            lists.c.rule,
            func.min(members.c.source).label("source"),
            func.count(members.c.company.distinct()).label("n"),
        )
        .join_from(
            lists,
            members,
            (members.c.list == lists.c.number) & (members.c.batch <= upto),
            isouter=True,
        )
        .where(lists.c.batch <= upto)
        .group_by(lists.c.number)
        .order_by(lists.c.name)
    )
    noted = select(list_notes).where(list_notes.c.batch <= upto).order_by(list_notes.c.id)
    notes = {r.list: r for r in connection.execute(noted)}
    named = {r.number: r.name for r in connection.execute(select(sources.c.number, sources.c.name))}
    out = []
    for row in connection.execute(query):
        note = notes.get(row.number)
        title, about, archived = (
            (note.title, note.description, note.archived) if note else (row.title, "", False)
        )
        out.append(
            ListInfo(row.name, title, row.n, row.rule, about, archived, _keeper(named, row.source))
        )
    return out


def stays(connection: Connection, name: str, batch: int) -> list[Stay]:
    """The stays on a list as recorded by a batch; of one stay given twice,
    the later word counts.
    """
    query = (
        select(members)
        .join_from(members, lists)
        .where(lists.c.name == name, members.c.batch <= batch)
        .order_by(members.c.id)
    )
    newest = {
        (r.company, r.valid_from): Stay(r.company, r.valid_from, r.valid_to, r.weight)
        for r in connection.execute(query)
    }
    return list(newest.values())


def history(connection: Connection, name: str) -> list[ListVersion]:
    """Every batch that changed a list, the newest first."""
    number = connection.execute(select(lists.c.number).where(lists.c.name == name)).scalar_one()
    first = connection.execute(select(lists.c.batch).where(lists.c.number == number)).scalar_one()
    joined: dict[int, list[int]] = {first: []}
    left: dict[int, list[int]] = {}
    open_: set[int] = set()
    query = select(members.c.batch, members.c.company, members.c.valid_to).where(
        members.c.list == number
    )
    for row in connection.execute(query.order_by(members.c.id)):
        if row.valid_to is None:
            joined.setdefault(row.batch, []).append(row.company)
            open_.add(row.company)
        elif row.company in open_:
            left.setdefault(row.batch, []).append(row.company)
            open_.discard(row.company)
        else:  # a stay that was over when it was first given
            joined.setdefault(row.batch, []).append(row.company)
    notes = {
        r.batch: r
        for r in connection.execute(select(list_notes).where(list_notes.c.list == number))
    }
    touched = sorted({*joined, *left, *notes}, reverse=True)
    about = {
        r.number: r
        for r in connection.execute(select(batches).where(batches.c.number.in_(touched)))
    }
    out = []
    for batch in touched:
        note, row = notes.get(batch), about[batch]
        noted = (note.title, note.description, note.archived) if note else (None, None, None)
        who = note.who if note else None
        came, went = tuple(joined.get(batch, ())), tuple(left.get(batch, ()))
        out.append(
            ListVersion(batch, as_instant(row.recorded_at), who, row.note, came, went, *noted)
        )
    return out


def _keeper(named: dict[int, str], source: int | None) -> str | None:
    name = named.get(-1 if source is None else source)
    return None if name in _HANDS else name


def list_numbers(connection: Connection) -> Mapping[str, int]:
    """The number of each list by name."""
    return {r.name: r.number for r in connection.execute(select(lists.c.name, lists.c.number))}
