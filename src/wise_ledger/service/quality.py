"""/quality: findings of checks, decisions on the quarantine, coverage of lists."""

from typing import Annotated

from fastapi import Query

from wise_ledger.service.access import OpenDesk
from wise_ledger.service.paging import Cursor, following
from wise_ledger.service.routes import calls
from wise_ledger.wire.quality import (
    CompanyFindings,
    CoverageMatrix,
    CoverageRow,
    Decided,
    Finding,
    MarketDecided,
    MarketDecision,
    MarketFinding,
    MarketQualityAnswer,
    QualityAnswer,
    QuarantineDecision,
)
from wise_ledger.work import marketquality, quality

router = calls("quality")


@router.get("/quality")
def findings(
    desk: OpenDesk,
    check: Annotated[str | None, Query(description="only of one check")] = None,
    state: Annotated[
        str | None, Query(description="quarantined, accepted, rejected or flagged")
    ] = None,
    company: str | None = None,
    list: Annotated[str | None, Query(description="only of a list's members of today")] = None,
    source: str | None = None,
    limit: Annotated[int, Query(ge=1, le=5000)] = 200,
    cursor: Cursor = 0,
) -> QualityAnswer:
    """What the checks found wrong, hard findings first."""
    found = quality.overview(
        desk.ledger,
        desk.snapshots,
        check=check,
        state=state,
        company=company,
        list_name=list,
        source=source,
        limit=limit,
        skip=cursor,
    )
    return QualityAnswer(
        findings=[
            Finding.model_validate(
                vars(f.listed)
                | {
                    "company": f.company,
                    "name": f.name,
                    "title": f.title,
                    "period": f.period,
                    "state": f.state,
                }
            )
            for f in found.shown
        ],
        total=found.total,
        by_check=found.by_check,
        by_state=found.by_state,
        by_source=found.by_source,
        by_company=[CompanyFindings(company=i, name=n, findings=c) for i, n, c in found.by_company],
        checks={name: words for name, (_, words) in quality.CHECKS.items()},
        batch=found.batch,
        next=following(cursor, len(found.shown), found.total),
    )


@router.post("/quality/decisions")
def decide(desk: OpenDesk, asked: QuarantineDecision) -> Decided:
    """Accept or reject figures in quarantine, with name and cause."""
    facts, batch = quality.decide(
        desk.ledger, desk.snapshots, asked.facts, asked.accept, asked.who, asked.why
    )
    return Decided(facts=facts, batch=batch)


@router.get("/quality/market")
def market_findings(
    desk: OpenDesk,
    check: Annotated[str | None, Query(description="only of one check")] = None,
    state: Annotated[
        str | None, Query(description="quarantined, accepted, rejected or flagged")
    ] = None,
    company: str | None = None,
    limit: Annotated[int, Query(ge=1, le=5000)] = 200,
    cursor: Cursor = 0,
) -> MarketQualityAnswer:
    """What the checks found wrong or odd among prices, levels, rates, splits and dividends."""
    found = marketquality.market_overview(
        desk.ledger,
        desk.snapshots,
        check=check,
        state=state,
        company=company,
        limit=limit,
        skip=cursor,
    )
    rows = [MarketFinding.model_validate(vars(f)) for f in found.findings]
    return MarketQualityAnswer(
        findings=rows,
        total=found.total,
        by_check=found.by_check,
        by_state=found.by_state,
        checks=marketquality.CHECKS,
        batch=found.batch,
        next=following(cursor, len(rows), found.total),
    )


@router.post("/quality/market/decisions")
def decide_market(desk: OpenDesk, asked: MarketDecision) -> MarketDecided:
    """Accept or reject prices, levels or rates in quarantine, with name and cause."""
    named = [(r.kind, r.subject, r.date) for r in asked.rows]
    rows, batch = marketquality.decide_market(
        desk.ledger, desk.snapshots, named, asked.accept, asked.who, asked.why
    )  # fmt: skip
    return MarketDecided(rows=rows, batch=batch)


@router.get("/quality/coverage")
def coverage(desk: OpenDesk, list: str, statement: str | None = None) -> CoverageMatrix:
    """How many members of a list have each item in each year."""
    found = quality.matrix(desk.ledger, desk.snapshots, list, statement)
    rows = [CoverageRow(**{**vars(r), "companies": [*r.companies]}) for r in found.rows]
    return CoverageMatrix(
        list=found.list, members=found.members, years=[*found.years], items=rows, batch=found.batch
    )
