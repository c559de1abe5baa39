"""Calls about the market: prices over a range of days, how companies stand."""

import json
from collections.abc import Sequence
from datetime import datetime
from functools import cached_property
from typing import TYPE_CHECKING, Any, Literal, Unpack

from wise_ledger.client.answers import body_of, table_of
from wise_ledger.client.errors import refused
from wise_ledger.client.given import When, Words, day, request_of, several, words
from wise_ledger.client.transport import Transport
from wise_ledger.client.viewpoint import PlainSeen, Seen, plain_viewpoint, viewpoint
from wise_ledger.wire.estimates import (
    AnnouncementsAnswer,
    CalendarAnswer,
    EstimateHistoryAnswer,
    EstimatesAnswer,
)
from wise_ledger.wire.prices import (
    STANDARD,
    LevelsAnswer,
    MarketAnswer,
    PriceColumn,
    PricesAnswer,
    PricesRequest,
)
from wise_ledger.wire.quality import MarketDecided, MarketDecision, MarketQualityAnswer
from wise_ledger.wire.viewpoint import Unanswered
from wise_ledger.words import counted

if TYPE_CHECKING:
    import pandas as pd
    import pyarrow as pa

Columns = list[PriceColumn]


class PriceTable:
    """Prices of listings, one row a bar, as Arrow has them; `context` says how they were asked for.

    `context["since"]` has for each symbol the first day with a price; `raw` are the bytes of the
    file they came as.
    """

    def __init__(self, raw: bytes) -> None:
        self.raw = raw

    @cached_property
    def _table(self) -> "pa.Table":
        return table_of(self.raw)

    @property
    def failed(self) -> list[Unanswered]:
        """What was asked for and names no listing, in the order given."""
        return [Unanswered.model_validate(one) for one in self.context.get("failed", [])]

    @cached_property
    def context(self) -> dict[str, Any]:
        """How it was asked, both ends of the range included."""
        found: dict[str, Any] = json.loads(self._table.schema.metadata[b"context"])
        return found

    @property
    def known_on(self) -> datetime:
        """The cut-off, as an instant."""
        return datetime.fromisoformat(self.context["known_on"])

    @property
    def batch(self) -> int:
        """The newest batch that the answer rests on."""
        return int(self.context["batch"])

    def arrow(self) -> "pa.Table":
        """The Arrow table: names as dictionaries, days as dates."""
        return self._table

    def frame(self) -> "pd.DataFrame":
        """One row a bar, with types: names as categories, days as timestamps."""
        import pandas as pd

        made: pd.DataFrame = self._table.to_pandas()
        if "date" in made:
            made["date"] = pd.to_datetime(made["date"])
        made.attrs.update(self.context)
        return made

    def wide(self, column: str = "close") -> "pd.DataFrame":
        """One column with days down and symbols across."""
        made = self.frame().pivot(index="date", columns="symbol", values=column)
        made.columns = made.columns.astype(str)
        made.attrs.update(self.context)
        return made

    def __len__(self) -> int:
        return int(self._table.num_rows)

    def __repr__(self) -> str:
        asked = self.context
        span = (
            f"{asked['start']} to {asked['end']}, both included, known on {self.known_on:%Y-%m-%d}"
        )
        prices, of = counted(len(self), "price"), counted(len(asked["since"]), "listing")
        return f"<{prices} of {of} by {asked['frequency']}, {span}>"


