"""Companies, venues, listings, matches and what people decided of them."""

from dataclasses import asdict
from datetime import date
from typing import Annotated

from fastapi import Query, Request, Response

from wise_ledger.service import asof
from wise_ledger.service.access import OpenDesk
from wise_ledger.service.paging import Cursor, following
from wise_ledger.service.routes import calls
from wise_ledger.service.runs import Key, queued
from wise_ledger.wire.collecting import Run
from wise_ledger.wire.identity import (
    Companies,
    CompanyInfo,
    CompanyPage,
    Decision,
    DecisionRequest,
    Decisions,
    ListedCompany,
    ListingInfo,
    Listings,
    MatchAnswer,
    MatchRequest,
    Securities,
    SecurityInfo,
    SecurityType,
    TermAsked,
    TermsRead,
    VenueCount,
    Venues,
    VenueWord,
)
from wise_ledger.work import companies, match, termfile
from wise_ledger.work.dates import read_date
from wise_ledger.work.longkinds import begin_match

router = calls("identity")
_AT_ONCE = 1000  # terms that are matched while one waits for them
On = Annotated[str | None, Query(description="YYYY-MM-DD; by default today")]


def day_of(desk: OpenDesk, on: str | None) -> date:
    """The day asked for, by default today."""
    return desk.ledger.now().date() if on is None else read_date(on, "on")


@router.post(
    "/matches",
    responses={202: {"model": Run, "description": "of many terms: a run, and its answer there"}},
)
def matches(
    asked: MatchRequest, desk: OpenDesk, response: Response, idempotency_key: Key = None
) -> MatchAnswer | Run:
    """Which companies a file of names, symbols and identifiers means, as of a date;
    one row a term, in order.

    More than 1,000 terms are matched as a run.
    """
    terms = [
        match.Term(t) if isinstance(t, str) else match.Term(t.text, t.venue, t.country)
        for t in asked.terms
    ]
    on = read_date(asked.on, "on")
    how = {"types": frozenset(asked.types), "all_listings": asked.all_listings, "ever": asked.ever}
    how |= {"to": asked.to, "recorded_by": asked.recorded_by}
    if len(terms) > _AT_ONCE:
        response.status_code = 202
        return queued(desk, begin_match(desk, terms, on, how, idempotency_key), response)
    answer = MatchAnswer.of(asdict(match.match_terms(desk.snapshots, terms, on, **how)))
    asof.stamp(on, asked.recorded_by, answer.batch)
    return answer


@router.post("/matches/terms")
async def terms(request: Request, desk: OpenDesk, column: str | None = None) -> TermsRead:
    """The terms in a file: the body is its bytes, CSV, XLSX or plain lines;
    the column is found, or named.
    """
    found = termfile.read_terms(await request.body(), column)
    return TermsRead(
        columns=list(found.columns),
        column=found.column,
        terms=[TermAsked(text=t.text, venue=t.venue, country=t.country) for t in found.terms],
        notes=list(found.notes),
    )


@router.get("/matches/decisions")
def decisions(desk: OpenDesk) -> Decisions:
    """What people decided, the newest first."""
    snapshot = desk.snapshots.at()
    standing = match.standing_decisions(snapshot.decisions)
    rows = [
        Decision(
            term=d.term,
            company=None if d.company is None else snapshot.ids[d.company],
            name=None if d.company is None else snapshot.name(d.company, d.recorded_at),
            who=d.who,
            why=d.why,
            batch=d.batch,
            stands=d in standing.values(),
        )
        for d in reversed(snapshot.decisions)
    ]
    return Decisions(decisions=rows)


@router.post("/matches/decisions", status_code=201)
def decide(asked: DecisionRequest, desk: OpenDesk) -> Decision:
    """Keep what a person says a term means; used from now on."""
    match.decide(desk.ledger, desk.snapshots, asked.term, asked.company, asked.who, asked.why)
    return decisions(desk).decisions[0]


