"""wise-ledger limits"""

from pathlib import Path
from typing import TYPE_CHECKING

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.deciding import who_option, why_option
from wise_ledger.cli.groups import Group
from wise_ledger.cli.output import Heading, draw, output_options, write

if TYPE_CHECKING:
    from wise_ledger.wire.limits import Limit, LimitList

_SOURCE = click.option("--source", help="Only of what comes from this source: lags alone.")


@click.group(cls=Group, invoke_without_command=True)
@click.pass_context
@click.option("--recorded-by", type=click.IntRange(0), help="Those that stood as of this batch.")
@output_options
def limits(
    context: click.Context, recorded_by: int | None, format_: str, output: Path | None
) -> None:
    """After how many days a figure is stale, how late one is taken to be known of which
    no source says when it was published, and how long an estimate stands.
    """
    if context.invoked_subcommand is not None:
        return
    with asking() as ledger:
        found = ledger.limits(recorded_by=recorded_by)
    write(
        found.rows(),
        format_,
        output,
        table=lambda: _drawn(found),
        whole=found.model_dump(mode="json"),
    )


@limits.command("set")
@click.argument("name")
@click.argument("days", type=click.IntRange(0))
@_SOURCE
@who_option
@why_option
def set_(name: str, days: int, source: str | None, who: str, why: str) -> None:
    """Say that the limit NAME is so many DAYS from now on."""
    _say(name, days, source, who, why)


@limits.command()
@click.argument("name")
@_SOURCE
@who_option
@why_option
def usual(name: str, source: str | None, who: str, why: str) -> None:
    """Take back what was said of the limit NAME."""
    _say(name, None, source, who, why)


def _say(name: str, days: int | None, source: str | None, who: str, why: str) -> None:
    with asking() as ledger:
        found = ledger.set_limit(name, days, who or "somebody", source=source, why=why)
    _drawn(found)


def _drawn(found: "LimitList") -> None:
    draw(
        [
            Heading("Limit", style="bold", whole=True),
            Heading("Of", whole=True),
            Heading("Days", right=True),
            Heading("What it says"),
            Heading("Said by"),
        ],
        [
            (
                one.name,
                one.source or "all sources",
                f"{one.days:,}",
                one.meaning,
                _said_by(one),
            )
            for one in found.limits
        ],
        caption=f"in days · batch {found.batch} · what is recorded by an earlier batch keeps the limits"
        " of then",
    )


def _said_by(one: "Limit") -> str:
    if one.who is None:
        return "as usual"
    why = f": {one.why}" if one.why else ""
    return f"{one.who}{why} (batch {one.since}; usually {one.usual})"
