"""The adapter to Fernmark Data: companies, lists and filings as JSON over HTTP."""

from collections.abc import Collection
from datetime import date
from typing import Any, Literal
from urllib.parse import quote

from wise_ledger.core.records.records import CompanyRecord, ListRecord
from wise_ledger.sources.aside import ReadsAside
from wise_ledger.sources.errors import damaged
from wise_ledger.sources.fernmark_market import market_calls, market_of
from wise_ledger.sources.fernmark_rows import (
    TITLE,
    company_of,
    member_of,
    rates_of,
    read_filing,
    venue_of,
)
from wise_ledger.sources.http import OverHttp, SourceHttp
from wise_ledger.sources.mapping import shipped
from wise_ledger.sources.market import MarketFound
from wise_ledger.sources.pacing import Budget, Pace
from wise_ledger.sources.protocol import (
    CompaniesFound,
    FilingsFound,
    ListsFound,
    RatesFound,
    VenuesFound,
)

NAME = "fernmark"
_AT_ONCE = 25  # filings in one answer


class Fernmark(OverHttp, ReadsAside):
    """Fernmark Data at `base_url`, asked with `key`;
    each answer must come within `timeout` seconds.
    """

    name, title = NAME, TITLE
    reading = staticmethod(read_filing)
    describes_companies: Literal[True] = True

    def __init__(
        self, base_url: str, key: str, timeout: float, budget: Budget | None = None
    ) -> None:
        self.budget = budget or Budget(Pace())
        self.mapping = shipped(NAME)
        self._http = SourceHttp(TITLE, base_url, {"X-Api-Key": key}, timeout, self.budget)

    def calls(self, filings: int) -> int:
        """One for the index of a company's filings, and one for each load of them."""
        return 1 + -(-filings // _AT_ONCE)

    def companies(self, mark: str | None = None) -> CompaniesFound:
        """Every company that changed since a mark, with attributes, identifiers,
        securities and listings.
        """
        asked = {"changed_since": mark} if mark else {}
        found: dict[str, CompanyRecord] = {}
        filings: dict[str, int] = {}
        now = self._http.get("/v1/companies", changed_since="now").body
        for row in self._http.pages("/v1/companies", "companies", **asked):
            record = company_of(row)
            found[record.key] = record  # a page given twice says the same again
            if isinstance(row.get("filings"), int):
                filings[record.key] = row["filings"]
        as_of = now.get("as_of") if isinstance(now, dict) else None
        return CompaniesFound([found[key] for key in sorted(found)], as_of, filings, mark)

    def lists(self, mark: str | None = None) -> ListsFound:
        """Every list with its members; None where none changed since the mark."""
        index = self._http.get("/v1/lists", etag=mark)
        if index.unchanged:
            return ListsFound(None, mark)
        lists = [
            ListRecord(
                row["name"],
                row["title"],
                tuple(
                    member_of(m)
                    for m in self._http.pages(
                        f"/v1/lists/{quote(str(row['name']), safe='')}/members", "members"
                    )
                ),
            )
            for row in self._rows(index.body, "lists", "/v1/lists")
        ]
        return ListsFound(lists, index.etag)

    def rates(self, mark: str | None = None) -> RatesFound:
        """Rates of every day from that of the mark on:
        the last day may have been given before it ended.
        """
        asked = {"since": mark} if mark else {}
        found = [
            r for row in self._http.pages("/v1/rates", "rates", **asked) for r in rates_of(row)
        ]
        return RatesFound(found, max((r.day.isoformat() for r in found), default=mark))

    def venues(self, mark: str | None = None) -> VenuesFound:
        """Every venue; None where none changed since the mark."""
        found = self._http.get("/v1/venues", etag=mark)
        if found.unchanged:
            return VenuesFound(None, mark)
        rows = found.body.get("venues") if isinstance(found.body, dict) else None
        if not isinstance(rows, list):
            raise damaged(f"{TITLE} /v1/venues", found.body, "the answer has no venues")
        return VenuesFound([venue_of(row) for row in rows], found.etag)

    def market_calls(self, mark: str | None = None) -> int:
        """One for each file of prices that changed, and those for their
        index, levels, and pages of the rest.
        """
        return market_calls(self._http, mark)

    def market(self, mark: str | None = None) -> MarketFound:
        """Prices by venue and year, levels, dividends,
        share counts and ends of listings that changed since a mark.
        """
        return market_of(self._http, mark)

    def filings(
        self,
        company: CompanyRecord,
        known: Collection[str],
        mark: str | None = None,
        since: date | None = None,
    ) -> FilingsFound:
        """The filings not known yet, oldest first;
        None where the index is as it was at the mark.
        """
        path = f"/v1/companies/{quote(company.key, safe='')}/filings"
        index = self._http.get(path, etag=mark)
        if index.unchanged:
            return FilingsFound(None, mark)
        new: dict[str, str] = {}
        for row in self._rows(index.body, "filings", path):
            key = f"{row['id']}@{row['version']}"
            if key not in known and (
                since is None or not row["published"] or row["published"][:10] >= str(since)
            ):
                new[row["id"]] = key
        year_end = next(
            (int(a.value) for a in reversed(company.attributes) if a.name == "fiscal_year_end"), 12
        )
        template = next(
            (a.value for a in reversed(company.attributes) if a.name == "template"), None
        )
        ids = list(new)
        parts = (ids[begin : begin + _AT_ONCE] for begin in range(0, len(ids), _AT_ONCE))
        contents = [one for part in parts for one in self._contents(part)]
        documents = [(new[id_], raw, year_end, template) for id_, raw in contents]
        return self.found(documents, index.etag)

    def _contents(self, ids: list[str]) -> list[tuple[str, bytes]]:
        """The raw bytes of filings, in the order asked for; each must be there once."""
        path = "/v1/filings"
        body = self._http.get(path, ids=",".join(ids)).body
        found = {}
        for row in self._rows(body, "filings", path):
            if not isinstance(row.get("content"), str):
                raise damaged(f"{TITLE} {path}", row, "a filing has no content")
            found[row["id"]] = row["content"].encode()
        missing = [i for i in ids if i not in found]
        if missing:
            raise damaged(f"{TITLE} {path}", missing[0], "a filing that was asked for did not come")
        return [(i, found[i]) for i in ids]

    def _rows(self, body: Any, name: str, path: str) -> list[dict[str, Any]]:
        rows = body.get(name) if isinstance(body, dict) else None
        if not isinstance(rows, list):
            raise damaged(f"{TITLE} {path}", body, f"the answer has no {name}")
        for row in rows:
            needed = ("name", "title") if name == "lists" else ("id", "version")
            if not isinstance(row, dict) or any(n not in row for n in needed):
                raise damaged(
                    f"{TITLE} {path}", row, f"a row of {name} lacks {' or '.join(needed)}"
                )
        return rows