@router.get("/companies")
def found_companies(
    desk: OpenDesk,
    query: Annotated[str, Query(description="name, symbol or identifier; empty: all")] = "",
    on: On = None,
    with_inactive: bool = True,
    country: str | None = None,
    limit: Annotated[int, Query(ge=1, le=1000)] = 100,
    cursor: Cursor = 0,
    recorded_by: asof.RecordedBy = None,
) -> Companies:
    """Companies by anything that names them, page by page."""
    day, snapshot = _seen(desk, on, recorded_by)
    found, total = companies.search(
        snapshot,
        query,
        day,
        with_inactive=with_inactive,
        country=country,
        limit=limit,
        skip=cursor,
    )
    shown = [CompanyInfo.model_validate(asdict(c)) for c in found]
    return Companies(
        companies=shown,
        total=total,
        with_inactive=with_inactive,
        on=day,
        batch=snapshot.batch,
        next=following(cursor, len(found), total),
    )


@router.get("/companies/{company:path}")
def company(
    desk: OpenDesk, company: str, on: On = None, recorded_by: asof.RecordedBy = None
) -> CompanyPage:
    """One company by any identifier: names, identifiers and listings through time,
    what the ledger holds of it.
    """
    day, snapshot = _seen(desk, on, recorded_by)
    page = companies.company_page(desk.ledger, snapshot, company, day)
    return CompanyPage.model_validate(asdict(page))


@router.get("/venues")
def venues(desk: OpenDesk, on: On = None, recorded_by: asof.RecordedBy = None) -> Venues:
    """Listings and companies at each venue by security type."""
    day, snapshot = _seen(desk, on, recorded_by)
    found = companies.venues(snapshot, day)
    return Venues(
        on=day,
        batch=snapshot.batch,
        venues=[VenueCount.model_validate(asdict(v)) for v in found],
    )


@router.post("/venues/words", status_code=201)
def call_venue(desk: OpenDesk, asked: VenueWord) -> Venues:
    """Teach what a venue is also called, such as the suffix of its symbols;
    without a venue take a word back.
    """
    companies.call_venue(desk.ledger, desk.snapshots, asked.word, asked.mic, asked.who)
    return venues(desk)


@router.get("/securities")
def securities(
    desk: OpenDesk,
    on: On = None,
    security_type: SecurityType | None = None,
    recorded_by: asof.RecordedBy = None,
) -> Securities:
    """Every security with its company and its listings of a day."""
    day, snapshot = _seen(desk, on, recorded_by)
    found = [
        SecurityInfo.model_validate(asdict(s))
        for s in companies.securities(snapshot, day, security_type)
    ]
    return Securities(on=day, batch=snapshot.batch, securities=found)


@router.get("/listings")
def listings(
    desk: OpenDesk,
    on: Annotated[str | None, Query(description="YYYY-MM-DD; by default of all time")] = None,
    venue: Annotated[str | None, Query(description="MIC")] = None,
    security_type: SecurityType | None = None,
    recorded_by: asof.RecordedBy = None,
) -> Listings:
    """Listings with their companies."""
    today, snapshot = _seen(desk, on, recorded_by)
    day = None if on is None else today
    rows = [
        ListedCompany(
            company=c.id,
            name=c.name,
            country=c.country,
            active=c.active,
            listing=ListingInfo.model_validate(asdict(x)),
        )
        for c, x in companies.listings(snapshot, day, venue, security_type)
    ]
    return Listings(on=day, batch=snapshot.batch, listings=rows)


def _seen(
    desk: OpenDesk, on: str | None, recorded_by: int | None
) -> tuple[date, companies.Snapshot]:
    """The day that is asked of, and the state of the ledger that the answer rests on,
    both said in its headers.
    """
    day, snapshot = day_of(desk, on), desk.snapshots.at(recorded_by)
    asof.stamp(day, recorded_by, snapshot.batch)
    return day, snapshot
