"""wise-ledger lists"""

from pathlib import Path
from typing import Any, Literal

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.choosing import days
from wise_ledger.cli.completion import COMPANY, LIST
from wise_ledger.cli.deciding import who_option
from wise_ledger.cli.groups import Group
from wise_ledger.cli.ink import BOLD, DIM, END
from wise_ledger.cli.output import Heading, console, draw, output_options, write
from wise_ledger.cli.viewpoint import cell_viewpoint_options, plain_viewpoint_options
from wise_ledger.words import counted


@click.group(cls=Group, invoke_without_command=True)
@click.option("--archived", is_flag=True, help="Archived ones too.")
@click.pass_context
@output_options
def lists(context: click.Context, archived: bool, format_: str, output: Path | None) -> None:
    """The lists of companies; `members` shows one, `keep` and `combine` make
    one, `change` edits one.
    """
    from wise_ledger.wire.lists import ListInfo
    from wise_ledger.wire.rows import rows_of

    if context.invoked_subcommand is not None:
        return
    with asking() as ledger:
        rows = rows_of(ListInfo, ledger.lists(archived=archived))
    headings = [
        Heading("List", style="bold"), Heading("Title"), Heading("Companies ever", right=True),
        Heading("Kept by"),
    ]  # fmt: skip
    shown = [
        [
            str(r["name"]),
            str(r["title"]),
            str(r["companies"]),
            f"the rule {r['rule']}" if r["rule"] else str(r["kept_by"] or "people"),
        ]
        for r in rows
    ]
    write(rows, format_, output, table=lambda: draw(headings, shown))


@lists.command("members")
@click.argument("name", type=LIST)
@cell_viewpoint_options
@click.option(
    "--where",
    metavar="RULE",
    help="Only those of whom a rule is true: 'venue == \"ZALD\" and active'.",
)
@click.option(
    "--show",
    multiple=True,
    metavar="EXPRESSION",
    help="A column to add: 'revenue', or 'margin: operating_income / revenue'. Can be given again.",
)
@click.option("--active-only", is_flag=True, help="Leave out companies that were not active.")
@output_options
def members(
    name: str,
    known_on: str | None,
    seen: dict[str, Any],
    where: str | None,
    show: tuple[str, ...],
    active_only: bool,
    format_: str,
    output: Path | None,
) -> None:
    """Who stands on the list NAME."""
    from wise_ledger.cli.figures import heading, row_currency, row_texts

    with asking() as ledger:
        found = ledger.members(
            name, known_on, where=where, show=show, with_inactive=not active_only, **seen
        ).answer
    rows, shown = found.rows(), []
    weighed = any(c.weight is not None for c in found.members)
    several = any(x.currency for c in found.members for x in c.cells)
    for c in found.members:
        texts, currency = (
            row_texts(c.cells, found.columns),
            [row_currency(c.cells)] if several else [],
        )
        weight = [f"{(c.weight or 0) * 100:.2f}"] if weighed else []
        # Figures that were asked for take the room of what can be looked up on a company's page.
        about = [] if found.columns else [c.industry_title or "", c.seat or ""]
        state = "active" if c.active else "not active"
        listed = " ".join(f"{x.symbol}@{x.mic}" for x in c.listings)
        shown.append(
            [
                c.id,
                c.name,
                c.country or "",
                *about,
                state,
                listed,
                *weight,
                *texts,
                *currency,
            ]
        )
    headings = [
        Heading("Company", style="dim", whole=True), Heading("Name"), Heading("Country"),
        *([] if found.columns else [Heading("Industry", optional=True), Heading("Seat", optional=True)]),
        Heading("State"), Heading("Listing", whole=True),
    ]  # fmt: skip
    headings += [Heading("Weight, %", right=True)] if weighed else []
    headings += [
        Heading(heading(k.name, k.unit, k.percent), right=k.unit != "text") for k in found.columns
    ]
    headings += [Heading("Currency")] if several else []
    caption = (
        f"{found.title}: {counted(len(rows), 'company')}, known on {found.known_on:%d %B %Y}, "
    )
    caption += "inactive ones included" if found.with_inactive else "inactive ones left out"
    caption += f", of {found.unknown} more the rule is unknown" if found.unknown else ""
    write(rows, format_, output, table=lambda: draw(headings, shown, caption=caption))


@lists.command("levels")
@click.argument("name", type=LIST)
@days(seen=plain_viewpoint_options)
@output_options
def levels(
    name: str,
    start: str | None,
    end: str | None,
    known_on: str | None,
    format_: str,
    output: Path | None,
    seen: dict[str, Any],
) -> None:
    """The levels of the list NAME, such as a market index, from a day to a day, both included.

    \b
    wise-ledger lists levels index-of-aldmoor --from 2024-01-01 --to 2024-06-28
    """
    with asking() as ledger:
        found = ledger.levels(name, start, end, known_on, **seen)

    def table() -> None:
        span = f"{found.start} to {found.end}, both included"
        about = f"{span}; known on {found.known_on:%d %B %Y}, batch {found.batch}"
        console().print(f"{BOLD}{found.list_title}{END}  {DIM}{about}{END}")
        if not found.levels:
            console().print(
                "Nothing is known of its levels in this time: `wise-ledger load levels` takes some."
            )
            return
        numbers = [Heading(title, right=True) for title in ("Level", "With dividends")]
        rows = [[str(x.date), _level(x.level), _level(x.total_return_level)] for x in found.levels]
        draw([Heading("Date", whole=True), *numbers], rows)

    whole = found.model_dump(mode="json")
    write(found.rows(), format_, output, table=table, whole=whole)


