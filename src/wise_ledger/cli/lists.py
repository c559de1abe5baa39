"""wise-ledger lists"""

from pathlib import Path
from typing import Literal

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.output import Heading, draw, output_options, write


@click.group(invoke_without_command=True)
@click.option("--archived", is_flag=True, help="Archived ones too.")
@click.pass_context
@output_options
def lists(context: click.Context, archived: bool, format_: str, output: Path | None) -> None:
    """The lists of companies; `members` shows one, `keep` and `combine` make one, `describe` changes one."""
    if context.invoked_subcommand is not None:
        return
    with asking() as ledger:
        rows = [entry.model_dump() for entry in ledger.lists(archived=archived)]
    headings = [
        Heading("List", style="bold"), Heading("Title"), Heading("Companies ever", right=True),
        Heading("Kept by the rule"),
    ]  # fmt: skip
    shown = [[str(r["name"]), str(r["title"]), str(r["companies"]), str(r["rule"] or "")] for r in rows]
    write(rows, format_, output, table=lambda: draw(headings, shown))


@lists.command("members")
@click.argument("name")
@click.option("--on", metavar="DATE", help="On this date.  [default: today]")
@click.option("--where", metavar="RULE", help="Only those of whom a rule is true: 'venue == \"ZALD\" and active'.")
@click.option("--active-only", is_flag=True, help="Leave out companies that were not active.")
@output_options
def members(name: str, on: str | None, where: str | None, active_only: bool, format_: str, output: Path | None) -> None:
    """Who stands on the list NAME."""
    with asking() as ledger:
        found = ledger.members(name, on, where=where, with_inactive=not active_only)
    rows = [
        {"company": c.id, "name": c.name, "country": c.country, "industry": c.industry_title, "seat": c.seat,
         "active": c.active, "listing": " ".join(f"{x.symbol}@{x.mic}" for x in c.listings)}
        for c in found.members
    ]  # fmt: skip
    headings = [
        Heading("Company", style="dim", whole=True), Heading("Name"), Heading("Country"), Heading("Industry"),
        Heading("Seat", optional=True), Heading("State"), Heading("Listing"),
    ]  # fmt: skip
    shown = [[str(v or "") if k != "active" else ("active" if v else "not active") for k, v in r.items()] for r in rows]
    caption = f"{found.title}: {len(rows)} companies on {found.on}, "
    caption += "inactive ones included" if found.with_inactive else "inactive ones left out"
    caption += f", of {found.unknown} more the rule is unknown" if found.unknown else ""
    write(rows, format_, output, table=lambda: draw(headings, shown, caption=caption))


@lists.command("keep")
@click.argument("name")
@click.argument("companies", nargs=-1)
@click.option("--rule", help="Keep it by a rule instead, such as 'country == \"XB\" and active'.")
@click.option("--title", default="", help="What people call it.")
@click.option("--who", envvar="USER", default="", help="Who keeps it.  [default: $USER]")
def keep(name: str, companies: tuple[str, ...], rule: str | None, title: str, who: str) -> None:
    """Keep the list NAME: of COMPANIES (any identifiers), new or changed to be exactly these; or by a rule."""
    with asking() as ledger:
        found = ledger.keep_list(name, companies, who or "somebody", title, rule=rule)
    click.echo(f"kept as list {found.name}: {len(found.members)} companies today, batch {found.batch}")


@lists.command("combine")
@click.argument("name")
@click.argument("how", type=click.Choice(("union", "intersection", "difference")))
@click.argument("lists_", metavar="LISTS...", nargs=-1, required=True)
@click.option("--who", envvar="USER", default="", help="Who keeps it.  [default: $USER]")
def combine(name: str, how: Literal["union", "intersection", "difference"], lists_: tuple[str, ...], who: str) -> None:
    """Keep NAME as the union, intersection or difference of LISTS as they are today; the union of one is a copy."""
    with asking() as ledger:
        found = ledger.combine_lists(name, how, lists_, who or "somebody")
    click.echo(f"kept as list {found.name}: {len(found.members)} companies today, batch {found.batch}")


@lists.command("describe")
@click.argument("name")
@click.option("--title", help="What people call it.")
@click.option("--description", help="What it is for.")
@click.option("--archive/--bring-back", "archived", default=None, help="Leave it out of sight, or not.")
@click.option("--who", envvar="USER", default="", help="Who says so.  [default: $USER]")
def describe(name: str, title: str | None, description: str | None, archived: bool | None, who: str) -> None:
    """Say what the list NAME is called and for, archive it or bring it back."""
    with asking() as ledger:
        found = ledger.change_list(name, who or "somebody", title=title, description=description, archived=archived)
    click.echo(f"{found.name}: {found.title}{', archived' if found.archived else ''}, batch {found.batch}")
