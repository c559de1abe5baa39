"""Figures that were told anew: what each was, what it became, when and by which document."""

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import date, datetime

from sqlalchemy import Connection, bindparam, text

from wise_ledger.core.time.instants import as_instant
from wise_ledger.core.time.periods import as_date
from wise_ledger.store.examining import QUARANTINED
from wise_ledger.store.factids import in_batches


@dataclass(frozen=True)
class Change:
    """A figure told anew: what it was and is (None: withdrawn), with the document that says so.

    `original` is its first version ever, `latest` the last one known by the cut-off of the question.
    """

    company: int
    item: str
    period_start: date | None
    period_end: date
    unit: str
    old: float | None
    new: float | None
    original: float | None
    latest: float | None
    published_at: datetime
    document: str
    sha256: str
    source: str
    instants: tuple[int, int, int, int] = (0, 0, 0, 0)  # when old, new, original and latest were told (microseconds)
    fact: int = -1  # the ledger's row of what it is now

    @property
    def percent(self) -> float | None:
        """By how much it changed, in percent of what it was; None from or to nothing."""
        return None if not self.old or self.new is None else (self.new - self.old) / abs(self.old) * 100


# The version before: the newest of the same source, company, item, basis and period, published or recorded earlier.
_VERSIONS = """
SELECT * FROM (
  SELECT f.company, i.code AS item, f.period_start, f.period_end, f.unit, f.value AS new, f.published_at, d.title,
    d.sha256, s.name AS source, f.batch, lag(f.value) OVER same AS old, lag(f.id) OVER same AS before,
    lag(f.published_at) OVER same AS old_at, first_value(f.published_at) OVER same AS original_at,
    last_value(f.published_at) OVER (same ROWS BETWEEN UNBOUNDED PRECEDING AND UNBOUNDED FOLLOWING) AS latest_at,
    first_value(f.value) OVER same AS original,
    last_value(f.value) OVER (same ROWS BETWEEN UNBOUNDED PRECEDING AND UNBOUNDED FOLLOWING) AS latest
  FROM facts f JOIN items i ON i.number = f.item JOIN documents d ON d.number = f.document
    JOIN sources s ON s.number = f.source
  WHERE {chosen} AND f.basis = 'consolidated' AND f.id NOT IN ({quarantined})
  WINDOW same AS (PARTITION BY f.company, f.item, f.source, f.basis, f.period_start, f.period_end
    ORDER BY f.published_at, f.batch, f.position))
WHERE before IS NOT NULL AND old IS NOT new AND {kept}
ORDER BY {order}
"""


def of_batches(connection: Connection, batches: Sequence[int]) -> list[Change]:
    """Figures of these batches that differ from the version before, or take one back; by company."""
    these = in_batches(connection, batches)
    chosen = f"f.company IN (SELECT DISTINCT company FROM facts WHERE {these})"
    query = text(
        _VERSIONS.format(
            chosen=chosen,
            kept="batch IN :batches",
            order="company, published_at, item, period_end",
            quarantined=QUARANTINED,
        )
    ).bindparams(bindparam("batches", expanding=True))
    return _read(connection, query, {"batches": batches, "batch": max(batches, default=0)})


@dataclass(frozen=True)
class Filed:
    """In which document a fact was published."""

    document: str
    sha256: str
    source: str
    unit: str


def filed_in(connection: Connection, facts: Collection[int]) -> dict[int, Filed]:
    """The documents of facts by their numbers."""
    query = text(
        "SELECT f.id, d.title, d.sha256, s.name, f.unit FROM facts f JOIN documents d ON d.number = f.document"
        " JOIN sources s ON s.number = f.source WHERE f.id IN :facts"
    ).bindparams(bindparam("facts", expanding=True))
    rows = connection.execute(query, {"facts": sorted(facts)})
    return {number: Filed(*rest) for number, *rest in rows}


def _read(connection: Connection, query, given) -> list[Change]:  # type: ignore[no-untyped-def]
    return [
        Change(
            r.company,
            r.item,
            None if r.period_start is None else as_date(r.period_start),
            as_date(r.period_end),
            r.unit,
            r.old,
            r.new,
            r.original,
            r.latest,
            as_instant(r.published_at),
            r.title,
            r.sha256,
            r.source,
            (r.old_at, r.published_at, r.original_at, r.latest_at),
        )
        for r in connection.execute(query, given)
    ]
