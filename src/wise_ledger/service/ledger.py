"""Publications, batches and the verification of their chain."""

from datetime import date
from typing import Annotated

from fastapi import Query, Response

from wise_ledger.service.access import OpenDesk
from wise_ledger.service.paging import Before, newest
from wise_ledger.service.routes import calls
from wise_ledger.service.runs import Key, queued
from wise_ledger.wire.collecting import Run
from wise_ledger.wire.ledger import Batch, Batches, Month, Publications
from wise_ledger.work import documents
from wise_ledger.work.longkinds import begin_verification

router = calls("ledger")


@router.get("/facts/publications")
def publications(
    desk: OpenDesk, list: str | None = None, company: str | None = None
) -> Publications:
    """How many facts became public in each month: of one company, of a list, or of all."""
    # Counted over every fact, and asked for by every page.
    months = desk.snapshots.once(
        f"publications {list!r} {company!r}",
        lambda: documents.publications(desk.ledger, desk.snapshots, list, company),
    )
    newest = desk.snapshots.once(
        "newest publication", lambda: documents.newest_publication(desk.ledger, desk.snapshots)
    )
    return Publications(
        months=[Month(month=m, facts=n) for m, n in months],
        first=date.fromisoformat(f"{months[0][0]}-01") if months else None,
        last=newest.date() if newest else None,
        batch=desk.ledger.last_batch(),
    )


@router.get("/batches")
def batches(
    desk: OpenDesk, cursor: Before = None, limit: Annotated[int, Query(ge=1, le=500)] = 50
) -> Batches:
    """The newest batches first."""
    found, more = newest(desk.ledger.batches(cursor, limit + 1), limit, lambda b: b.number)
    return Batches(batches=[Batch(**b.__dict__) for b in found], next=more)


@router.post("/batches/verification", status_code=202)
def verify(desk: OpenDesk, response: Response, idempotency_key: Key = None) -> Run:
    """Recompute the hash chain over the whole ledger and compare what is
    derived from it, as a run.
    """
    return queued(desk, begin_verification(desk, idempotency_key), response)