def _level(value: float | None) -> str:
    return f"{DIM}–{END}" if value is None else f"{value:,.2f}"


@lists.command("versions")
@click.argument("name", type=LIST)
@output_options
def versions(name: str, format_: str, output: Path | None) -> None:
    """How the list NAME changed: who, when, which companies came and left; the newest first."""
    from wise_ledger.wire.lists import ListVersion
    from wise_ledger.wire.rows import rows_of

    with asking() as ledger:
        found = ledger.list_versions(name)
    rows = rows_of(
        ListVersion, found, joined=lambda v: "; ".join(v.joined), left=lambda v: "; ".join(v.left)
    )
    headings = [
        Heading("Batch", right=True, style="bold"),
        Heading("Recorded, UTC", whole=True),
        Heading("Who"),
        Heading("Came"),
        Heading("Left"),
        Heading("Note"),
    ]
    shown = [
        [str(v.batch), f"{v.recorded_at:%Y-%m-%d %H:%M}", v.who, _some(v.joined), _some(v.left),
         ", ".join(filter(None, (v.title, v.description, "archived" if v.archived else None)))]
        for v in found
    ]  # fmt: skip
    write(rows, format_, output, table=lambda: draw(headings, shown))


def _some(names: "list[str]") -> str:
    return (
        f"{', '.join(names[:3])} and {len(names) - 3} more" if len(names) > 4 else ", ".join(names)
    )


@lists.command("change")
@click.argument("name", type=LIST)
@click.option(
    "--add",
    multiple=True,
    metavar="COMPANY",
    help="Stands on it from today on. Can be given again.",
)
@click.option(
    "--remove", multiple=True, metavar="COMPANY", help="No longer stands on it. Can be given again."
)
@click.option("--who", envvar="USER", default="", help="Who changes it.  [default: $USER]")
def change(name: str, add: tuple[str, ...], remove: tuple[str, ...], who: str) -> None:
    """Put companies (any identifiers) on the list NAME and take others off, from today on."""
    if not add and not remove:
        raise click.UsageError("nothing to change: give --add or --remove")
    with asking() as ledger:
        found = ledger.change_list(name, who or "somebody", add=add, remove=remove)
    click.echo(f"{found.name}: {counted(len(found.members), 'company')} today, batch {found.batch}")


@lists.command("keep")
@click.argument("name", type=LIST)
@click.argument("companies", nargs=-1, type=COMPANY)
@click.option("--rule", help="Keep it by a rule instead, such as 'country == \"XB\" and active'.")
@click.option("--title", default="", help="What people call it.")
@click.option("--who", envvar="USER", default="", help="Who keeps it.  [default: $USER]")
def keep(name: str, companies: tuple[str, ...], rule: str | None, title: str, who: str) -> None:
    """Keep the list NAME: of COMPANIES (any identifiers), new or changed to
    be exactly these; or by a rule.
    """
    with asking() as ledger:
        found = ledger.keep_list(name, companies, who or "somebody", title, rule=rule)
    click.echo(
        f"kept as list {found.name}: {counted(len(found.members), 'company')} today, batch {found.batch}"
    )


@lists.command("combine")
@click.argument("name", type=LIST)
@click.argument("how", type=click.Choice(("union", "intersection", "difference")))
@click.argument("lists_", metavar="LISTS...", nargs=-1, required=True)
@click.option("--known-on", metavar="DATE", help="As they stood on this day; else today.")
@click.option("--who", envvar="USER", default="", help="Who keeps it.  [default: $USER]")
def combine(
    name: str,
    how: Literal["union", "intersection", "difference"],
    lists_: tuple[str, ...],
    known_on: str | None,
    who: str,
) -> None:
    """Keep NAME as the union, intersection or difference of LISTS as they are today;
    the union of one is a copy.
    """
    with asking() as ledger:
        found = ledger.combine_lists(name, how, lists_, who or "somebody", known_on)
    click.echo(
        f"kept as list {found.name}: {counted(len(found.members), 'company')} today, batch {found.batch}"
    )


@lists.command("describe")
@click.argument("name", type=LIST)
@click.option("--title", help="What people call it.")
@click.option("--description", help="What it is for.")
@click.option(
    "--archive/--bring-back", "archived", default=None, help="Leave it out of sight, or not."
)
@who_option
def describe(
    name: str, title: str | None, description: str | None, archived: bool | None, who: str
) -> None:
    """Say what the list NAME is called and for, archive it or bring it back."""
    with asking() as ledger:
        found = ledger.change_list(
            name, who or "somebody", title=title, description=description, archived=archived
        )
    click.echo(
        f"{found.name}: {found.title}{', archived' if found.archived else ''}, batch {found.batch}"
    )
