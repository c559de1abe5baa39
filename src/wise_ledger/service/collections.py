"""POST /collections, /runs and /sources."""

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Header, Path, Query, Request, Response
from fastapi.concurrency import run_in_threadpool

from wise_ledger.service.access import OpenDesk
from wise_ledger.wire.ledger import CollectionRequest, LoadAnswer, Outcome, Run, Runs, SourceInfo, Sources
from wise_ledger.work.load import load_file
from wise_ledger.work.runs import RunReport

router = APIRouter(tags=["collections"])


@router.get("/sources")
def sources(desk: OpenDesk) -> Sources:
    """The sources that can be collected from."""
    return Sources(sources=[SourceInfo(name=name) for name in sorted(desk.runs.sources)])


@router.post("/collections", status_code=202)
def collect(
    asked: CollectionRequest,
    desk: OpenDesk,
    response: Response,
    idempotency_key: Annotated[str | None, Header(description="the same key queues one run only")] = None,
) -> Run:
    """Queue a collection from a source into the ledger; follow it as a run."""
    run = desk.runs.collect(asked.source, asked.list, idempotency_key)
    response.headers["Location"] = f"/api/v1/runs/{run.id}"
    return _run(RunReport(run, ()))


@router.post("/collections/files/{kind}")
async def load(
    request: Request,
    desk: OpenDesk,
    kind: Annotated[str, Path(description="companies, identifiers, listings or members")],
    accept_good: Annotated[bool, Query(description="load the good rows though others are bad")] = False,
) -> LoadAnswer:
    """Load a file (the body: CSV, JSON Lines, XLSX or Parquet) as one batch; with a bad row, nothing."""
    content = await request.body()
    found = await run_in_threadpool(load_file, desk.ledger, desk.snapshots, kind, content, accept_good=accept_good)
    return LoadAnswer.model_validate(asdict(found))


@router.get("/runs")
def runs(desk: OpenDesk, limit: Annotated[int, Query(ge=1, le=100)] = 20) -> Runs:
    """The newest runs first."""
    return Runs(runs=[_run(desk.runs.report(r.id), with_outcomes=False) for r in desk.runs.newest(limit)])


@router.get("/runs/{run}")
def run(desk: OpenDesk, run: int) -> Run:
    """One run with the outcome of each company so far."""
    return _run(desk.runs.report(run))


def _run(report: RunReport, *, with_outcomes: bool = True) -> Run:
    outcomes = report.outcomes
    return Run(
        **report.run.__dict__,
        done=len(outcomes),
        failed=sum(o.state == "failed" for o in outcomes),
        facts=sum(o.facts for o in outcomes),
        outcomes=[Outcome(**o.__dict__) for o in outcomes] if with_outcomes else [],
    )
