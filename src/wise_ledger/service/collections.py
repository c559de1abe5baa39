"""/sources and their tags, /collections and loads of files."""

from dataclasses import asdict
from typing import Annotated

from fastapi import Path, Query, Request, Response
from fastapi.concurrency import run_in_threadpool

from wise_ledger.service.access import OpenDesk
from wise_ledger.service.routes import calls
from wise_ledger.service.runs import Key, queued
from wise_ledger.wire.collecting import (
    CollectionRequest,
    LoadAnswer,
    Mapping,
    Plan,
    Run,
    SourceInfo,
    SourceOrder,
    SourceOrderRequest,
    SourceOrders,
    Sources,
    TagRule,
    Tags,
    UnmappedTag,
)
from wise_ledger.work import collecting, mappings, preferring
from wise_ledger.work.desk import Desk
from wise_ledger.work.load import load_file
from wise_ledger.work.loadpages import load_pages
from wise_ledger.work.longkinds import begin_meaning
from wise_ledger.work.runs import Asked
from wise_ledger.work.templates import COLUMNS, template

router = calls("collections")

Kind = Annotated[str, Path(description=f"what the rows are: {', '.join(COLUMNS)}")]


def asked_for(desk: Desk, asked: CollectionRequest) -> Asked:
    """A collection as people ask for it, companies turned into the source's own keys."""
    desk.runs.check(Asked(asked.source))
    subjects = desk.runs.subjects(asked.source, tuple(asked.companies), desk.snapshots.at().number)
    return Asked(asked.source, asked.list, subjects, tuple(asked.what), asked.since)


@router.get("/sources")
def sources(desk: OpenDesk) -> Sources:
    """The sources that can be collected from."""
    return Sources(
        sources=[SourceInfo(**found.__dict__) for found in collecting.sources(desk.runs)]
    )


@router.get("/sources/order")
def order(desk: OpenDesk) -> SourceOrders:
    """Which source goes before which (T5)."""
    return SourceOrders(
        orders=[
            SourceOrder.model_validate(vars(o))
            for o in preferring.orders(desk.ledger, desk.snapshots)
        ]
    )


@router.post("/sources/order", status_code=201)
def prefer(desk: OpenDesk, asked: SourceOrderRequest) -> SourceOrders:
    """Say which sources go first, for an item, a company, both or all."""
    preferring.prefer(desk.ledger, desk.snapshots, **asked.model_dump())
    return order(desk)


@router.post("/sources/{source}/resume")
def resume(desk: OpenDesk, source: str) -> SourceInfo:
    """Ask a source again that is left alone for a while,
    because it kept failing or asked for it itself.
    """
    return SourceInfo(**collecting.resume(desk.runs, source).__dict__)


@router.get("/sources/{source}/tags")
def tags(desk: OpenDesk, source: str) -> Tags:
    """What a source's tags mean to us, and those without an item, the most frequent first."""
    found = collecting.tags(desk.ledger, desk.runs, source)
    snapshot = desk.snapshots.at()
    return Tags(
        source=source,
        rules=[
            Mapping(**asdict(r), shipped=(r.tag, r.template) not in found.by_people)
            for r in found.rules
        ],
        unmapped=[
            UnmappedTag(
                tag=u.tag,
                documents=u.documents,
                companies=u.companies,
                example=snapshot.newest_name(u.example),
            )
            for u in found.unmapped
        ],
    )


@router.post("/sources/{source}/tags", status_code=202)
def map_tag(
    desk: OpenDesk, source: str, asked: TagRule, response: Response, idempotency_key: Key = None
) -> Run:
    """Say what a tag means, and read the documents already kept by it, as a run.

    All of it is one new batch, known from their publication on, or none.
    """
    rule = mappings.TagMeaning(
        asked.tag, asked.item, asked.sign, asked.power, asked.unit, asked.template
    )
    how = {"expected": asked.expected, "key": idempotency_key}
    return queued(desk, begin_meaning(desk, source, rule, asked.who, asked.why, **how), response)


@router.post("/collections/plans")
def plan(asked: CollectionRequest, desk: OpenDesk) -> Plan:
    """What a collection would take: calls, time at the source's pace, quota; nothing is stored."""
    return Plan(**asdict(desk.runs.plan(asked_for(desk, asked))))


@router.post("/collections", status_code=202)
def collect(
    asked: CollectionRequest,
    desk: OpenDesk,
    response: Response,
    idempotency_key: Key = None,
) -> Run:
    """Queue a collection from a source into the ledger; follow it as a run."""
    run = desk.runs.collect(
        asked_for(desk, asked), request_key=idempotency_key, confirmed=asked.confirmed
    )
    return queued(desk, run, response)


@router.post("/collections/pages")
async def load_tree(
    request: Request,
    desk: OpenDesk,
    mapping: Annotated[str, Query(description="YAML that says what the labels on the pages mean")],
    name: Annotated[
        str, Query(description="what the folder is called", max_length=200)
    ] = "a folder",
) -> LoadAnswer:
    """Load a tree of dated pages (the body: a ZIP archive, one folder a company);
    each page has its outcome.
    """
    content = await request.body()
    found = await run_in_threadpool(
        load_pages, desk.ledger, desk.snapshots, content, mapping, name=name
    )
    return LoadAnswer.model_validate(asdict(found))


@router.get(
    "/collections/files/{kind}",
    response_class=Response,
    responses={200: {"content": {"text/csv": {}}}},
)
def load_template(kind: Kind, desk: OpenDesk) -> Response:
    """A CSV file with the heads of a kind of file and one example row."""
    return Response(template(kind), media_type="text/csv")


@router.post("/collections/files/{kind}")
async def load(
    request: Request,
    desk: OpenDesk,
    kind: Kind,
    accept_good: Annotated[
        bool, Query(description="load the good rows though others are bad")
    ] = False,
    mapping: Annotated[
        str | None, Query(description="YAML that says what is where in a table of facts")
    ] = None,
    name: Annotated[str, Query(description="what the file is called", max_length=200)] = "a file",
) -> LoadAnswer:
    """Load a file (the body: CSV, JSON Lines, XLSX or Parquet) as one batch;
    with a bad row, nothing.
    """
    content = await request.body()
    how = {"accept_good": accept_good, "shape": mapping, "name": name}
    found = await run_in_threadpool(load_file, desk.ledger, desk.snapshots, kind, content, **how)
    return LoadAnswer.model_validate(asdict(found))
