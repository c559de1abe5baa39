"""wise-ledger demo: the stand-in source, the service and a first collection, all on loopback."""

import os
import socket
import subprocess
import sys
import time
from collections.abc import Iterator, Mapping
from contextlib import contextmanager, suppress
from datetime import UTC, date, datetime
from pathlib import Path

import click

from wise_ledger.cli.files import NamedPath
from wise_ledger.core.errors import LedgerError, bad_input
from wise_ledger.core.time.instants import read_date
from wise_ledger.launch.running import address, bind, running
from wise_ledger.launch.serve import end_soon, report, stopping, until
from wise_ledger.launch.settings import SettingsRefused, read_settings

RULE, LIST, KNOWN_ON, LATER = (
    "operating_income / revenue > 15%",
    "first-look",
    "2023-06-30",
    "2024-01-31",
)
_SOURCE_KEY = "demo-key-of-the-stand-in"
_NOTICE_SECRET = "demo-secret-of-the-letterbox"


@click.command()
@click.option("--once", is_flag=True, help="Collect, print the first screen, and end.")
@click.option("--data", type=NamedPath(), default=Path("demo-data"), show_default=True)
@click.option(
    "--port", type=int, default=8600, show_default=True, help="Port of the service; 0 takes any."
)
@click.option(
    "--source-port",
    type=int,
    default=8601,
    show_default=True,
    help="Port of the stand-in source; 0 takes any.",
)
@click.option(
    "--today",
    metavar="DATE",
    help="The made-up world as of the end of this day; it goes on without.",
)
@click.option(
    "--small",
    is_flag=True,
    help="32 companies since 2021 instead of 240 since 2012: ready at once.",
)
def demo(
    once: bool, data: Path, port: int, source_port: int, today: str | None, small: bool
) -> None:
    """A ledger of made-up companies to try things on; Ctrl-C ends it and the data stays."""
    try:
        if today:
            today = _day_of_the_world(today)
        with everything(data, port, source_port, today=today, small=small) as (url, token, failed):
            if once:
                _first_screen(url, token)
            else:
                stop = stopping()
                _invite(url, token)
                until(stop)
                end_soon()
                click.echo("\nstopped; the data stays in " + str(data))
            if failed:
                sys.exit(3)
    except (LedgerError, SettingsRefused) as error:
        report(error)
        sys.exit(1)


def _day_of_the_world(today: str) -> str:
    """A day on which the world has what the first screen shows, and nothing of the future."""
    found, first, last = (
        read_date(today, "--today"),
        date.fromisoformat(LATER),
        datetime.now(UTC).date(),
    )
    if not first <= found <= last:
        mend = f"name a day from {first} to {last}, or leave it out"
        raise bad_input("--today", today, "the made-up world has nothing to show of this day", mend)
    return found.isoformat()


@contextmanager
def everything(
    data: Path, port: int, source_port: int, *, today: str | None = None, small: bool = False
) -> Iterator[tuple[str, str, bool]]:
    """The demo running, its data collected: the service's address, a token,
    and whether any company failed.
    """
    os.umask(0o077)  # what is written is nobody else's
    bound = bind("127.0.0.1", port, "--port")
    sources = {"fernmark": bind("127.0.0.1", source_port, "--source-port")}
    if not small:
        others = ("tolvane", "oskelby", "ostrin")
        sources |= {name: bind("127.0.0.1", 0, "--source-port") for name in others}
    # Before our own code is loaded: theirs loads in the meantime, and a first world is made.
    first = True
    with suppress(OSError):  # a folder that may not be looked into is refused in its turn
        first = not (data / "ledger.sqlite").exists()
    with _standins(sources, today, small=small, first=first):
        from wise_ledger.standins.letterbox import Letterbox

        at = {name: address(to) for name, to in sources.items()}
        box = Letterbox(data / "letters", _NOTICE_SECRET)
        box.start()
        try:
            settings = read_settings(
                oskelby_url=at.get("oskelby", ""),
                oskelby_key=_SOURCE_KEY,
                tolvane_url=at.get("tolvane", ""),
                sdmx={"ostrin": f"{at['ostrin']} Ostrin Statistics"} if "ostrin" in at else {},
                data=data,
                fernmark_url=at["fernmark"],
                fernmark_key=_SOURCE_KEY,
                notice_secret=_NOTICE_SECRET,
                notice_hosts="127.0.0.1",
                smtp_host="127.0.0.1",
                smtp_port=box.smtp_port,
                public_url=address(bound),
            )
            with _served(settings, bound, box.app) as (token, failed):
                yield address(bound), token, failed
        finally:
            box.stop()


@contextmanager
def _served(settings, bound: socket.socket, notices) -> Iterator[tuple[str, bool]]:  # type: ignore[no-untyped-def]
    """The service over what is collected, and who takes its notices: a token,
    and whether any company failed.
    """
    from wise_ledger.client import connect
    from wise_ledger.launch.assembly import doors, open_desk
    from wise_ledger.service.app import create_app

    called = bind("127.0.0.1", 0, "--port")
    desk = open_desk(settings)
    try:
        token = _token(desk, settings.data)
        with running(notices, called), running(create_app(desk, doors(settings)), bound):
            with connect(address(bound), token) as ledger:
                failed = _collect(ledger)
                _schedule(ledger, f"{address(called)}/notices")
            yield token, failed
    finally:
        desk.close()


