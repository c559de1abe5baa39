"""wise-ledger sources"""

from pathlib import Path

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.completion import COMPANY, ITEM
from wise_ledger.cli.deciding import who_option, why_option
from wise_ledger.cli.groups import Group
from wise_ledger.cli.output import Heading, draw, output_options, write
from wise_ledger.cli.progress import watched
from wise_ledger.words import counted


@click.group(cls=Group, invoke_without_command=True)
@click.pass_context
@output_options
def sources(context: click.Context, format_: str, output: Path | None) -> None:
    """The sources that can be collected from; `tags` shows what theirs mean,
    `map` says what one means.
    """
    from wise_ledger.wire.collecting import SourceInfo
    from wise_ledger.wire.rows import rows_of

    if context.invoked_subcommand is not None:
        return
    with asking() as ledger:
        found = ledger.sources()
    rows = rows_of(SourceInfo, found)
    headings = [
        Heading("Source", style="bold"), Heading("Title"), Heading("Gives"), Heading("Calls a second", right=True),
        Heading("Calls today", right=True), Heading("Last run"),
    ]  # fmt: skip
    shown = [
        [
            s.name,
            s.title,
            ", ".join(s.offers),
            "any" if s.per_second is None else f"{s.per_second:g}",
            f"{s.used_today:,}" + (f" of {s.per_day:,}" if s.per_day is not None else ""),
            f"run {s.last_run}" if s.last_run else "never",
        ]
        for s in found
    ]
    write(rows, format_, output, table=lambda: draw(headings, shown))


@sources.command("tags")
@click.argument("source")
@click.option("--unmapped", is_flag=True, help="Only those without an item.")
@output_options
def tags(source: str, unmapped: bool, format_: str, output: Path | None) -> None:
    """What the tags of SOURCE mean, and those that mean nothing yet, the most frequent first."""
    from wise_ledger.wire.rows import Rows

    with asking() as ledger:
        found = ledger.tags(source)
    rows = Rows(
        ("tag", "item", "documents", "companies"),
        [
            {"tag": u.tag, "item": None, "documents": u.documents, "companies": u.companies}
            for u in found.unmapped
        ],
    )
    if not unmapped:
        rows += [
            {"tag": r.tag, "item": r.item, "documents": None, "companies": None}
            for r in found.rules
        ]

    def table() -> None:
        if not unmapped:
            draw(
                [
                    Heading("Tag", style="bold"),
                    Heading("Item"),
                    Heading("Turned", right=True),
                    Heading("Template"),
                    Heading("Mapped by"),
                ],
                [
                    [
                        r.tag,
                        r.item,
                        "x -1" if r.sign < 0 else "no",
                        r.template or "all",
                        "the adapter" if r.shipped else "people",
                    ]
                    for r in found.rules
                ],
            )
        draw(
            [
                Heading("Tag without an item", style="bold"),
                Heading("Documents", right=True),
                Heading("Companies", right=True),
                Heading("Such as"),
            ],
            [[u.tag, f"{u.documents:,}", f"{u.companies:,}", u.example] for u in found.unmapped],
            caption=f"say what one means: wise-ledger sources map {source} TAG ITEM"
            if found.unmapped
            else "none",
        )

    write(rows, format_, output, table=table, whole=found.model_dump(mode="json"))


@sources.command()
@click.argument("source")
def resume(source: str) -> None:
    """Ask SOURCE again now, which is left alone because it kept failing or asked for it."""
    with asking() as ledger:
        found = ledger.resume_source(source)
    click.echo(
        f"{found.title} may be asked again. Collect from it: wise-ledger collect {found.name}"
    )


@sources.command("map")
@click.argument("source")
@click.argument("tag")
@click.argument("item", type=ITEM)
@click.option("--turn", is_flag=True, help="Turn the sign of its amounts.")
@click.option("--power", default=0, help="Move its amounts by this power of ten.")
@click.option("--unit", help="Their unit, where it is not the filing's own.")
@click.option("--template", help="Only for companies of this template.")
@click.option("--expected", is_flag=True, help="No document has the TAG yet: it is yet to come.")
@who_option
@why_option
def map_(
    source: str,
    tag: str,
    item: str,
    turn: bool,
    power: int,
    unit: str | None,
    template: str | None,
    expected: bool,
    who: str,
    why: str,
) -> None:
    """Say that the TAG of SOURCE means ITEM; the documents already kept are read again by it."""
    from wise_ledger.client.given import request_of
    from wise_ledger.wire.collecting import TagRule

    with asking() as ledger, watched() as progress:
        rule = request_of(
            TagRule,
            tag=tag,
            item=item,
            sign=-1 if turn else 1,
            power=power,
            unit=unit,
            template=template,
            expected=expected,
            who=who or "somebody",
            why=why,
        )
        done = ledger.map_tag(source, rule, progress=progress)
    click.echo(
        f"{tag} means {item}: {counted(done.facts, 'fact')} from {counted(done.documents, 'kept document')}, "
        f"{done.withdrawn:,} taken back, batch {done.batch}"
    )


@sources.command()
@click.argument("first", nargs=-1)
@click.option("--item", type=ITEM, help="Only for one item.")
@click.option("--company", type=COMPANY, help="Only for one company.")
@click.option("--usual", is_flag=True, help="Take the earlier word for this scope back.")
@who_option
@why_option
def order(
    first: tuple[str, ...], item: str | None, company: str | None, usual: bool, who: str, why: str
) -> None:
    """Which source goes before which; with FIRST … these go first from now on."""
    with asking() as ledger:
        if first or usual:
            found = ledger.prefer_sources(
                first, who or "somebody", item=item, company=company, why=why
            )
        else:
            found = ledger.source_orders()
    for one in found:
        of = (
            " of ".join([*([one.item] if one.item else []), *([one.name] if one.name else [])])
            or "everything"
        )
        click.echo(f"{of}: {', then '.join(one.sources)}")
