"""wise-ledger collect"""

import sys
from typing import TYPE_CHECKING

import click

from wise_ledger.cli.asking import FAILED, PARTLY, asking

if TYPE_CHECKING:
    from wise_ledger.wire.ledger import Run


@click.command()
@click.argument("source")
@click.option("--list", "list_", help="Only the companies that ever stood on this list.")
def collect(source: str, list_: str | None) -> None:
    """Collect from SOURCE into the ledger; what the ledger has already is not asked for again."""
    from rich.console import Console
    from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeElapsedColumn

    columns = (TextColumn("{task.description}"), BarColumn(), MofNCompleteColumn(), TimeElapsedColumn())
    with asking() as ledger, Progress(*columns, console=Console(stderr=True), transient=True) as bar:
        task = bar.add_task(f"collecting from {source}", total=None)
        run = ledger.collect(source, list_, progress=lambda r: bar.update(task, total=r.total, completed=r.done))
    report(run)
    if run.state != "finished":
        sys.exit(PARTLY if run.state == "partly_finished" else FAILED)


def report(run: "Run") -> None:
    """What a run did, and which companies failed."""
    unchanged = sum(o.state == "unchanged" for o in run.outcomes)
    click.echo(
        f"run {run.id} {run.state.replace('_', ' ')}: {run.facts} new facts, "
        f"{run.done - run.failed} companies collected ({unchanged} unchanged), {run.failed} failed"
    )
    if run.problem and not run.outcomes:
        click.secho(f"  {run.problem}", fg="red", err=True)
    for outcome in run.outcomes:
        if outcome.state == "failed":
            click.secho(f"  {outcome.company or outcome.subject}: {outcome.reason}", fg="red", err=True)
        elif outcome.reason:
            click.echo(f"  {outcome.company or outcome.subject}: {outcome.reason}", err=True)
