"""/runs: how far long work is, to hold it, go on, end it, try again; its digest;
events as they happen.
"""

import asyncio
import json
from collections.abc import AsyncIterator
from typing import Annotated

from fastapi import Header, Query, Request, Response
from fastapi.concurrency import run_in_threadpool
from sse_starlette import EventSourceResponse

from wise_ledger.service import asof
from wise_ledger.service.access import OpenDesk
from wise_ledger.service.paging import Before, newest
from wise_ledger.service.routes import calls
from wise_ledger.wire.collecting import Applied, Delivery, Digest, Digests, Outcome, Run, Runs
from wise_ledger.wire.identity import MatchAnswer
from wise_ledger.wire.ledger import Verification
from wise_ledger.wire.model import Number
from wise_ledger.work import digests
from wise_ledger.work import runs as work
from wise_ledger.work.desk import Desk
from wise_ledger.work.longkinds import MATCH, MEANING, VERIFICATION

router = calls("runs")
_OPEN = ("queued", "running")
_EVERY = 0.3  # seconds between looks


Key = Annotated[str | None, Header(description="the same key queues one run only")]


def queued(desk: Desk, run: work.Run, response: Response) -> Run:
    """A run that was queued, and where it is."""
    response.headers["Location"] = f"/api/v1/runs/{run.id}"
    return shown(desk, run.id, with_outcomes=False)


def shown(desk: Desk, run: int, *, with_outcomes: bool = True) -> Run:
    """A run as it goes on the wire."""
    report = desk.runs.report(run)
    found, tally = report.run, report.tally
    names = {s.id: s.name for s in desk.schedules.all()} if found.schedule else {}
    left = None
    if found.state == "running" and report.done and report.total:
        spent = (desk.ledger.now() - found.created_at).total_seconds()
        left = round(spent / report.done * (report.total - report.done), 1)
    return Run(
        id=found.id,
        kind=found.kind,
        title=found.title or ", list ".join(filter(None, (found.source, found.list))),
        source=found.source,
        list=found.list,
        failed_of=found.asked.failed_of,
        schedule=names.get(found.schedule or 0),
        state=found.state,  # type: ignore[arg-type]
        problem=found.problem,
        total=report.total,
        done=report.done,
        stored=tally.stored,
        unchanged=tally.unchanged,
        failed=tally.failed,
        facts=tally.facts,
        records=report.records,
        requests=found.requests,
        bytes=found.bytes,
        seconds_left=left,
        waits_until=report.waits_until,
        created_at=found.created_at,
        ended_at=found.ended_at,
        outcomes=[Outcome(**o.__dict__) for o in desk.runs.outcomes(run)] if with_outcomes else [],
    )


@router.get("/runs")
def runs(
    desk: OpenDesk, limit: Annotated[int, Query(ge=1, le=100)] = 20, cursor: Before = None
) -> Runs:
    """The newest runs first."""
    found, more = newest(desk.runs.newest(limit + 1, before=cursor), limit, lambda r: r.id)
    return Runs(runs=[shown(desk, r.id, with_outcomes=False) for r in found], next=more)


@router.get("/runs/{run}")
def run(
    desk: OpenDesk,
    run: Number,
    outcomes: Annotated[bool, Query(description="with the outcome of each company")] = True,
) -> Run:
    """One run with the outcome of each company so far."""
    return shown(desk, run, with_outcomes=outcomes)


@router.get("/runs/{run}/answer")
def answer(desk: OpenDesk, run: Number) -> Verification | MatchAnswer | Applied:
    """What long work that is no collection answered; its problem, where it failed."""
    kind, found = desk.runs.answer(run)
    if kind == MATCH:
        answered = MatchAnswer.of(found)
        asof.stamp(answered.on, None, answered.batch)
        return answered
    return {VERIFICATION: Verification, MEANING: Applied}[kind].model_validate(found)


@router.post("/runs/{run}/pause")
def pause(desk: OpenDesk, run: Number) -> Run:
    """Hold a collection after the company at hand."""
    return shown(desk, desk.runs.pause(run).id, with_outcomes=False)


@router.post("/runs/{run}/resume")
def resume(desk: OpenDesk, run: Number) -> Run:
    """Go on with a paused run."""
    return shown(desk, desk.runs.resume(run).id, with_outcomes=False)


@router.post("/runs/{run}/cancel")
def cancel(desk: OpenDesk, run: Number) -> Run:
    """End a run; what it stored stays."""
    return shown(desk, desk.runs.cancel(run).id, with_outcomes=False)


@router.post("/runs/{run}/failed", status_code=202)
def again(
    desk: OpenDesk,
    run: Number,
    response: Response,
    idempotency_key: Key = None,
) -> Run:
    """Queue what failed in a run, and that alone; where a part broke, the run again."""
    return queued(desk, desk.runs.again(run, request_key=idempotency_key), response)


@router.get(
    "/runs/{run}/events",
    response_class=Response,
    responses={200: {"content": {"text/event-stream": {}}}},
)
async def events(request: Request, desk: OpenDesk, run: Number) -> EventSourceResponse:
    """The run whenever it moved (event `run`), until it ends (event `end`)."""
    desk.runs.report(run)  # a run that does not exist is named as such

    async def stream() -> AsyncIterator[dict[str, str]]:
        last = ""
        while not await request.is_disconnected():
            now = await run_in_threadpool(shown, desk, run, with_outcomes=False)
            text = now.model_dump_json(exclude={"seconds_left", "outcomes"})
            if text != last:
                last = text
                yield {"event": "run", "data": now.model_dump_json(exclude={"outcomes"})}
            if now.state not in _OPEN:
                yield {"event": "end", "data": json.dumps({"state": now.state})}
                return
            await asyncio.sleep(_EVERY)

    return EventSourceResponse(stream())


@router.get("/digests")
def newest_digests(
    desk: OpenDesk, limit: Annotated[int, Query(ge=1, le=100)] = 20, cursor: Before = None
) -> Digests:
    """The newest digests first, only their counts."""
    page = digests.newest(desk.ledger, limit + 1, before=cursor)
    found, more = newest(page, limit, lambda d: d.run)
    return Digests(digests=[_digest(desk, d, whole=False) for d in found], next=more)


@router.get("/digests/{run}")
def digest(desk: OpenDesk, run: Number) -> Digest:
    """What came in with a run."""
    return _digest(desk, digests.find(desk.ledger, run), whole=True)


def _digest(desk: Desk, found: digests.Digest, *, whole: bool) -> Digest:
    kinds = ("companies", "periods", "restatements", "withdrawn", "unmapped", "failed")
    sent = digests.deliveries(desk.ledger, found.run) if whole else []
    return Digest(
        run=found.run,
        source=found.source,
        state=found.state,  # type: ignore[arg-type]
        made_at=found.made_at,
        counts=found.content["counts"],
        records=found.records,
        **{kind: found.content[kind] if whole else [] for kind in kinds},
        deliveries=[Delivery(**{k: v for k, v in d.__dict__.items() if k != "run"}) for d in sent],
    )
