"""The application: routers under /api/v1, problem responses, and the console's files."""

from functools import cache
from pathlib import Path
from typing import Any

from fastapi import FastAPI
from fastapi.responses import FileResponse, HTMLResponse, Response
from starlette.middleware.gzip import DEFAULT_EXCLUDED_CONTENT_TYPES, GZipMiddleware
from starlette.staticfiles import StaticFiles

from wise_ledger import __version__
from wise_ledger.service import (
    catalogue,
    collections,
    estimates,
    explanations,
    extracts,
    health,
    identity,
    ledger,
    limits,
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
from wise_ledger.service.again import Answers
from wise_ledger.service.document import completed
from wise_ledger.service.gate import Doors, Gate
from wise_ledger.service.problems import add_problem_responses
from wise_ledger.service.representations import FORMATS
from wise_ledger.service.routes import API
from wise_ledger.service.safety import SafeHeaders
from wise_ledger.work.desk import Desk

CONSOLE = Path(__file__).parent / "console"
# What is packed already, and events, which must come as they happen.
_PACKED = (
    *DEFAULT_EXCLUDED_CONTENT_TYPES,
    *(FORMATS[name] for name in ("arrow", "parquet", "xlsx")),
    "font/*",
)
_NO_CONSOLE = (
    "<p>The console is not built. Run <code>make console</code>, or use the API under /api/v1.</p>"
)


_ROOMS = (
    health,
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
    limits,
    ledger,
    tokens,
)


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
    app.state.answers = Answers(desk)
    add_problem_responses(app)
    for room in _ROOMS:
        app.router.routes += room.router.routes
    _serve_console(app)

    describe = app.openapi
    app.openapi = cache(lambda: completed(describe()))  # type: ignore[method-assign]
    app.add_middleware(Gate, tokens=lambda: desk.tokens, doors=doors or Doors())
    app.add_middleware(SafeHeaders)
    app.add_middleware(
        GZipMiddleware, minimum_size=1_000, compresslevel=5, exclude_content_types=_PACKED
    )
    return app


class _Hashed(StaticFiles):
    """Files that are named by what is in them: whoever has one need never ask again."""

    def file_response(self, *args: Any, **how: Any) -> Response:
        response = super().file_response(*args, **how)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response


def _serve_console(app: FastAPI) -> None:
    """The console's files; every other path outside the API is a page of it."""
    if (CONSOLE / "assets").is_dir():
        app.mount("/assets", _Hashed(directory=CONSOLE / "assets"), name="assets")

    @app.get("/{page:path}", include_in_schema=False)
    def console(page: str) -> Response:
        if page.startswith("api/"):
            from starlette.exceptions import HTTPException

            raise HTTPException(404, "There is no such resource")
        named = CONSOLE / "favicon.svg" if page == "favicon.svg" else CONSOLE / "index.html"
        if not named.is_file():
            return HTMLResponse(_NO_CONSOLE, 503)
        return FileResponse(named, headers={"Cache-Control": "no-cache"})
