"""wise-ledger measures"""

import sys
from pathlib import Path
from typing import TYPE_CHECKING

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.completion import MEASURE
from wise_ledger.cli.files import NamedPath, OutputFile, write_file
from wise_ledger.cli.groups import Group
from wise_ledger.cli.output import Heading, console, draw, output_options, write

if TYPE_CHECKING:
    from wise_ledger.wire.measures import Meaning, MeasurePage

_TEMPLATES = ("industrial", "bank", "insurer")


@click.group(cls=Group)
def measures() -> None:
    """Measures: expressions with a name that the whole desk means the same by."""


@measures.command("list")
@click.option("--subject", help="Only of a subject, such as valuation.")
@click.option("--owner", help="Only those that one person keeps.")
@click.option("--archived", is_flag=True, help="Archived ones too.")
@output_options
def list_(
    subject: str | None, owner: str | None, archived: bool, format_: str, output: Path | None
) -> None:
    """The measures that ship and those that people keep."""
    with asking() as ledger:
        found = ledger.measures(subject, owner=owner, archived=archived)

    def table() -> None:
        if not found.measures:
            click.echo(
                "There is no such measure: try without --owner, or keep one with `measures keep`."
            )
            return
        heads = [
            Heading("Measure", style="bold", whole=True),
            Heading("Title"),
            Heading("Formula"),
            Heading("Kept by"),
        ]
        for title in dict.fromkeys(m.subject_title for m in found.measures):
            click.secho(f"\n {title}", bold=True)
            draw(heads, [(m.name, m.title, m.formula, m.owner or "ships") for m in found.measures
                         if m.subject_title == title])  # fmt: skip

    write(found.rows(), format_, output, table=table, whole=found.model_dump(mode="json"))


@measures.command()
@click.argument("name", type=MEASURE)
@click.option("--version", type=click.IntRange(1), help="An earlier version.")
@click.option(
    "--format",
    "format_",
    type=click.Choice(("table", "json")),
    default=None,
    help="How to write it.",
)
def show(name: str, version: int | None, format_: str | None) -> None:
    """What the measure NAME means, what it rests on and what rests on it."""
    with asking() as ledger:
        found = ledger.measure(name, version)
    if format_ == "json":
        click.echo(found.model_dump_json(indent=1))
        return
    _page(found)


def _page(found: "MeasurePage") -> None:
    click.secho(f"{found.title}  ({found.name})", bold=True)
    if found.meaning:
        _say(f"{found.meaning}")
    for line in found.formula.splitlines():
        click.secho(f"  {line}", fg="cyan")
    kept = "ships with the product"
    if found.owner:
        archived = ", archived" if found.archived else ""
        kept = f"version {found.version} by {found.owner}, batch {found.batch}{archived}"
    where = ", ".join(found.templates) if len(found.templates) < 3 else "all templates"
    _say(f"{found.subject_title}; {where}; {kept}" + (f"; {found.source}" if found.source else ""))
    if found.reads is None:
        click.secho(f"  It can no longer be used: {found.problem}", fg="red")
    else:
        _meaning(found.reads)
    if found.example:
        inputs = ", ".join(f"{name} {value:g}" for name, value in found.example.given.items())
        _say(f"for example: {inputs} gives {found.example.result:g}")
    if found.used_by:
        _say(f"used by: {', '.join(found.used_by)}")


def _meaning(reads: "Meaning") -> None:
    _say(f"reads: {reads.words}")
    _say(f"unit: {reads.unit.replace('_', ' ')}; lives on {reads.axis}")
    for name in ("items", "fields", "measures", "series", "sources"):
        if names := getattr(reads, name):
            _say(f"{name}: {', '.join(names)}")
    if len(reads.templates) < len(_TEMPLATES):
        _say(f"of: {', '.join(reads.templates) or 'no template has all of its items'}")
    for line in (*reads.periods, *reads.missing):
        _say(f"- {line}", more="  ")


def _say(text: str, more: str = "    ") -> None:
    """A line two blanks in; what does not fit stands beneath, further in."""
    click.echo(
        click.wrap_text(text, console().width, initial_indent="  ", subsequent_indent="  " + more)
    )


