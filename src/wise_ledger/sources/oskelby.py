"""The adapter to Oskelby Estimates: contributions of analysts and announced actuals,
companies known by their LEI.
"""

import json
from collections.abc import Iterator, Sequence
from datetime import date
from typing import Any

import numpy as np
import pyarrow as pa
import pyarrow.compute as pc
from numpy.typing import NDArray

from wise_ledger.core.records.records import AttributeRecord, CompanyRecord, IdentifierRecord
from wise_ledger.sources.errors import damaged
from wise_ledger.sources.http import OverHttp, SourceHttp, Turns
from wise_ledger.sources.mapping import TagMapping
from wise_ledger.sources.market import EstimatesFound, Expected
from wise_ledger.sources.nofilings import NoFilings
from wise_ledger.sources.pacing import Budget, Pace
from wise_ledger.sources.protocol import CompaniesFound

NAME, TITLE = "oskelby", "Oskelby Estimates"
_SINCE = date(2012, 1, 1)
_PERIOD = ("company", "period_end", "period_kind", "published_at")
# What is asked for, kind of record by kind, with the columns of a page; and under which
# path, where that is another.
_COLUMNS = {
    "estimates": (*_PERIOD, "measure", "currency", "contributor", "value"),
    "actuals": (*_PERIOD, "measure", "currency", "value"),
    "consensus": (
        *_PERIOD,
        "measure",
        "currency",
        "mean",
        "median",
        "high",
        "low",
        "stdev",
        "count",
    ),
    "announcements": (*_PERIOD, "expected_at"),
}
_PATHS = {"estimates": "contributions", "announcements": "calendar"}
_TEXTS = frozenset({"company", "period_kind", "measure", "currency", "contributor"})


class Oskelby(NoFilings, OverHttp):
    """Oskelby Estimates at `base_url`, asked with `key`;
    each answer must come within `timeout` seconds.
    """

    name, title = NAME, TITLE

    def __init__(
        self, base_url: str, key: str, timeout: float, budget: Budget | None = None
    ) -> None:
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
                raise damaged(
                    f"{TITLE} /v1/companies", row, "a company lacks lei or name"
                ) from None
            named = AttributeRecord("name", name, _SINCE)
            found.append(
                CompanyRecord(lei, name, (named,), (IdentifierRecord("lei", lei, _SINCE),))
            )
        return CompaniesFound(sorted(found, key=lambda c: c.key), None, {})

    def estimates(self, mark: str | None = None) -> EstimatesFound:
        """Contributions, actuals, its own consensus and the days of
        announcements that became public since a mark.
        """
        since = json.loads(mark) if mark else {}
        found, after = {}, dict(since)
        for kind, columns in _COLUMNS.items():
            path = f"/v1/{_PATHS.get(kind, kind)}"
            pages = [
                _expected(path, page, columns) for page in self._pages(path, since.get(kind, ""))
            ]
            found[kind] = tuple(page for page, _ in pages)
            after[kind] = max((newest for _, newest in pages), default="") or since.get(kind, "")
        return EstimatesFound(found, json.dumps(after))

    def _pages(self, path: str, since: str) -> Iterator[dict[str, Any]]:
        turns = Turns(f"{TITLE} {path}")
        cursor = turns.to("0")
        while cursor:
            body = self._http.get(path, read=_plain_json, since=since, cursor=cursor).body
            columns = body.get("columns") if isinstance(body, dict) else None
            if not isinstance(columns, dict):
                raise damaged(f"{TITLE} {path}", body, "the page has no columns")
            yield columns
            cursor = turns.to(body.get("next"))


def _plain_json(raw: bytes) -> Any:
    return json.loads(raw)


def _expected(path: str, page: dict[str, Any], columns: Sequence[str]) -> tuple[Expected, str]:
    """A page of columns, and its latest instant as written."""
    if missing := next((name for name in columns if not isinstance(page.get(name), list)), None):
        raise damaged(f"{TITLE} {path}", sorted(page), f"the page has no column {missing}")
    if len({len(page[name]) for name in columns}) > 1:
        raise damaged(f"{TITLE} {path}", sorted(page), "its columns are not of one length")
    read: dict[str, NDArray[Any]] = {}
    try:
        for name in columns:
            if name == "period_end":
                days = pc.cast(pa.array(page[name], pa.string()), pa.date32()).cast(pa.int32())
                read[name] = np.asarray(days.to_numpy(), np.int32)
            elif name.endswith("_at"):
                moments = pc.strptime(pa.array(page[name], pa.string()), "%Y-%m-%dT%H:%M:%SZ", "us")
                read[name] = np.asarray(pc.cast(moments, pa.int64()).to_numpy(), np.int64)
            elif name not in _TEXTS:
                read[name] = np.asarray(
                    pa.array(page[name], pa.float64()).to_numpy(zero_copy_only=False), np.float64
                )
    except (pa.ArrowInvalid, pa.ArrowTypeError, ValueError) as error:
        raise damaged(f"{TITLE} {path}", error, "a column is garbled") from None
    texts = {name: [str(v) for v in page[name]] for name in columns if name in _TEXTS}
    return Expected(texts, read), max(page["published_at"], default="")