@contextmanager
def _standins(
    sources: Mapping[str, socket.socket], today: str | None, *, small: bool, first: bool
) -> Iterator[None]:
    """The stand-ins in a process of their own for as long as the block lasts:
    they do not share our processor time. For a `first` collection all is made at once.
    """
    command = [sys.executable, "-m", "wise_ledger.standins", "--key", _SOURCE_KEY]
    for name, to in sources.items():
        command += [f"--{name}", str(to.fileno())]
    command += ["--small"] if small else []
    command += ["--first"] if first else []
    command += ["--today", today] if today else []
    process = subprocess.Popen(
        command, stdin=subprocess.PIPE, pass_fds=[to.fileno() for to in sources.values()]
    )
    try:
        yield
    finally:
        assert process.stdin is not None
        process.stdin.close()
        try:
            process.wait(timeout=5)
        except subprocess.TimeoutExpired:
            process.kill()
        for to in sources.values():
            to.close()


def _schedule(ledger, call: str) -> None:  # type: ignore[no-untyped-def]
    """A schedule that notifies a made-up analyst by mail and a made-up
    program by a call; again at each start.
    """
    from wise_ledger.wire.collecting import Timing

    if any(s.name == "nightly" for s in ledger.schedules()):
        ledger.remove_schedule("nightly")  # the address that is called is another one each time
    targets = ["mailto:ada@example.test", call]
    ledger.keep_schedule("nightly", "fernmark", "demo", timing=Timing(at=["02:30"]), notify=targets)


def _token(desk, data: Path) -> str:  # type: ignore[no-untyped-def]
    """The demo's own token, kept beside its data for the next start;
    the ledger has only its hash.
    """
    kept = data / "token"
    if kept.is_file() and desk.tokens.accepted(kept.read_text().strip()):
        return kept.read_text().strip()
    _, token = desk.tokens.make("demo")
    with os.fdopen(os.open(kept, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
        file.write(token + "\n")
    return token


def _collect(ledger) -> bool:  # type: ignore[no-untyped-def]
    """Collect each source once; a run that an earlier start left open is waited for.

    Whether anything failed.
    """
    from wise_ledger.cli.collect import report

    failed = False
    for source in sorted(ledger.sources(), key=lambda s: s.name):
        newest = [r for r in ledger.runs() if r.source == source.name][:1]
        if newest and newest[0].state == "finished":
            continue
        click.echo(f"collecting from {source.title} (a stand-in on this machine) …")
        began = time.monotonic()
        resumed = newest and newest[0].state in ("queued", "running")
        run = ledger.wait(newest[0] if resumed else ledger.queue(source.name), progress=_progress())
        report(run)
        click.echo(f"took {time.monotonic() - began:.1f} s")
        failed = failed or run.state != "finished"
    return failed


def _progress():  # type: ignore[no-untyped-def]
    """Says now and then on a terminal how far it is."""
    if not sys.stderr.isatty():
        return None

    def show(run) -> None:  # type: ignore[no-untyped-def]
        click.echo(
            f"\r  {run.done} of {run.total or '?'} companies", nl=run.state == "finished", err=True
        )

    return show


def _first_screen(url: str, token: str) -> None:
    from wise_ledger.cli.screen import draw_screen
    from wise_ledger.client import connect

    with connect(url, token) as ledger:
        draw_screen(ledger.screen(RULE, LIST, KNOWN_ON).answer)


def _invite(url: str, token: str) -> None:
    command = os.path.relpath(sys.argv[0]) if os.path.exists(sys.argv[0]) else "wise-ledger"  # noqa: PTH110
    click.echo()
    click.secho("Wise Ledger is ready", bold=True)
    click.echo(f"  console  {url}")
    click.echo(f"  token    {token}")
    click.echo()
    click.secho("Four things to try", bold=True)
    click.echo(
        "  1. Open this page of the console, sign in with the token, and move the date stamp to January 2024:"
    )
    click.echo(f"       {url}/screens?known_on={KNOWN_ON}")
    click.echo("     Ashgrove Kilnworks drops out. Open its figure to see why.")
    click.echo("  2. Ask the same in another terminal:")
    click.echo(f"       export WISE_LEDGER_URL={url} WISE_LEDGER_TOKEN={token}")
    click.echo(f"       {command} screen '{RULE}' --list {LIST} --known-on {KNOWN_ON}")
    click.echo(f"       {command} screen '{RULE}' --list {LIST} --known-on {LATER}")
    click.echo("  3. See where the figure comes from, down to the document:")
    click.echo(f"       {command} explain AGK@ZALD 'operating_income / revenue' --known-on {LATER}")
    click.echo()
    click.echo("  4. See what came in, and that a second collection costs next to nothing:")
    click.echo(f"       {command} runs digest 1; {command} collect fernmark")
    click.echo()
    click.echo("Ctrl-C stops all of it; the data stays.")
