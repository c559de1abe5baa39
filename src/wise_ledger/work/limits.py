"""Limits that people set: when a figure is stale (F12), when one without a publication date is taken
to have been published (T4).
"""

from dataclasses import dataclass, replace

from wise_ledger.core.errors import Problem, bad_input
from wise_ledger.core.nearest import mend_for
from wise_ledger.core.records.limits import LIMITS, LimitKind, LimitSaid
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store import limitreading
from wise_ledger.store.ledger import Ledger
from wise_ledger.words import counted
from wise_ledger.work import NotFound
from wise_ledger.work.preferring import source_number


@dataclass(frozen=True)
class Standing:
    """A limit that stands, of all sources or of one; who said so, why and in which batch,
    where it is not as usual.
    """

    name: str
    source: str | None
    days: int
    usual: int
    meaning: str
    who: str | None = None
    why: str | None = None
    since: int | None = None  # the batch


def limits(
    ledger: Ledger, snapshots: Snapshots, recorded_by: int | None = None
) -> tuple[list[Standing], int]:
    """The limits that stood as of a batch, those of sources after those of all; and the batch."""
    snapshot = snapshots.at(recorded_by)
    with ledger.database.read() as connection:
        last = {(r.name, r.source): r for r in limitreading.limits_said(connection, snapshot.batch)}
    out = []
    stand = snapshot.view.limits
    for kind in LIMITS.values():
        own = sorted(s for name, s in stand.said if name == kind.name and s is not None)
        for source in (None, *own):
            named = None if source is None else snapshot.source_names[source]
            days = stand.days(kind.name, source)
            plain = Standing(kind.name, named, days, kind.usual, kind.meaning)
            if (kind.name, source) in stand.said:
                said = last[kind.name, source]
                plain = replace(plain, who=said.who, why=said.why, since=said.batch)
            out.append(plain)
    return out, snapshot.batch


def set_limit(
    ledger: Ledger,
    snapshots: Snapshots,
    name: str,
    days: int | None,
    who: str,
    why: str = "",
    *,
    source: str | None = None,
) -> None:
    """Say of a limit how many days it is, of all sources or of one;
    without days an earlier word is taken back.

    Raises `BadInput` and `NotFound`.
    """
    if not who.strip():
        raise bad_input("who", "", "it is empty", "say who says so")
    kind = LIMITS.get(name)
    if kind is None:
        mend = mend_for(name, LIMITS) or f"there are {', '.join(LIMITS)}"
        raise NotFound(Problem("name", name, "there is no limit of this name", mend))
    if days is not None and not kind.least <= days <= kind.most:
        span = f"{kind.least:,} to {counted(kind.most, 'day')}"
        raise bad_input("days", days, f"this limit is {span}", "give a whole number of days")
    number = None if source is None else _number(snapshots.at(), kind, source)
    of = f"{name} of {source}" if source else name
    said = "as usual" if days is None else counted(days, "day")
    with ledger.batch("limits", f"{of}: {said}, says {who.strip()}") as batch:
        batch.add_limit(LimitSaid(name, number, days), who.strip(), why.strip())


def _number(snapshot: Snapshot, kind: LimitKind, source: str) -> int:
    """The number of a source that may have a limit of its own."""
    if not kind.of_sources:
        raise bad_input(
            "source", source, f"{kind.name} is one for all sources", "leave the source out"
        )
    return source_number(snapshot, source)
