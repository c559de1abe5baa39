"""A call that is made again with its `Idempotency-Key` is answered as it was:
nothing is made twice.
"""

import asyncio
import hashlib
import logging
import time
from collections import OrderedDict
from collections.abc import Callable, Coroutine
from dataclasses import dataclass, field
from typing import Any

from fastapi import Request, Response
from fastapi.concurrency import run_in_threadpool

from wise_ledger.service.asof import Dated
from wise_ledger.work import BadInput, LedgerError, Problem
from wise_ledger.work.answered import KEPT, MOST, Answered, find, keep
from wise_ledger.work.desk import Desk

log = logging.getLogger(__name__)
# characters of a key, bytes of an answer: all that are kept are 64 MB at most
_LONGEST, _LARGEST = 200, 1 << 16


@dataclass
class _Kept:
    asked: bytes
    until: float
    turn: asyncio.Lock = field(default_factory=asyncio.Lock)
    answer: tuple[int, dict[str, str], bytes] | None = None


class Answers:
    """What calls with a key were answered within a day: at hand, and in the ledger's file, so that
    nothing is made twice after a restart either.

    What is not to be stored (`Cache-Control: no-store`: it holds a token) is at hand alone.
    """

    def __init__(self, desk: Desk | None, now: Callable[[], float] = time.monotonic) -> None:
        self._desk = desk
        self._now = now
        self._kept: OrderedDict[bytes, _Kept] = OrderedDict()

    async def of(self, who: str, key: str, asked: bytes) -> _Kept:
        """What was answered to somebody's key, or is to be;
        raises `BadInput` where it was given with another call.
        """
        while self._kept and (
            len(self._kept) > MOST or next(iter(self._kept.values())).until < self._now()
        ):
            self._kept.popitem(last=False)
        digest = _digest(who, key)
        fresh = _Kept(asked, self._now() + KEPT.total_seconds())
        if digest not in self._kept and self._desk is not None:
            before = await run_in_threadpool(find, self._desk.ledger, digest)
            if before is not None:
                fresh.asked, fresh.answer = before.asked, before[1:]
        kept = self._kept.setdefault(digest, fresh)
        if kept.asked != asked:
            problem = "this key was given with another call"
            raise BadInput(Problem("Idempotency-Key", key, problem, "make a new key for each call"))
        return kept

    async def keep(self, who: str, key: str, kept: _Kept) -> None:
        """Store what was answered, but for what is not to be stored."""
        assert kept.answer is not None
        answered = Answered(kept.asked, *kept.answer)
        if self._desk is not None and answered.headers.get("cache-control") != "no-store":
            try:
                await run_in_threadpool(keep, self._desk.ledger, _digest(who, key), answered)
            except LedgerError:  # what was asked for is made all the same
                log.exception("the answer to a key is not kept over a restart")

    def forget(self, who: str, key: str) -> None:
        """A call that made nothing may be made again."""
        self._kept.pop(_digest(who, key), None)


def _digest(*parts: str) -> bytes:
    return hashlib.sha256("\0".join(parts).encode(errors="replace")).digest()


class Call(Dated):
    """A call of the API: dated where it depends on time, and made once where it has a key."""

    def get_route_handler(self) -> Callable[[Request], Coroutine[Any, Any, Response]]:
        handler = super().get_route_handler()

        async def once(request: Request) -> Response:
            key = request.headers.get("idempotency-key")
            if key is None or request.method != "POST":
                return await handler(request)
            if not 0 < len(key) <= _LONGEST:
                problem = f"a key has 1 to {_LONGEST} characters"
                raise BadInput(
                    Problem(
                        "Idempotency-Key", key[:80], problem, "write a shorter one, such as a UUID"
                    )
                )
            who, answers = request.headers.get("authorization", ""), request.app.state.answers
            sent = hashlib.sha256(await request.body()).hexdigest()  # it may be a large file
            asked = _digest(request.url.path, request.url.query, sent)
            kept = await answers.of(who, key, asked)
            async with kept.turn:
                if kept.answer is not None:
                    status, headers, body = kept.answer
                    return Response(body, status, headers)
                try:
                    response = await handler(request)
                except Exception:
                    answers.forget(who, key)
                    raise
                body = getattr(response, "body", None)  # none, of one that is read while it is made
                if response.status_code < 300 and isinstance(body, bytes) and len(body) <= _LARGEST:
                    kept.answer = response.status_code, dict(response.headers), body
                    await answers.keep(who, key, kept)
                else:
                    answers.forget(who, key)
                return response

        return once
