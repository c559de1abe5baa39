"""wise-ledger backup"""

import os
from pathlib import Path

import click

from wise_ledger.cli.files import NamedPath, OutputFile
from wise_ledger.launch.serve import refusing
from wise_ledger.launch.settings import read_settings


@click.command()
@click.argument("file", type=OutputFile())
@click.option("--data", type=NamedPath(), help="Folder of the ledger.  [default: ./ledger-data]")
def backup(file: Path, data: Path | None) -> None:
    """Copy the ledger to FILE as it stands now, and verify the copy. It may be served and written
    to meanwhile.

    To go back to a copy, stop the service, and put it into the folder of the ledger as
    ledger.sqlite, with no ledger.sqlite-wal beside it. The folder's other files are made again.
    """
    os.umask(0o077)  # what is written is nobody else's
    with refusing():
        _back_up(read_settings(data=data).data / "ledger.sqlite", file)


def _back_up(path: Path, to: Path) -> None:
    from wise_ledger.cli.browse import holds
    from wise_ledger.cli.progress import progress_bar
    from wise_ledger.store.backup import back_up

    with progress_bar() as bar:
        task = bar.add_task("copying and verifying", total=None)
        found = back_up(path, to, lambda done, total: bar.update(task, total=total, completed=done))
    size = f"{to.stat().st_size / 1e6:,.1f} MB"
    if found is None:
        click.echo(f"{path} is copied to {to} ({size}), as an older version left it: the file is")
        click.echo("sound, and its chain is verified once it is served")
        return
    click.echo(f"{path} is copied to {to} ({size})")
    click.echo(holds(found.batches, found.facts, found.hash))
    for note in found.notes:
        click.secho(note, fg="yellow")
