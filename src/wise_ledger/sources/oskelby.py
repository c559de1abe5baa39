"""The adapter to Oskelby Estimates: contributions of analysts and announced actuals, companies known by their LEI."""

import json
from collections.abc import Collection, Iterator
from datetime import date
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc

from wise_ledger.core.records.records import AttributeRecord, CompanyRecord, IdentifierRecord
from wise_ledger.sources.errors import damaged
from wise_ledger.sources.http import OverHttp, SourceHttp
from wise_ledger.sources.mapping import TagMapping
from wise_ledger.sources.market import EstimatesFound, Expected
from wise_ledger.sources.pacing import Budget, Pace
from wise_ledger.sources.protocol import CompaniesFound, FilingRecord, FilingsFound

NAME, TITLE = "oskelby", "Oskelby Estimates"
_SINCE = date(2012, 1, 1)


class Oskelby(OverHttp):
    """Oskelby Estimates at `base_url`, asked with `key`; each answer must come within `timeout` seconds."""

    name, title = NAME, TITLE

    def __init__(self, base_url: str, key: str, timeout: float, budget: Budget | None = None) -> None:
        self.budget = budget or Budget(Pace())
        self.mapping = TagMapping()
        self._http = SourceHttp(TITLE, base_url, {"X-Api-Key": key}, timeout, self.budget)

    def calls(self, filings: int) -> int:
        """None: it has no filings."""
        return 0

    def companies(self, mark: str | None = None) -> CompaniesFound:
        """Every company that is covered; it is named only where nobody else names it."""
        body = self._http.get("/v1/companies").body
        rows = body.get("companies") if isinstance(body, dict) else None
        if not isinstance(rows, list):
            raise damaged(f"{TITLE} /v1/companies", body, "the answer has no companies")
        found = []
        for row in rows:
            try:
                lei, name = row["lei"], row["name"]
            except (KeyError, TypeError):
                raise damaged(f"{TITLE} /v1/companies", row, "a company lacks lei or name") from None
            named = AttributeRecord("name", name, _SINCE)
            found.append(CompanyRecord(lei, name, (named,), (IdentifierRecord("lei", lei, _SINCE),)))
        return CompaniesFound(sorted(found, key=lambda c: c.key), None, {})

    def filings(
        self, company: CompanyRecord, known: Collection[str], mark: str | None = None, since: date | None = None
    ) -> FilingsFound:
        """None: it has no filings."""
        return FilingsFound([], None)

    def read(self, key: str, raw: bytes, year_end: int, template: str | None) -> FilingRecord:
        """There are no documents of this source."""
        raise damaged(f"{TITLE} {key}", raw[:40], "this source has no documents")

    def estimates(self, mark: str | None = None) -> EstimatesFound:
        """Contributions and actuals that became public since a mark."""
        since = json.loads(mark) if mark else {}
        expected = self._all("/v1/contributions", since.get("contributions", ""), "contributor")
        actuals = self._all("/v1/actuals", since.get("actuals", ""))
        after = {
            "contributions": _newest(expected) or since.get("contributions", ""),
            "actuals": _newest(actuals) or since.get("actuals", ""),
        }
        return EstimatesFound(tuple(p for p, _ in expected), tuple(p for p, _ in actuals), json.dumps(after))

    def _all(self, path: str, since: str, *more: str) -> list[tuple[Expected, str]]:
        return [_expected(path, columns, more) for columns in self._pages(path, since)]

    def _pages(self, path: str, since: str) -> Iterator[dict[str, Any]]:
        cursor, seen = "0", set[str]()
        while cursor:
            body = self._http.get(path, read=_plain_json, since=since, cursor=cursor).body
            columns = body.get("columns") if isinstance(body, dict) else None
            if not isinstance(columns, dict):
                raise damaged(f"{TITLE} {path}", body, "the page has no columns")
            yield columns
            seen.add(cursor)
            cursor = body.get("next") or ""
            if not isinstance(cursor, str) or cursor in seen:
                raise damaged(f"{TITLE} {path}", cursor, "the source hands out the same page again and again")


def _plain_json(raw: bytes) -> Any:
    return json.loads(raw)


def _newest(pages: list[tuple[Expected, str]]) -> str:
    return max((newest for _, newest in pages), default="")


def _expected(path: str, columns: dict[str, Any], more: tuple[str, ...]) -> tuple[Expected, str]:
    """A page of columns, and its latest instant as written."""
    needed = ("company", "measure", "period_end", "period_kind", "value", "currency", "published_at", *more)
    if missing := next((name for name in needed if not isinstance(columns.get(name), list)), None):
        raise damaged(f"{TITLE} {path}", sorted(columns), f"the page has no column {missing}")
    if len({len(columns[name]) for name in needed}) > 1:
        raise damaged(f"{TITLE} {path}", sorted(columns), "its columns are not of one length")
    try:
        value = np.asarray(pa.array(columns["value"], pa.float64()).to_numpy(zero_copy_only=False), np.float64)
        ends = pc.cast(pa.array(columns["period_end"], pa.string()), pa.date32()).cast(pa.int32())
        at = pc.cast(
            pc.strptime(pa.array(columns["published_at"], pa.string()), "%Y-%m-%dT%H:%M:%SZ", "us"), pa.int64()
        )
    except (pa.ArrowInvalid, pa.ArrowTypeError, ValueError) as error:
        raise damaged(f"{TITLE} {path}", error, "a column is garbled") from None
    texts = {n: [str(v) for v in columns[n]] for n in ("company", "measure", "period_kind", "currency", *more)}
    found = Expected(texts, ends.to_numpy(), value, at.to_numpy())
    return found, max(columns["published_at"], default="")
