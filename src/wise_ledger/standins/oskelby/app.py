"""The service: companies it covers, contributions and actuals since an instant,
columns of a page at a time.
"""

from bisect import bisect_right
from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from typing import Any

from starlette.applications import Starlette
from starlette.middleware import Middleware
from starlette.middleware.gzip import GZipMiddleware
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

from wise_ledger.standins.oskelby.opinions import CALENDAR, COLUMNS, SUMMARY, Opinions
from wise_ledger.words import whole_number

_PAGE = 20_000
_ACTUALS = tuple(c for c in COLUMNS if c != "contributor")


def create_app(
    opinions: Callable[[], Opinions], clock: Callable[[], datetime], key: str, page: int = _PAGE
) -> Starlette:
    """The stand-in; it gives what is public by its clock, to those who have the key."""

    def page_of(
        request: Request, rows: Sequence[tuple[Any, ...]], names: Sequence[str]
    ) -> Response:
        if request.headers.get("X-Api-Key") != key:
            return JSONResponse({"error": "This key is not accepted."}, 401)
        since = request.query_params.get("since", "")
        at = whole_number(request.query_params.get("cursor", "0"))
        if at is None:
            return JSONResponse({"error": "This cursor is not one of ours."}, 400)
        now = clock().astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
        first = bisect_right(rows, since, key=lambda r: r[-1])
        last = bisect_right(rows, now, key=lambda r: r[-1])
        begin = first + at
        some = rows[begin : min(begin + page, last)]
        columns = {name: [row[n] for row in some] for n, name in enumerate(names)}
        following = str(at + page) if begin + page < last else None
        return JSONResponse({"columns": columns, "next": following})

    async def companies(request: Request) -> Response:
        if request.headers.get("X-Api-Key") != key:
            return JSONResponse({"error": "This key is not accepted."}, 401)
        return JSONResponse(
            {
                "companies": [
                    {"lei": lei, "name": name} for lei, name in opinions().companies.items()
                ]
            }
        )

    async def contributions(request: Request) -> Response:
        return page_of(request, opinions().contributions, COLUMNS)

    async def actuals(request: Request) -> Response:
        return page_of(request, opinions().actuals, _ACTUALS)

    async def consensus(request: Request) -> Response:
        return page_of(request, opinions().summaries, SUMMARY)

    async def calendar(request: Request) -> Response:
        return page_of(request, opinions().calendar, CALENDAR)

    routes = {
        "/v1/companies": companies, "/v1/contributions": contributions, "/v1/actuals": actuals,
        "/v1/consensus": consensus, "/v1/calendar": calendar,
    }  # fmt: skip
    return Starlette(
        routes=[Route(path, answer) for path, answer in routes.items()],
        middleware=[Middleware(GZipMiddleware, minimum_size=800, compresslevel=3)],
    )
