"""Load records of a declared kind from a file, such as rates or splits: one batch or none."""

from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from typing import Any

from wise_ledger.core.errors import BadInput, bad_input
from wise_ledger.core.identity.universe import FOREVER
from wise_ledger.core.records import fields as types
from wise_ledger.core.records.kinds import (
    DELISTINGS,
    DIVIDENDS,
    RATES,
    RECEIPT_RATIOS,
    SERIES_ATTRIBUTES,
    SHARES,
    SPLITS,
    VENUES,
)
from wise_ledger.core.records.recordkind import RecordKind, Reference
from wise_ledger.core.time.periods import day
from wise_ledger.engine.identity import ANY_TYPE
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store.ledger import Ledger
from wise_ledger.work import NotFound
from wise_ledger.work.loading import FILES, KEEP_ONE, KEEP_ONE_OR_SAY, Loaded, read_rows
from wise_ledger.work.named import listings_named
from wise_ledger.work.tablefile import Line

LOADED = {
    kind.name: kind
    for kind in (
        RATES,
        SPLITS,
        VENUES,
        DIVIDENDS,
        DELISTINGS,
        SHARES,
        RECEIPT_RATIOS,
        SERIES_ATTRIBUTES,
    )
}
_Row = tuple[dict[str, int], Any]


def load_kind(
    ledger: Ledger,
    snapshots: Snapshots,
    kind: RecordKind,
    lines: Sequence[Line],
    *,
    accept_good: bool = False,
) -> Loaded:
    """What a file says; what the ledger says already is left out (T8),
    and two rows may not contradict each other.
    """
    snapshot, now = snapshots.at(), ledger.now()
    seen: dict[tuple[Any, ...], dict[Any, tuple[Any, int]]] = {}

    def read(line: Line) -> _Row:
        record = kind.read(line.cells)
        today = next(
            (f.of(record) for f in kind.fields if f.type in (types.DAY, types.PAST_DAY)), None
        )
        whose = {c.name: _number(snapshot, c, line, today) for c in kind.columns if _given(c)}
        problem = next(kind.problems(record, now), None)
        if problem is not None:
            raise BadInput(problem)
        values = whose | {f.in_table: f.of(record) for f in kind.fields}
        instant = values.get(kind.instant)
        versions = seen.setdefault(tuple(values[n] for n in kind.key if n in values), {})
        # One that says no instant goes together with no other (T9).
        if versions and (instant is None or None in versions):
            instant = next(iter(versions))
        known, before = versions.setdefault(instant, (record, line.number))
        if known != record:
            differs = next(f.name for f in kind.fields if f.of(known) != f.of(record))
            raise bad_input(
                differs,
                line.cells.get(differs, ""),
                f"line {before} says otherwise",
                KEEP_ONE if kind.instant is None else KEEP_ONE_OR_SAY.format(kind.instant),
            )
        return whose, record

    good, bad = read_rows(lines, kind.needed, read)
    if not good or (bad and not accept_good):
        return Loaded(kind.name, 0, None, tuple(bad))
    before = ledger.last_batch()
    with ledger.batch("load", f"{len(good)} {kind.name} from a file") as batch:
        source = batch.source(*FILES)
        by_owner: dict[tuple[tuple[str, int], ...], list[Any]] = {}
        for whose, record in good:
            by_owner.setdefault(tuple(whose.items()), []).append(record)
        new = sum(
            batch.add(kind, records, source=source, **dict(of)) for of, records in by_owner.items()
        )
    last = ledger.last_batch()
    return Loaded(kind.name, len(good), last if last > before else None, tuple(bad), new)


def _given(column: object) -> bool:
    return isinstance(column, Reference) and column.name != "source"


def _number(snapshot: Snapshot, column: Any, line: Line, today: date | None) -> int:
    """Whom a cell names, on the row's own day."""
    text = line.cells[column.name]
    if column.table == "listings":
        found = listings_named(snapshot)(text)
        on = [one for one in found if today is None or one.span.holds(day(today))] or found
        return on[0].number
    if column.table == "series":
        return snapshot.view.series.of(text)
    return _security(snapshot, text) if column.table == "securities" else snapshot.number(text)


def _security(snapshot: Snapshot, text: str) -> int:
    """The security that a symbol, an identifier or its id names; of a company its ordinary one."""
    if text in snapshot.security_ids:
        return snapshot.security_ids.index(text)
    try:
        company = snapshot.number(text)
    except NotFound as error:
        raise NotFound(replace(error.problems[0], at="security")) from None
    universe = snapshot.universe
    named = {
        i.security
        for i in universe.identifiers
        if i.value == text.partition(":")[2] or i.value == text
    }
    named |= {x.security for x in universe.listings if f"{x.symbol}@{x.mic}" == text.upper()}
    of = [s for s in universe.securities_of.get(company, []) if s.type in ANY_TYPE]
    chosen = [s for s in of if s.number in named] or [s for s in of if s.type == "ordinary"]
    if not chosen:
        name = universe.name(company, FOREVER - 1) or text
        raise bad_input(
            "security", text, f"{name} has no ordinary security", "load its listing first"
        )
    return min(s.number for s in chosen)
