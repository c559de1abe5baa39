"""The client's one object."""

import os
from collections.abc import Iterator, Sequence
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING, Any, Self, Unpack

import httpx

from wise_ledger.client.answers import body_of
from wise_ledger.client.companycalls import CompanyCalls
from wise_ledger.client.found import Found
from wise_ledger.client.given import (
    When,
    Words,
    content,
    day,
    one_text,
    raw_bytes,
    refuse_text,
    request_of,
    segment,
    several,
    when,
    words,
)
from wise_ledger.client.kept import asked_again
from wise_ledger.client.limitcalls import LimitCalls
from wise_ledger.client.marketcalls import MarketCalls
from wise_ledger.client.measurecalls import MeasureCalls
from wise_ledger.client.panelcalls import PanelCalls
from wise_ledger.client.results import Explained, Matches, Members, Screened
from wise_ledger.client.runcalls import Progress, RunCalls
from wise_ledger.client.seriescalls import SeriesCalls
from wise_ledger.client.tokencalls import TokenCalls
from wise_ledger.client.transport import Transport
from wise_ledger.client.viewpoint import CellSeen, cell_viewpoint
from wise_ledger.wire.collecting import LoadAnswer
from wise_ledger.wire.figures import DocumentInfo, Explanation
from wise_ledger.wire.identity import (
    Companies,
    CompanyPage,
    Decision,
    DecisionRequest,
    Decisions,
    Listings,
    MatchAnswer,
    MatchRequest,
    Securities,
    SecurityType,
    TermAsked,
    TermsRead,
    Venues,
    VenueWord,
)
from wise_ledger.wire.ledger import Batch, Batches
from wise_ledger.wire.lists import (
    ListChange,
    ListCombination,
    ListInfo,
    ListMembers,
    ListRequest,
    Lists,
    ListVersion,
    ListVersions,
)
from wise_ledger.wire.screens import ScreenAnswer, ScreenRequest, Verdict

if TYPE_CHECKING:
    import pandas as pd
    import pyarrow as pa

URL = "http://127.0.0.1:8600"


def connect(
    url: str | None = None,
    token: str | None = None,
    *,
    timeout: float = 60.0,
    transport: httpx.BaseTransport | None = None,
) -> "Ledger":
    """Open a client; without arguments from WISE_LEDGER_URL and WISE_LEDGER_TOKEN.

    `timeout` is in seconds. Raises `InputRefused` where one of them cannot be used.
    """
    address = url or os.environ.get("WISE_LEDGER_URL") or URL
    secret = token or os.environ.get("WISE_LEDGER_TOKEN") or ""
    return Ledger(Transport(address, secret, timeout, transport))


def screen_request(
    rule: str, list_: str | None, known_on: When | None, seen: CellSeen, **how: Any
) -> ScreenRequest:
    """A screen as the service reads it; raises `InputRefused`."""
    return request_of(
        ScreenRequest,
        rule=rule,
        list=list_,
        companies=words("companies", how["companies"]),
        show=words("show", how["show"]),
        sort=how["sort"],
        only=several("only", how["only"]),
        **cell_viewpoint(known_on, seen),
    )


