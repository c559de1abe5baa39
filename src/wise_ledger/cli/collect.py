"""wise-ledger collect"""

import sys
from typing import TYPE_CHECKING

import click

from wise_ledger.cli.asking import FAILED, PARTLY, asking
from wise_ledger.cli.completion import COMPANY, LIST
from wise_ledger.cli.progress import progress_bar
from wise_ledger.words import counted, each_counted

if TYPE_CHECKING:
    from wise_ledger.client import Ledger
    from wise_ledger.wire.collecting import Plan, Run

_TAGS = 5  # that are named; the others are counted
WHAT = (
    "statements",
    "attributes",
    "identifiers",
    "lists",
    "rates",
    "venues",
    "market",
    "estimates",
    "series",
)


@click.command()
@click.argument("source")
@click.option("--list", "list_", type=LIST, help="Only the companies that ever stood on this list.")
@click.option(
    "--company",
    "companies",
    type=COMPANY,
    multiple=True,
    help="Only this company, by any identifier. Can be given again.",
)
@click.option(
    "--what", multiple=True, type=click.Choice(WHAT), help="Only this. Can be given again."
)
@click.option(
    "--since",
    type=click.DateTime(["%Y-%m-%d"]),
    metavar="DATE",
    help="Only what was published since.",
)
@click.option(
    "--plan", "only_plan", is_flag=True, help="Say what it would take, and collect nothing."
)
@click.option("--yes", is_flag=True, help="Do not ask, however many calls it takes.")
@click.option(
    "--failed-only", is_flag=True, help="Only what failed in the newest run of the source."
)
def collect(
    source: str,
    list_: str | None,
    companies: tuple[str, ...],
    what: tuple[str, ...],
    since,  # type: ignore[no-untyped-def]
    only_plan: bool,
    yes: bool,
    failed_only: bool,
) -> None:
    """Collect from SOURCE into the ledger; what the ledger has already is not asked for again.

    Ctrl-C leaves the run going on in the service: `runs` shows it, pauses it, goes on with it or
    cancels it.
    """
    how = {"companies": companies, "what": what or WHAT, "since": since.date() if since else None}
    with asking() as ledger:
        if failed_only:
            newest = next((r for r in ledger.runs() if r.source == source and r.ended_at), None)
            if newest is None:
                raise click.UsageError(f"there is no run of {source} to try again")
            if not newest.failed and newest.state == "finished":
                click.echo(f"nothing failed in run {newest.id} of {source}")
                return
            follow(ledger, ledger.try_again(newest.id))
        if only_plan or not yes:
            found = ledger.plan(source, list_, **how)
            if only_plan:
                click.echo(in_words(found))
                return
            if found.needs_confirmation:
                click.echo(in_words(found), err=True)
                if not sys.stdin.isatty():
                    raise click.UsageError(
                        f"more than {found.confirm_above:,} calls: give --yes, or collect for fewer"
                    )
                click.confirm("Collect?", abort=True, err=True)
        follow(ledger, ledger.queue(source, list_, **how))


def follow(ledger: "Ledger", run: "Run") -> None:
    """Show a run's progress on stderr until it ends, then its outcome;
    exits with its status unless all is well.
    """
    with progress_bar() as bar:
        task = bar.add_task(f"run {run.id}, {run.title}", total=None)
        for now in ledger.events(run.id):
            text = f"run {now.id}, {now.title}" + (f", {now.failed} failed" if now.failed else "")
            if now.waits_until:
                text += f", the source is left alone until {now.waits_until:%H:%M:%S}"
            bar.update(task, total=now.total, completed=now.done, description=text)
    run = ledger.run(run.id)
    if run.kind == "collection":
        report(run)
    else:
        click.echo(
            f"run {run.id}, {run.title}: {run.state}{f': {run.problem}' if run.problem else ''}"
        )
    if run.state != "finished":
        sys.exit(PARTLY if run.state in ("partly_finished", "paused", "cancelled") else FAILED)
    sys.exit(0)


def in_words(plan: "Plan") -> str:
    """A plan in three lines."""
    quota = f" of {plan.per_day:,} a day" if plan.per_day is not None else ", no daily quota"
    return (
        f"{counted(plan.companies, 'company')} to ask for, {plan.unchanged:,} known to be unchanged, "
        f"{counted(plan.filings, 'new document')}\n"
        f"{counted(plan.calls, 'call')}, about {_span(plan.seconds)} at the source's pace\n"
        f"{counted(plan.used_today, 'call')} made today{quota}"
    )


def _span(seconds: float) -> str:
    if seconds < 100:
        return f"{seconds:,.0f} s"
    return f"{seconds / 60:,.0f} min" if seconds < 6000 else f"{seconds / 3600:,.1f} h"


def also_new(records: dict[str, int]) -> str:
    """What a run brought other than facts."""
    return f"also new: {each_counted(records)}"


def report(run: "Run") -> None:
    """What a run did, and which companies failed."""
    good = run.done - run.failed
    click.echo(
        f"run {run.id} {run.state.replace('_', ' ')}: {run.facts:,} new facts, "
        f"{good} {'company' if good == 1 else 'companies'} collected ({run.unchanged} unchanged), {run.failed} failed"
    )
    if run.records:
        click.echo(f"  {also_new(run.records)}")
    if run.problem:
        click.secho(f"  {run.problem}", fg="red", err=True)
    tags: dict[str, int] = {}
    for outcome in run.outcomes:
        if outcome.state == "failed":
            click.secho(
                f"  {outcome.company or outcome.subject}: {outcome.reason}", fg="red", err=True
            )
        elif outcome.reason:
            for tag in outcome.reason.rpartition(": ")[2].split(", "):
                tags[tag] = tags.get(tag, 0) + 1
    if tags:
        frequent = sorted(tags.items(), key=lambda t: (-t[1], t[0]))
        text = ", ".join(f"{tag} ({counted(n, 'company')})" for tag, n in frequent[:_TAGS])
        if len(frequent) > _TAGS:
            text += f" and {len(frequent) - _TAGS} more"
        click.echo(
            f"  tags without an item: {text}; see wise-ledger sources tags {run.source}", err=True
        )
    if run.failed or run.state in ("failed", "partly_finished"):
        what = "them" if run.failed else "it"
        click.echo(
            f"  try {what} again with: wise-ledger collect {run.source} --failed-only", err=True
        )
