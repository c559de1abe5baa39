"""The options by which companies, days and columns are chosen: the same words at every command."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import click

from wise_ledger.cli.completion import COMPANY, LIST
from wise_ledger.cli.output import columns_of
from wise_ledger.cli.viewpoint import viewpoint_options

Decorator = Callable[[Callable[..., Any]], Callable[..., Any]]
FREQUENCIES = ("day", "week", "month", "quarter", "year")
NOBODY, EVERYBODY = "in the place of companies.", "without it and companies everybody."

measure_option = click.option(
    "--measure",
    default="eps",
    show_default=True,
    help="eps, revenue, or the item that is estimated.",
)


def companies_and_days(
    *,
    without: str = NOBODY,
    first: str = "a year before the last",
    last: str = "that of --known-on",
) -> Decorator:
    """Give a command companies or a list, a first and a last day, and the options of a viewpoint."""
    joined = ", " if without is NOBODY else "; "
    return _given(
        click.argument("companies", nargs=-1, type=COMPANY),
        click.option("--list", "list_", type=LIST, help=f"The members of a list{joined}{without}"),
        days(first=first, last=last),
    )


def days(
    *,
    first: str = "a year before the last",
    last: str = "that of --known-on",
    seen: Decorator = viewpoint_options,
) -> Decorator:
    """Give a command a first and a last day, and the options of a viewpoint."""
    return _given(
        click.option(
            "--from",
            "start",
            metavar="DATE",
            help=f"The first day, included.  [default: {first}]",
        ),
        click.option(
            "--to", "end", metavar="DATE", help=f"The last day, included.  [default: {last}]"
        ),
        seen,
    )


def _given(*options: Decorator) -> Decorator:
    """Several options, in the order in which help shows them."""

    def given(command: Callable[..., Any]) -> Callable[..., Any]:
        for option in reversed(options):
            command = option(command)
        return command

    return given


def frequency_option(usual: str) -> Decorator:
    """Give a command `frequency`."""
    return click.option(
        "--frequency", type=click.Choice(FREQUENCIES), default=usual, show_default=True
    )


@dataclass(frozen=True)
class Columns:
    """Columns that were chosen; without a choice some on the terminal, and in a file all."""

    on_terminal: Sequence[str]
    in_file: Sequence[str]

    def of(self, format_: str) -> Sequence[str]:
        """Those of an answer in a format."""
        return self.on_terminal if format_ == "table" else self.in_file


def columns_option(known: Sequence[str], usual: str) -> Decorator:
    """Give a command `columns`, some of those known, in the order written."""
    read = columns_of(known)

    def chosen(context: click.Context, parameter: click.Parameter, text: str | None) -> Columns:
        if text is None:
            return Columns(usual.split(","), known)
        names = read(context, parameter, text)
        return Columns(names, names)

    return click.option(
        "--columns",
        callback=chosen,
        help=f"Which, in this order.  [default: all in a file, on a terminal {usual}]",
    )
