"""The service itself: API key, cursor pages, changed-since, ETag,
a quota that answers 429, faults to switch on.
"""

import hashlib
import json
import time
from collections import deque
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field
from datetime import date, timedelta
from typing import Any

from starlette.applications import Starlette
from starlette.middleware import Middleware
from starlette.middleware.gzip import GZipMiddleware
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

from wise_ledger.standins.fernmark import faults
from wise_ledger.standins.fernmark.faults import Faults
from wise_ledger.standins.fernmark.filing import Filing
from wise_ledger.standins.fernmark.identity import VENUES
from wise_ledger.standins.fernmark.market import Market, as_public
from wise_ledger.standins.fernmark.trading import day as market_day
from wise_ledger.standins.fernmark.trading import last_close
from wise_ledger.standins.fernmark.world import World
from wise_ledger.words import whole_number

_RATES = 1000  # days in one answer
Answer = Callable[[Request], Awaitable[Response]]


@dataclass(frozen=True)
class Quota:
    """So many requests in any stretch of so many seconds."""

    requests: int = 250
    seconds: float = 1.0


@dataclass
class _Service:
    world: World
    key: str
    quota: Quota
    faults: Faults
    page: int
    recent: deque[float] = field(default_factory=deque)
    served: dict[str, int] = field(
        default_factory=lambda: {"requests": 0, "refused": 0, "bytes": 0}
    )
    stamps: dict[str, tuple[str, int]] = field(default_factory=dict)

    def guarded(self, answer: Answer) -> Answer:
        async def guard(request: Request) -> Response:
            self.served["requests"] += 1
            query = f"?{request.url.query}" if request.url.query else ""
            hit = self.faults.strikes(f"{request.url.path}{query}")
            if request.headers.get("X-Api-Key") != self.key:
                return _problem(401, "This key is not accepted.")
            if (no := faults.refusal(hit)) is not None:
                return no
            wait = self._wait()
            if wait > 0:
                self.served["refused"] += 1
                # Whole seconds, rounded up, as the header demands.
                return _problem(429, "Too many requests.", {"Retry-After": str(int(wait) + 1)})
            request.state.fault = hit
            response = await answer(request)
            if response.status_code == 200 and request.headers.get(
                "If-None-Match"
            ) == response.headers.get("ETag", "-"):
                response = Response(status_code=304, headers={"ETag": response.headers["ETag"]})
            self.served["bytes"] += len(bytes(response.body))
            return await faults.spoiled(hit, response, self.faults.seconds)

        return guard

    def _wait(self) -> float:
        now = time.monotonic()
        while self.recent and now - self.recent[0] > self.quota.seconds:
            self.recent.popleft()
        if len(self.recent) >= self.quota.requests:
            return self.quota.seconds - (now - self.recent[0])
        self.recent.append(now)
        return 0.0

    def paged(
        self, request: Request, name: str, rows: list[Any], size: int = 0, **beside: Any
    ) -> Response:
        begin = whole_number(request.query_params.get("cursor", "0"))
        if begin is None:
            return _problem(400, "This cursor is not one of ours.")
        return JSONResponse(
            {
                **faults.page(request.state.fault, name, rows, begin, begin + (size or self.page)),
                **beside,
            }
        )

    def _stamped(self) -> int:
        """Give every company that changed a new stamp; the newest stamp."""
        newest = max((stamp for _, stamp in self.stamps.values()), default=0)
        for row in self.world.companies:
            filings = [(f.id, f.version) for f in self.world.filings.get(row["key"], ())]
            state = _digest(json.dumps([row, filings]).encode())
            if self.stamps.get(row["key"], ("", 0))[0] != state:
                newest += 1
                self.stamps[row["key"]] = (state, newest)
        return newest

    async def companies(self, request: Request) -> Response:
        newest = self._stamped()
        since = request.query_params.get("changed_since", "0")
        if since == "now":
            return JSONResponse({"companies": [], "next": None, "as_of": str(newest)})
        mark = whole_number(since)
        if mark is None:
            return _problem(400, "This mark is not one of ours.")
        rows = [
            {**row, "filings": len(self.world.filings.get(row["key"], ()))}
            for row in self.world.companies
            if self.stamps[row["key"]][1] > mark
        ]
        return self.paged(request, "companies", rows, as_of=str(newest))

    async def filings(self, request: Request) -> Response:
        """The index of a company's filings, whole, with an ETag."""
        found = self.world.filings.get(request.path_params["key"])
        if found is None:
            return _problem(404, "There is no such company.")
        rows = [
            {"id": f.id, "version": f.version, "title": f.title, "published": f.published or None}
            for f in found
        ]
        return _tagged(faults.page(request.state.fault, "filings", rows, 0, len(rows)))

    async def contents(self, request: Request) -> Response:
        """Filings as they are, up to fifty in one answer."""
        asked = request.query_params.get("ids", "").split(",")
        if len(asked) > 50:
            return _problem(400, "Ask for fifty filings at most.")
        found = [f for id_ in asked if (f := self._filing(id_)) is not None]
        rows = [
            {
                "id": f.id,
                "version": f.version,
                "content": faults.filing(request.state.fault, f.body).decode(),
            }
            for f in found
        ]
        return JSONResponse({"filings": rows})

    def _filing(self, id_: str) -> Filing | None:
        company = id_.rsplit("-", 2)[0]
        return next((f for f in self.world.filings.get(company, ()) if f.id == id_), None)

    async def lists(self, request: Request) -> Response:
        rows = [
            {
                "name": e["name"],
                "title": e["title"],
                "version": _digest(json.dumps(e["members"]).encode()),
            }
            for e in self.world.lists
        ]
        return _tagged(faults.page(request.state.fault, "lists", rows, 0, len(rows)))

    async def members(self, request: Request) -> Response:
        name = request.path_params["name"]
        found = next((entry for entry in self.world.lists if entry["name"] == name), None)
        if found is None:
            return _problem(404, "There is no such list.")
        return self.paged(request, "members", found["members"])

    async def venues(self, request: Request) -> Response:
        """The venues, with an ETag."""
        return _tagged(faults.page(request.state.fault, "venues", VENUES, 0, len(VENUES)))

    async def rates(self, request: Request) -> Response:
        """Currency rates of every day since one."""
        since = request.query_params.get("since", "")
        return self.paged(
            request, "rates", [r for r in self.world.rates if r["date"] >= since], _RATES
        )

    # ---- the market

    async def price_files(self, request: Request) -> Response:
        """The files of prices, by venue and year, with what shows whether one changed."""
        market, now = self._market(), self.world.now
        rows = []
        for mic, year in market.years:
            last = min(last_close(mic, now), market_day(date(year, 12, 31)))
            if market.traded_in(mic, year, last):  # not yet on a holiday that begins a year
                rows.append({"venue": mic, "year": year, "version": str(last)})
        return _tagged(faults.page(request.state.fault, "files", rows, 0, len(rows)))

    async def price_file(self, request: Request) -> Response:
        """All prices of a venue and year, as Parquet."""
        made = self._market().file(
            request.path_params["mic"], request.path_params["year"], self.world.now
        )
        if made is None:
            return _problem(404, "There are no prices of this venue and year.")
        return Response(made, media_type="application/vnd.apache.parquet")

    async def prices_of(self, request: Request) -> Response:
        """The prices of one listing since a day."""
        market, now = self._market(), self.world.now
        security, mic = (
            request.query_params.get("security", ""),
            request.query_params.get("venue", ""),
        )
        found = next((t for t in market.traded if (t.security, t.mic) == (security, mic)), None)
        if found is None:
            return _problem(404, "There is no such listing.")
        own = found.upto(last_close(mic, now))
        since = market_day(request.query_params.get("since", "1970-01-01"))
        rows = [
            {
                "date": str(date(1970, 1, 1) + timedelta(d)),
                **dict(zip(own.columns, values, strict=True)),
            }
            for d, *values in zip(
                own.days.tolist(), *(c.tolist() for c in own.columns.values()), strict=True
            )
            if d >= since
        ]
        return self.paged(request, "prices", rows, _RATES)

    async def levels(self, request: Request) -> Response:
        """The levels of the market lists, as Parquet."""
        response = Response(
            self._market().level_file(self.world.now), media_type="application/vnd.apache.parquet"
        )
        response.headers["ETag"] = f'"{_digest(bytes(response.body))}"'
        return response

    async def dividends(self, request: Request) -> Response:
        """Dividends announced since an instant."""
        since = request.query_params.get("since", "")
        rows = as_public(self._market().dividends, "announced", self.world.now)
        return self.paged(request, "dividends", [r for r in rows if r["announced"] > since], _RATES)

    async def share_counts(self, request: Request) -> Response:
        """Shares in issue, by the instant at which they were reported."""
        since = request.query_params.get("since", "")
        rows = as_public(self._market().counts, "published_at", self.world.now)
        return self.paged(request, "shares", [r for r in rows if r["published_at"] > since], _RATES)

    async def delistings(self, request: Request) -> Response:
        """Listings that ended, with what was left of a share."""
        rows = as_public(self._market().delistings, "date", self.world.now)
        return self.paged(request, "delistings", rows, _RATES)

    def _market(self) -> Market:
        return self.world.market or _NOTHING_TRADED