class MarketCalls:
    """A part of `Ledger`."""

    _transport: Transport

    def prices(
        self,
        companies: Words = (),
        start: When | None = None,
        end: When | None = None,
        known_on: When | None = None,
        *,
        list: str | None = None,
        frequency: Literal["day", "week", "month", "quarter", "year"] = "day",
        columns: Columns = [*STANDARD],  # noqa: B006  never changed
        adjusted: bool = True,
        sort: Literal["oldest", "newest"] = "oldest",
        **seen: Unpack[Seen],
    ) -> PriceTable:
        """Prices of listings or companies from a day to a day, both included, as known on a date.

        `columns` are of date, open, high, low, close, volume, factor, change, total_return,
        complete, reason (why there is no close), currency. They are adjusted for the splits known
        by the cut-off, as traded without `adjusted`; a year before the end without `start`. The
        result has `frame()`, `wide("close")` and `arrow()`.
        """
        asked = request_of(
            PricesRequest,
            list=list,
            companies=words("companies", companies),
            start=day(start),
            end=day(end),
            frequency=frequency,
            columns=columns,
            adjusted=adjusted,
            sort=sort,
            **viewpoint(known_on, seen),
        )
        return PriceTable(self._transport.post("/prices", asked.model_dump(), format="arrow"))

    def price_file(self, asked: PricesRequest, form: str) -> bytes:
        """The same as the bytes of a file: parquet, arrow, csv or xlsx."""
        return self._transport.post("/prices", asked.model_dump(), format=form)

    def price_answer(self, asked: PricesRequest) -> PricesAnswer:
        """The same with every bar as a model, listing by listing, with what could not be found."""
        return body_of(PricesAnswer, self._transport.post("/prices", asked.model_dump()))

    def levels(
        self,
        list: str,
        start: When | None = None,
        end: When | None = None,
        known_on: When | None = None,
        **seen: Unpack[PlainSeen],
    ) -> LevelsAnswer:
        """The levels of a list, such as a market index, from a day to a day, both included."""
        raw = self._transport.get(
            "/levels", list=list, start=day(start), end=day(end), **plain_viewpoint(known_on, seen)
        )
        return body_of(LevelsAnswer, raw)

    def estimates(
        self,
        company: str,
        known_on: When | None = None,
        *,
        measure: str = "eps",
        period: str | None = None,
        max_age: int | None = None,
        **seen: Unpack[Seen],
    ) -> EstimatesAnswer:
        """A company's periods with their consensus as known on a date, the newest first.

        Of the period named (`FY2024`, `FY2024Q2`), else the next one, also who is in it, who is not
        and why, and how the consensus walked. A contribution stands for `max_age` days at most,
        without it for those of the limit that stands (`limits`).
        `frame()` is one row a period.
        """
        raw = self._transport.get(
            "/estimates", company=company, measure=measure, period=period, max_age=max_age,
            **viewpoint(known_on, seen),
        )  # fmt: skip
        return body_of(EstimatesAnswer, raw)

    def announcements(
        self,
        companies: Words = (),
        start: When | None = None,
        end: When | None = None,
        known_on: When | None = None,
        *,
        list: str | None = None,
        measure: str = "eps",
        max_age: int | None = None,
        **seen: Unpack[Seen],
    ) -> AnnouncementsAnswer:
        """What companies, a list's members or everybody announced from a day
        to a day, both included.

        Each beside what was expected the instant before, on the share basis of the cut-off, with
        its surprise.
        """
        raw = self._transport.get(
            "/estimates/announcements",
            company=words("companies", companies) or None,
            list=list,
            start=day(start),
            end=day(end),
            measure=measure,
            max_age=max_age,
            **viewpoint(known_on, seen),
        )
        return body_of(AnnouncementsAnswer, raw)

    def calendar(
        self,
        companies: Words = (),
        start: When | None = None,
        end: When | None = None,
        known_on: When | None = None,
        *,
        list: str | None = None,
        measure: str = "eps",
        **seen: Unpack[Seen],
    ) -> CalendarAnswer:
        """What companies, a list's members or everybody announced and are expected to,
        between two days, both included.

        From 30 days before the cut-off to 60 after it without the days. Where no source says when,
        an announcement is assumed 364 days after that of the same period of the year before.
        """
        raw = self._transport.get(
            "/estimates/calendar",
            company=words("companies", companies) or None,
            list=list,
            start=day(start),
            end=day(end),
            measure=measure,
            **viewpoint(known_on, seen),
        )
        return body_of(CalendarAnswer, raw)

    def estimate_history(
        self,
        companies: Words = (),
        start: When | None = None,
        end: When | None = None,
        known_on: When | None = None,
        *,
        list: str | None = None,
        measure: str = "eps",
        horizon: Literal["q1", "q2", "fy1", "fy2", "fy3", "ntm"] = "fy1",
        frequency: Literal["day", "week", "month", "quarter", "year"] = "month",
        **seen: Unpack[Seen],
    ) -> EstimateHistoryAnswer:
        """The consensus of companies or a list's members from a day to a day, both included,
        each as known on its day.

        On the last weekday of each stretch, all on the share basis of the cut-off. `frame()` is one
        row a company and day; `since` of a history says from when on anybody had contributed.
        """
        raw = self._transport.get(
            "/estimates/history",
            company=words("companies", companies) or None,
            list=list,
            start=day(start),
            end=day(end),
            measure=measure,
            horizon=horizon,
            frequency=frequency,
            **viewpoint(known_on, seen),
        )
        return body_of(EstimateHistoryAnswer, raw)

    def market(
        self,
        known_on: When | None = None,
        *,
        list: str | None = None,
        companies: Words = (),
        **seen: Unpack[Seen],
    ) -> MarketAnswer:
        """The last close of a list's members, of companies or of everybody,
        its changes, their market value.
        """
        raw = self._transport.get(
            "/market",
            list=list,
            company=words("companies", companies) or None,
            **viewpoint(known_on, seen),
        )
        return body_of(MarketAnswer, raw)

    def market_quality(
        self,
        *,
        check: str | None = None,
        state: Literal["quarantined", "accepted", "rejected", "flagged"] | None = None,
        company: str | None = None,
        limit: int | None = 200,
    ) -> MarketQualityAnswer:
        """Market data that cannot be, which are not used until somebody
        accepts them, and what looks odd.
        """
        asked = {"check": check, "state": state, "company": company}
        return self._transport.paged(
            "/quality/market", MarketQualityAnswer, "findings", limit, 5000, **asked
        )

    def decide_market_quarantine(
        self, rows: Sequence[tuple[str, str, When]], accept: bool, who: str, why: str
    ) -> MarketDecided:
        """Accept or reject market rows in quarantine, each by kind, subject and date, in one batch.

        Such as `("prices", "AGK@ZALD", "2024-03-04")` or `("rates", "EUR/USD", "2024-03-04")`.
        """
        named = [_named(row) for row in several("rows", rows)]
        asked = request_of(MarketDecision, rows=named, accept=accept, who=who, why=why)
        raw = self._transport.post("/quality/market/decisions", asked.model_dump(mode="json"))
        return body_of(MarketDecided, raw)


def _named(row: Any) -> dict[str, Any]:
    """A row of the market by its kind, subject and date."""
    parts = several("rows", row)
    if len(parts) != 3:
        mend = 'write such as ("prices", "AGK@ZALD", "2024-03-04")'
        raise refused("rows", repr(row)[:80], "this names no row", mend)
    return {"kind": parts[0], "subject": parts[1], "date": day(parts[2])}
