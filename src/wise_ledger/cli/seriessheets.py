"""wise-ledger series sheets"""

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.completion import SERIES, SHEET
from wise_ledger.cli.groups import Group
from wise_ledger.cli.ink import DIM, END
from wise_ledger.cli.output import Heading, console, draw, layout_options, output_options, write
from wise_ledger.cli.seriestable import (
    from_option,
    plot_option,
    read_keys,
    show_series,
    then_option,
)
from wise_ledger.cli.viewpoint import plain_viewpoint_options

if TYPE_CHECKING:
    from wise_ledger.wire.seriessheets import SheetChanges, SheetInfo


@click.group("sheets", cls=Group)
def sheets() -> None:
    """Kept sets of series with their transforms."""


@sheets.command("list")
@click.option("--archived", is_flag=True, help="Archived ones too.")
@output_options
def list_(archived: bool, format_: str, output: Path | None) -> None:
    """Every kept sheet."""
    with asking() as ledger:
        found = ledger.sheets(archived=archived)
    write(
        found.rows(),
        format_,
        output,
        table=lambda: _sheets(found.sheets),
        whole=found.model_dump(mode="json"),
    )


def _sheets(found: "Sequence[SheetInfo]") -> None:
    if not found:
        console().print("No sheet is kept yet: wise-ledger series sheets keep NAME KEY … --who YOU")
        return
    heads = [
        Heading("Name", whole=True),
        Heading("Title"),
        Heading("Series"),
        Heading("Version", right=True),
        Heading("Kept by"),
        Heading("At"),
    ]
    rows = [
        [
            s.name,
            s.title + (f" {DIM}(archived){END}" if s.archived else ""),
            "; ".join(x.key for x in s.series),
            str(s.version),
            s.who,
            f"{s.kept_at:%Y-%m-%d %H:%M}",
        ]
        for s in found
    ]
    draw(heads, rows)


@sheets.command("keep")
@click.argument("name")
@click.argument("keys", nargs=-1, required=True, type=SERIES)
@click.option("--title", default="")
@click.option("--description", default="")
@then_option
@from_option
@click.option("--who", required=True, help="Who keeps it.")
def keep(
    name: str,
    keys: tuple[str, ...],
    title: str,
    description: str,
    transforms: tuple[str, ...],
    start: str | None,
    who: str,
) -> None:
    """Keep KEYS as the sheet NAME: new, or another version.

    A key may have transforms of its own behind a colon; the others have those of --then.
    """
    with asking() as ledger:
        kept = ledger.keep_sheet(
            name,
            read_keys(keys, transforms),
            who,
            title=title,
            description=description,
            start=start,
        )
    click.echo(f"{kept.name}, version {kept.version}, batch {kept.batch}")


@sheets.command("show")
@click.argument("name", type=SHEET)
@click.option("--version", type=int, help="An earlier version.")
@plain_viewpoint_options
@layout_options
@output_options
@plot_option
def show_sheet(
    name: str,
    version: int | None,
    known_on: str | None,
    sort: str,
    layout: str,
    header: bool,
    format_: str,
    output: Path | None,
    plot: Path | None,
    seen: dict[str, Any],
) -> None:
    """The series of the sheet NAME as known on a date."""
    with asking() as ledger:
        found = ledger.read_sheet(name, known_on, version=version, **seen)
    show_series(found, layout, sort, header, format_, output, plot)


@sheets.command("refresh")
@click.argument("name", type=SHEET)
@click.option(
    "--since", required=True, metavar="DATE", help="What is new against what was known then."
)
@plain_viewpoint_options
@output_options
def refresh(
    name: str,
    since: str,
    known_on: str | None,
    format_: str,
    output: Path | None,
    seen: dict[str, Any],
) -> None:
    """What the sheet NAME shows that it did not show on an earlier date: new periods,
    revised ones, by how much.
    """
    with asking() as ledger:
        found = ledger.sheet_changes(name, since, known_on, **seen)
    write(
        found.rows(),
        format_,
        output,
        table=lambda: _changed(found),
        whole=found.model_dump(mode="json"),
    )


def _changed(found: "SheetChanges") -> None:
    terminal = console()
    terminal.print(
        f"{DIM}{found.name}: {found.since:%d %B %Y} to {found.known_on:%d %B %Y}, batch {found.batch}{END}"
    )
    if not found.changes:
        terminal.print("Nothing changed.")
        return
    heads = [
        Heading("Key", whole=True),
        Heading("Period"),
        Heading("What"),
        Heading("Before", right=True),
        Heading("After", right=True),
        Heading("By", right=True),
    ]
    rows = [
        [
            c.key,
            c.period,
            c.kind,
            _sheet_value(c.before, c.percent),
            _sheet_value(c.after, c.percent),
            ""
            if c.before is None or c.after is None
            else f"{(c.after - c.before) * (100 if c.percent else 1):+,.4g}",
        ]
        for c in found.changes[-60:]
    ]
    new = sum(c.kind == "new" for c in found.changes)
    draw(heads, rows, caption=f"{new} new, {len(found.changes) - new} that read otherwise")


def _sheet_value(value: float | None, percent: bool) -> str:
    return "" if value is None else f"{value * 100:,.3f} %" if percent else f"{value:,.6g}"


@sheets.command("versions")
@click.argument("name", type=SHEET)
@output_options
def versions(name: str, format_: str, output: Path | None) -> None:
    """Every version of the sheet NAME, the newest first."""
    with asking() as ledger:
        found = ledger.sheet_versions(name)
    write(
        found.rows(),
        format_,
        output,
        table=lambda: _sheets(found.sheets),
        whole=found.model_dump(mode="json"),
    )


@sheets.command("archive")
@click.argument("name", type=SHEET)
@click.option("--back", is_flag=True, help="Bring it back.")
@click.option("--who", required=True, help="Who archives it.")
def archive(name: str, back: bool, who: str) -> None:
    """Archive the sheet NAME; its versions stay."""
    with asking() as ledger:
        kept = ledger.archive_sheet(name, who, archived=not back)
    click.echo(f"{kept.name} is {'archived' if kept.archived else 'back'}")