class Ledger(
    MarketCalls,
    SeriesCalls,
    CompanyCalls,
    MeasureCalls,
    PanelCalls,
    RunCalls,
    LimitCalls,
    TokenCalls,
):
    """A running Wise Ledger service; every method raises `WiseLedgerError`."""

    def __init__(self, transport: Transport) -> None:
        self._transport = transport

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.close()

    def close(self) -> None:
        """Let go of the connections."""
        self._transport.close()

    def screen(
        self,
        rule: str,
        list: str | None = None,
        known_on: When | None = None,
        *,
        companies: Words = (),
        show: Words = (),
        sort: str | None = None,
        only: Sequence[Verdict] = (),
        **seen: Unpack[CellSeen],
    ) -> Screened:
        """Who of `list` passes `rule` as known on a date (its end, UTC), at
        an instant, or without one today.

        Without a list it is about `companies` (any identifiers), without these about everybody
        active then. `show` adds columns (`"margin: operating_income / revenue"`), `sort` names one
        (`"-margin"`: the highest first), `only=["pass"]` leaves out the others.
        """
        how = {"companies": companies, "show": show, "sort": sort, "only": only}
        return self.screen_answer(screen_request(rule, list, known_on, seen, **how))

    def screen_answer(self, asked: ScreenRequest) -> Screened:
        """The same, asked for as the service reads it."""
        return Screened(body_of(ScreenAnswer, self._transport.post("/screens", asked.model_dump())))

    def kept_screen(
        self,
        name: str,
        known_on: When | None = None,
        *,
        version: int | None = None,
        **seen: Unpack[CellSeen],
    ) -> Screened:
        """A kept screen asked again: as known on a date,
        else as known on the date it was kept with, or today.
        """
        found = self.question(name, version, recorded_by=seen.get("recorded_by"))
        return self.screen_answer(asked_again(found, "screen", ScreenRequest, known_on, seen))

    def explain(
        self,
        company: str,
        expression: str,
        known_on: When | None = None,
        *,
        period_end: When | None = None,
        **seen: Unpack[CellSeen],
    ) -> Explained:
        """One figure of a company (any identifier): inputs, facts, documents and versions."""
        raw = self._transport.get(
            "/explanations",
            company=company,
            expression=expression,
            period_end=day(period_end),
            **cell_viewpoint(known_on, seen),
        )
        return Explained(body_of(Explanation, raw))

    def match(
        self,
        terms: Sequence[str | TermAsked],
        on: When,
        *,
        types: Sequence[SecurityType] = ("ordinary",),
        all_listings: bool = False,
        ever: bool = False,
        to: Words = (),
        recorded_by: int | None = None,
        progress: Progress | None = None,
    ) -> Matches:
        """Which companies names, symbols and identifiers mean on a date: one row a term, in order.

        `types` are the security types that count; `ever` takes companies and symbols of any time;
        `to` maps to other schemes (`isin`, `sedol`, `symbol`, …). More than 1,000 terms are a run,
        whose `progress` is called.
        """
        refuse_text("terms", terms)
        asked = request_of(
            MatchRequest,
            terms=several("terms", terms),
            on=when(on),
            types=several("types", types),
            recorded_by=recorded_by,
            all_listings=all_listings,
            ever=ever,
            to=words("to", to),
        )
        queued, raw = self._transport.ask("/matches", asked.model_dump())
        return Matches(body_of(MatchAnswer, self._answered(raw, progress) if queued else raw))

    def read_terms(self, content: bytes, column: str | None = None) -> TermsRead:
        """The terms in a file's bytes (CSV, XLSX or lines), of a column that is found or named."""
        raw = self._transport.send_bytes(
            "/matches/terms", raw_bytes("content", content), column=column
        )
        return body_of(TermsRead, raw)

    def decide(self, term: str, company: str | None, who: str, why: str = "") -> Decision:
        """Keep what a person says a term means; None takes an earlier word back."""
        asked = request_of(DecisionRequest, term=term, company=company, who=who, why=why)
        return body_of(Decision, self._transport.post("/matches/decisions", asked.model_dump()))

    def decisions(self) -> Found[Decision]:
        """What people decided, the newest first."""
        return Found(
            Decision,
            body_of(Decisions, self._transport.get("/matches/decisions")).decisions,
        )

    def companies(
        self,
        query: str = "",
        on: When | None = None,
        *,
        with_inactive: bool = True,
        limit: int | None = None,
        recorded_by: int | None = None,
    ) -> Companies:
        """Companies by anything that names them, without a query all; the first `limit`,
        or page by page every one.
        """
        asked = {"query": query, "with_inactive": with_inactive, **_seen(on, recorded_by)}
        return self._transport.paged("/companies", Companies, "companies", limit, 1000, **asked)

    def company(
        self, company: str, on: When | None = None, *, recorded_by: int | None = None
    ) -> CompanyPage:
        """All there is to know about a company, by any identifier."""
        path = f"/companies/{segment(company, slashes=True)}"
        return body_of(CompanyPage, self._transport.get(path, **_seen(on, recorded_by)))

    def venues(self, on: When | None = None, *, recorded_by: int | None = None) -> Venues:
        """Listings and companies at each venue by security type."""
        return body_of(Venues, self._transport.get("/venues", **_seen(on, recorded_by)))

    def call_venue(self, word: str, mic: str | None, who: str) -> Venues:
        """Teach what a venue is also called, such as the suffix of its symbols;
        None takes the word back.
        """
        asked = request_of(VenueWord, word=word, mic=mic, who=who)
        return body_of(Venues, self._transport.post("/venues/words", asked.model_dump()))

    def listings(
        self,
        on: When | None = None,
        *,
        venue: str | None = None,
        security_type: str | None = None,
        recorded_by: int | None = None,
    ) -> Listings:
        """Listings of a day, or of all time, with their companies."""
        asked = {"venue": venue, "security_type": security_type, **_seen(on, recorded_by)}
        return body_of(Listings, self._transport.get("/listings", **asked))

    def securities(
        self,
        on: When | None = None,
        *,
        security_type: str | None = None,
        recorded_by: int | None = None,
    ) -> Securities:
        """Every security with its company and its listings of a day."""
        asked = {"security_type": security_type, **_seen(on, recorded_by)}
        return body_of(Securities, self._transport.get("/securities", **asked))

    def keep_list(
        self,
        name: str,
        companies: Words = (),
        who: str = "",
        title: str = "",
        *,
        rule: str | None = None,
        until_ended: bool = False,
    ) -> ListMembers:
        """Keep a list of companies, new or changed to be exactly these; or one by a rule,
        which holds on every date.

        With `until_ended` companies that are no more stand on it until the day they ended.
        """
        asked = request_of(
            ListRequest,
            name=name,
            title=title,
            companies=words("companies", companies),
            rule=rule,
            on=None,
            who=who,
            until_ended=until_ended,
        )
        return body_of(ListMembers, self._transport.post("/lists", asked.model_dump()))

    def combine_lists(
        self, name: str, how: ListCombination, lists: Words, who: str, on: When | None = None
    ) -> ListMembers:
        """Keep the union, intersection or difference of lists as they are today, or were on a day;
        the union of one is its copy.
        """
        asked = request_of(
            ListRequest,
            name=name,
            how=how,
            lists=words("lists", lists),
            rule=None,
            on=day(on),
            who=who,
        )
        return body_of(ListMembers, self._transport.post("/lists", asked.model_dump()))

    def change_list(
        self,
        name: str,
        who: str,
        *,
        add: Words = (),
        remove: Words = (),
        title: str | None = None,
        description: str | None = None,
        archived: bool | None = None,
    ) -> ListMembers:
        """Add and remove companies, describe, rename, archive or bring back a list;
        None leaves a thing as it is.
        """
        asked = request_of(
            ListChange,
            title=title,
            description=description,
            archived=archived,
            add=words("add", add),
            remove=words("remove", remove),
            who=who,
        )
        raw = self._transport.patch(f"/lists/{segment(name)}", asked.model_dump())
        return body_of(ListMembers, raw)

    def members(
        self,
        name: str,
        known_on: When | None = None,
        *,
        where: str | None = None,
        show: Words = (),
        with_inactive: bool = True,
        **seen: Unpack[CellSeen],
    ) -> Members:
        """The members of a list on a day; with `where` those of whom a rule is true,
        `show` adds expressions.
        """
        raw = self._transport.get(
            f"/lists/{segment(name)}/members",
            where=where,
            show=words("show", show),
            with_inactive=with_inactive,
            **cell_viewpoint(known_on, seen),
        )
        return Members(body_of(ListMembers, raw))

    def list_versions(self, name: str) -> Found[ListVersion]:
        """Every change of a list, the newest first: who, when, which companies came and left."""
        raw = self._transport.get(f"/lists/{segment(name)}/versions")
        return Found(ListVersion, body_of(ListVersions, raw).versions)

    def document(self, address: str) -> tuple[DocumentInfo, bytes]:
        """A document and its raw bytes, by its SHA-256 or the beginning of it."""
        info = body_of(DocumentInfo, self._transport.get(f"/documents/{segment(address)}"))
        return info, self._transport.get(f"/documents/{segment(info.sha256)}/content")

    def load_template(self, kind: str) -> bytes:
        """A CSV file with the heads of a kind of file and one example row."""
        return self._transport.get(f"/collections/files/{segment(kind)}")

    def load(
        self,
        kind: str,
        file: "bytes | str | Path | pd.DataFrame | pa.Table",
        *,
        accept_good: bool = False,
        mapping: str | None = None,
        name: str | None = None,
    ) -> LoadAnswer:
        """Load a file of a kind (`companies`, `facts`, `prices`, `dividends`, … ) as one batch.

        `file` is a path, the bytes of a file, or a frame or a table of Arrow with the columns of the
        kind, of a frame those of its index too, where they have names. With a bad
        row nothing is written, unless `accept_good` takes the others; `bad` says what to mend.
        `mapping` is YAML that says what is where in a table of facts of another shape.
        """
        raw_file, called = content(file)
        how = {
            "accept_good": accept_good,
            "mapping": mapping,
            "name": one_text("name", name) or called,
        }
        raw = self._transport.send_bytes(f"/collections/files/{segment(kind)}", raw_file, **how)
        return body_of(LoadAnswer, raw)

    def load_pages(self, archive: bytes, mapping: str, *, name: str = "a folder") -> LoadAnswer:
        """Load dated pages, one folder a company, packed as ZIP;
        `outcomes` says what became of each.

        `mapping` is YAML that says what the labels mean and how file names give the instant of
        capture.
        """
        packed = raw_bytes("archive", archive)
        raw = self._transport.send_bytes("/collections/pages", packed, mapping=mapping, name=name)
        return body_of(LoadAnswer, raw)

    def lists(self, *, archived: bool = False) -> Found[ListInfo]:
        """Every list; archived ones only if asked for."""
        return Found(
            ListInfo,
            body_of(Lists, self._transport.get("/lists", archived=archived)).lists,
        )

    def batches(self) -> Iterator[Batch]:
        """Every batch, the newest first; pages are fetched as they are needed."""
        cursor = None
        while True:
            page = body_of(Batches, self._transport.get("/batches", cursor=cursor))
            yield from page.batches
            cursor = page.next
            if cursor is None:
                return


def _seen(on: When | None, recorded_by: int | None) -> dict[str, Any]:
    """Of which day, and as recorded by which batch."""
    return {"on": day(on), "recorded_by": recorded_by}
