"""Load splits from a file (M3): one batch or none."""

from collections.abc import Sequence
from dataclasses import replace
from math import isfinite

from wise_ledger.core.errors import bad_input
from wise_ledger.core.identity.universe import FOREVER
from wise_ledger.core.records.records import SplitRecord
from wise_ledger.core.time.instants import read_cutoff, read_date
from wise_ledger.engine.snapshots import ANY_TYPE, Snapshot, Snapshots
from wise_ledger.store.ledger import Ledger
from wise_ledger.work import NotFound
from wise_ledger.work.loading import FILES, Loaded, read_rows
from wise_ledger.work.tablefile import Line

COLUMNS = ("security", "ex_date", "ratio", "published_at")
_FAR = 1000  # new shares for one, or old ones


def load_splits(ledger: Ledger, snapshots: Snapshots, lines: Sequence[Line], *, accept_good: bool = False) -> Loaded:
    """`ratio` new shares for an old one from `ex_date` on; what is known unchanged is left out (T8)."""
    snapshot = snapshots.at()
    good, bad = read_rows(lines, COLUMNS[:3], lambda line: _read(snapshot, line.cells))
    if not good or (bad and not accept_good):
        return Loaded("splits", 0, None, tuple(bad))
    before = ledger.last_batch()
    with ledger.batch("load", f"{len(good)} splits from a file") as batch:
        source = batch.source(*FILES)
        new = sum(batch.add_splits(source, security, [record]) for security, record in good)
    last = ledger.last_batch()
    return Loaded("splits", len(good), last if last > before else None, tuple(bad), new)


def _read(snapshot: Snapshot, cells: dict[str, str]) -> tuple[int, SplitRecord]:
    ex_date = read_date(cells["ex_date"], "ex_date")
    try:
        ratio = float(cells["ratio"])
    except ValueError:
        ratio = float("nan")
    if not (isfinite(ratio) and 1 / _FAR <= ratio <= _FAR) or ratio == 1:
        mend = "write new shares for each old one: 4 for a 4-for-1 split, 0.1 where ten become one"
        raise bad_input("ratio", cells["ratio"], "this is no ratio of a split", mend)
    published = read_cutoff(cells["published_at"], "published_at") if "published_at" in cells else None
    return _security(snapshot, cells["security"]), SplitRecord(ex_date, ratio, published)


def _security(snapshot: Snapshot, text: str) -> int:
    """The security that a symbol, an identifier or its id names; of a company its ordinary one."""
    if text in snapshot.security_ids:
        return snapshot.security_ids.index(text)
    try:
        company = snapshot.number(text)
    except NotFound as error:
        raise NotFound(replace(error.problems[0], at="security")) from None
    universe = snapshot.universe
    named = {i.security for i in universe.identifiers if i.value == text.partition(":")[2] or i.value == text}
    named |= {x.security for x in universe.listings if f"{x.symbol}@{x.mic}" == text.upper()}
    of = [s for s in universe.securities_of.get(company, []) if s.type in ANY_TYPE]
    chosen = [s for s in of if s.number in named] or [s for s in of if s.type == "ordinary"]
    if not chosen:
        name = universe.name(company, FOREVER - 1) or text
        raise bad_input("security", text, f"{name} has no ordinary security", "load its listing first")
    return min(s.number for s in chosen)
