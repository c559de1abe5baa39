"""Tables: drawn on a terminal, tab-separated when piped; CSV, JSON,
Parquet and XLSX by name or by a file's ending.
"""

import json
import sys
from collections.abc import Callable, Mapping, Sequence
from contextlib import redirect_stdout
from dataclasses import dataclass
from io import StringIO
from pathlib import Path
from types import MappingProxyType
from typing import TYPE_CHECKING, Any, Literal

import click

from wise_ledger.cli.files import OutputFile, is_device, write_file
from wise_ledger.cli.ink import DIM, END, inked

if TYPE_CHECKING:
    from rich.console import Console

    from wise_ledger.wire.rows import Rows

FORMATS = ("table", "tsv", "csv", "json", "parquet", "xlsx")
_BINARY = ("parquet", "xlsx")
_RAW = "wise_ledger.raw"


@dataclass(frozen=True)
class Heading:
    """A column's title on a terminal; `right` for figures, `style` a rich style."""

    title: str
    right: bool = False
    style: str = ""
    whole: bool = False  # never broken over lines
    least: int = 0  # characters it gets at least
    optional: bool = False  # left out of a terminal that is too narrow for the words of all


def _chosen(context: click.Context, _: click.Parameter, named: str | None) -> str:
    """The format: named, else by the ending of the file,
    else a table for people and plain text for a pipe.
    """
    output = context.params.get("output")
    ending = output.suffix.lower().lstrip(".") if output is not None else ""
    if named is not None:
        return named
    if ending in FORMATS:
        return ending
    return "table" if output is None and sys.stdout.isatty() else "tsv"


def output_options(command: Callable[..., Any], more: Sequence[str] = ()) -> Callable[..., Any]:
    """`--format` and `--output`; `more` formats are those of this command alone."""
    command = click.option(
        "--raw",
        is_flag=True,
        expose_value=False,
        callback=lambda context, _, value: context.meta.__setitem__(_RAW, value),
        help="Text cells of CSV as they are, for programs: no ' before what a spreadsheet would reckon with.",
    )(command)
    command = click.option(
        "--output",
        type=OutputFile(),
        is_eager=True,
        help="Write to a file instead; its ending says the format: .csv, .xlsx, .parquet, .json, .tsv.",
    )(command)
    return click.option(
        "--format",
        "format_",
        type=click.Choice((*FORMATS, *more)),
        callback=_chosen,
        help="Of the answer.  [default: by the file's ending; a table on a terminal, tsv in a pipe]",
    )(command)


def columns_of(known: Sequence[str]) -> Callable[[click.Context, click.Parameter, str], list[str]]:
    """Reads `--columns`: names of some that there are, parted by commas."""

    def read(_context: click.Context, _parameter: click.Parameter, text: str) -> list[str]:
        names = [*dict.fromkeys(name.strip() for name in text.split(",") if name.strip())]
        for name in names:
            if name not in known:
                raise click.BadParameter(
                    f"there is no column {name}; write some of {', '.join(known)}"
                )
        return names

    return read


def layout_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """`--sort`, `--layout` and `--no-header`, of everything that goes over a range of days."""
    command = click.option(
        "--no-header", "header", is_flag=True, default=True, flag_value=False, help="Rows alone."
    )(command)
    command = click.option(
        "--layout",
        type=click.Choice(("tidy", "wide", "turned")),
        default="tidy",
        show_default=True,
        help="One row a figure; or a grid of one column, turned on its side.",
    )(command)
    return click.option(
        "--sort", type=click.Choice(("oldest", "newest")), default="oldest", show_default=True
    )(command)


