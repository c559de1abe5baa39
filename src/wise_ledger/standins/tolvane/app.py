"""The archive as an HTTP service: `/feed` in Atom (RFC 4287), the newest first,
page by page; `/reports/ID.json`.
"""

import hashlib
from collections.abc import Callable, Sequence
from xml.sax.saxutils import escape, quoteattr

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import Response
from starlette.routing import Route

from wise_ledger.standins.tolvane.reports import Report
from wise_ledger.words import whole_number


def create_app(
    reports: Sequence[Report] | Callable[[], Sequence[Report]], page: int = 60
) -> Starlette:
    """The service over reports, or over those that are there when it is asked.

    `app.state.damaged` bends answers for tests, by path.
    """

    def sorted_reports() -> list[Report]:
        found = reports() if callable(reports) else reports
        return sorted(found, key=lambda r: (r.published, r.id), reverse=True)

    async def feed(request: Request) -> Response:
        newest = sorted_reports()
        begin = whole_number(request.query_params.get("from", "0"))
        if begin is None:
            return Response("This is no place in the feed.", 400)
        entries = "".join(_entry(r) for r in newest[begin : begin + page])
        after = (
            f'<link rel="next" href="/feed?from={begin + page}"/>'
            if begin + page < len(newest)
            else ""
        )
        text = (
            '<?xml version="1.0" encoding="utf-8"?>\n<feed xmlns="http://www.w3.org/2005/Atom">'
            f"<id>urn:tolvane:feed</id><title>Tolvane Filings</title>{after}{entries}</feed>"
        )
        return _answer(
            request, app.state.damaged.get("/feed", text.encode()), "application/atom+xml"
        )

    async def report(request: Request) -> Response:
        found = next((r for r in sorted_reports() if r.id == request.path_params["id"]), None)
        if found is None:
            return Response(status_code=404)
        return _answer(request, app.state.damaged.get(found.id, found.body), "application/json")

    app = Starlette(routes=[Route("/feed", feed), Route("/reports/{id}.json", report)])
    app.state.damaged = {}
    return app


def _answer(request: Request, body: bytes, media: str) -> Response:
    etag = f'"{hashlib.sha256(body).hexdigest()[:20]}"'
    if request.headers.get("If-None-Match") == etag:
        return Response(status_code=304, headers={"ETag": etag})
    return Response(body, media_type=media, headers={"ETag": etag})


def _entry(report: Report) -> str:
    return (
        f"<entry><id>urn:tolvane:{report.id}</id><title>{escape(report.title)}</title>"
        f"<published>{report.published}</published><updated>{report.published}</updated>"
        f"<author><name>{escape(report.company)}</name></author>"
        f'<category scheme="urn:iso:std:iso:17442" term={quoteattr(report.lei)}/>'
        f'<link rel="enclosure" type="application/json" href="/reports/{report.id}.json"/></entry>'
    )
