"""wise-ledger load"""

import sys
from pathlib import Path

import click

from wise_ledger.cli.asking import FAILED, PARTLY, asking

KINDS = ("companies", "identifiers", "listings", "members", "facts")


@click.command()
@click.argument("kind", type=click.Choice(KINDS))
@click.argument("file", type=click.Path(exists=True, dir_okay=False, path_type=Path))
@click.option("--accept-good", is_flag=True, help="Load the good rows though others are bad.")
@click.option(
    "--mapping",
    type=click.Path(exists=True, dir_okay=False, path_type=Path),
    help="YAML that says what is where in a table of facts of another shape.",
)
@click.option("--rejects", type=click.Path(dir_okay=False, path_type=Path), help="Write the bad rows to a file.")
def load(kind: str, file: Path, accept_good: bool, mapping: Path | None, rejects: Path | None) -> None:
    """Load a FILE of a KIND (CSV, JSON Lines, XLSX, Parquet) as one batch.

    With a bad row nothing is loaded; each is told with line, column, value, problem and mend.
    """
    with asking() as ledger:
        shape = mapping.read_text("utf-8") if mapping else None
        found = ledger.load(kind, file.read_bytes(), accept_good=accept_good, mapping=shape, name=file.name)
    for row in found.bad:
        click.secho(f"{file}, line {row.line}, {row.column}: {row.value}", fg="red", err=True)
        click.echo(f"  {row.problem}; {row.mend}", err=True)
    if rejects is not None:
        import csv

        with rejects.open("w", newline="", encoding="utf-8") as out:
            writer = csv.writer(out)
            writer.writerow(("line", "column", "value", "problem", "mend"))
            writer.writerows((r.line, r.column, r.value, r.problem, r.mend) for r in found.bad)
    if found.rows:
        what = f"batch {found.batch}" if found.batch else "nothing new"
        what += f", {found.new} new" if found.new is not None and found.batch else ""
        click.echo(f"{found.rows} {kind} loaded, {what}; {len(found.bad)} bad rows")
    else:
        click.echo(
            f"nothing loaded: {len(found.bad)} bad rows; mend them, or load the rest with --accept-good", err=True
        )
    if found.bad:
        sys.exit(PARTLY if found.rows else FAILED)
