"""What can go wrong at a service, to be switched on: per request, by share, seeded."""

import asyncio
import json
import random
from collections.abc import AsyncIterator
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from typing import Any

from starlette.responses import JSONResponse, Response, StreamingResponse

# Before the answer is made; on its bytes; on its rows or figures.
WHOLE = ("too_many", "error", "down", "slow", "reset", "truncated", "not_json", "html", "refused")
ROWS = ("duplicate_pages", "shuffled_pages", "repeated_cursor", "other_schema", "lacking_schema")
FIGURES = ("bad_number", "wrong_types", "not_a_number", "clock_skew")
KINDS = WHOLE + ROWS + FIGURES


@dataclass
class Faults:
    """Hits requests whose address contains `path`, `times` times (-1: always),
    each with a chance of `share`.

    `kind` is one of `KINDS`, or `mixed`: each time another, but for a refused key.
    """

    kind: str | None = None
    path: str = ""
    times: int = -1
    seconds: float = 30.0
    share: float = 1.0
    seed: int = 7
    seen: int = 0
    _rng: random.Random = field(default_factory=lambda: random.Random(7))

    def switch(self, kind: str | None, **how: Any) -> None:
        """Another fault from now on; the chances begin again."""
        self.path, self.times, self.share, self.seen = "", -1, 1.0, 0
        for name, value in {"kind": kind, **how}.items():
            setattr(self, name, value)
        self._rng = random.Random(self.seed)

    def strikes(self, address: str) -> str | None:
        """The fault that hits this request, if one does; counts it."""
        if (
            self.kind is None
            or self.path not in address
            or (self.times >= 0 and self.seen >= self.times)
        ):
            return None
        if self.share < 1.0 and self._rng.random() >= self.share:
            return None
        self.seen += 1
        return (
            self._rng.choice([k for k in KINDS if k != "refused"])
            if self.kind == "mixed"
            else self.kind
        )


def refusal(kind: str | None) -> Response | None:
    """The answer of a service that does not even look at the request."""
    if kind == "refused":
        return JSONResponse({"error": "This key is not accepted."}, 401)
    if kind == "too_many":
        return JSONResponse({"error": "Too many requests."}, 429, {"Retry-After": "0"})
    if kind in ("down", "error"):
        return JSONResponse({"error": "Something is broken here."}, 503 if kind == "down" else 500)
    if kind in ("html", "not_json"):
        return Response("<html><body>Back soon</body></html>", media_type="text/html")
    return None


async def spoiled(kind: str | None, response: Response, seconds: float) -> Response:
    """A good answer, damaged on its way."""
    body = bytes(response.body)
    if kind == "slow":
        await asyncio.sleep(seconds)
    if kind == "truncated":
        return Response(body[: len(body) * 2 // 3], media_type="application/json")
    if kind == "reset":

        async def half() -> AsyncIterator[bytes]:
            yield body[: len(body) // 2]
            raise ConnectionResetError

        return StreamingResponse(
            half(), headers={"Content-Length": str(len(body))}, media_type="application/json"
        )
    return response


def page(kind: str | None, name: str, rows: list[Any], begin: int, end: int) -> dict[str, Any]:
    """One page of rows, or what a careless service makes of it."""
    following = str(end) if end < len(rows) else None
    shown = rows[begin:end]
    if kind == "duplicate_pages":
        shown = rows[max(0, begin - (end - begin)) : end]
    if kind == "shuffled_pages":
        shown = shown[::-1]
    if kind == "repeated_cursor":
        following = str(begin) if begin else str(end)
    if kind == "other_schema":
        shown = [{**row, "mood": "fine", "extra": {"of": [1, 2]}} for row in shown]
    if kind == "lacking_schema":
        shown = [
            {k: v for k, v in row.items() if k not in ("since", "from", "title", "id")}
            for row in shown
        ]
    return {name: shown, "next": following}


def filing(kind: str | None, body: bytes) -> bytes:
    """A filing, or what a careless service makes of it."""
    if kind == "bad_number":
        return body.replace(b'"amount": ', b'"amount": "about ', 1).replace(b"},\n", b'"},\n', 1)
    if kind == "not_a_number":
        return body.replace(b'"amount": ', b'"amount": NaN, "was": ', 1)
    if kind == "wrong_types":
        return json.dumps(
            {**json.loads(body), "figures": "see annex", "scale": "thousands"}
        ).encode()
    if kind == "clock_skew":
        ahead = (datetime.now(UTC) + timedelta(days=400)).strftime("%Y-%m-%dT%H:%M:%SZ")
        return json.dumps({**json.loads(body), "published_at": ahead}).encode()
    return body
