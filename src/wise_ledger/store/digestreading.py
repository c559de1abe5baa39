"""Reading what some batches brought: companies, periods, unmapped tags."""

from collections.abc import Sequence
from datetime import date

from sqlalchemy import Connection, bindparam, text

from wise_ledger.core.records.kinds import KINDS
from wise_ledger.core.time.periods import as_date
from wise_ledger.store.factids import in_batches

_IN = bindparam("batches", expanding=True)
_RECORDS = text(
    " UNION ALL ".join(
        f"SELECT '{kind}', count(*) FROM {kind} WHERE batch IN :batches" for kind in KINDS
    )
    + " UNION ALL SELECT kind, sum(rows) FROM blocks WHERE batch IN :batches GROUP BY kind"
).bindparams(_IN)
# What its records are called, where the name of the kind alone does not say it.
_PLAINLY = {
    "levels": "list levels",
    "members": "list members",
    "rates": "currency rates",
    "series": "observations",
    "shares": "share counts",
}


def new_companies(connection: Connection, batches: Sequence[int]) -> list[int]:
    """The numbers of companies that the ledger did not have."""
    query = text("SELECT number FROM companies WHERE batch IN :batches ORDER BY number").bindparams(
        _IN
    )
    return [r.number for r in connection.execute(query, {"batches": batches})]


def new_records(connection: Connection, batches: Sequence[int]) -> dict[str, int]:
    """How many records other than facts these batches brought, by kind in words, the most first."""
    found = [(kind, n) for kind, n in connection.execute(_RECORDS, {"batches": batches}) if n]
    found.sort(key=lambda kind: (-kind[1], kind[0]))
    return {_PLAINLY.get(kind, kind).replace("_", " "): n for kind, n in found}


def new_periods(connection: Connection, batches: Sequence[int]) -> list[tuple[int, date, int]]:
    """Company, period end and facts, of period ends that the ledger had nothing of;
    by company, the newest last.
    """
    query = text(
        "SELECT f.company, f.period_end, count(*) AS facts FROM facts f"
        f" WHERE f.company IN (SELECT DISTINCT company FROM facts WHERE {in_batches(connection, batches)})"
        " GROUP BY f.company, f.period_end HAVING min(f.batch) IN :batches ORDER BY f.company, f.period_end"
    ).bindparams(_IN)
    return [
        (r.company, as_date(r.period_end), r.facts)
        for r in connection.execute(query, {"batches": batches})
    ]


def unmapped(connection: Connection, batches: Sequence[int]) -> list[tuple[str, int]]:
    """Tags without an item in the documents of these batches, and in how many of them;
    the most frequent first.
    """
    query = text(
        "SELECT u.tag, count(*) AS n FROM unmapped u JOIN documents d ON d.number = u.document"
        " WHERE d.batch IN :batches GROUP BY u.tag ORDER BY n DESC, u.tag"
    ).bindparams(_IN)
    return [(r.tag, r.n) for r in connection.execute(query, {"batches": batches})]


def documents(connection: Connection, batches: Sequence[int]) -> int:
    """How many documents came."""
    query = text("SELECT count(*) FROM documents WHERE batch IN :batches").bindparams(_IN)
    return int(connection.execute(query, {"batches": batches}).scalar_one())