@measures.command()
@click.argument("name", type=MEASURE, required=False)
@click.argument("formula", required=False)
@click.option(
    "--file",
    type=NamedPath(exists=True, dir_okay=False),
    help="A file of definitions.",
)
@click.option("--who", required=True, help="Who keeps it.")
@click.option("--title", default="", help="What people call it.")
@click.option("--meaning", default="", help="What it is, in a sentence.")
@click.option("--subject", default="other", show_default=True, help="Such as profitability.")
@click.option(
    "--template",
    "templates",
    multiple=True,
    type=click.Choice(_TEMPLATES),
    help="Of which companies.",
)
@click.option("--source", default="", help="Where the definition is from.")
@click.option("--synonym", "synonyms", multiple=True, help="What it is also called.")
def keep(
    name: str | None,
    formula: str | None,
    file: Path | None,
    who: str,
    title: str,
    meaning: str,
    subject: str,
    templates: tuple[str, ...],
    source: str,
    synonyms: tuple[str, ...],
) -> None:
    """Keep FORMULA as the measure NAME: new, or another version. Or all measures of a file.

    \b
    wise-ledger measures keep cash_return "free_cash_flow / invested_capital" --who ada
    wise-ledger measures keep --file desk-measures.yaml --who ada
    """
    if file is not None and not name:
        with asking() as ledger:
            names = ledger.keep_definitions(file, who)
        click.echo(f"kept: {', '.join(names)}" if names else "nothing is new in it")
        return
    if not name or not formula or file is not None:
        raise click.UsageError("give a NAME and a FORMULA, or a --file of definitions alone")
    with asking() as ledger:
        found = ledger.keep_measure(
            name,
            formula,
            who,
            title=title,
            meaning=meaning,
            subject=subject,
            templates=templates,
            source=source,
            synonyms=synonyms,
        )
    _page(found)


@measures.command()
@click.argument("expression")
@click.option(
    "--format",
    "format_",
    type=click.Choice(("table", "json")),
    default=None,
    help="How to write it.",
)
def check(expression: str, format_: str | None) -> None:
    """Say in words what EXPRESSION means: axis, unit, periods, what it rests on,
    what a missing input does.
    """
    with asking() as ledger:
        found = ledger.check(expression)
    if format_ == "json":
        click.echo(found.model_dump_json(indent=1))
        return
    for line in found.canonical.splitlines():
        click.secho(f"  {line}", fg="cyan")
    _meaning(found)


@measures.command("format")
@click.argument("expression", required=False)
def format_(expression: str | None) -> None:
    """EXPRESSION, or what comes in through a pipe, in its canonical form."""
    text = sys.stdin.read() if expression in (None, "-") else expression
    with asking() as ledger:
        click.echo(ledger.format_expression(text or ""))


@measures.command()
@click.argument("name", type=MEASURE)
@output_options
def history(name: str, format_: str, output: Path | None) -> None:
    """Every version of the measure NAME, the newest first: who kept it, when, in which batch."""
    with asking() as ledger:
        found = ledger.measure_versions(name)

    def table() -> None:
        rows = [
            (
                str(v.version or ""),
                v.formula,
                v.owner or "ships",
                f"{v.kept_at:%Y-%m-%d %H:%M}" if v.kept_at else "",
                str(v.batch or ""),
                "archived" if v.archived else "",
            )
            for v in found.versions
        ]
        heads = [
            Heading("Version", right=True),
            Heading("Formula", style="bold"),
            Heading("Kept by"),
            Heading("At"),
            Heading("Batch", right=True),
            Heading(""),
        ]
        draw(heads, rows)

    write(found.rows(), format_, output, table=table, whole=found.model_dump(mode="json"))


@measures.command()
@click.argument("names", nargs=-1, type=MEASURE)
@click.option("--shipped", is_flag=True, help="Also those that ship.")
@click.option("--output", type=OutputFile(), help="Write to a file instead.")
def export(names: tuple[str, ...], shipped: bool, output: Path | None) -> None:
    """A file of definitions: of NAMES, else of all measures that people keep.

    It can be kept again.
    """
    with asking() as ledger:
        text = ledger.measure_definitions(names, shipped=shipped)
    if output is None:
        click.echo(text, nl=False)
    else:
        write_file(output, text)
        click.echo(f"written to {output}", err=True)


@measures.command()
@click.argument("name", type=MEASURE)
@click.option("--who", required=True, help="Who archives it.")
@click.option("--back", is_flag=True, help="Bring it back instead.")
def archive(name: str, who: str, back: bool) -> None:
    """Archive the measure NAME; one in use stays, with what rests on it."""
    with asking() as ledger:
        found = ledger.archive_measure(name, who, archived=not back)
    click.echo(f"{found.name} is {'archived' if found.archived else 'back'}")
