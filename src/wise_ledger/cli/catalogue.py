"""wise-ledger catalogue"""

from pathlib import Path
from typing import Any

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.completion import COMPANY, ITEM
from wise_ledger.cli.groups import Group
from wise_ledger.cli.ink import DIM, END
from wise_ledger.cli.output import Heading, draw, output_options, short, write
from wise_ledger.wire.catalogue import CatalogueValue
from wise_ledger.words import counted


@click.group(cls=Group, invoke_without_command=True)
@output_options
@click.pass_context
def catalogue(context: click.Context, format_: str, output: Path | None) -> None:
    """The items and functions that an expression may name."""
    if context.invoked_subcommand is not None:
        return
    with asking() as ledger:
        found = ledger.catalogue()
    rows = found.rows()

    def table() -> None:
        draw(
            [
                Heading("Item", style="bold"),
                Heading("Statement"),
                Heading("Nature"),
                Heading("Unit"),
                Heading("Meaning"),
            ],
            [
                (i.code, i.statement.replace("_", " "), i.nature, i.unit, i.definition)
                for i in found.items
            ],
        )
        draw([Heading("Function", style="bold"), Heading("Meaning")], list(found.functions.items()))
        click.echo(f" Attributes: {', '.join(found.attributes)}")

    write(rows, format_, output, table=table, whole=found.model_dump(mode="json"))


@catalogue.command()
@click.argument("code", type=ITEM)
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
    "--nature",
    type=click.Choice(("observation", "flow", "stock")),
    default="observation",
    show_default=True,
    help="Dated by when it was seen, over a period, or a balance.",
)
@click.option("--definition", default="", help="What it is, in a sentence.")
@click.option(
    "--stale-after",
    type=click.IntRange(1),
    help="Days until an observation is too old; 400 unless given.",
)
def register(code: str, stale_after: int | None, **definition: str) -> None:
    """Register an item of your own as CODE, to load figures of it and name it in rules."""
    with asking() as ledger:
        found = ledger.register_item(code, stale_after=stale_after, **definition)  # type: ignore[arg-type]
    limit = f", stale after {counted(found.stale_after, 'day')}" if found.stale_after else ""
    click.echo(f"{found.code} is registered: {found.nature}, {found.unit}{limit}")


@catalogue.command()
@click.argument("text", nargs=-1)
@click.option(
    "--kind",
    multiple=True,
    type=click.Choice(("item", "measure", "attribute", "market", "function", "series")),
    help="Only of this kind.",
)
@click.option("--statement", help="income, balance, cash_flow, per_share, share_count or other.")
@click.option(
    "--template", type=click.Choice(("industrial", "bank", "insurer")), help="Only what it has."
)
@click.option(
    "--least",
    type=click.FloatRange(0, 100),
    default=0,
    help="Percent of companies that must have it.",
)
@click.option("--company", type=COMPANY, help="Show the value for a company.")
@click.option("--limit", type=click.IntRange(1, 500), default=15, show_default=True)
@output_options
def search(
    text: tuple[str, ...],
    kind: tuple[str, ...],
    least: float,
    format_: str,
    output: Path | None,
    **how: Any,
) -> None:
    """Find an item, attribute or function by TEXT: word, synonym or code."""
    with asking() as ledger:
        found = ledger.find(" ".join(text), kind=kind, least=least / 100, **how)
    rows = found.rows()

    def table() -> None:
        if not rows:
            click.echo(
                f"Nothing is called {' '.join(text)!r}. Try fewer words, or `wise-ledger catalogue` for all."
            )
            return
        headings = [
            Heading("Name", style="bold"),
            Heading("Unit"),
            Heading("Filled", right=True),
            Heading("Since"),
        ]
        if found.company:
            headings.append(Heading(found.company, right=True))
        headings.append(Heading("Meaning"))
        cells = []
        for e in found.entries:
            share, since = "", ""
            if e.kind == "item":
                share = f"{e.coverage.share:.0%}" if e.coverage else "never"
                since = str(e.coverage.first.year) if e.coverage else ""
            noted = (
                f" ({e.found_by})"
                if e.found_by.lower() not in ("meaning", e.title.lower(), _spaced(e.name))
                else ""
            )
            value = [] if not found.company else [_value(e.value)]
            cells.append(
                (
                    e.call if e.kind in ("function", "series") else e.name,
                    e.unit.replace("_", " "),
                    share,
                    since,
                    *value,
                    e.meaning + (f" {DIM}{noted.strip()}{END}" if noted and e.found_by else ""),
                )
            )
        draw(headings, cells)

    write(rows, format_, output, table=table, whole=found.model_dump(mode="json"))


def _spaced(name: str) -> str:
    return name.replace("_", " ")


def _value(value: CatalogueValue | None) -> str:
    if value is None:
        return ""
    if value.value is None:
        return (value.reason or "").replace("_", " ")
    if isinstance(value.value, str):
        return value.value
    return f"{short(value.value)} {value.currency or ''}".strip()


@catalogue.command()
@click.argument("code", type=ITEM)
@click.option(
    "--format",
    "format_",
    type=click.Choice(("table", "json")),
    default=None,
    help="How to write it.",
)
def show(code: str, format_: str | None) -> None:
    """All there is to know about the item CODE."""
    with asking() as ledger:
        found = ledger.item(code)
    if format_ == "json":
        click.echo(found.model_dump_json(indent=1))
        return
    item = found.item
    click.secho(f"{item.title}  ({item.code})", bold=True)
    click.echo(f"  {item.definition}")
    where = ", ".join(item.templates) if len(item.templates) < 3 else "all templates"
    limit = f", stale after {counted(item.stale_after, 'day')}" if item.stale_after else ""
    click.echo(
        f"  {item.statement.replace('_', ' ')}, {item.nature}, {item.unit.replace('_', ' ')}; {where}{limit}"
    )
    if item.synonyms:
        click.echo(f"  also called: {', '.join(item.synonyms)}")
    for word, lines in (("adds to", found.adds_to), ("made of", found.made_of)):
        if lines:
            click.echo(
                f"  {word}: " + " ".join(f"{'+' if x.sign > 0 else '-'} {x.item}" for x in lines)
            )
    if found.coverage:
        c = found.coverage
        filled = f"{counted(c.companies, 'company')} ({c.share:.0%}), {counted(c.facts, 'figure')}"
        click.echo(f"  filled for {filled}, {c.first} to {c.last}")
        click.echo(
            "  companies by year: " + "  ".join(f"{y.year} {y.companies}" for y in found.years)
        )
    else:
        click.echo("  never filled yet")
    if found.tags:
        noted = [
            f"{t.source} {t.tag}" + (f" ({t.template})" if t.template else "") for t in found.tags
        ]
        click.echo(f"  tags: {', '.join(noted)}")
    for s in found.spreads:
        now = f"{counted(s.companies, 'value')} now{f' in {s.currency}' if s.currency else ''}"
        click.echo(
            f"  {now}: least {short(s.least)}, quartiles "
            f"{short(s.lower_quartile)} / {short(s.median)} / {short(s.upper_quartile)}, greatest {short(s.greatest)}"
        )
    for n in found.neighbours:
        click.echo(f"  not to be taken for {n.item}: {n.meaning}")
