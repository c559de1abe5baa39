"""What batches touched: which companies and items, or all of them."""

from dataclasses import dataclass, field

from sqlalchemy import Connection, select, text

from wise_ledger.core.records.kinds import KINDS
from wise_ledger.core.records.recordkind import RecordKind, Touches
from wise_ledger.store.factids import fact_ids
from wise_ledger.store.tables import LEDGER, facts


@dataclass(frozen=True)
class Changes:
    """Companies whose figures have to be formed again: of one item,
    or of all (`anything`); everybody's if `all`.

    `rates` were published: what is formed of amounts in several currencies has to be formed again.
    """

    items: dict[str, frozenset[int]] = field(default_factory=dict)
    anything: frozenset[int] = frozenset()
    all: bool = False
    rates: bool = False

    def companies(self, items: set[str]) -> frozenset[int]:
        """Those touched as far as some items are concerned; where `all` is set it is everybody."""
        return self.anything.union(*(self.items.get(i, frozenset()) for i in items))


_TOUCHED = text(
    "SELECT DISTINCT i.code, f.company FROM facts f JOIN items i ON i.number = f.item"
    " WHERE f.id >= :first AND f.id < :last"
    " UNION SELECT DISTINCT i.code, f.company FROM findings n JOIN facts f ON f.id = n.fact"
    " JOIN items i ON i.number = f.item WHERE n.batch > :after AND n.batch <= :upto"
    " UNION SELECT DISTINCT i.code, f.company FROM verdicts v JOIN facts f ON f.id = v.fact"
    " JOIN items i ON i.number = f.item WHERE v.batch > :after AND v.batch <= :upto"
)


def _whose(kind: RecordKind) -> str:
    """In SQL: the companies whose figures have to be formed again after
    records of a kind in some batches.
    """
    narrowed = ""
    if kind.forming is not None:
        column, values = kind.forming
        narrowed = f" AND t.{column} IN ({', '.join(repr(v) for v in values)})"
    in_batches = f"t.batch > :after AND t.batch <= :upto{narrowed}"
    if any(c.name == "company" for c in kind.columns):
        return f"SELECT t.company FROM {kind.name} t WHERE {in_batches}"
    return f"SELECT s.company FROM {kind.name} t JOIN securities s ON s.number = t.security WHERE {in_batches}"


_WHOLE = text(
    " UNION ".join(
        [
            *(_whose(kind) for kind in KINDS.values() if kind.touches is Touches.COMPANY),
            "SELECT company FROM securities WHERE batch > :after AND batch <= :upto",
        ]
    )
)
_ORDERS = text("SELECT company FROM source_orders WHERE batch > :after AND batch <= :upto")
_LIMITS = text("SELECT 1 FROM limits WHERE batch > :after AND batch <= :upto LIMIT 1")
_RATES = text(
    " UNION ALL ".join(
        f"SELECT 1 FROM {kind.name} WHERE batch > :after AND batch <= :upto"
        for kind in KINDS.values()
        if kind.touches is Touches.RATES
    )
    + " LIMIT 1"
)


def between(connection: Connection, after: int, upto: int) -> Changes:
    """What the batches after one, up to another, touched."""
    span = {"after": after, "upto": upto}
    items: dict[str, set[int]] = {}
    first, last = fact_ids(connection, after, upto)
    for code, company in connection.execute(_TOUCHED, {**span, "first": first, "last": last}):
        items.setdefault(code, set()).add(company)
    whole = set(connection.execute(_WHOLE, span).scalars())
    orders = list(connection.execute(_ORDERS, span).scalars())
    return Changes(
        {code: frozenset(found) for code, found in items.items()},
        frozenset(whole | {c for c in orders if c is not None}),
        any(c is None for c in orders) or connection.execute(_LIMITS, span).first() is not None,
        connection.execute(_RATES, span).first() is not None,
    )


def newest(connection: Connection, batch: int) -> dict[str, int]:
    """Of every table of the ledger the last batch, up to this one, that
    brought rows; 0 where none did.
    """
    parts = (
        f"SELECT '{t.name}', max(batch) FROM {t.name} WHERE batch <= :batch"
        for t in LEDGER
        if t is not facts
    )
    found = connection.execute(text(" UNION ALL ".join(parts)), {"batch": batch})
    newest_fact = fact_ids(connection, batch, batch)[0] - 1
    of_facts = connection.execute(select(facts.c.batch).where(facts.c.id == newest_fact)).scalar()
    return {"facts": of_facts or 0, **{name: last or 0 for name, last in found}}
