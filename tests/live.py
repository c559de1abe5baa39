"""A ledger that runs: stand-in source, service and client on loopback, in a folder of its own."""

import atexit
import os
import resource
import shutil
import subprocess
import sys
import tempfile
import time
import unittest
from contextlib import ExitStack
from datetime import UTC, datetime
from functools import cache
from pathlib import Path
from typing import Any, ClassVar

import httpx

from tests.commands import run_loaded
from wise_ledger.client import Ledger, connect
from wise_ledger.launch.running import address, bind, running
from wise_ledger.service.app import create_app
from wise_ledger.sources.fernmark import Fernmark
from wise_ledger.sources.pacing import Budget, Pace
from wise_ledger.standins.fernmark import Quota, World, make_world
from wise_ledger.standins.fernmark import create_app as create_source
from wise_ledger.wire.tables import write_batches
from wise_ledger.work.desk import Desk

KEY = "a-key-for-tests"
RULE = "operating_income / revenue > 15%"
WORLD = make_world()
# Each call over a connection of its own, without a look at whose certificates are
# believed: that takes longer.
PLAIN = httpx.Client(verify=False, timeout=30, limits=httpx.Limits(max_keepalive_connections=0))


class LiveSource:
    """The stand-in on a port of its own; `faults` can be switched on, `served` counts."""

    def __init__(
        self, stack: ExitStack, world: World = WORLD, quota: Quota | None = None, page: int = 10
    ) -> None:
        app = create_source(world, KEY, quota=quota or Quota(100_000, 1.0), page=page)
        bound = bind("127.0.0.1", 0, "--source-port")
        self.url = address(bound)
        self.faults, self.served = app.state.faults, app.state.served
        stack.enter_context(running(app, bound))

    def adapter(
        self, timeout: float = 5.0, key: str = KEY, budget: Budget | None = None
    ) -> Fernmark:
        return Fernmark(self.url, key, timeout, budget)

    def fault(
        self, kind: str | None, path: str = "", times: int = -1, seconds: float = 30.0
    ) -> None:
        self.faults.switch(kind, path=path, times=times, seconds=seconds)


class LiveLedger:
    """A service over a fresh ledger; `ledger` is a client with a token."""

    def __init__(
        self,
        stack: ExitStack,
        source: LiveSource,
        timeout: float = 5.0,
        budget: Budget | None = None,
        folder: Path | None = None,
        **how: Any,
    ) -> None:
        self.folder = folder or Path(stack.enter_context(tempfile.TemporaryDirectory()))
        shared = budget or Budget(Pace())
        opened = {"fernmark": lambda: source.adapter(timeout, budget=shared)}
        self.desk = Desk.open(
            self.folder, opened, lambda: datetime.now(UTC), write=write_batches, **how
        )
        stack.callback(self.desk.close)
        bound = bind("127.0.0.1", 0, "--port")
        self.url = address(bound)
        self.app = create_app(self.desk)
        stack.enter_context(running(self.app, bound))
        _, self.token = self.desk.tokens.make("tests")
        self.ledger: Ledger = stack.enter_context(connect(self.url, self.token))

    def http(self, method: str, path: str, **how: Any) -> httpx.Response:
        headers = {"Authorization": f"Bearer {self.token}", **how.pop("headers", {})}
        return PLAIN.request(method, f"{self.url}/api/v1{path}", headers=headers, **how)

    def command(self, *arguments: str, url: str | None = None) -> subprocess.CompletedProcess[str]:
        """The command line, as people run it."""
        environment = {
            **os.environ,
            "WISE_LEDGER_URL": url or self.url,
            "WISE_LEDGER_TOKEN": self.token,
        }
        return run_loaded(*arguments, environment=environment)


def run_command(
    *arguments: str, environment: dict[str, str] | None = None
) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "wise_ledger.launch.main", *arguments]
    return subprocess.run(
        command, capture_output=True, text=True, timeout=120, env=environment, check=False
    )


def worked() -> float:
    """Seconds of processor that ended children took: unlike a clock's,
    they do not grow with what else is running.
    """
    spent = resource.getrusage(resource.RUSAGE_CHILDREN)
    return spent.ru_utime + spent.ru_stime


class Live(unittest.TestCase):
    """Tests over one collected ledger, which they only read."""

    source: ClassVar[LiveSource]
    live: ClassVar[LiveLedger]
    ledger: ClassVar[Ledger]

    @classmethod
    def setUpClass(cls) -> None:
        stack = ExitStack()
        cls.addClassCleanup(stack.close)
        cls.source = LiveSource(stack)
        cls.live = LiveLedger(stack, cls.source, folder=copied(stack))
        cls.ledger = cls.live.ledger


def copied(stack: ExitStack) -> Path:
    """A folder of its own with a ledger that has collected."""
    folder = Path(stack.enter_context(tempfile.TemporaryDirectory()))
    shutil.copytree(collected(), folder, dirs_exist_ok=True)
    return folder


@cache
def collected() -> Path:
    """The folder of a ledger that has collected, made when a class first needs one:
    each has a copy of its own.
    """
    folder = Path(tempfile.mkdtemp())
    atexit.register(shutil.rmtree, folder)
    with ExitStack() as stack:
        live = LiveLedger(stack, LiveSource(stack), folder=folder)
        run = live.ledger.collect("fernmark", every=0.05)
        assert run.state == "finished", run
    return folder


def until(condition: Any, seconds: float = 60.0) -> None:
    """Wait for something to become true; how long says only when to give up,
    on a machine that does much else.
    """
    deadline = time.monotonic() + seconds
    while not condition():
        if time.monotonic() > deadline:
            raise AssertionError("it did not happen in time")
        time.sleep(0.02)
