"""wise-ledger schedules"""

from pathlib import Path
from typing import TYPE_CHECKING

import click

from wise_ledger.cli.asking import asking
from wise_ledger.cli.completion import LIST
from wise_ledger.cli.groups import Group
from wise_ledger.cli.output import Heading, draw, output_options, write

if TYPE_CHECKING:
    from wise_ledger.wire.collecting import Schedule


@click.group(cls=Group, invoke_without_command=True)
@click.pass_context
@output_options
def schedules(context: click.Context, format_: str, output: Path | None) -> None:
    """Collections at set times: list them; `keep` one, `run`, `pause`, `resume` or `remove` it."""
    from wise_ledger.wire.collecting import Schedule
    from wise_ledger.wire.rows import rows_of

    if context.invoked_subcommand is not None:
        return
    with asking() as ledger:
        found = ledger.schedules()
    rows = rows_of(Schedule, found, timing=_when, notify=lambda s: " ".join(s.notify))
    headings = [
        Heading("Schedule", style="bold"), Heading("Collects"), Heading("When"), Heading("Next, UTC", whole=True),
        Heading("Last"), Heading("New facts", right=True), Heading("Informs"),
    ]  # fmt: skip
    shown = []
    for s in found:
        last = (
            f"run {s.last_run}, {(s.last_state or '').replace('_', ' ')}" if s.last_run else "never"
        )
        facts = "none" if s.last_facts is None else f"{s.last_facts:,}"
        what = s.source + (f", list {s.list}" if s.list else "")
        informs = ", ".join(s.notify) or "nobody"
        shown.append([s.name, what, _when(s), _next(s), last, facts, informs])
    write(rows, format_, output, table=lambda: draw(headings, shown))
    for s in found:
        if s.problem:
            click.echo(f"schedule {s.name} cannot run: {s.problem}", err=True)


def _next(schedule: "Schedule") -> str:
    if schedule.problem:
        return "cannot run"
    if schedule.next_at:
        return f"{schedule.next_at:%Y-%m-%d %H:%M}"
    return "paused" if schedule.paused else "when asked"


def _when(schedule: "Schedule") -> str:
    timing = schedule.timing
    if timing.every:
        return f"every {timing.every}"
    if timing.at:
        return f"at {', '.join(timing.at)} {timing.days}"
    return f"when older than {timing.older_than}" if timing.older_than else "on demand"


@schedules.command("keep")
@click.argument("name")
@click.argument("source")
@click.option("--list", "list_", type=LIST, help="Only the companies of this list.")
@click.option("--every", metavar="SPAN", help="30min, 6h, 1d.")
@click.option(
    "--at", multiple=True, metavar="HH:MM", help="A time of day, UTC. Can be given again."
)
@click.option("--days", default="mon-sun", show_default=True, help="For --at.")
@click.option(
    "--older-than", metavar="SPAN", help="When somebody asks for data and the last run is older."
)
@click.option(
    "--notify",
    multiple=True,
    metavar="TARGET",
    help="mailto:name@host, or an http address to call.",
)
@click.option("--who", envvar="USER", default="", help="Who keeps it.  [default: $USER]")
def keep(
    name: str,
    source: str,
    list_: str | None,
    every: str | None,
    at: tuple[str, ...],
    days: str,
    older_than: str | None,
    notify: tuple[str, ...],
    who: str,
) -> None:
    """Keep the schedule NAME, which collects from SOURCE; without a timing it runs on demand."""
    from wise_ledger.client.given import request_of
    from wise_ledger.wire.collecting import Timing

    with asking() as ledger:
        timing = request_of(Timing, every=every, at=[*at], days=days, older_than=older_than)
        found = ledger.keep_schedule(
            name, source, who or "somebody", timing=timing, list=list_, notify=notify
        )
    due = f"due {found.next_at:%Y-%m-%d %H:%M} UTC" if found.next_at else "due when asked"
    click.echo(f"kept as schedule {found.name}, {due}")


@schedules.command("run")
@click.argument("name")
def run(name: str) -> None:
    """Queue the collection of the schedule NAME now, and follow it."""
    from wise_ledger.cli.collect import follow

    with asking() as ledger:
        follow(ledger, ledger.run_schedule(name))


@schedules.command("pause")
@click.argument("name")
def pause(name: str) -> None:
    """Hold the schedule NAME."""
    with asking() as ledger:
        ledger.pause_schedule(name)
    click.echo(f"schedule {name} is paused")


@schedules.command("resume")
@click.argument("name")
def resume(name: str) -> None:
    """Let the schedule NAME go on."""
    with asking() as ledger:
        found = ledger.pause_schedule(name, paused=False)
    click.echo(
        f"schedule {name} goes on"
        + (f", due {found.next_at:%Y-%m-%d %H:%M} UTC" if found.next_at else "")
    )


@schedules.command("remove")
@click.argument("name")
def remove(name: str) -> None:
    """Forget the schedule NAME; its runs stay."""
    with asking() as ledger:
        ledger.remove_schedule(name)
    click.echo(f"schedule {name} is removed")
