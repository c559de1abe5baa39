"""The application: routers under /api/v1, problem responses, and the console's files."""

from pathlib import Path
from typing import Any

from fastapi import APIRouter, Depends, FastAPI
from fastapi.responses import FileResponse, HTMLResponse, Response
from starlette.staticfiles import StaticFiles

from wise_ledger import __version__
from wise_ledger.service import (
    catalogue,
    collections,
    estimates,
    explanations,
    extracts,
    identity,
    ledger,
    lists,
    measures,
    panels,
    prices,
    quality,
    runs,
    schedules,
    screens,
    series,
    statements,
    tokens,
)
from wise_ledger.service.gate import Doors, Gate
from wise_ledger.service.parameters import refuse_strangers
from wise_ledger.service.problems import add_problem_responses
from wise_ledger.service.safety import SafeHeaders
from wise_ledger.wire.ledger import Health
from wise_ledger.wire.problems import ProblemDetails
from wise_ledger.work.desk import Desk

API = "/api/v1"
CONSOLE = Path(__file__).parent / "console"
_NO_CONSOLE = "<p>The console is not built. Run <code>make console</code>, or use the API under /api/v1.</p>"


def create_app(desk: Desk, doors: Doors | None = None) -> FastAPI:
    """The service over an open desk."""
    app = FastAPI(
        title="Wise Ledger",
        version=__version__,
        summary="Fundamentals as they were known.",
        openapi_url=f"{API}/openapi.json",
        docs_url=None,
        redoc_url=None,
    )
    app.state.desk = desk
    add_problem_responses(app)
    problem = {"model": ProblemDetails, "description": "What is wrong, where, and the mend"}
    strict = [Depends(refuse_strangers)]
    api = APIRouter(prefix=API, responses={422: problem, "default": problem}, dependencies=strict)

    @api.get("/health", tags=["health"])
    def health() -> Health:
        """Whether the service answers; the one call without a token."""
        return Health(version=__version__)

    rooms = (
        screens,
        statements,
        explanations,
        prices,
        estimates,
        series,
        identity,
        lists,
        collections,
        runs,
        schedules,
        catalogue,
        measures,
        panels,
        extracts,
        quality,
        ledger,
        tokens,
    )
    for room in rooms:
        api.include_router(room.router)
    app.include_router(api)
    _serve_console(app)

    describe = app.openapi
    app.openapi = lambda: _with_problems(describe())  # type: ignore[method-assign]
    app.add_middleware(Gate, tokens=lambda: desk.tokens, doors=doors or Doors())
    app.add_middleware(SafeHeaders)
    return app


_ANY = ("default", "401", "413", "422", "503")  # answers of any call beside its own


def _with_problems(document: dict[str, Any]) -> dict[str, Any]:
    """The document with the answers that the gate gives, and errors under the media type that they have."""
    for path, operations in document["paths"].items():
        for operation in operations.values():
            answers = operation["responses"]
            for status in _ANY if path != f"{API}/health" else ("default", "422"):
                answers.setdefault(status, {"description": _SAID[status]})
                answers[status]["content"] = {"application/problem+json": {"schema": _PROBLEM}}
    return document


_PROBLEM = {"$ref": "#/components/schemas/ProblemDetails"}
_SAID = {
    "default": "What is wrong, where, and the mend", "401": "The call has no token that holds",
    "413": "What is sent is more than is taken at once", "422": "The input cannot be used",
    "503": "The service has its hands full: ask again after Retry-After",
}  # fmt: skip


def _serve_console(app: FastAPI) -> None:
    """The console's files; every other path outside the API is a page of it."""
    if (CONSOLE / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=CONSOLE / "assets"), name="assets")

    @app.get("/{page:path}", include_in_schema=False)
    def console(page: str) -> Response:
        if page.startswith("api/"):
            from starlette.exceptions import HTTPException

            raise HTTPException(404, "There is no such resource")
        named = CONSOLE / "favicon.svg" if page == "favicon.svg" else CONSOLE / "index.html"
        return FileResponse(named) if named.is_file() else HTMLResponse(_NO_CONSOLE, 503)
