"""Errors as problem responses (RFC 9457)."""

import json
from collections.abc import Mapping

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import Response
from fastapi.routing import APIRoute
from starlette.exceptions import HTTPException

from wise_ledger.wire.problems import InputProblem, ProblemDetails
from wise_ledger.work import BadInput, ChainBroken, LedgerError, NotFound, SourceError, StoreError

# The first that fits counts.
_STATUS: tuple[tuple[type[LedgerError], int, str], ...] = (
    (NotFound, 404, "not-found"),
    (BadInput, 422, "bad-input"),
    (ChainBroken, 409, "chain-broken"),
    (StoreError, 503, "ledger-unusable"),
    (SourceError, 502, "source-failed"),
    (LedgerError, 500, "failed"),
)


def add_problem_responses(app: FastAPI) -> None:
    """Turn every error of the service into a problem document."""

    @app.exception_handler(LedgerError)
    def _ledger_error(request: Request, error: LedgerError) -> Response:
        status, kind = next((s, k) for cls, s, k in _STATUS if isinstance(error, cls))
        errors = [InputProblem(**vars(p)) for p in error.problems]
        return respond(status, kind, error.title, str(error), errors)

    @app.exception_handler(RequestValidationError)
    def _invalid(request: Request, error: RequestValidationError) -> Response:
        errors = [
            InputProblem(
                at=".".join(str(part) for part in e["loc"][1:]) or "body",
                value=str(e.get("input"))[:80],
                problem=e["msg"],
                mend="see the request's schema in /api/v1/openapi.json",
                line="",
            )
            for e in error.errors()
        ]
        detail = "; ".join(f"{e.at}: {e.problem}" for e in errors)
        return respond(422, "bad-input", "The request is not of the agreed shape", detail, errors)

    @app.exception_handler(HTTPException)
    def _http(request: Request, error: HTTPException) -> Response:
        where, status, headers = (
            f"{request.method} {request.url.path}",
            error.status_code,
            error.headers,
        )
        if status in (404, 405) and (there := _methods(request)) and request.method not in there:
            # The router looks at one route, and the console takes any
            # address that is none of the API's.
            return respond(
                405,
                "http",
                "Method Not Allowed",
                where,
                headers={"Allow": ", ".join(sorted(there))},
            )
        return respond(status, "http", str(error.detail), where, headers=headers)


def _methods(request: Request) -> set[str]:
    """The methods that the API knows for the address of a request."""
    return {
        method
        for route in request.app.routes
        if isinstance(route, APIRoute) and route.include_in_schema
        if route.path_regex.match(request.url.path)
        for method in route.methods
    }


def respond(
    status: int,
    kind: str,
    title: str,
    detail: str,
    errors: list[InputProblem] | None = None,
    *,
    headers: Mapping[str, str] | None = None,
) -> Response:
    """A problem document as an answer."""
    body = ProblemDetails(
        type=f"/problems/{kind}", title=title, status=status, detail=detail, errors=errors or []
    )
    # All in ASCII: what came in may hold halves of characters, which no encoding writes.
    raw = json.dumps(body.model_dump())
    return Response(
        raw, status, None if headers is None else {**headers}, "application/problem+json"
    )
