"""Errors as problem responses (RFC 9457)."""

import logging

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from starlette.exceptions import HTTPException

from wise_ledger.service.access import NoAccess
from wise_ledger.wire.problems import InputProblem, ProblemDetails
from wise_ledger.work import BadInput, ChainBroken, LedgerError, NotFound, SourceError, StoreError

log = logging.getLogger(__name__)

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
    def _ledger_error(request: Request, error: LedgerError) -> JSONResponse:
        status, kind = next((s, k) for cls, s, k in _STATUS if isinstance(error, cls))
        errors = [InputProblem(**vars(p)) for p in error.problems]
        return _respond(status, kind, error.title, str(error), errors)

    @app.exception_handler(NoAccess)
    def _no_access(request: Request, error: NoAccess) -> JSONResponse:
        detail = "Send a token as 'Authorization: Bearer …'; `serve` and `demo` print one when they start."
        response = _respond(401, "no-access", "This call needs a token", detail)
        response.headers["WWW-Authenticate"] = "Bearer"
        return response

    @app.exception_handler(RequestValidationError)
    def _invalid(request: Request, error: RequestValidationError) -> JSONResponse:
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
        return _respond(422, "bad-input", "The request is not of the agreed shape", detail, errors)

    @app.exception_handler(HTTPException)
    def _http(request: Request, error: HTTPException) -> JSONResponse:
        return _respond(error.status_code, "http", str(error.detail), f"{request.method} {request.url.path}")

    @app.exception_handler(Exception)
    def _unexpected(request: Request, error: Exception) -> JSONResponse:
        log.exception("%s %s failed", request.method, request.url.path)
        detail = "The service met an error of its own. Nothing was stored by this call; its log says more."
        return _respond(500, "failed", "Something went wrong in the service", detail)


def _respond(status: int, kind: str, title: str, detail: str, errors: list[InputProblem] | None = None) -> JSONResponse:
    body = ProblemDetails(type=f"/problems/{kind}", title=title, status=status, detail=detail, errors=errors or [])
    return JSONResponse(body.model_dump(), status, media_type="application/problem+json")
