"""The commands that show what the ledger holds: batches, documents, verify."""

from itertools import islice
from pathlib import Path

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.files import OutputFile, write_file
from wise_ledger.cli.output import Heading, draw, output_options, write
from wise_ledger.cli.progress import watched
from wise_ledger.words import counted


@click.command()
@click.option(
    "--last", default=20, show_default=True, type=click.IntRange(1, 1_000_000), help="How many."
)
@output_options
def batches(last: int, format_: str, output: Path | None) -> None:
    """What was written to the ledger, the newest first."""
    from wise_ledger.wire.ledger import Batch
    from wise_ledger.wire.rows import rows_of

    with asking() as ledger:
        found = list(islice(ledger.batches(), last))
    headings = [
        Heading("Batch", right=True, style="bold"), Heading("Recorded, UTC"), Heading("What"),
        Heading("Rows", right=True), Heading("Hash", style="dim"),
    ]  # fmt: skip
    rows = [
        (str(b.number), f"{b.recorded_at:%Y-%m-%d %H:%M:%S}", b.note, f"{b.rows:,}", b.hash[:12])
        for b in found
    ]
    plain = rows_of(Batch, found)
    write(plain, format_, output, table=lambda: draw(headings, rows))


@click.command()
@click.argument("address")
@click.option("--output", type=OutputFile(), help="Write to a file instead.")
def documents(address: str, output: Path | None) -> None:
    """The raw bytes of the document at ADDRESS: its SHA-256, or the beginning of it."""
    with asking() as ledger:
        _, raw = ledger.document(address)
    if output is None:
        click.get_binary_stream("stdout").write(raw)
    else:
        write_file(output, raw)


def holds(batches: int, facts: int, last: str) -> str:
    """That a chain of so much holds, in a line; `last` is the hash of its last batch."""
    held = f"{counted(batches, 'batch')}, {counted(facts, 'fact')}"
    return f"the chain holds: {held}, last hash {last[:16]}"


@click.command()
def verify() -> None:
    """Recompute the ledger's hash chain from its rows, and look for damage. Ctrl-C stops it."""
    with asking() as ledger, watched() as progress:
        found = ledger.verify(progress=progress)
    click.echo(holds(found.batches, found.facts, found.hash))
    if found.columns:  # a small ledger keeps none
        again = (
            f", {found.made_again} did not agree and are made again"
            if found.made_again
            else " agree with it"
        )
        click.echo(f"{counted(found.columns, 'file')} of columns{again}")
    for note in found.notes:
        click.secho(note, fg="yellow")
