"""The line to a source: every wait on it ends,
at the deadline of the answer or when we stop, come what may.
"""

import ssl
import threading
import time
from collections.abc import Iterable
from functools import cache
from typing import Any

import httpcore
import httpx

_SLICE = 0.25  # seconds between two looks at whether to go on


@cache
def _trust() -> ssl.SSLContext:
    """Whose certificates are believed; read once, since that takes a while."""
    return ssl.create_default_context()


class Line(httpx.HTTPTransport):
    """A transport for one source; threads that wait on it let go within a
    moment of `stop` being set.
    """

    def __init__(self, stop: threading.Event) -> None:
        super().__init__(verify=_trust())
        self._own = threading.local()
        self._pool.close()
        self._pool = httpcore.ConnectionPool(
            ssl_context=_trust(), max_connections=100, max_keepalive_connections=20,
            network_backend=_Network(stop, lambda: getattr(self._own, "until", None)),
        )  # fmt: skip

    def until(self, deadline: float) -> None:
        """When, by the monotonic clock, the next answer of this thread must be whole."""
        self._own.until = deadline


class _Network(httpcore.NetworkBackend):
    def __init__(self, stop: threading.Event, until: Any) -> None:
        self._plain = httpcore.SyncBackend()
        self._stop, self._until = stop, until

    def connect_tcp(
        self,
        host: str,
        port: int,
        timeout: float | None = None,
        local_address: str | None = None,
        socket_options: Iterable[Any] | None = None,
    ) -> httpcore.NetworkStream:
        left = None if self._until() is None else max(0.01, self._until() - time.monotonic())
        given = [t for t in (timeout, left) if t is not None]
        stream = self._plain.connect_tcp(
            host, port, min(given) if given else None, local_address, socket_options
        )
        return _Stream(stream, self._stop, self._until)


class _Stream(httpcore.NetworkStream):
    def __init__(self, plain: httpcore.NetworkStream, stop: threading.Event, until: Any) -> None:
        self._plain, self._stop, self._until = plain, stop, until

    def read(self, max_bytes: int, timeout: float | None = None) -> bytes:
        end = time.monotonic() + timeout if timeout is not None else None
        while True:
            now = time.monotonic()
            deadline = self._until()
            if self._stop.is_set():
                raise httpcore.ReadError("we stop")
            if (deadline is not None and now >= deadline) or (end is not None and now >= end):
                raise httpcore.ReadTimeout("the answer is not whole in time")
            try:
                return self._plain.read(max_bytes, _SLICE)
            except httpcore.ReadTimeout:
                continue

    def write(self, buffer: bytes, timeout: float | None = None) -> None:
        self._plain.write(buffer, timeout)

    def close(self) -> None:
        self._plain.close()

    def start_tls(
        self,
        ssl_context: ssl.SSLContext,
        server_hostname: str | None = None,
        timeout: float | None = None,
    ) -> httpcore.NetworkStream:
        return _Stream(
            self._plain.start_tls(ssl_context, server_hostname, timeout), self._stop, self._until
        )

    def get_extra_info(self, info: str) -> Any:
        return self._plain.get_extra_info(info)