_NOTHING_TRADED = Market((), {}, (), (), {}, 7, 0)


def _digest(content: bytes) -> str:
    return hashlib.sha256(content).hexdigest()[:16]


def _tagged(body: dict[str, Any]) -> Response:
    response = JSONResponse(body)
    response.headers["ETag"] = f'"{_digest(bytes(response.body))}"'
    return response


def _problem(status: int, detail: str, headers: dict[str, str] | None = None) -> Response:
    return JSONResponse({"error": detail}, status, headers)


def create_app(
    world: World,
    key: str,
    *,
    quota: Quota | None = None,
    troubles: Faults | None = None,
    page: int = 10,
) -> Starlette:
    """The stand-in over a world; `app.state.served` counts what it was asked,
    `app.state.faults` can be set.
    """
    service = _Service(world, key, quota or Quota(), troubles or Faults(), page)
    routes = {
        "/v1/companies": service.companies,
        "/v1/companies/{key}/filings": service.filings,
        "/v1/filings": service.contents,
        "/v1/lists": service.lists,
        "/v1/lists/{name}/members": service.members,
        "/v1/rates": service.rates,
        "/v1/venues": service.venues,
        "/v1/price-files": service.price_files,
        "/v1/price-files/{mic}/{year:int}": service.price_file,
        "/v1/prices": service.prices_of,
        "/v1/levels": service.levels,
        "/v1/dividends": service.dividends,
        "/v1/shares": service.share_counts,
        "/v1/delistings": service.delistings,
    }
    app = Starlette(
        routes=[Route(path, service.guarded(answer)) for path, answer in routes.items()],
        middleware=[Middleware(GZipMiddleware, minimum_size=800, compresslevel=4)],
    )
    app.state.served, app.state.faults = service.served, service.faults
    return app
