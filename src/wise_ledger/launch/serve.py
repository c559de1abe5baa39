"""wise-ledger serve"""

import os
import signal
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import click

from wise_ledger.cli.files import NamedPath
from wise_ledger.core.errors import LedgerError
from wise_ledger.launch.settings import Settings, SettingsRefused, read_settings

_AT_THE_LATEST = 4.5  # seconds after a request to end


def report(error: LedgerError | SettingsRefused) -> None:
    """Say on stderr what keeps the service from starting."""
    if isinstance(error, SettingsRefused):
        click.secho(f"A setting cannot be used: {error}", fg="red", err=True)
        return
    click.secho(error.title, fg="red", bold=True, err=True)
    for problem in error.problems:
        click.echo(
            f"  {problem.at}: {problem.value}\n    {problem.problem}\n    {problem.mend}", err=True
        )


@contextmanager
def refusing() -> Iterator[None]:
    """What keeps a command from its work is said on stderr, and ends it with its exit status."""
    try:
        yield
    except SettingsRefused as error:
        report(error)
        sys.exit(2)
    except LedgerError as error:
        report(error)
        sys.exit(1)


def stopping() -> threading.Event:
    """Set by Ctrl-C or a request to end, from now on:
    asked for before anybody learns that the service is there.
    """
    stop = threading.Event()
    for kind in (signal.SIGINT, signal.SIGTERM):
        signal.signal(kind, lambda *_: stop.set())
    return stop


def end_soon() -> None:
    """End within seconds, whatever still goes on: nothing that was acknowledged is lost by that."""
    last = threading.Timer(_AT_THE_LATEST, os._exit, [0])
    last.daemon = True
    last.start()


def until(stop: threading.Event) -> None:
    """Wait for it, open to signals."""
    while not stop.wait(0.5):
        pass


@click.command()
@click.option(
    "--data",
    type=NamedPath(),
    help="Folder of the ledger.  [default: ./ledger-data]",
)
@click.option("--host", help="Address to bind to.  [default: 127.0.0.1]")
@click.option("--port", type=int, help="Port to bind to.  [default: 8600]")
@click.option("--new-token", metavar="NAME", help="Make a token to sign in with, and print it.")
def serve(data: Path | None, host: str | None, port: int | None, new_token: str | None) -> None:
    """Serve the ledger: API and console. Settings come from WISE_LEDGER_* and the file .env too."""
    with refusing():
        _serve(read_settings(data=data, host=host, port=port), new_token)


def _serve(settings: Settings, new_token: str | None) -> None:
    from wise_ledger.launch.assembly import doors, open_desk
    from wise_ledger.launch.running import address, bind, running
    from wise_ledger.service.app import create_app

    os.umask(0o077)  # what is written is nobody else's
    bound = bind(settings.host, settings.port, "--port")
    desk = open_desk(settings)
    try:
        stop = stopping()
        with running(create_app(desk, doors(settings)), bound):
            click.echo(f"Wise Ledger serves {settings.data} at {address(bound)}")
            if new_token or not desk.tokens.anybody():
                _show_token(desk.tokens.make(new_token or "first")[1], settings.data)
            until(stop)
            end_soon()
    finally:
        desk.close()


def _show_token(token: str, data: Path) -> None:
    """On a terminal the token is shown; elsewhere, where a log would keep it,
    it goes into a file of the owner's.
    """
    if sys.stdout.isatty():
        click.echo(f"token: {token}  (shown this once)")
        return
    path = data / "first-token"
    path.unlink(missing_ok=True)
    with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as file:
        file.write(token + "\n")
    click.echo(f"a token to sign in with is in {path}: take it, and delete the file")
