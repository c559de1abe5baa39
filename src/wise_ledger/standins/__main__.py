"""The stand-ins in a process of their own, over sockets that their starter bound;
they end when its pipe closes.
"""

import argparse
import socket
import sys
import threading
from collections.abc import Callable
from datetime import UTC, date, datetime, time
from typing import TypeVar

import uvicorn

from wise_ledger.standins import fernmark, oskelby, ostrin, tolvane

T = TypeVar("T")


def main() -> None:
    """Serve Fernmark Data, and Tolvane Filings where there is a socket for it,
    over a world that goes on.
    """
    given = argparse.ArgumentParser(prog="standins")
    given.add_argument(
        "--fernmark", type=int, required=True, help="file descriptor of a listening socket"
    )
    given.add_argument("--tolvane", type=int, help="another one")
    given.add_argument("--oskelby", type=int, help="another one")
    given.add_argument("--ostrin", type=int, help="another one")
    given.add_argument("--key", required=True)
    given.add_argument("--small", action="store_true")
    given.add_argument(
        "--first", action="store_true", help="all will be asked for: it is made at once"
    )
    given.add_argument(
        "--today",
        type=date.fromisoformat,
        help="the day on which the clock stands; it goes without",
    )
    asked = given.parse_args()

    def clock() -> datetime:
        return datetime.combine(asked.today, time.max, UTC) if asked.today else datetime.now(UTC)

    world = (fernmark.make_world if asked.small else fernmark.make_whole_world)(clock=clock)
    data = fernmark.create_app(world, asked.key, quota=fernmark.Quota(400, 1.0), page=60)
    if asked.first:
        threading.Thread(target=_ahead, args=[world], daemon=True).start()
    servers = [_serve(data, asked.fernmark)]
    if asked.oskelby is not None:
        opinions = _once(lambda: oskelby.make_opinions(world))
        servers.append(_serve(oskelby.create_app(opinions, clock, asked.key), asked.oskelby))
    if asked.ostrin is not None:
        servers.append(_serve(ostrin.create_app(_once(ostrin.make_releases), clock), asked.ostrin))
    if asked.tolvane is not None:
        servers.append(_serve(tolvane.create_app(_reports(world, clock)), asked.tolvane))
    sys.stdin.read()  # until the pipe closes
    for server in servers:
        server.should_exit = True


def _reports(
    world: fernmark.World, clock: Callable[[], datetime]
) -> Callable[[], list[tolvane.Report]]:
    """The reports of a day, made once for it."""
    made: dict[str, list[tolvane.Report]] = {}

    def found() -> list[tolvane.Report]:
        hour = clock().strftime("%Y-%m-%d %H")
        if hour not in made:
            made.clear()
            made[hour] = tolvane.make_reports(world)
        return made[hour]

    return found


def _once(make: Callable[[], T]) -> Callable[[], T]:
    """What takes a while to make, made when first asked for."""
    lock, made = threading.Lock(), list[T]()

    def found() -> T:
        with lock:
            if not made:
                made.append(make())
        return made[0]

    return found


def _ahead(world: fernmark.World) -> None:
    """Make what will be asked for before it is: many starts ask nothing."""
    for company in world.filings:
        _ = world.filings[company]
    if world.market is not None:
        _ = world.market.years


def _serve(app: object, descriptor: int) -> uvicorn.Server:
    server = uvicorn.Server(uvicorn.Config(app, log_level="warning", access_log=False))  # type: ignore[arg-type]
    listening = socket.socket(fileno=descriptor)
    threading.Thread(target=server.run, kwargs={"sockets": [listening]}, daemon=True).start()
    return server


if __name__ == "__main__":
    main()
