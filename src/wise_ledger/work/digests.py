"""What came in with a run: new companies and periods, restatements, withdrawals,
tags without an item, failures.
"""

import json
from dataclasses import asdict, dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import Connection

from wise_ledger.core.errors import Problem
from wise_ledger.core.time.instants import as_instant, micros
from wise_ledger.engine.snapshot import Snapshot
from wise_ledger.engine.snapshots import Snapshots
from wise_ledger.store import digestreading, examining, operations, restating
from wise_ledger.store.ledger import Ledger
from wise_ledger.store.restating import Change
from wise_ledger.store.schedulekeeping import (
    Delivery,
    deliveries_of,
    find_digest,
    keep_digest,
    newest_digests,
)
from wise_ledger.words import counted, each_counted
from wise_ledger.work import NotFound
from wise_ledger.work.sharebasis import on_share_basis

_LISTED = 500  # of each kind; the counts are of all


@dataclass(frozen=True)
class Digest:
    """A run's digest as kept: `counts` of all, and of each kind the first ones in `content`.

    `records` are those other than facts that came with the companies, by kind in words.
    """

    run: int
    source: str
    state: str
    made_at: datetime
    content: dict[str, Any]
    records: dict[str, int]


def make(ledger: Ledger, snapshots: Snapshots, run: int) -> Digest:
    """Look at what a run brought, and keep it."""
    with ledger.database.read() as connection:
        found = operations.find_run(connection, run)
        assert found is not None
        outcomes = operations.outcomes_of(connection, run)
        batches = sorted(
            {o.batch for o in outcomes if o.batch} | ({found.batch} if found.batch else set())
        )
        companies = digestreading.new_companies(connection, batches)
        periods = digestreading.new_periods(connection, batches)
        log = restating.of_batches(connection, batches)
        tags = digestreading.unmapped(connection, batches)
        documents = digestreading.documents(connection, batches)
        records = _records(connection, found)
        quarantined, flagged = examining.of_batches(connection, batches)
    snapshot = snapshots.at()
    now = micros(ledger.now())
    changes = on_share_basis(snapshot, log, now)
    restated = [c for c in changes if c.new is not None and c.old is not None]
    withdrawn = [c for c in changes if c.new is None]
    restated.sort(key=lambda c: -abs(c.percent or 0.0))
    failed = [o for o in outcomes if o.state == "failed"]
    by_company: dict[int, list[tuple[Any, int]]] = {}
    for company, end, facts in periods:
        by_company.setdefault(company, []).append((end, facts))
    content = {
        "counts": {
            "companies": len(companies),
            "documents": documents,
            "facts": sum(o.facts for o in outcomes),
            "periods": len(periods),
            "restatements": len(restated),
            "withdrawn": len(withdrawn),
            "unmapped": len(tags),
            "quarantined": quarantined,
            "flagged": flagged,
            "failed": len(failed),
        },
        "companies": [_company(snapshot, n, now) for n in companies[:_LISTED]],
        "periods": [
            {**_company(snapshot, n, now), "periods": len(ends), "first": str(ends[0][0]), "last": str(ends[-1][0]),
             "facts": sum(facts for _, facts in ends)}
            for n, ends in list(by_company.items())[:_LISTED]
        ],
        "restatements": [_change(snapshot, c, now) for c in restated[:_LISTED]],
        "withdrawn": [_change(snapshot, c, now) for c in withdrawn[:_LISTED]],
        "unmapped": [{"tag": tag, "documents": n} for tag, n in tags[:_LISTED]],
        "failed": [{"subject": o.subject, "company": o.company, "reason": o.reason} for o in failed[:_LISTED]],
    }  # fmt: skip
    with ledger.database.write() as connection:
        keep_digest(connection, run, now, json.dumps(content))
    return Digest(run, found.source, found.state, as_instant(now), content, records)


def find(ledger: Ledger, run: int) -> Digest:
    """The digest of a run; raises `NotFound` while there is none."""
    with ledger.database.read() as connection:
        kept = find_digest(connection, run)
        found = operations.find_run(connection, run)
        records = {} if found is None else _records(connection, found)
    if kept is None or found is None:
        mend = "list the runs" if found is None else "wait for the run to end"
        raise NotFound(Problem("run", str(run), "there is no digest of this run", mend))
    return Digest(run, found.source, found.state, as_instant(kept[0]), json.loads(kept[1]), records)


def newest(ledger: Ledger, limit: int, *, before: int | None = None) -> list[Digest]:
    """The newest digests first, those of runs before one."""
    with ledger.database.read() as connection:
        runs = newest_digests(connection, limit, before)
    return [find(ledger, run) for run in runs]


def deliveries(ledger: Ledger, run: int) -> list[Delivery]:
    """The messages that were sent about a run."""
    with ledger.database.read() as connection:
        return deliveries_of(connection, run)


def in_words(digest: Digest) -> str:
    """A digest in a few lines, for a mail."""
    counts = digest.content["counts"]
    lines = [
        f"Run {digest.run} of {digest.source}: {digest.state.replace('_', ' ')}",
        f"{counted(counts['facts'], 'new fact')} from {counted(counts['documents'], 'document')}, "
        f"{counted(counts['periods'], 'new period')}",
        f"{counted(counts['companies'], 'new company')}, "
        f"{counted(counts['restatements'], 'restated figure')}, {counts['withdrawn']:,} withdrawn, "
        f"{counted(counts['unmapped'], 'tag')} without an item",
        *([f"also new: {each_counted(digest.records)}"] if digest.records else []),
        f"{counted(counts.get('quarantined', 0), 'figure')} in quarantine, {counts.get('flagged', 0):,} flagged",
    ]
    for change in digest.content["restatements"][:10]:
        percent = "" if change["percent"] is None else f" ({change['percent']:+.1f} %)"
        lines.append(f"  {change['name']}, {change['item']} to {change['period_end']}: "
                     f"{change['old']:,.0f} to {change['new']:,.0f}{percent}")  # fmt: skip
    lines += [
        f"  failed: {f['company'] or f['subject']}: {f['reason']}"
        for f in digest.content["failed"][:10]
    ]
    return "\n".join(lines)


def _records(connection: Connection, run: operations.Run) -> dict[str, int]:
    return digestreading.new_records(connection, [run.batch]) if run.batch else {}


def _company(snapshot: Snapshot, number: int, now: int) -> dict[str, str]:
    return {"company": snapshot.ids[number], "name": snapshot.name(number, now)}


def _change(snapshot: Snapshot, change: Change, now: int) -> dict[str, Any]:
    fields = {k: v for k, v in asdict(change).items() if k != "instants"}
    plain = {k: str(v) if k.startswith("p") and v is not None else v for k, v in fields.items()}
    return {**plain, **_company(snapshot, change.company, now), "percent": change.percent}
