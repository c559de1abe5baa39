"""The same client for `async` code: every call of `Ledger` as a coroutine,
in a thread of its own.
"""

from collections.abc import Awaitable, Callable
from functools import wraps
from typing import Any, Self

from anyio import CapacityLimiter, to_thread

from wise_ledger.client.ledger import Ledger, connect

_AT_ONCE = 16  # calls


class AsyncLedger:
    """`await ledger.screen(...)`: what `Ledger` has, with the same arguments
    and answers; up to 16 calls at once.

    What gives its answers bit by bit (`batches`, `events`) comes whole, as a list.
    """

    def __init__(self, ledger: Ledger) -> None:
        self._ledger = ledger
        self._limit = CapacityLimiter(_AT_ONCE)

    async def __aenter__(self) -> Self:
        return self

    async def __aexit__(self, *_: object) -> None:
        self._ledger.close()

    def __getattr__(self, name: str) -> Callable[..., Awaitable[Any]]:
        call = getattr(self._ledger, name)

        @wraps(call)
        async def asked(*args: Any, **how: Any) -> Any:
            def whole() -> Any:
                found = call(*args, **how)
                return [*found] if hasattr(found, "__next__") else found

            return await to_thread.run_sync(whole, limiter=self._limit)

        return asked

    def __dir__(self) -> list[str]:
        return sorted({*super().__dir__(), *dir(self._ledger)})


def connect_async(url: str | None = None, token: str | None = None, **how: Any) -> AsyncLedger:
    """Open a client for `async` code; the arguments are those of `connect`."""
    return AsyncLedger(connect(url, token, **how))
