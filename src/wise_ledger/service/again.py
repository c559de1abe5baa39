"""A call that is made again with its `Idempotency-Key` is answered as it was:
nothing is made twice.
"""

import asyncio
import hashlib
import time
from collections import OrderedDict
from collections.abc import Callable, Coroutine
from dataclasses import dataclass, field
from typing import Any

from fastapi import Request, Response

from wise_ledger.service.asof import Dated
from wise_ledger.work import BadInput, Problem

# characters of a key, bytes of an answer: all that are kept are 64 MB at most
_LONGEST, _LARGEST = 200, 1 << 16
_KEPT, _DAY = 1_000, 86_400.0  # answers, and seconds for which they are kept


@dataclass
class _Kept:
    asked: bytes
    until: float
    turn: asyncio.Lock = field(default_factory=asyncio.Lock)
    answer: tuple[int, dict[str, str], bytes] | None = None


class Answers:
    """What calls with a key were answered: of a day, in memory, since a token may be among it.

    Runs are found by their keys after a restart too; of what else is made by name the second is
    refused.
    """

    def __init__(self, now: Callable[[], float] = time.monotonic) -> None:
        self._now = now
        self._kept: OrderedDict[bytes, _Kept] = OrderedDict()

    def of(self, who: str, key: str, asked: bytes) -> _Kept:
        """What was answered to somebody's key, or is to be;
        raises `BadInput` where it was given with another call.
        """
        while self._kept and (
            len(self._kept) > _KEPT or next(iter(self._kept.values())).until < self._now()
        ):
            self._kept.popitem(last=False)
        kept = self._kept.setdefault(_digest(who, key), _Kept(asked, self._now() + _DAY))
        if kept.asked != asked:
            problem = "this key was given with another call"
            raise BadInput(Problem("Idempotency-Key", key, problem, "make a new key for each call"))
        return kept

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
            kept = answers.of(who, key, asked)
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
                else:
                    answers.forget(who, key)
                return response

        return once
