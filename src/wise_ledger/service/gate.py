"""The gate: whoever calls is looked at before anything is read,
and an error of ours is answered like any other.

In this order: the host that was asked for, the token, the size of what is sent (against a limit by
route, counted as it comes), and whether there is room. What cannot be served now is answered with
when to come again.
"""

import asyncio
import logging
import re
import secrets
from collections.abc import Callable
from dataclasses import dataclass
from urllib.parse import urlsplit

from fastapi.concurrency import run_in_threadpool
from starlette.datastructures import Headers
from starlette.requests import ClientDisconnect
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from wise_ledger.service.problems import respond
from wise_ledger.work.access import Tokens

log = logging.getLogger(__name__)

API = "/api/"
HEALTH, DOCUMENT = "/api/v1/health", "/api/v1/openapi.json"
_FILES = ("/api/v1/collections/files/", "/api/v1/collections/pages")  # whose bodies are files
# answers as long as a run goes on, and works on nothing
_WATCHED = re.compile(r"/api/v1/runs/[^/]+/events")
LOOPBACK = frozenset({"127.0.0.1", "localhost", "::1"})
_SMALL = 8 << 20  # bytes of a question
_FILES_AT_ONCE, _PATIENCE_OF_FILES = 2, 60.0
_PATIENCE_OF_FEW = 20.0
_SECONDS = 30.0  # in which something more of a body must come
# bytes of a refused body that are read and thrown away, so that its sender hears the answer
_DRAINED = 16 << 20


@dataclass(frozen=True)
class Doors:
    """How the service is open: to which hosts' names, how much at once.

    `largest_file` bounds what is loaded, in bytes. `at_once` calls are worked on; the next `few`
    wait for their turn (one page asks several things together), and in a crowd everybody else for
    `patience` seconds.
    """

    hosts: frozenset[str] = LOOPBACK
    open_document: bool = False  # whether the OpenAPI document needs no token
    largest_file: int = 256 << 20
    at_once: int = 4
    few: int = 12
    patience: float = 0.7


class _Refused(Exception):
    """A body was too much or too slow; the gate answers."""


