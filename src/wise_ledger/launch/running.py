"""Servers in threads: bound before they start, stopped together."""

import socket
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import uvicorn

from wise_ledger.core.errors import LedgerError, Problem

_START = 20.0  # seconds to come up


class PortTaken(LedgerError):
    """Somebody else listens there."""

    title = "The port is taken"


def bind(host: str, port: int, option: str) -> socket.socket:
    """A listening socket; raises `PortTaken`, which names the option that changes the port."""
    # With the protocol named, asyncio sends small answers at once instead of
    # waiting for an acknowledgement.
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    found = socket.socket(family, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    found.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        found.bind((host, port))
        found.listen(1024)
    except (OSError, OverflowError) as error:  # the latter: there is no such port
        found.close()
        mend = f"choose another with {option}, or stop what listens there"
        why = getattr(error, "strerror", None) or "ports are 0 to 65535"
        problem = f"cannot listen there ({why})"
        raise PortTaken(Problem(option, f"{host}:{port}", problem, mend)) from None
    return found


def address(bound: socket.socket) -> str:
    """The URL of a bound socket."""
    host, port = bound.getsockname()[:2]
    return f"http://[{host}]:{port}" if ":" in host else f"http://{host}:{port}"


@contextmanager
def running(app: Any, bound: socket.socket) -> Iterator[None]:
    """Serve an application in a thread for as long as the block lasts."""
    server = uvicorn.Server(
        uvicorn.Config(app, log_level="warning", access_log=False, timeout_graceful_shutdown=2)
    )
    thread = threading.Thread(target=server.run, kwargs={"sockets": [bound]}, daemon=True)
    thread.start()
    deadline = time.monotonic() + _START
    while not server.started:
        if not thread.is_alive() or time.monotonic() > deadline:
            raise RuntimeError(f"the server at {address(bound)} did not start")
        time.sleep(0.01)
    try:
        yield
    finally:
        server.should_exit = True
        thread.join()
        bound.close()
