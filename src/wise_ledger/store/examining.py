"""Reading what checks look at, what they found, and what people said of it (Q1 to Q3)."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import Connection, bindparam, text

from wise_ledger.core.quality.checks import AROUND
from wise_ledger.core.quality.held import Held
from wise_ledger.core.time.instants import DAY, as_instant
from wise_ledger.core.time.periods import as_date
from wise_ledger.store.limitreading import limits, published_at
from wise_ledger.store.rowwriting import driver_of

# A fact with a hard finding is out of use unless the last word on it accepts it.
QUARANTINED = (
    "SELECT DISTINCT f.fact FROM findings f WHERE f.hard AND f.batch <= :batch AND coalesce((SELECT v.accepted FROM"
    " verdicts v WHERE v.fact = f.fact AND v.batch <= :batch ORDER BY v.id DESC LIMIT 1), 0) = 0"
)
_OF_COMPANY = " AND f.fact IN (SELECT id FROM facts WHERE company = :company)"


_BESIDE = (
    "SELECT f.id, i.code, f.period_start, f.period_end, f.published_at, f.value, f.unit, f.document,"
    " f.source FROM facts f JOIN items i ON i.number = f.item"
    " WHERE f.company = :company AND f.basis = 'consolidated' AND f.id >= :first AND f.id < :last"
    " AND f.period_end BETWEEN :begin AND :end ORDER BY f.id"
)


def held(connection: Connection, company: int, batch: int, first: int, new: Held | None) -> Held:
    """The consolidated figures of a company that are new in `batch`,
    and those in use that checks look at beside them.

    These are the figures of periods that end within `AROUND` days of those of the new ones. The
    facts of the batch, which is the newest, begin with the id `first`; `new` are its figures where
    they are at hand, None where they are to be read.
    """
    if new is None:
        asked = {"company": company, "begin": -DAY, "end": DAY, "first": first, "last": DAY}
        new = _held_of(driver_of(connection).execute(_BESIDE, asked).fetchall(), new=True)
    if not len(new):
        return new
    begin, end = int(new.end.min()) - AROUND, int(new.end.max()) + AROUND
    asked = {"company": company, "begin": begin, "end": end, "first": 0, "last": first}
    beside = driver_of(connection).execute(_BESIDE, asked).fetchall()
    if beside:
        out = set(quarantined(connection, batch, company).tolist())
        beside = [r for r in beside if r[0] not in out]
    return Held.joined([_held_of(beside, new=False), new]) if beside else new


def _held_of(rows: Sequence[tuple[Any, ...]], *, new: bool) -> Held:
    return Held.of(*(zip(*rows, strict=True) if rows else [()] * 9), new=new)


def template_of(connection: Connection, company: int) -> str | None:
    """The template that was said of a company last."""
    query = "SELECT value FROM attributes WHERE company = ? AND name = 'template' ORDER BY valid_from DESC, id DESC"
    found = driver_of(connection).execute(query, (company,)).fetchone()
    return None if found is None else str(found[0])


def quarantined(
    connection: Connection, batch: int, company: int | None = None
) -> NDArray[np.int64]:
    """The facts that are not used, as recorded by a batch, of one company or all; ascending."""
    query = QUARANTINED + (_OF_COMPANY if company is not None else "")
    found = connection.execute(text(query), {"batch": batch, "company": company}).scalars()
    return np.sort(np.fromiter(found, np.int64))


def flagged(connection: Connection, batch: int) -> NDArray[np.int64]:
    """Every fact that a check found something about, up to a batch; ascending."""
    query = text("SELECT DISTINCT fact FROM findings WHERE batch <= :batch ORDER BY fact")
    return np.fromiter(connection.execute(query, {"batch": batch}).scalars(), np.int64)


@dataclass(frozen=True)
class Listed:
    """A finding with its fact, document, and the last word on it."""

    fact: int
    check: str
    hard: bool
    detail: str
    company: int
    item: str
    period_start: date | None
    period_end: date
    value: float | None
    unit: str
    reported: str
    scale: int
    published_at: datetime
    source: str
    document: str
    sha256: str
    place: str
    accepted: bool | None
    who: str | None
    why: str | None


def listed(connection: Connection, batch: int) -> list[Listed]:
    """All findings up to a batch; hard ones first, the newest first."""
    published = published_at(limits(connection, batch), "f")
    query = text(
        'SELECT n.fact, n."check", n.hard, n.detail, f.company, i.code, f.period_start, f.period_end, f.value, f.unit,'
        f" f.reported, f.scale, {published} AS published_at, s.name AS source, d.title, d.sha256,"
        " f.place, v.accepted, v.who, v.why"
        " FROM findings n JOIN facts f ON f.id = n.fact JOIN items i ON i.number = f.item"
        " JOIN documents d ON d.number = f.document JOIN sources s ON s.number = f.source"
        " LEFT JOIN verdicts v ON v.id = (SELECT max(w.id) FROM verdicts w WHERE w.fact = n.fact AND w.batch <= :batch)"
        " WHERE n.batch <= :batch ORDER BY n.hard DESC, published_at DESC, n.id"
    )
    return [
        Listed(
            r.fact,
            r.check,
            bool(r.hard),
            r.detail,
            r.company,
            r.code,
            None if r.period_start is None else as_date(r.period_start),
            as_date(r.period_end),
            r.value,
            r.unit,
            r.reported,
            r.scale,
            as_instant(r.published_at),
            r.source,
            r.title,
            r.sha256,
            r.place,
            None if r.accepted is None else bool(r.accepted),
            r.who,
            r.why,
        )
        for r in connection.execute(query, {"batch": batch})
    ]


def checks_by_fact(connection: Connection, batch: int) -> dict[int, tuple[str, ...]]:
    """The checks that found something, by fact, up to a batch."""
    query = text('SELECT fact, "check" FROM findings WHERE batch <= :batch ORDER BY hard DESC, id')
    out: dict[int, tuple[str, ...]] = {}
    for fact, check in connection.execute(query, {"batch": batch}):
        out[fact] = (*out.get(fact, ()), check)
    return out


def of_batches(connection: Connection, batches: Collection[int]) -> tuple[int, int]:
    """How many facts of these batches were quarantined, and how many flagged."""
    query = text(
        "SELECT hard, count(DISTINCT fact) AS n FROM findings WHERE batch IN :batches GROUP BY hard"
    ).bindparams(bindparam("batches", expanding=True))
    count = {bool(r.hard): r.n for r in connection.execute(query, {"batches": sorted(batches)})}
    return count.get(True, 0), count.get(False, 0)