class Gate:
    """An ASGI application in front of another."""

    def __init__(self, app: ASGIApp, tokens: Callable[[], Tokens], doors: Doors) -> None:
        self._app = app
        self._tokens = tokens
        self._doors = doors
        self._room = asyncio.Semaphore(doors.at_once)
        # where files are loaded, beside the questions
        self._yard = asyncio.Semaphore(_FILES_AT_ONCE)
        self._waiting = 0

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """An ASGI application."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers, path = Headers(scope=scope), scope["path"]
        refused = self._strange_host(headers) or await self._without_token(scope, path, headers)
        limit = self._doors.largest_file if path.startswith(_FILES) else _SMALL
        if refused is None and _length(headers) > limit:
            refused = _too_large(limit)
        if refused is not None:
            await _drained(receive, headers)
            await refused(scope, receive, send)
            return
        await self._counted(scope, _Body(receive, limit), send, path)

    # ---- who

    def _strange_host(self, headers: Headers) -> ASGIApp | None:
        """A page of another host must not reach us through a name that points here."""
        host = headers.get("host", "")
        try:
            name = urlsplit(f"//{host}").hostname or ""
        except ValueError:
            name = ""
        if name in self._doors.hosts or "*" in self._doors.hosts:
            return None
        mend = "call it by a name it is known under, or add this one to WISE_LEDGER_HOSTS"
        return respond(
            421,
            "another-host",
            "This service is not known under that name",
            f"{host[:100]!r}: {mend}",
        )

    async def _without_token(self, scope: Scope, path: str, headers: Headers) -> ASGIApp | None:
        if (
            not path.startswith(API)
            or path == HEALTH
            or (path == DOCUMENT and self._doors.open_document)
        ):
            return None
        kind, _, token = headers.get("authorization", "").partition(" ")
        if kind.lower() == "bearer":
            tokens, given = self._tokens(), token.strip()
            # One that was seen before is looked up at once: a turn of a
            # thread costs more under load.
            quick = tokens.known(given)
            accepted = (
                tokens.accepted(given) if quick else await run_in_threadpool(tokens.accepted, given)
            )
            if accepted is not None:
                scope["token"] = accepted
                return None
        detail = (
            "Send a token as 'Authorization: Bearer …';"
            " `wise-ledger tokens make` and `serve --new-token` make one."
        )
        if kind.lower() == "bearer":
            detail = f"This one is not known, has ended, or was revoked. {detail}"
        return respond(
            401,
            "no-access",
            "This call needs a token",
            detail,
            headers={"WWW-Authenticate": "Bearer"},
        )

    # ---- how much

    async def _counted(self, scope: Scope, body: "_Body", send: Send, path: str) -> None:
        if not path.startswith(API) or path == HEALTH or _WATCHED.fullmatch(path):
            await self._answered(scope, body, send)
            return
        file = path.startswith(_FILES)
        room = self._yard if file else self._room
        if not await (_in_time(room, _PATIENCE_OF_FILES) if file else self._in_turn()):
            detail = f"{self._doors.at_once} calls are worked on, and others wait. Ask again in a second."
            await _drained(body.receive, Headers(scope=scope))
            refused = respond(
                503, "busy", "The service has its hands full", detail, headers={"Retry-After": "1"}
            )
            await refused(scope, body.receive, send)
            return
        held = True

        async def sent(message: Message) -> None:
            # What is left is sending: whoever reads slowly keeps nobody else waiting.
            nonlocal held
            if held and message["type"] == "http.response.start":
                held = False
                room.release()
            await send(message)

        try:
            await self._answered(scope, body, sent)
        finally:
            if held:
                room.release()

    async def _in_turn(self) -> bool:
        """Whether a call came to its turn: turns are in the order of coming,
        so a few that wait are served soon.
        """
        patience = _PATIENCE_OF_FEW if self._waiting < self._doors.few else self._doors.patience
        self._waiting += 1
        try:
            return await _in_time(self._room, patience)
        finally:
            self._waiting -= 1

    async def _answered(self, scope: Scope, body: "_Body", send: Send) -> None:
        begun = False

        async def sent(message: Message) -> None:
            nonlocal begun
            if body.refused is None:  # else whoever read it may have made an answer of its own
                begun = begun or message["type"] == "http.response.start"
                await send(message)

        refused: ASGIApp | None = None
        try:
            await self._app(scope, body.receive_counted, sent)
        except _Refused:
            pass
        except ClientDisconnect:
            return  # whoever asked is gone: there is nobody to answer
        except Exception:
            number = secrets.token_hex(4)
            log.exception("error %s: %s %s failed", number, scope["method"], scope["path"])
            if begun:
                raise  # the connection breaks off: nobody takes half an answer for a whole one
            detail = f"The service met an error of its own, number {number} in its log. This call stored nothing."
            refused = respond(500, "failed", "Something went wrong in the service", detail)
        refused = body.refused or refused
        if refused is not None and not begun:
            await _drained(body.receive, Headers(scope=scope))
            await refused(scope, body.receive, send)


class _Body:
    """A body as it comes, counted."""

    def __init__(self, receive: Receive, limit: int) -> None:
        self.refused: ASGIApp | None = None
        self._limit = limit
        self._receive = receive
        self._count = 0
        self._whole = False

    async def receive(self) -> Message:
        """The next message, after the body those of the connection."""
        message = await self._receive()
        self._whole = self._whole or not message.get("more_body", False)
        return message

    async def receive_counted(self) -> Message:
        """The next message; raises where it is too much or too slow."""
        if self._whole:
            return await self.receive()
        try:
            message = await asyncio.wait_for(self.receive(), _SECONDS)
        except TimeoutError:
            detail = f"Nothing more of the body came for {_SECONDS:.0f} seconds."
            self.refused = respond(408, "too-slow", "The call was too slow", detail)
            raise _Refused from None
        self._count += len(message.get("body", b""))
        if self._count > self._limit:
            self.refused = _too_large(self._limit)
            raise _Refused
        return message


def _too_large(limit: int) -> ASGIApp:
    detail = f"At most {limit >> 20} MB are taken here. Send it in parts; WISE_LEDGER_LARGEST_FILE moves it for files."
    return respond(413, "too-large", "That is too much at once", detail)


async def _in_time(room: asyncio.Semaphore, seconds: float) -> bool:
    try:
        await asyncio.wait_for(room.acquire(), seconds)
    except TimeoutError:
        return False
    return True


def _length(headers: Headers) -> int:
    given = headers.get("content-length", "0")
    return int(given) if given.isascii() and given.isdigit() else 0


async def _drained(receive: Receive, headers: Headers) -> None:
    """Read on for a while what is not wanted:
    who is still sending would else see the connection break.
    """
    if not _length(headers) and "transfer-encoding" not in headers:
        return
    count = 0
    try:
        async with asyncio.timeout(2.0):
            while count < _DRAINED:
                message = await receive()
                count += len(message.get("body", b""))
                if not message.get("more_body", False):
                    return
    except TimeoutError:
        return
