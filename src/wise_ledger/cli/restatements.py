"""wise-ledger restatements"""

from pathlib import Path
from typing import Any

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.completion import ITEM, LIST
from wise_ledger.cli.output import Heading, draw, output_options, write
from wise_ledger.cli.viewpoint import viewpoint_options


@click.command()
@click.argument("company", required=False)
@click.option("--list", type=LIST, help="Only of members of a list.")
@click.option(
    "--since", default="1900-01-01", metavar="DATE", help="From this day on, itself included."
)
@viewpoint_options
@click.option("--item", type=ITEM, help="Only of one item.")
@click.option(
    "--least", type=click.FloatRange(0), default=0, help="Leave out changes of fewer percent."
)
@click.option("--limit", type=click.IntRange(1, 5000), default=40, show_default=True)
@output_options
def restatements(
    company: str | None, format_: str, output: Path | None, seen: dict[str, Any], **how: Any
) -> None:
    """What was restated, of COMPANY or of all: from, to, when, by which document, and how large."""
    with asking() as ledger:
        found = ledger.restatements(company, **how, **seen)
    rows = found.rows()

    def table() -> None:
        from wise_ledger.cli.figures import number

        if not rows:
            click.echo("Nothing was restated in that time.")
            return

        def say(value: float | None, unit: str) -> str:
            kind = "money" if len(unit) == 3 else unit if unit in ("shares", "pure") else "other"
            return "withdrawn" if value is None else number(value, kind)

        headings = [
            Heading("Public since", whole=True), Heading("Company"), Heading("Line"), Heading("Period", whole=True),
            Heading("Was", right=True, whole=True), Heading("Is", right=True, whole=True),
            Heading("%", right=True, whole=True), Heading("Unit", whole=True), Heading("Document", optional=True),
        ]  # fmt: skip
        cells = [
            (
                f"{r.published_at:%Y-%m-%d}",
                r.name,
                r.title,
                r.period,
                say(r.old, r.unit),
                say(r.new, r.unit),
                "" if r.percent is None else f"{r.percent:+.1f}",
                f"{r.unit} mn" if len(r.unit) == 3 else r.unit,
                r.document,
            )
            for r in found.restatements
        ]
        draw(headings, cells, caption=f"{len(rows)} of {found.total} · batch {found.batch}")

    write(rows, format_, output, table=table, whole=found.model_dump(mode="json"))
