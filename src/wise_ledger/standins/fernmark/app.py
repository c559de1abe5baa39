"""The service itself: API key, cursor pages, a quota that answers 429, and faults that can be switched on."""

import asyncio
import time
from collections import deque
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field
from typing import Any

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

from wise_ledger.standins.fernmark.world import Filing, World

Answer = Callable[[Request], Awaitable[Response]]


@dataclass(frozen=True)
class Quota:
    """So many requests in any stretch of so many seconds."""

    requests: int = 250
    seconds: float = 1.0


@dataclass
class Faults:
    """What goes wrong, for the requests whose path contains `path`, `times` times (-1: always)."""

    kind: str | None = None  # down, slow, truncated, not_json, bad_number, refused
    path: str = ""
    times: int = -1
    seconds: float = 30.0
    seen: int = 0

    def strikes(self, path: str) -> bool:
        """Whether this request is hit; counts it."""
        if self.kind is None or self.path not in path or (self.times >= 0 and self.seen >= self.times):
            return False
        self.seen += 1
        return True


@dataclass
class _Service:
    world: World
    key: str
    quota: Quota
    faults: Faults
    page: int
    recent: deque[float] = field(default_factory=deque)
    served: dict[str, int] = field(default_factory=lambda: {"requests": 0, "refused": 0, "bytes": 0})

    def guarded(self, answer: Answer) -> Answer:
        async def guard(request: Request) -> Response:
            self.served["requests"] += 1
            path = request.url.path
            hit = self.faults.strikes(path)
            if request.headers.get("X-Api-Key") != self.key or (hit and self.faults.kind == "refused"):
                return _problem(401, "This key is not accepted.")
            wait = self._wait()
            if wait > 0:
                self.served["refused"] += 1
                # Whole seconds, rounded up, as the header demands.
                return _problem(429, "Too many requests.", {"Retry-After": str(int(wait) + 1)})
            if hit and self.faults.kind == "down":
                return _problem(503, "The service is being mended.")
            if hit and self.faults.kind == "slow":
                await asyncio.sleep(self.faults.seconds)
            response = await answer(request)
            if hit:
                response = _damaged(self.faults.kind or "", bytes(response.body))
            self.served["bytes"] += len(bytes(response.body))
            return response

        return guard

    def _wait(self) -> float:
        now = time.monotonic()
        while self.recent and now - self.recent[0] > self.quota.seconds:
            self.recent.popleft()
        if len(self.recent) >= self.quota.requests:
            return self.quota.seconds - (now - self.recent[0])
        self.recent.append(now)
        return 0.0

    def paged(self, request: Request, name: str, rows: list[Any]) -> Response:
        at = request.query_params.get("cursor", "0")
        if not at.isdigit():
            return _problem(400, "This cursor is not one of ours.")
        begin = int(at)
        end = begin + self.page
        return JSONResponse({name: rows[begin:end], "next": str(end) if end < len(rows) else None})

    async def companies(self, request: Request) -> Response:
        return self.paged(request, "companies", self.world.companies)

    async def filings(self, request: Request) -> Response:
        found = self.world.filings.get(request.path_params["key"])
        if found is None:
            return _problem(404, "There is no such company.")
        rows = [{"id": f.id, "version": f.version, "title": f.title, "published": f.published or None} for f in found]
        return self.paged(request, "filings", rows)

    async def filing(self, request: Request) -> Response:
        found = self._filing(request.path_params["id"])
        return _problem(404, "There is no such filing.") if found is None else _json(found.body)

    def _filing(self, id_: str) -> Filing | None:
        company = id_.rsplit("-", 2)[0]
        return next((f for f in self.world.filings.get(company, ()) if f.id == id_), None)

    async def lists(self, request: Request) -> Response:
        rows = [{"name": entry["name"], "title": entry["title"]} for entry in self.world.lists]
        return self.paged(request, "lists", rows)

    async def members(self, request: Request) -> Response:
        name = request.path_params["name"]
        found = next((entry for entry in self.world.lists if entry["name"] == name), None)
        if found is None:
            return _problem(404, "There is no such list.")
        return self.paged(request, "members", found["members"])


def _json(body: bytes) -> Response:
    return Response(body, media_type="application/json")


def _problem(status: int, detail: str, headers: dict[str, str] | None = None) -> Response:
    return JSONResponse({"error": detail}, status, headers)


def _damaged(kind: str, body: bytes) -> Response:
    if kind == "truncated":
        return _json(body[: len(body) * 2 // 3])
    if kind == "not_json":
        return Response("<html><body>Back soon</body></html>", media_type="text/html")
    if kind == "bad_number":
        return _json(body.replace(b'"amount": ', b'"amount": "about ', 1).replace(b"\n  },", b'"\n  },', 1))
    return _json(body)


def create_app(
    world: World, key: str, *, quota: Quota | None = None, faults: Faults | None = None, page: int = 10
) -> Starlette:
    """The stand-in over a world; `app.state.served` counts what it was asked, `app.state.faults` can be set."""
    service = _Service(world, key, quota or Quota(), faults or Faults(), page)
    routes = {
        "/v1/companies": service.companies,
        "/v1/companies/{key}/filings": service.filings,
        "/v1/filings/{id}": service.filing,
        "/v1/lists": service.lists,
        "/v1/lists/{name}/members": service.members,
    }
    app = Starlette(routes=[Route(path, service.guarded(answer)) for path, answer in routes.items()])
    app.state.served, app.state.faults = service.served, service.faults
    return app