def write(
    rows: "Rows",
    format_: str,
    output: Path | None,
    *,
    table: Callable[[], None] | None = None,
    whole: Any = None,
    header: bool = True,
    more: Mapping[str, Callable[[], str]] = MappingProxyType({}),
) -> None:
    """Write rows in a format, with their heads even where there is no row.

    `table` draws them on a terminal, `whole` is the full answer for JSON; `more` makes the text of
    formats that this answer alone has.
    """
    raw = bool(click.get_current_context().meta.get(_RAW))
    if format_ in _BINARY and output is None:
        raise click.UsageError(f"{format_} is no text: name a file with --output")
    if format_ == "table" and table is not None:
        if output is None:
            table()
        else:
            drawn = StringIO()
            with redirect_stdout(drawn):
                table()
            write_file(output, drawn.getvalue())
        return
    if format_ in _BINARY or format_ in more:
        from wise_ledger.wire.tables import DoesNotFit, file_of

        try:
            content = more[format_]() if format_ in more else file_of(format_, rows)
        except DoesNotFit as error:
            raise click.UsageError(str(error)) from None
        click.echo(content, nl=False) if output is None else write_file(output, content)
        return
    if format_ == "json":
        text = json.dumps(whole if whole is not None else rows, indent=2, default=str) + "\n"
    else:
        from wise_ledger.wire.tables import separated, table_schema

        delimiter, raw = ("," if format_ == "csv" else "\t"), raw or format_ != "csv"
        text = separated(rows, delimiter, raw=raw, header=header)
        if output is not None and format_ == "csv" and rows.context and not is_device(output):
            beside = output.with_suffix(".schema.json")
            write_file(beside, json.dumps(table_schema(rows), indent=2) + "\n")
            click.echo(f"{output}; types, and how it was asked: {beside}", err=True)
    if output is None:
        click.echo(text, nl=False)
    else:
        write_file(output, text)


def draw(
    headings: Sequence[Heading], rows: Sequence[Sequence[Any]], title: str = "", caption: str = ""
) -> None:
    """A table on the terminal."""
    from rich import box
    from rich.cells import cell_len
    from rich.table import Table

    screen = console()
    drawn = [[inked(str(cell)) for cell in row] for row in rows]
    table = Table(box=box.SIMPLE_HEAD, pad_edge=False)
    least = []
    for i, heading in enumerate(headings):
        cells = [row[i].plain for row in drawn]
        words = (
            cells if heading.right or heading.whole else [w for cell in cells for w in cell.split()]
        )
        least.append(max([heading.least, *map(cell_len, [*words, *heading.title.split()])]))
    # What can be left out of a narrow terminal is, rather than breaking
    # words or every line of the rest.
    narrow = sum(least) + 3 * len(least) > screen.width
    kept = [i for i, h in enumerate(headings) if not (h.optional and narrow)]
    for i in kept:
        heading = headings[i]
        longest = (
            least[i] if heading.right else max([heading.least, *map(len, heading.title.split())])
        )
        justify: Literal["left", "right"] = "right" if heading.right else "left"
        table.add_column(
            inked(heading.title),
            justify=justify,
            style=heading.style,
            no_wrap=heading.whole,
            min_width=longest,
        )
    for row in drawn:
        table.add_row(*(row[i] for i in kept))
    if title:
        screen.print(f"\n{title}")
    screen.print(table)
    if caption:
        screen.print(f"{DIM}{caption}{END}")


def console() -> "Console":
    """The terminal; where the output is no terminal, a page of 130 columns."""
    from rich.console import Console

    class Terminal(Console):
        def print(self, *shown: Any, **how: Any) -> None:
            super().print(*(inked(s) if isinstance(s, str) else s for s in shown), **how)

    return Terminal(width=None if sys.stdout.isatty() else 130, highlight=False)


def short(value: float) -> str:
    """A number in few characters: 1,234 bn, 12.3 mn, 0.015."""
    for power, word in ((12, " tn"), (9, " bn"), (6, " mn"), (3, " k")):
        if abs(value) >= 10**power:
            return f"{value / 10**power:,.1f}{word}"
    return f"{value:,.0f}" if value == round(value) else f"{value:,.3g}"
