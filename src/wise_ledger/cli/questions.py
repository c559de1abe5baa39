"""wise-ledger questions"""

import json
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.groups import Group
from wise_ledger.cli.output import Heading, draw, output_options, write

if TYPE_CHECKING:
    from wise_ledger.wire.panels import Questions


@click.group(cls=Group)
def questions() -> None:
    """Kept questions: panels and screens under a name, to be asked again by anybody."""


@questions.command("list")
@click.option("--kind", type=click.Choice(("panel", "screen")), help="Only of this kind.")
@click.option("--archived", is_flag=True, help="Archived ones too.")
@output_options
def list_(kind: Any, archived: bool, format_: str, output: Path | None) -> None:
    """The questions that are kept."""
    with asking() as ledger:
        found = ledger.questions(kind, archived=archived)

    _write(found, format_, output)


def _write(found: "Questions", format_: str, output: Path | None) -> None:
    def table() -> None:
        if not found.questions:
            click.echo(
                "No question is kept yet: keep one by `wise-ledger panel … --keep NAME --who YOU`."
            )
            return
        heads = [Heading("Question", style="bold", whole=True), Heading("Kind"), Heading("Title"),
                 Heading("Version", right=True), Heading("Kept by"), Heading("At")]  # fmt: skip
        draw(heads, [(q.name, q.kind, q.title, str(q.version), q.who, f"{q.kept_at:%Y-%m-%d %H:%M}")
                     for q in found.questions])  # fmt: skip

    write(found.rows(), format_, output, table=table, whole=found.model_dump(mode="json"))


@questions.command()
@click.argument("name")
@output_options
def versions(name: str, format_: str, output: Path | None) -> None:
    """Every version of the kept question NAME, the newest first."""
    with asking() as ledger:
        found = ledger.question_versions(name)
    _write(found, format_, output)


@questions.command()
@click.argument("name")
@click.option("--version", type=click.IntRange(1), help="An earlier version.")
def show(name: str, version: int | None) -> None:
    """What the kept question NAME asks."""
    with asking() as ledger:
        found = ledger.question(name, version)
    click.secho(
        f"{found.title}  ({found.name}, {found.kind}, version {found.version} by {found.who})",
        bold=True,
    )
    if found.description:
        click.echo(f"  {found.description}")
    click.echo(json.dumps(found.question, indent=2, ensure_ascii=False))


@questions.command()
@click.argument("name")
@click.option("--who", required=True, help="Who archives it.")
@click.option("--back", is_flag=True, help="Bring it back instead.")
def archive(name: str, who: str, back: bool) -> None:
    """Archive the question NAME; its versions stay."""
    with asking() as ledger:
        found = ledger.archive_question(name, who, archived=not back)
    click.echo(f"{found.name} is {'archived' if found.archived else 'back'}")
