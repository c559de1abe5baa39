"""wise-ledger catalogue"""

from pathlib import Path

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.output import Heading, draw, output_options, write


@click.group(invoke_without_command=True)
@output_options
@click.pass_context
def catalogue(context: click.Context, format_: str, output: Path | None) -> None:
    """The items and functions that an expression may name."""
    if context.invoked_subcommand is not None:
        return
    with asking() as ledger:
        found = ledger.catalogue()
    rows = [i.model_dump() | {"templates": " ".join(i.templates)} for i in found.items]

    def table() -> None:
        draw(
            [
                Heading("Item", style="bold"),
                Heading("Statement"),
                Heading("Nature"),
                Heading("Unit"),
                Heading("Meaning"),
            ],
            [(i.code, i.statement.replace("_", " "), i.nature, i.unit, i.definition) for i in found.items],
        )
        draw([Heading("Function", style="bold"), Heading("Meaning")], list(found.functions.items()))
        click.echo(f" Attributes: {', '.join(found.attributes)}")

    write(rows, format_, output, table=table, whole=found.model_dump(mode="json"))


@catalogue.command()
@click.argument("code")
@click.option("--title", required=True, help="What people call it.")
@click.option(
    "--unit",
    required=True,
    type=click.Choice(("money", "money_per_share", "shares", "pure", "count")),
    help="Its unit.",
)
@click.option("--source", required=True, help="Where its figures come from, in words.")
@click.option("--who", required=True, help="Who registers it.")
@click.option(
    "--nature", type=click.Choice(("observation", "flow", "stock")), default="observation", show_default=True,
    help="Dated by when it was seen, over a period, or a balance.",
)  # fmt: skip
@click.option("--definition", default="", help="What it is, in a sentence.")
@click.option("--stale-after", type=click.IntRange(1), help="Days until an observation is too old; 400 unless said.")
def register(code: str, stale_after: int | None, **said: str) -> None:
    """Register an item of your own as CODE, to load figures of it and name it in rules."""
    with asking() as ledger:
        found = ledger.register_item(code, stale_after=stale_after, **said)  # type: ignore[arg-type]
    limit = f", stale after {found.stale_after} days" if found.stale_after else ""
    click.echo(f"{found.code} is registered: {found.nature}, {found.unit}{limit}")
