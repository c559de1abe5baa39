"""Reading what some batches brought: companies, periods, restatements, withdrawals, unmapped tags."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import Connection, bindparam, text

from wise_ledger.core.facts.instants import as_instant
from wise_ledger.core.fiscal.periods import as_date

_IN = bindparam("batches", expanding=True)


@dataclass(frozen=True)
class Change:
    """A figure told anew: what it was and is (None: withdrawn), with the document that says so."""

    company: int
    item: str
    period_start: date | None
    period_end: date
    unit: str
    old: float | None
    new: float | None
    published_at: datetime
    document: str
    sha256: str


def new_companies(connection: Connection, batches: Sequence[int]) -> list[int]:
    """The numbers of companies that the ledger did not have."""
    query = text("SELECT number FROM companies WHERE batch IN :batches ORDER BY number").bindparams(_IN)
    return [r.number for r in connection.execute(query, {"batches": batches})]


def new_periods(connection: Connection, batches: Sequence[int]) -> list[tuple[int, date, int]]:
    """Company, period end and facts, of period ends that the ledger had nothing of; by company, the newest last."""
    query = text(
        "SELECT f.company, f.period_end, count(*) AS facts FROM facts f"
        " WHERE f.company IN (SELECT DISTINCT company FROM facts WHERE batch IN :batches)"
        " GROUP BY f.company, f.period_end HAVING min(f.batch) IN :batches ORDER BY f.company, f.period_end"
    ).bindparams(_IN)
    return [(r.company, as_date(r.period_end), r.facts) for r in connection.execute(query, {"batches": batches})]


def changes(connection: Connection, batches: Sequence[int]) -> list[Change]:
    """Figures of these batches that differ from the version before, or take one back."""
    # The version before: the newest of the same source, company, item, basis and period, published or recorded earlier.
    query = text(
        "SELECT * FROM (SELECT f.company, i.code AS item, f.period_start, f.period_end, f.unit, f.value AS new,"
        " f.published_at, d.title, d.sha256, f.batch,"
        " lag(f.value) OVER same AS old, lag(f.id) OVER same AS before"
        " FROM facts f JOIN items i ON i.number = f.item JOIN documents d ON d.number = f.document"
        " WHERE f.company IN (SELECT DISTINCT company FROM facts WHERE batch IN :batches)"
        " WINDOW same AS (PARTITION BY f.company, f.item, f.source, f.basis, f.period_start, f.period_end"
        " ORDER BY f.published_at, f.batch, f.position))"
        " WHERE batch IN :batches AND before IS NOT NULL AND old IS NOT new"
        " ORDER BY company, published_at, item, period_end"
    ).bindparams(_IN)
    return [
        Change(
            r.company,
            r.item,
            None if r.period_start is None else as_date(r.period_start),
            as_date(r.period_end),
            r.unit,
            r.old,
            r.new,
            as_instant(r.published_at),
            r.title,
            r.sha256,
        )
        for r in connection.execute(query, {"batches": batches})
    ]


def unmapped(connection: Connection, batches: Sequence[int]) -> list[tuple[str, int]]:
    """Tags without an item in the documents of these batches, and in how many of them; the most frequent first."""
    query = text(
        "SELECT u.tag, count(*) AS n FROM unmapped u JOIN documents d ON d.number = u.document"
        " WHERE d.batch IN :batches GROUP BY u.tag ORDER BY n DESC, u.tag"
    ).bindparams(_IN)
    return [(r.tag, r.n) for r in connection.execute(query, {"batches": batches})]


def documents(connection: Connection, batches: Sequence[int]) -> int:
    """How many documents came."""
    query = text("SELECT count(*) FROM documents WHERE batch IN :batches").bindparams(_IN)
    return int(connection.execute(query, {"batches": batches}).scalar_one())
