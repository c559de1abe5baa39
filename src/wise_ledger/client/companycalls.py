"""Calls about what can be asked for and about single companies: the catalogue,
items, statements, restatements.
"""

from collections.abc import Sequence
from typing import Literal, Unpack

from wise_ledger.client.answers import body_of
from wise_ledger.client.found import Found
from wise_ledger.client.given import When, Words, day, request_of, segment, several, when, words
from wise_ledger.client.results import Stated
from wise_ledger.client.transport import Transport
from wise_ledger.client.viewpoint import CellSeen, Seen, cell_viewpoint, viewpoint
from wise_ledger.wire.catalogue import Catalogue, CatalogueSearch, Item, ItemPage, NewItem
from wise_ledger.wire.collecting import SourceOrder, SourceOrderRequest, SourceOrders
from wise_ledger.wire.quality import CoverageMatrix, Decided, QualityAnswer, QuarantineDecision
from wise_ledger.wire.statements import (
    Restatements,
    StatementAnswer,
    StatementsAnswer,
    StatementsRequest,
)


class CompanyCalls:
    """A part of `Ledger`."""

    _transport: Transport

    def statement(
        self,
        company: str,
        statement: str = "income",
        frequency: str = "annual",
        known_on: When | None = None,
        *,
        versions: Literal["latest", "first"] = "latest",
        figures: Literal["normalised", "as_reported"] = "normalised",
        show: Literal["amounts", "common_size", "growth"] = "amounts",
        periods: int | None = None,
        start: When | None = None,
        end: When | None = None,
        lines: Literal["filled", "template", "all"] = "filled",
        basis: str = "consolidated",
        **seen: Unpack[CellSeen],
    ) -> Stated:
        """A company's statement as known on a date (today without one):
        every period there is, oldest first.

        `statement` is income, balance, cash_flow, per_share, share_count, other or all; `frequency`
        is annual, half, quarter, trailing or cumulative; `periods` keeps the newest, of those that
        end from `start` to `end`, both included; `basis` names a segment or the like, of those in
        the answer's `bases`.
        """
        raw = self._transport.get(
            "/statements",
            company=company,
            statement=statement,
            frequency=frequency,
            versions=versions,
            figures=figures,
            show=show,
            periods=periods,
            start=day(start),
            end=day(end),
            lines=lines,
            basis=basis,
            **cell_viewpoint(known_on, seen),
        )
        return Stated(body_of(StatementAnswer, raw))

    def statements(
        self,
        companies: Words = (),
        statement: str = "income",
        frequency: str = "annual",
        known_on: When | None = None,
        *,
        list: str | None = None,
        versions: Literal["latest", "first"] = "latest",
        figures: Literal["normalised", "as_reported"] = "normalised",
        show: Literal["amounts", "common_size", "growth"] = "amounts",
        periods: int | None = None,
        start: When | None = None,
        end: When | None = None,
        lines: Literal["filled", "template", "all"] = "filled",
        **seen: Unpack[CellSeen],
    ) -> StatementsAnswer:
        """Statements of several companies, or of a list's members;
        `failed` has those that could not be given.

        `frame()` is one row a figure of all of them.
        """
        asked = request_of(
            StatementsRequest,
            list=list,
            companies=words("companies", companies),
            statement=statement,
            frequency=frequency,
            versions=versions,
            figures=figures,
            show=show,
            periods=periods,
            start=day(start),
            end=day(end),
            lines=lines,
            **cell_viewpoint(known_on, seen),
        )
        return body_of(StatementsAnswer, self._transport.post("/statements", asked.model_dump()))

    def restatements(
        self,
        company: str | None = None,
        *,
        list: str | None = None,
        since: When = "1900-01-01",
        known_on: When | None = None,
        item: str | None = None,
        least: float = 0.0,
        limit: int | None = 200,
        **seen: Unpack[Seen],
    ) -> Restatements:
        """What was restated, of one company, of a list's members or of all, the newest first.

        `least` leaves out changes of fewer percent; without a `limit` all are given.
        """
        return self._transport.paged(
            "/restatements",
            Restatements,
            "restatements",
            limit,
            5000,
            company=company,
            list=list,
            since=when(since),
            item=item,
            least=least,
            **viewpoint(known_on, seen),
        )

    def quality(
        self,
        *,
        check: str | None = None,
        state: Literal["quarantined", "accepted", "rejected", "flagged"] | None = None,
        company: str | None = None,
        list: str | None = None,
        source: str | None = None,
        limit: int | None = 200,
    ) -> QualityAnswer:
        """What checks found wrong, hard findings first;
        those are not used until somebody accepts them.
        """
        asked = {"check": check, "state": state, "company": company, "list": list, "source": source}
        return self._transport.paged("/quality", QualityAnswer, "findings", limit, 5000, **asked)

    def decide_quarantine(self, facts: Sequence[int], accept: bool, who: str, why: str) -> Decided:
        """Accept or reject figures in quarantine by their numbers, in one batch."""
        asked = request_of(
            QuarantineDecision, facts=several("facts", facts), accept=accept, who=who, why=why
        )
        return body_of(Decided, self._transport.post("/quality/decisions", asked.model_dump()))

    def source_orders(self) -> Found[SourceOrder]:
        """Which source goes before which; the general order first."""
        return Found(
            SourceOrder,
            body_of(SourceOrders, self._transport.get("/sources/order")).orders,
        )

    def prefer_sources(
        self,
        sources: Words,
        who: str,
        *,
        item: str | None = None,
        company: str | None = None,
        why: str = "",
    ) -> Found[SourceOrder]:
        """Say which sources go first, for an item, a company, both or all;
        none takes an earlier word back.
        """
        asked = request_of(
            SourceOrderRequest,
            sources=words("sources", sources),
            who=who,
            why=why,
            item=item,
            company=company,
        )
        raw = self._transport.post("/sources/order", asked.model_dump())
        return Found(SourceOrder, body_of(SourceOrders, raw).orders)

    def coverage(self, list: str, statement: str | None = None) -> CoverageMatrix:
        """How many members of a list have each item in each year."""
        return body_of(
            CoverageMatrix, self._transport.get("/quality/coverage", list=list, statement=statement)
        )

    def find(
        self,
        text: str = "",
        *,
        kind: Words = (),
        statement: str | None = None,
        template: str | None = None,
        least: float = 0.0,
        company: str | None = None,
        limit: int | None = 50,
    ) -> CatalogueSearch:
        """Find a column by word, synonym or code, the best first; `company` shows its value there.

        `least` is the share of companies (0 to 1) that must have it.
        """
        asked = {
            "q": text,
            "kind": words("kind", kind) or None,
            "statement": statement,
            "template": template,
            "least": least,
            "company": company,
        }
        return self._transport.paged(
            "/catalogue/search", CatalogueSearch, "entries", limit, 500, **asked
        )

    def item(self, code: str) -> ItemPage:
        """All there is to know about an item: meaning, coverage by year, tags, sums,
        neighbours, spread of values.
        """
        return body_of(ItemPage, self._transport.get(f"/items/{segment(code)}"))

    def register_item(
        self,
        code: str,
        title: str,
        unit: str,
        source: str,
        who: str,
        *,
        nature: Literal["flow", "stock", "observation"] = "observation",
        definition: str = "",
        stale_after: int | None = None,
    ) -> Item:
        """Register an item of one's own, or define it again; `stale_after` in
        days, of an observation.
        """
        asked = request_of(
            NewItem,
            code=code,
            title=title,
            unit=unit,
            source=source,
            who=who,
            nature=nature,
            definition=definition,
            stale_after=stale_after,
        )
        return body_of(Item, self._transport.post("/items", asked.model_dump()))

    def catalogue(self) -> Catalogue:
        """The items, attributes and functions that an expression may name."""
        return body_of(Catalogue, self._transport.get("/catalogue"))
